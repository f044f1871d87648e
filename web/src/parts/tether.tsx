import type { LayerState, Reach } from '@rootmap/core';

/** How a reference is stored and where it ends up: what the line of a tether tells. */
export interface Bond {
  readonly stored: 'relative' | 'absolute' | 'service';
  readonly reach: Reach;
  readonly state: LayerState;
}

export const STATE_COLOUR: Readonly<Record<LayerState, string>> = {
  sound: 'var(--spruce)',
  'not-asked': 'var(--slate)',
  different: 'var(--ochre)',
  incomplete: 'var(--ochre)',
  adrift: 'var(--plum)',
  absent: 'var(--stone)',
  unreadable: 'var(--plum)',
};
export const STATE_WORD: Readonly<Record<LayerState, string>> = {
  sound: 'sound',
  'not-asked': 'not asked',
  different: 'different data',
  incomplete: 'incomplete',
  adrift: 'adrift',
  absent: 'absent',
  unreadable: 'unreadable',
};

/** Beside a count of sound layers: services that nobody asked are none of them. */
export const alsoNotAsked = (n: number): string => (n > 0 ? `, ${n} not asked` : '');

const bondColour = (b: Bond): string => (b.reach === 'service' ? 'var(--slate)' : STATE_COLOUR[b.state]);

export function bondWords(b: Bond): string {
  const line =
    b.reach === 'service'
      ? 'a service'
      : `${b.stored}, ${b.reach === 'inside' ? 'inside the root' : b.reach === 'linked' ? 'through a linked folder' : 'outside the root'}`;
  return `${STATE_WORD[b.state]}: ${line}`;
}

/** The line of a tether along a path: thin, double, barred, thick or dotted. */
export function TetherLine({ d, bond, width = 1 }: { d: string; bond: Bond; width?: number }) {
  const colour = bondColour(bond);
  const base = bond.stored === 'absolute' && bond.reach !== 'linked' ? 3.2 : 1.5;
  const common = { d, fill: 'none', stroke: colour, strokeLinecap: 'round' as const };
  if (bond.reach === 'service') return <path {...common} strokeWidth={base * width} strokeDasharray="1 4" />;
  if (bond.reach === 'linked')
    return (
      <>
        <path {...common} strokeWidth={4.2 * width} />
        <path {...common} stroke="var(--paper)" strokeWidth={1.8 * width} />
      </>
    );
  return <path {...common} strokeWidth={base * width} />;
}

/** The end of a tether, its shape the state. */
export function TetherEnd({ x, y, bond, size = 5 }: { x: number; y: number; bond: Bond; size?: number }) {
  const colour = bondColour(bond);
  const r = size;
  const open = { fill: 'var(--sheet)', stroke: colour, strokeWidth: 1.6 };
  switch (bond.state) {
    case 'sound':
      return <circle cx={x} cy={y} r={r} fill={colour} />;
    case 'not-asked':
      return (
        <>
          <circle cx={x} cy={y} r={r} {...open} strokeDasharray="2 2" />
          <circle cx={x} cy={y} r={r * 0.3} fill={colour} />
        </>
      );
    case 'different':
      return <path d={`M${x} ${y - r - 1}L${x + r + 1} ${y}L${x} ${y + r + 1}L${x - r - 1} ${y}Z`} fill={colour} />;
    case 'incomplete':
      return (
        <>
          <circle cx={x} cy={y} r={r} {...open} />
          <path d={`M${x} ${y - r}A${r} ${r} 0 0 0 ${x} ${y + r}Z`} fill={colour} />
        </>
      );
    case 'adrift':
      return <circle cx={x} cy={y} r={r} {...open} />;
    case 'absent':
      return (
        <>
          <circle cx={x} cy={y} r={r} {...open} />
          <path d={`M${x - r * 0.7} ${y + r * 0.7}L${x + r * 0.7} ${y - r * 0.7}`} stroke={colour} strokeWidth={1.6} />
        </>
      );
    case 'unreadable':
      return (
        <>
          <rect x={x - r} y={y - r} width={r * 2} height={r * 2} {...open} />
          <path
            d={`M${x - r * 0.5} ${y - r * 0.5}L${x + r * 0.5} ${y + r * 0.5}M${x - r * 0.5} ${y + r * 0.5}L${x + r * 0.5} ${y - r * 0.5}`}
            stroke={colour}
            strokeWidth={1.6}
          />
        </>
      );
  }
}

const SIZES = { small: 40, medium: 56, large: 84 } as const;

/** The small drawing of a reference: dot, line, end. Its meaning is said in words too. */
export function Tether({ bond, size = 'small' }: { bond: Bond; size?: keyof typeof SIZES }) {
  const w = SIZES[size];
  const apart = bond.state === 'adrift' || bond.state === 'absent';
  const end = w - 8;
  const colour = bondColour(bond);
  return (
    <svg
      width={w}
      height={16}
      viewBox={`0 0 ${w} 16`}
      role="img"
      aria-label={bondWords(bond)}
      style={{ flex: 'none', verticalAlign: 'middle' }}
    >
      <circle cx={4} cy={8} r={2.4} fill={colour} />
      <TetherLine d={`M4 8H${apart ? end - 9 : end}`} bond={bond} />
      {bond.reach === 'outside' && bond.stored === 'relative' && (
        <path d={`M${w / 2 - 3} 3L${w / 2 + 3} 13`} stroke={colour} strokeWidth={1.6} />
      )}
      <TetherEnd x={end} y={8} bond={bond} size={4.5} />
    </svg>
  );
}
