import { existsSync } from 'node:fs';
import { fileName, MAP_ENDING, ProblemError } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import type { RootedScope } from '../project/scope.js';

/** In the folder for maps, under a name that is free. */
export function newMapPath(scope: RootedScope, title: string): string {
  const stem = title
    .trim()
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '_')
    .replace(/^_+|_+$/g, '');
  if (stem === '') throw new ProblemError({ code: 'wrong-use', message: 'The map has no title. Give it one.' });
  const folder = Object.entries(scope.project?.folders ?? {}).find(([, role]) => role === 'maps')?.[0] ?? 'maps';
  const at = (name: string): string => join(scope.root, folder, fileName(name, MAP_ENDING));
  let name = stem;
  for (let n = 2; existsSync(at(name)); n++) name = `${stem}_${n}`;
  return at(name);
}
