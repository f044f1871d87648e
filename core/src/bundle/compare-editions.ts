import { byCodePoint } from '../code-point-order.js';

/** SHA-256 by path from the payload's top. */
export type Manifest = ReadonlyMap<string, string>;

/**
 * How a file of a newer edition stands to the one that is here.
 * `changed`, `added`, `removed`: by the sender. `here-changed`, `here-added`, `here-removed`: by us since then. `both`: by both.
 * `differs`: one of us changed it, and nothing tells who, since what was here before is not known.
 */
export const EDITION_STATES = [
  'same',
  'changed',
  'added',
  'removed',
  'here-changed',
  'here-added',
  'here-removed',
  'both',
  'differs',
] as const;
export type EditionState = (typeof EDITION_STATES)[number];

export interface EditionRow {
  readonly path: string;
  readonly state: EditionState;
}

/**
 * File by file, by code point of the path.
 * @param before what both had, when it was sent or received last; null: not known
 */
export function compareEditions(here: Manifest, incoming: Manifest, before: Manifest | null): EditionRow[] {
  const paths = new Set([...here.keys(), ...incoming.keys()]);
  return [...paths]
    .sort(byCodePoint)
    .map((path) => ({ path, state: stateOf(here.get(path), incoming.get(path), before && (before.get(path) ?? null)) }));
}

/** @param base its hash before; null: it was not there, or what was there is not known */
function stateOf(ours: string | undefined, theirs: string | undefined, base: string | null): EditionState {
  if (ours === theirs) return 'same';
  if (base === null) {
    if (ours === undefined) return 'added';
    return theirs === undefined ? 'here-added' : 'differs';
  }
  if (ours === undefined) return theirs === base ? 'here-removed' : 'both';
  if (theirs === undefined) return ours === base ? 'removed' : 'both';
  if (ours === base) return 'changed';
  return theirs === base ? 'here-changed' : 'both';
}

/** Who wins where both changed a file, or nothing tells who did. */
export type OnConflict = 'ours' | 'theirs';

/** What a person wants of taking an edition over. */
export interface TakeOverOrder {
  readonly onConflict: OnConflict;
  /** What the sender took away goes here, too: into the trash. */
  readonly removes: boolean;
}

/**
 * What taking an edition over does to a file: it is put there, taken away, or left.
 * @param isTheirs the edition has the file
 */
export function takeOver({ state }: EditionRow, isTheirs: boolean, { onConflict, removes }: TakeOverOrder): 'put' | 'remove' | 'leave' {
  const wins = isTheirs ? 'put' : removes ? 'remove' : 'leave';
  if (state === 'changed' || state === 'added') return 'put';
  if (state === 'removed') return removes ? 'remove' : 'leave';
  return (state === 'both' || state === 'differs') && onConflict === 'theirs' ? wins : 'leave';
}
