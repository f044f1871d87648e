import { byCodePoint } from '../code-point-order.js';

/** SHA-256 by path from the payload's top. */
export type Manifest = ReadonlyMap<string, string>;

/**
 * How a file of a newer edition stands to the one that is here. `same`: equal, or as it was on both sides.
 * `changed`, `removed`: by the sender. `added`: it is not here, and was not. `here-changed`, `here-added`, `here-removed`: by us since then. `both`: by both.
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

/** What both had when a project was sent or received last. They differ where a bundle has a file in another way than the root. */
export interface Before {
  readonly here: Manifest;
  readonly bundle: Manifest;
}

/**
 * File by file, by code point of the path.
 * @param before null: not known
 */
export function compareEditions(here: Manifest, incoming: Manifest, before: Before | null): EditionRow[] {
  const paths = new Set([...here.keys(), ...incoming.keys()]);
  return [...paths].sort(byCodePoint).map((path) => {
    const [ours, theirs] = [here.get(path), incoming.get(path)];
    return { path, state: before ? stateSince(ours, theirs, before.here.get(path), before.bundle.get(path)) : stateAlone(ours, theirs) };
  });
}

type Hash = string | undefined;

function stateAlone(ours: Hash, theirs: Hash): EditionState {
  if (ours === theirs) return 'same';
  if (ours === undefined) return 'added';
  return theirs === undefined ? 'here-added' : 'differs';
}

/** Who changed a file: us, if it is not what was here; them, if it is not what was in the bundle. */
function stateSince(ours: Hash, theirs: Hash, wasHere: Hash, wasSent: Hash): EditionState {
  if (ours === theirs) return 'same';
  if (wasHere === undefined) return wasSent === undefined || ours === undefined ? stateAlone(ours, theirs) : 'both';
  const isOurs = ours !== wasHere;
  const isTheirs = theirs !== wasSent;
  if (isOurs && isTheirs) return 'both';
  if (isTheirs) return theirs === undefined ? 'removed' : 'changed';
  if (!isOurs) return 'same'; // it was sent in another way than it stands here, and nobody touched it since
  return ours === undefined ? 'here-removed' : 'here-changed';
}

/** Who wins where both changed a file, or nothing tells who did. */
type OnConflict = 'ours' | 'theirs';

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
