import { randomUUID } from 'node:crypto';
import { writeMapFile, type NewLayer, type NewService, type StoredForm } from '@rootmap/core';
import { dirname, pathFrom } from '../disk/native-path.js';
import type { PlannedChange } from '../changes/change.js';
import type { RootedScope } from '../project/scope.js';
import { missingFolders } from '../changes/missing-folders.js';
import { newMapPath } from './new-map-path.js';

/** A new map file with layers or without, in the folder for maps, under a name that is free. Nothing is written. */
export function planNewMap(
  scope: RootedScope,
  title: string,
  who: string,
  layers: readonly (NewLayer | NewService)[] = [],
  crs: string | null = null,
  { path = newMapPath(scope, title), storedForm = null }: { path?: string; storedForm?: StoredForm | null } = {},
): { change: PlannedChange; map: string } {
  const text = writeMapFile({
    id: `urn:uuid:${randomUUID()}`,
    title: title.trim(),
    updated: new Date().toISOString().replace(/\.\d+Z$/, 'Z'),
    crs,
    storedForm: storedForm ?? scope.project?.storedForm ?? 'relative',
    layers,
  });
  const steps: PlannedChange['steps'] = [
    ...missingFolders([dirname(path)]).map((folder) => ({ kind: 'folder', path: folder }) as const),
    { kind: 'write', path, before: null, after: Buffer.from(text, 'utf8') },
  ];
  const of = layers.length === 0 ? '' : ` of ${layers.length === 1 ? layers[0]!.title : `${layers.length} datasets`}`;
  return {
    change: { title: `Make the map ${title.trim()}${of}`, kind: 'save', root: scope.root, who, steps },
    map: pathFrom(scope.root, path),
  };
}
