import { datasetId, ProblemError } from '@rootmap/core';
import type { CrsCandidate } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { confinementOf, type RootedScope } from './scope.js';
import { surveyWithIndex, type IndexStore } from '../survey/survey-index.js';
import { rankCrs } from '../crs/rank-crs.js';

/** What a dataset of the project that tells no CRS could be in, by the data around it. */
export async function candidatesFor(scope: RootedScope, id: string, index: IndexStore): Promise<CrsCandidate[]> {
  const root = scope.root;
  const { datasets } = await surveyWithIndex(root, index, { confinedTo: confinementOf(root, scope.places) });
  const dataset = datasets.find((d) => datasetId(join(root, d.group.path), d.table) === id);
  if (!dataset) throw new ProblemError({ code: 'not-found', what: 'dataset', id });
  if (!dataset.bbox) return [];
  const used = new Map<string, number>();
  const neighbours = datasets.flatMap(({ crs, bbox }) => {
    if (!crs?.code) return [];
    used.set(crs.code, (used.get(crs.code) ?? 0) + 1);
    return bbox ? [{ code: crs.code, bbox }] : [];
  });
  return rankCrs(dataset.bbox, { project: scope.project?.crs ?? null, used, neighbours });
}
