import { existsSync } from 'node:fs';
import { ProblemError } from '@rootmap/core';
import type { PlannedChange } from '../changes/change.js';
import { missingFolders } from '../changes/missing-folders.js';
import { basename, dirname } from '../disk/native-path.js';

/** A page that was made of a map is written where nothing stands. Throws `bad-name` or `exists`. @param shown as the person named it */
export function checkPagePath(path: string, shown: string): void {
  if (!/\.(pdf|png|svg)$/i.test(path))
    throw new ProblemError({ code: 'bad-name', name: basename(path), why: 'a page ends in .pdf, .png or .svg' });
  if (existsSync(path)) throw new ProblemError({ code: 'exists', path: shown });
}

export const planPage = (
  path: string,
  bytes: Uint8Array,
  of: { readonly title: string; readonly root: string; readonly who: string },
): PlannedChange => ({
  ...of,
  kind: 'save',
  steps: [
    ...missingFolders([dirname(path)]).map((folder) => ({ kind: 'folder', path: folder }) as const),
    { kind: 'write', path, before: null, after: bytes },
  ],
});
