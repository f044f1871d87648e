import { datasetId, urlOf, type Origin } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { keeperOf, Origins } from '../folders/origins.js';
import { usedPaths } from '../folders/used-paths.js';
import { knownProjects } from '../move/known-maps.js';
import { confinementOf, presentLinks, type RootedScope } from '../project/scope.js';
import { surveyFolder } from '../survey/list-datasets.js';

/** A dataset with an address that it can be fetched from again. */
export interface RecordedAddress {
  readonly id: string;
  readonly address: string;
  readonly origin: Origin;
  readonly usedBy: number;
}

/** Datasets of a project and its links whose origin names a web address. */
export function recordedAddresses(scope: RootedScope, roots: readonly string[]): RecordedAddress[] {
  const used = usedPaths(knownProjects([scope.root, ...roots], scope.places), scope.places);
  const origins = new Origins(keeperOf(scope));
  return [scope.root, ...presentLinks(scope).map((l) => l.folder)].flatMap((folder) =>
    surveyFolder(folder, confinementOf(folder, scope.places)).datasets.flatMap((d): RecordedAddress[] => {
      const path = join(folder, d.group.path);
      const origin = d.kind === 'document' || d.kind === 'opaque' ? null : origins.of(path, d.table);
      return origin && urlOf(origin.address)
        ? [{ id: datasetId(path, d.table), address: origin.address, origin, usedBy: used.get(path) ?? 0 }]
        : [];
    }),
  );
}
