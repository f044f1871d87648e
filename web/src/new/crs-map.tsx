import { Box } from '@mui/material';
import { geoEquirectangular, geoGraticule10, geoPath } from 'd3-geo';
import { useMemo, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { feature } from 'topojson-client';
import type { GeometryCollection, Topology } from 'topojson-specification';
import land from 'world-atlas/land-110m.json';
import type { CrsView } from '@rootmap/core/contract';
import { spotAt, spotWords, type Spot } from './spot.js';

const WIDTH = 440;
const HEIGHT = 220;
const STEP = 5;
const projection = geoEquirectangular().fitExtent(
  [
    [1, 1],
    [WIDTH - 1, HEIGHT - 1],
  ],
  { type: 'Sphere' },
);
const toPath = geoPath(projection);

interface Props {
  readonly spot: Spot | null;
  /** The area of use of the CRS that is chosen. */
  readonly bounds: CrsView['bounds'] | null;
  /** Left out: the map only shows. */
  readonly onSpot?: (spot: Spot) => void;
}

/** The land outline. A click, or the arrow keys and Enter, names a spot; the area of use of the chosen CRS is drawn on it. */
export function CrsMap({ spot, bounds, onSpot }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const outline = useMemo(() => {
    const topology = land as unknown as Topology<{ land: GeometryCollection }>;
    return { land: toPath(feature(topology, topology.objects.land)) ?? '', grid: toPath(geoGraticule10()) ?? '' };
  }, []);
  const at = spot && projection([spot.longitude, spot.latitude]);
  const onPointer = (e: PointerEvent): void => {
    const box = svg.current!.getBoundingClientRect();
    const found = projection.invert?.([((e.clientX - box.left) / box.width) * WIDTH, ((e.clientY - box.top) / box.height) * HEIGHT]);
    if (found) onSpot?.(spotAt(found[0], found[1]));
  };
  const onKey = (e: KeyboardEvent): void => {
    const { longitude, latitude } = spot ?? { longitude: 0, latitude: 0 };
    const moves: Readonly<Record<string, readonly [number, number]>> = {
      ArrowLeft: [-STEP, 0],
      ArrowRight: [STEP, 0],
      ArrowUp: [0, STEP],
      ArrowDown: [0, -STEP],
    };
    const move = moves[e.key];
    if (!move) return;
    e.preventDefault();
    onSpot?.(spotAt(longitude + move[0], latitude + move[1]));
  };
  return (
    <Box
      component="svg"
      ref={svg}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role={onSpot ? 'application' : 'img'}
      aria-label={`Land outline${onSpot ? '. Click, or use the arrow keys, to name a spot' : ''}${spot ? `: now ${spotWords(spot)}` : ''}`}
      tabIndex={onSpot ? 0 : undefined}
      onPointerDown={onPointer}
      onKeyDown={onKey}
      sx={{
        width: '100%',
        display: 'block',
        border: '1px solid var(--rule)',
        borderRadius: '6px',
        bgcolor: 'var(--slate-wash)',
        cursor: onSpot ? 'crosshair' : undefined,
      }}
    >
      <path d={outline.grid} fill="none" stroke="var(--rule)" strokeWidth={0.5} />
      <path d={outline.land} fill="var(--sheet)" stroke="var(--stone)" strokeWidth={0.6} />
      {bounds && boxesOf(bounds).map((d, i) => <path key={i} d={d} fill="var(--spruce)" fillOpacity={0.22} stroke="var(--spruce)" />)}
      {at && (
        <g stroke="var(--plum)" strokeWidth={1.6} fill="none">
          <circle cx={at[0]} cy={at[1]} r={4.5} />
          <path d={`M${at[0] - 9} ${at[1]}h5M${at[0] + 4} ${at[1]}h5M${at[0]} ${at[1] - 9}v5M${at[0]} ${at[1] + 4}v5`} />
        </g>
      )}
    </Box>
  );
}

/** One rectangle, or two where the area crosses the date line. */
function boxesOf([west, south, east, north]: CrsView['bounds']): string[] {
  const box = (w: number, e: number): string => {
    const [x0, y0] = projection([w, north])!;
    const [x1, y1] = projection([e, south])!;
    return `M${x0} ${y0}H${x1}V${y1}H${x0}Z`;
  };
  return west <= east ? [box(west, east)] : [box(west, 180), box(-180, east)];
}
