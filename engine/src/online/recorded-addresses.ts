import { datasetId, urlOf, type Origin } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { keeperOf, Origins } from '../folders/origins.js';
import { usesOfData } from '../folders/used-paths.js';
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
  const uses = usesOfData(knownProjects([scope.root, ...roots], scope.places), scope.places);
  const origins = new Origins(keeperOf(scope));
  return [scope.root, ...presentLinks(scope).map((l) => l.folder)].flatMap((folder) => {
    const { datasets } = surveyFolder(folder, confinementOf(folder, scope.places));
    const tables = new Map<string, number>();
    for (const { group } of datasets) tables.set(group.path, (tables.get(group.path) ?? 0) + 1);
    return datasets.flatMap((d): RecordedAddress[] => {
      const at = { path: join(folder, d.group.path), table: d.table };
      const origin = d.kind === 'document' || d.kind === 'opaque' ? null : origins.of(at.path, at.table);
      if (!origin || urlOf(origin.address) === null) return [];
      const usedBy = uses(at, tables.get(d.group.path) === 1);
      return [{ id: datasetId(at.path, at.table), address: origin.address, origin, usedBy }];
    });
  });
}
