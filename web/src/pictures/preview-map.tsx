import { Box, Typography } from '@mui/material';
import type Map from 'ol/Map.js';
import 'ol/ol.css';
import { useEffect, useRef, useState } from 'react';
import type { PreviewView } from '@rootmap/core/contract';
import { number, units } from '../parts/format.js';
import { ErrorState } from '../parts/states.js';
import { useToken } from '../theme/use-token.js';
import { MARK_TONE, marksLayer, type Marks } from './marks.js';
import { mapOf, previewLayer } from './preview-layer.js';
import { usePreview } from './use-preview.js';
import type { ViewLink } from './view-link.js';

interface Props {
  readonly projectKey: string;
  readonly dataset: string;
  readonly name: string;
  /** The CRS that it is drawn in; null: its own. */
  readonly crs: string | null;
  readonly height: number;
  /** Places that are marked, in the CRS that it is drawn in. */
  readonly marks?: readonly Marks[];
  /** Another dataset in the same CRS that is drawn below it in another colour. */
  readonly also?: string | null;
  /** Maps that move together with this one. */
  readonly link?: ViewLink | null;
  /** Somebody points at a place: by a click, or with Enter at the middle of the map. */
  readonly onPick?: ((at: readonly [number, number]) => void) | undefined;
}

/** A dataset on a map that can be moved and enlarged, in its own CRS or another; position under the pointer in words. */
export function PreviewMap({ projectKey, dataset, name, crs, height, marks = NO_MARKS, also = null, link = null, onPick }: Props) {
  const preview = usePreview(projectKey, dataset, crs);
  const other = usePreview(projectKey, also ?? dataset, crs, also !== null);
  const data = preview.data;
  const { target, map, position, isDrawn } = useDrawnMap(data);
  useEffect(() => (map && link ? link.add(map.getView()) : undefined), [map, link]);
  useLayersBeside(map, also === null ? undefined : other.data, marks);
  useEffect(() => {
    if (!map || !onPick) return;
    const click = (e: { readonly coordinate: number[] }): void => onPick([e.coordinate[0] ?? 0, e.coordinate[1] ?? 0]);
    map.on('singleclick', click);
    return () => map.un('singleclick', click);
  }, [map, onPick]);
  if (preview.isError) return <ErrorState error={preview.error} />;
  return (
    <Box>
      <Box
        ref={target}
        role="application"
        aria-label={`Map of ${name}. Arrow keys move it, plus and minus enlarge and reduce it${onPick ? ', Enter takes the place in the middle' : ''}`}
        tabIndex={0}
        data-drawn={isDrawn}
        onKeyDown={(e) => {
          const middle = map?.getView().getCenter();
          if (e.key !== 'Enter' || !onPick || !middle) return;
          e.preventDefault(); // it is no answer to the dialog around
          onPick([middle[0] ?? 0, middle[1] ?? 0]);
        }}
        sx={{
          height,
          position: 'relative',
          bgcolor: 'var(--slate-wash)',
          border: '1px solid var(--rule)',
          borderRadius: '6px',
          overflow: 'hidden',
          cursor: onPick ? 'crosshair' : undefined,
          '& .ol-zoom': { left: 'auto', right: 6, top: 6 },
          '& .ol-zoom button': { bgcolor: 'var(--sheet)', color: 'var(--ink)', width: 24, height: 24 },
          // Where Enter would take a place.
          ...(onPick
            ? {
                '&:focus::before, &:focus::after': {
                  content: '""',
                  position: 'absolute',
                  zIndex: 1,
                  bgcolor: 'var(--ink)',
                  pointerEvents: 'none',
                },
                '&:focus::before': { left: 'calc(50% - 9px)', top: '50%', width: 18, height: '1px' },
                '&:focus::after': { top: 'calc(50% - 9px)', left: '50%', height: 18, width: '1px' },
              }
            : {}),
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

/** A map of a dataset in an element, anew whenever the dataset is another one. */
function useDrawnMap(data: PreviewView | undefined) {
  const target = useRef<HTMLDivElement>(null);
  const [map, setMap] = useState<Map | null>(null);
  const [position, setPosition] = useState<string | null>(null);
  const [isDrawn, setDrawn] = useState(false);
  const colour = useToken('--spruce');
  useEffect(() => {
    if (!data || !target.current) return;
    setDrawn(false);
    const made = mapOf(data, target.current, colour);
    setMap(made);
    made.once('rendercomplete', () => setDrawn(true));
    made.on('pointermove', (e) => setPosition(spell(e.coordinate, data.unit)));
    const leave = (): void => setPosition(null);
    const element = target.current;
    element.addEventListener('pointerleave', leave);
    return () => {
      element.removeEventListener('pointerleave', leave);
      setMap(null);
      made.setTarget(undefined);
      made.dispose();
    };
  }, [data, colour]);
  return { target, map, position, isDrawn };
}

/** What is drawn below and above the dataset: another one, and marks. */
function useLayersBeside(map: Map | null, otherData: PreviewView | undefined, marks: readonly Marks[]): void {
  const ground = useToken('--sheet');
  const [ring, cross, square, below] = [
    useToken(`--${MARK_TONE.ring}`),
    useToken(`--${MARK_TONE.cross}`),
    useToken(`--${MARK_TONE.square}`),
    useToken('--ochre'),
  ];
  useEffect(() => {
    if (!map || !otherData) return;
    const layer = previewLayer(otherData, below);
    map.getLayers().insertAt(0, layer);
    return () => void map.removeLayer(layer);
  }, [map, otherData, below]);
  useEffect(() => {
    if (!map || marks.length === 0) return;
    const layer = marksLayer(marks, { ring, cross, square, ground });
    map.addLayer(layer);
    return () => void map.removeLayer(layer);
  }, [map, marks, ring, cross, square, ground]);
}

const NO_MARKS: readonly Marks[] = [];

const spell = ([x, y]: number[], unit: string | null): string => {
  const digits = unit === 'degree' ? 5 : 1;
  return `${x!.toFixed(digits)}  ${y!.toFixed(digits)}${unit ? ` ${units(unit)}` : ''}`;
};
