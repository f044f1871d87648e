import { Box } from '@mui/material';
import type { FactsView } from '@rootmap/core/contract';
import { CELLS, occupiedCells } from './occupied-cells.js';

const WIDTH = 360;
const HEIGHT = 150;

type Extent = readonly [number, number, number, number];

/** Remembered cells over the candidate's: same place and same pattern look as one. */
export function OccupancyMap({ remembered, found }: { remembered: FactsView | null; found: FactsView | null }) {
  const extents = [remembered?.extent, found?.extent].filter((e): e is Extent => !!e && e[2] > e[0] && e[3] > e[1]);
  const all = extents.reduce<Extent | null>(
    (a, b) => (a ? [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[2], b[2]), Math.max(a[3], b[3])] : b),
    null,
  );
  if (!all) return null;
  const scale = Math.min((WIDTH - 24) / (all[2] - all[0]), (HEIGHT - 24) / (all[3] - all[1]));
  const left = (WIDTH - scale * (all[2] - all[0])) / 2;
  const top = (HEIGHT - scale * (all[3] - all[1])) / 2;
  const x = (v: number): number => left + (v - all[0]) * scale;
  const y = (v: number): number => top + (all[3] - v) * scale;
  const same = remembered?.grid && remembered.grid === found?.grid;
  return (
    <Box>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        width="100%"
        style={{ background: 'var(--slate-wash)', borderRadius: 6, border: '1px solid var(--rule)', display: 'block' }}
        role="img"
        aria-label={
          found
            ? same
              ? 'The remembered and the found data fill the same cells'
              : 'Remembered and found data, laid over each other'
            : 'The remembered data'
        }
      >
        {found?.extent && <Cells facts={found} x={x} y={y} fill="var(--spruce)" opacity={0.45} />}
        {remembered?.extent && <Cells facts={remembered} x={x} y={y} stroke="var(--plum)" />}
      </svg>
      <Box sx={{ display: 'flex', gap: 2, fontSize: 12, color: 'text.secondary', mt: 0.5 }}>
        <span>
          <Box component="span" sx={{ display: 'inline-block', width: 12, height: 10, border: '1.5px dashed var(--plum)', mr: 0.5 }} />
          remembered
        </span>
        {found && (
          <span>
            <Box
              component="span"
              sx={{ display: 'inline-block', width: 12, height: 10, bgcolor: 'var(--spruce)', opacity: 0.5, mr: 0.5 }}
            />
            found
          </span>
        )}
      </Box>
    </Box>
  );
}

function Cells({
  facts,
  x,
  y,
  fill = 'none',
  stroke,
  opacity = 1,
}: {
  facts: FactsView;
  x: (v: number) => number;
  y: (v: number) => number;
  fill?: string;
  stroke?: string;
  opacity?: number;
}) {
  const e = facts.extent!;
  const frame = { x: x(e[0]), y: y(e[3]), width: x(e[2]) - x(e[0]), height: y(e[1]) - y(e[3]) };
  if (!facts.grid)
    return <rect {...frame} fill={fill} fillOpacity={opacity * 0.5} stroke={stroke ?? fill} strokeDasharray={stroke ? '4 3' : undefined} />;
  const w = frame.width / CELLS;
  const h = frame.height / CELLS;
  return (
    <g>
      {occupiedCells(facts.grid).map(([col, row]) => (
        <rect
          key={`${col} ${row}`}
          x={frame.x + col * w}
          y={frame.y + frame.height - (row + 1) * h}
          width={w}
          height={h}
          fill={fill}
          fillOpacity={opacity}
          stroke={stroke}
          strokeWidth={1}
          strokeDasharray={stroke ? '2 2' : undefined}
        />
      ))}
    </g>
  );
}
