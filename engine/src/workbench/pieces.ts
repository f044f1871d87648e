/**
 * Whoever takes a message from another process or thread is held up by all of it at once. A value with long lists goes as its
 * outline, with these lists empty, and then their items by the piece.
 */
export interface Outline {
  readonly outline: unknown;
  readonly pieces: number;
}
export interface Piece {
  /** Keys that lead to the list. */
  readonly at: readonly string[];
  readonly items: readonly unknown[];
}

const PIECE = 4000;
/** Deeper lists go with whatever they are in. */
const MOST_DEPTH = 4;

const isPlain = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && (Array.isArray(value) || Object.getPrototypeOf(value) === Object.prototype);

function longLists(value: unknown, at: readonly string[], found: Piece[]): Piece[] {
  if (Array.isArray(value) && value.length > PIECE) found.push({ at, items: value });
  else if (isPlain(value) && at.length < MOST_DEPTH)
    for (const key of Object.keys(value)) if (isPlain(value[key])) longLists(value[key], [...at, key], found);
  return found;
}

function emptied(value: unknown, [key, ...rest]: readonly string[]): unknown {
  if (key === undefined) return [];
  const copy = (Array.isArray(value) ? [...(value as unknown[])] : { ...(value as object) }) as Record<string, unknown>;
  copy[key] = emptied(copy[key], rest);
  return copy;
}

/** The value as it is sent: its outline, then as many pieces as that says. */
export function cut(value: unknown): [Outline, ...Piece[]] {
  const lists = longLists(value, [], []);
  const pieces = lists.flatMap(({ at, items }) =>
    Array.from({ length: Math.ceil(items.length / PIECE) }, (_, i) => ({ at, items: items.slice(i * PIECE, (i + 1) * PIECE) })),
  );
  return [{ outline: lists.reduce((v, { at }) => emptied(v, at), value), pieces: pieces.length }, ...pieces];
}

/** Puts together what comes; `value` is whole once nothing is missing. */
export class Joined {
  readonly value: unknown;
  private missing: number;

  constructor({ outline, pieces }: Outline) {
    this.value = outline;
    this.missing = pieces;
  }

  get isWhole(): boolean {
    return this.missing === 0;
  }

  add({ at, items }: Piece): void {
    const list = at.reduce((v, key) => (v as Record<string, unknown>)[key], this.value) as unknown[];
    for (const item of items) list.push(item);
    this.missing--;
  }
}
