/**
 * Whoever takes a message from another process or thread is held up by all of it at once. A value with long lists or much data
 * goes as its outline, with these left empty, and then what is in them by the piece.
 */
export interface Outline {
  readonly outline: unknown;
  readonly long: readonly Long[];
  readonly pieces: number;
}
/** Keys that lead to a long list or to many bytes, and how many of these. */
interface Long {
  readonly at: readonly string[];
  readonly bytes: number | null;
}
/** `of`: which of the long ones. */
export type Piece = { readonly of: number } & (
  { readonly items: readonly unknown[] } | { readonly from: number; readonly bytes: Uint8Array }
);

const ITEMS = 4000;
const BYTES = 512 << 10;
/** What is deeper goes with whatever it is in. */
const MOST_DEPTH = 4;

type LongValue = { readonly at: readonly string[]; readonly value: readonly unknown[] | Uint8Array };

const isPlain = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && (Array.isArray(value) || Object.getPrototypeOf(value) === Object.prototype);

function longOnes(value: unknown, at: readonly string[], found: LongValue[]): LongValue[] {
  if (Array.isArray(value) && value.length > ITEMS) found.push({ at, value });
  else if (value instanceof Uint8Array && value.length > BYTES) found.push({ at, value });
  else if (isPlain(value) && at.length < MOST_DEPTH)
    for (const key of Object.keys(value)) if (typeof value[key] === 'object') longOnes(value[key], [...at, key], found);
  return found;
}

/** A copy in which `put` stands there. */
function withAt(value: unknown, [key, ...rest]: readonly string[], put: unknown): unknown {
  if (key === undefined) return put;
  const copy = (Array.isArray(value) ? [...(value as unknown[])] : { ...(value as object) }) as Record<string, unknown>;
  copy[key] = withAt(copy[key], rest, put);
  return copy;
}

const starts = (length: number, step: number): number[] => Array.from({ length: Math.ceil(length / step) }, (_, i) => i * step);

const cutOne = (value: readonly unknown[] | Uint8Array, of: number): Piece[] =>
  value instanceof Uint8Array
    ? starts(value.length, BYTES).map((from) => ({ of, from, bytes: value.subarray(from, from + BYTES) }))
    : starts(value.length, ITEMS).map((from) => ({ of, items: value.slice(from, from + ITEMS) }));

/** The value as it is sent: its outline, then as many pieces as that says. */
export function cut(value: unknown): [Outline, ...Piece[]] {
  const found = longOnes(value, [], []);
  const pieces = found.flatMap((one, i) => cutOne(one.value, i));
  const long = found.map((one) => ({ at: one.at, bytes: one.value instanceof Uint8Array ? one.value.length : null }));
  return [{ outline: found.reduce((v, { at }) => withAt(v, at, null), value), long, pieces: pieces.length }, ...pieces];
}

/** Puts together what comes; `value` is whole once nothing is missing. */
export class Joined {
  readonly value: unknown;
  private readonly long: (unknown[] | Uint8Array)[];
  private missing: number;

  constructor({ outline, long, pieces }: Outline) {
    this.long = long.map(({ bytes }) => (bytes === null ? [] : new Uint8Array(bytes)));
    this.value = long.reduce((v, { at }, i) => withAt(v, at, this.long[i]), outline);
    this.missing = pieces;
  }

  get isWhole(): boolean {
    return this.missing === 0;
  }

  add(piece: Piece): void {
    const whole = this.long[piece.of];
    if ('items' in piece) for (const item of piece.items) (whole as unknown[]).push(item);
    else (whole as Uint8Array).set(piece.bytes, piece.from);
    this.missing--;
  }
}
