import { existsSync } from 'node:fs';
import { nameOf, originOf, partsOf, urlOf, type Origin, type Resource } from '@rootmap/core';
import { dirname, join } from '../disk/native-path.js';
import { RECORDS } from '../move/records.js';
import { confinementOf, type RootedScope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import { Origins } from './origins.js';

/** A dataset that is written down with an address and is not here: it stayed out of a bundle, or was deleted. */
export interface StayedOut {
  /** Path of its main file, on this machine. */
  readonly path: string;
  readonly address: string;
  readonly origin: Origin;
  /** What its files were, by name; empty: nobody wrote it down. */
  readonly files: readonly { readonly path: string; readonly hash: string }[];
}

/** What the records of a project tell of data that is not here and can be fetched. Reads only. */
export function stayedOut(scope: RootedScope): StayedOut[] {
  const { files } = listFiles(scope.root, { confinedTo: confinementOf(scope.root, scope.places) });
  const origins = new Origins();
  const found = new Map<string, StayedOut>();
  for (const { path } of files) {
    if (nameOf(path) !== RECORDS) continue;
    const folder = dirname(join(scope.root, path));
    const record = origins.record(folder).package;
    for (const resource of record?.resources ?? []) {
      const name = resource['path'];
      if (typeof name !== 'string' || partsOf(name).length !== 1) continue;
      const at = join(folder, name);
      const origin = originOf(resource, record!);
      if (!origin.isReobtainable || urlOf(origin.address) === null || existsSync(at) || found.has(at)) continue;
      found.set(at, { path: at, address: origin.address, origin, files: sumsOf(resource) });
    }
  }
  return [...found.values()];
}

function sumsOf(resource: Resource): StayedOut['files'] {
  const files = resource['rootmap:files'];
  if (!Array.isArray(files)) return [];
  return (files as unknown[]).flatMap((f) => {
    const { path, hash } = (typeof f === 'object' && f !== null ? f : {}) as { path?: unknown; hash?: unknown };
    return typeof path === 'string' && typeof hash === 'string' && /^sha256:[0-9a-f]{64}$/.test(hash) ? [{ path, hash }] : [];
  });
}
