import { Box, Typography } from '@mui/material';
import Feature from 'ol/Feature.js';
import Point from 'ol/geom/Point.js';
import VectorLayer from 'ol/layer/Vector.js';
import VectorSource from 'ol/source/Vector.js';
import MVT from 'ol/format/MVT.js';
import TileLayer from 'ol/layer/Tile.js';
import VectorTileLayer from 'ol/layer/VectorTile.js';
import Map from 'ol/Map.js';
import { defaults as defaultControls } from 'ol/control/defaults.js';
import Projection from 'ol/proj/Projection.js';
import ImageTile from 'ol/source/ImageTile.js';
import VectorTileSource from 'ol/source/VectorTile.js';
import { Circle, Fill, Stroke, Style } from 'ol/style.js';
import TileGrid from 'ol/tilegrid/TileGrid.js';
import View from 'ol/View.js';
import 'ol/ol.css';
import { useEffect, useRef, useState } from 'react';
import type { PreviewView } from '@rootmap/core/contract';
import { number, units } from '../parts/format.js';
import { ErrorState } from '../parts/states.js';
import { useToken } from '../theme/use-token.js';
import { usePreview } from './use-preview.js';

const TILE = 256;
const FINEST_ON_SCREEN = 22;

interface Props {
  readonly projectKey: string;
  readonly dataset: string;
  readonly name: string;
  /** The CRS that it is drawn in; null: its own. */
  readonly crs: string | null;
  readonly height: number;
  /** Places that are marked, in its own CRS; only where it is drawn in that. */
  readonly marks?: readonly (readonly [number, number])[];
}

/** A dataset on a map that can be moved and enlarged, in its own CRS or another; position under the pointer in words. */
export function PreviewMap({ projectKey, dataset, name, crs, height, marks = NO_MARKS }: Props) {
  const preview = usePreview(projectKey, dataset, crs);
  const target = useRef<HTMLDivElement>(null);
  const drawn = useRef<Map | null>(null);
  const [position, setPosition] = useState<string | null>(null);
  const [isDrawn, setDrawn] = useState(false);
  const colour = useToken('--spruce');
  const markColour = useToken('--plum');
  const data = preview.data;
  useEffect(() => {
    if (!data || !target.current) return;
    setDrawn(false);
    const map = mapOf(data, target.current, colour);
    drawn.current = map;
    map.once('rendercomplete', () => setDrawn(true));
    map.on('pointermove', (e) => setPosition(spell(e.coordinate, data.unit)));
    const leave = (): void => setPosition(null);
    const element = target.current;
    element.addEventListener('pointerleave', leave);
    return () => {
      element.removeEventListener('pointerleave', leave);
      drawn.current = null;
      map.setTarget(undefined);
      map.dispose();
    };
  }, [data, colour]);
  useEffect(() => {
    const map = drawn.current;
    if (!map || marks.length === 0) return;
    const layer = marksLayer(marks, markColour);
    map.addLayer(layer);
    return () => void map.removeLayer(layer);
  }, [data, colour, marks, markColour]);
  if (preview.isError) return <ErrorState error={preview.error} />;
  return (
    <Box>
      <Box
        ref={target}
        role="application"
        aria-label={`Map of ${name}. Arrow keys move it, plus and minus enlarge and reduce it`}
        tabIndex={0}
        data-drawn={isDrawn}
        sx={{
          height,
          position: 'relative',
          bgcolor: 'var(--slate-wash)',
          border: '1px solid var(--rule)',
          borderRadius: '6px',
          overflow: 'hidden',
          '& .ol-zoom': { left: 'auto', right: 6, top: 6 },
          '& .ol-zoom button': { bgcolor: 'var(--sheet)', color: 'var(--ink)', width: 24, height: 24 },
        }}
      />
      <Typography
        variant="body2"
        className="mono"
        sx={{ minHeight: 20, color: 'var(--soft)', fontSize: 12 }}
        aria-label="Position"
        role="note"
      >
        {!data
          ? 'Reading it…'
          : (position ?? `${data.crs ?? 'its own coordinates'}${data.lost ? `; ${number(data.lost)} shapes have no place in it` : ''}`)}
      </Typography>
    </Box>
  );
}

const NO_MARKS: NonNullable<Props['marks']> = [];

/** Rings around places, above all else. */
const marksLayer = (marks: NonNullable<Props['marks']>, colour: string) =>
  new VectorLayer({
    source: new VectorSource({ features: marks.map(([x, y]) => new Feature(new Point([x, y]))) }),
    style: new Style({ image: new Circle({ radius: 7, stroke: new Stroke({ color: colour, width: 2.5 }) }) }),
  });

const spell = ([x, y]: number[], unit: string | null): string => {
  const digits = unit === 'degree' ? 5 : 1;
  return `${x!.toFixed(digits)}  ${y!.toFixed(digits)}${unit ? ` ${units(unit)}` : ''}`;
};

function mapOf(preview: PreviewView, element: HTMLElement, colour: string): Map {
  const { extent, square, version, finestZoom, kind, unit } = preview;
  // Coordinates are those of the tiles: nothing is computed here, so that any CRS is drawn.
  const projection = new Projection({ code: `rootmap:${version}`, units: unit === 'degree' ? 'degrees' : 'm', global: false });
  const coarsest = square.side / TILE;
  const resolutions = Array.from({ length: finestZoom + 1 }, (_, z) => coarsest / 2 ** z);
  const whole = [square.minx, square.maxy - square.side, square.minx + square.side, square.maxy];
  const tileGrid = new TileGrid({ extent: whole, origin: [square.minx, square.maxy], resolutions, tileSize: TILE });
  const url = `/api/tiles/${version}/{z}/{x}/{y}`;
  const layer =
    kind === 'raster'
      ? new TileLayer({ source: new ImageTile({ url, projection, tileGrid, interpolate: false, wrapX: false, transition: 0 }) })
      : new VectorTileLayer({
          declutter: false,
          source: new VectorTileSource({ format: new MVT(), url, projection, tileGrid, wrapX: false, transition: 0 }),
          style: styleOf(colour),
        });
  const map = new Map({
    target: element,
    layers: [layer],
    controls: defaultControls({ attribution: false, rotate: false }),
    view: new View({
      projection,
      resolutions: Array.from({ length: FINEST_ON_SCREEN }, (_, z) => (coarsest * 4) / 2 ** z),
      constrainResolution: false,
      showFullExtent: true,
    }),
  });
  const [minx, miny, maxx, maxy] = extent;
  const around = square.side * 0.02;
  map.getView().fit([minx - around, miny - around, maxx + around, maxy + around], { padding: [8, 8, 8, 8] });
  return map;
}

function styleOf(colour: string) {
  const stroke = new Stroke({ color: colour, width: 1.2 });
  const fill = new Fill({ color: `${colour}40` });
  const shape = new Style({ stroke, fill });
  const point = new Style({ image: new Circle({ radius: 3, fill: new Fill({ color: colour }) }) });
  const cells = new Style({ fill: new Fill({ color: `${colour}B0` }) });
  return (feature: { get(name: string): unknown; getGeometry(): { getType(): string } | undefined; getType?(): string }): Style => {
    if (feature.get('cells') === true) return cells;
    const type = feature.getType?.() ?? feature.getGeometry()?.getType() ?? '';
    return type.includes('Point') ? point : shape;
  };
}
