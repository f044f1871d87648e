import { looseName } from './names.js';
import { foldedOf } from './trail.js';
import type { Target } from './types.js';

/** What holds a dataset, a folder or a geodatabase, and what it is called there. */
export interface Held {
  readonly holder: readonly string[];
  readonly name: string;
}
export const heldIn = (segments: readonly string[], table: string | null): Held =>
  table === null
    ? { holder: segments.slice(0, -1), name: looseName(segments[segments.length - 1] ?? '') }
    : { holder: segments, name: looseName(`${table}.x`) };

export const holderKey = (space: string, holder: readonly string[]): string => `${space}\n${foldedOf(holder).join('/')}`;

/** The names of datasets by what holds them. */
export function namesByHolder(targets: readonly Target[]): Map<string, Set<string>> {
  const names = new Map<string, Set<string>>();
  for (const { location, table } of targets) {
    const { holder, name } = heldIn(location.segments, table);
    noteName(names, holderKey(location.place, holder), name);
  }
  return names;
}

export function noteName(names: Map<string, Set<string>>, holder: string, name: string): void {
  const known = names.get(holder);
  if (known) known.add(name);
  else names.set(holder, new Set([name]));
}
