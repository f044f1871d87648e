import { join } from 'node:path';
import { datasetId, ProblemError, type Dataset } from '@rootmap/core';
import { confinementOf, linkFolders, type Scope } from '../project/scope.js';
import { surveyWithIndex, type IndexStore } from './survey-index.js';

/** A dataset with the folder that its paths start from. */
export interface FoundDataset {
  readonly folder: string;
  readonly dataset: Dataset;
}

/** Datasets of a project or its linked folders by their ids: real path, and `#table`. Those that are gone are left out. */
export async function findDatasets(scope: Scope, ids: readonly string[], index: IndexStore): Promise<Map<string, FoundDataset>> {
  const wanted = new Set(ids);
  const found = new Map<string, FoundDataset>();
  for (const folder of [scope.root!, ...linkFolders(scope)]) {
    if (!ids.some((id) => id.startsWith(`${folder}/`))) continue;
    const { datasets } = await surveyWithIndex(folder, index, { confinedTo: confinementOf(folder, scope.places) });
    for (const dataset of datasets) {
      const id = datasetId(join(folder, dataset.group.path), dataset.table);
      if (wanted.has(id) && !found.has(id)) found.set(id, { folder, dataset });
    }
  }
  return found;
}

/** One of them. Throws `not-found`. */
export async function findDataset(scope: Scope, id: string, index: IndexStore): Promise<FoundDataset> {
  const found = (await findDatasets(scope, [id], index)).get(id);
  if (!found) throw new ProblemError({ code: 'not-found', what: 'dataset', id });
  return found;
}
