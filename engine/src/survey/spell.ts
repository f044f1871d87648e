import { statSync } from 'node:fs';
import { foldName } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import { isMissing } from '../disk/disk-problem.js';

export type Spelling =
  | { readonly kind: 'found'; readonly segments: readonly string[]; readonly exact: boolean }
  | { readonly kind: 'nothing' }
  | { readonly kind: 'ambiguous'; readonly spellings: readonly string[] };

/** Lists folders once for all who ask. */
export class Names {
  private readonly known = new Map<string, readonly string[] | null>();

  /** Null where there is no such folder. */
  in(folder: string): readonly string[] | null {
    const known = this.known.get(folder);
    if (known !== undefined) return known;
    let names: readonly string[] | null;
    try {
      names = readdirSync(folder);
    } catch (error) {
      if (!isMissing(error)) throw error;
      names = null;
    }
    this.known.set(folder, names);
    return names;
  }
}

/** A path as it is spelled on disk: exactly, or by case and normalisation alone. */
export function spell(root: string, segments: readonly string[], names: Names): Spelling {
  try {
    statSync(join(root, ...segments));
    return { kind: 'found', segments, exact: true };
  } catch (error) {
    if (!isMissing(error)) throw error;
  }
  const spelled: string[] = [];
  for (const segment of segments) {
    const there = names.in(join(root, ...spelled));
    if (!there) return { kind: 'nothing' };
    const same = there.includes(segment) ? [segment] : there.filter((n) => foldName(n) === foldName(segment));
    if (same.length === 0) return { kind: 'nothing' };
    if (same.length > 1) return { kind: 'ambiguous', spellings: same };
    spelled.push(same[0]!);
  }
  return { kind: 'found', segments: spelled, exact: false };
}
