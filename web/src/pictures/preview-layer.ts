import MVT from 'ol/format/MVT.js';
import type BaseLayer from 'ol/layer/Base.js';
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
import type { PreviewView } from '@rootmap/core/contract';

const TILE = 256;
const FINEST_ON_SCREEN = 22;

/** Coordinates are those of the tiles: nothing is computed here, so that any CRS is drawn. Maps of one CRS can be laid over each other. */
const projectionOf = ({ version, crs, unit }: PreviewView): Projection =>
  new Projection({ code: `rootmap:${crs ?? version}`, units: unit === 'degree' ? 'degrees' : 'm', global: false });

/** A dataset as a layer of its tiles. */
export function previewLayer(preview: PreviewView, colour: string): BaseLayer {
  const { square, version, finestZoom, kind } = preview;
  const projection = projectionOf(preview);
  const resolutions = Array.from({ length: finestZoom + 1 }, (_, z) => square.side / TILE / 2 ** z);
  const extent = [square.minx, square.maxy - square.side, square.minx + square.side, square.maxy];
  const tileGrid = new TileGrid({ extent, origin: [square.minx, square.maxy], resolutions, tileSize: TILE });
  const url = `/api/tiles/${version}/{z}/{x}/{y}`;
  return kind === 'raster'
    ? new TileLayer({ source: new ImageTile({ url, projection, tileGrid, interpolate: false, wrapX: false, transition: 0 }) })
    : new VectorTileLayer({
        declutter: false,
        source: new VectorTileSource({ format: new MVT(), url, projection, tileGrid, wrapX: false, transition: 0 }),
        style: styleOf(colour),
      });
}

/** A map of a dataset that shows all of it. */
export function mapOf(preview: PreviewView, element: HTMLElement, colour: string): Map {
  const { extent, square } = preview;
  const map = new Map({
    target: element,
    layers: [previewLayer(preview, colour)],
    controls: defaultControls({ attribution: false, rotate: false }),
    view: new View({
      projection: projectionOf(preview),
      resolutions: Array.from({ length: FINEST_ON_SCREEN }, (_, z) => ((square.side / TILE) * 4) / 2 ** z),
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
