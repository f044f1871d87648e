import { memo } from 'react';
import { STATE_COLOUR, TetherEnd, TetherLine } from '../parts/tether.js';
import { LEFT, RIGHT_X } from './diagram-geometry.js';
import type { Thread } from './layout-diagram.js';
import { endOf, threadPath } from './thread-path.js';

interface Props {
  readonly threads: readonly Thread[];
  readonly hasGhosts: boolean;
}

/** The lines of tethers; drawn anew only when others are to be drawn, not when some are marked. */
export const ThreadLines = memo(function ThreadLines({ threads, hasGhosts }: Props) {
  return threads.map((t) => (
    <g key={t.id}>
      <TetherLine d={threadPath(t, hasGhosts)} bond={t.bond} width={t.count > 1 ? Math.min(3, 1 + Math.log2(t.count) / 2) : 1} />
      {t.bond.reach === 'outside' && t.bond.stored === 'relative' && (
        <path d={`M${RIGHT_X - 6} ${t.toY - 7}l8 14`} stroke={STATE_COLOUR[t.bond.state]} strokeWidth={2} />
      )}
    </g>
  ));
});

export const ThreadEnds = memo(function ThreadEnds({ threads }: Pick<Props, 'threads'>) {
  return threads.map((t) => (
    <g key={t.id}>
      <circle cx={LEFT} cy={t.fromY} r={2.6} fill={STATE_COLOUR[t.bond.state]} />
      <TetherEnd x={endOf(t)} y={t.toY} bond={t.bond} />
    </g>
  ));
});
