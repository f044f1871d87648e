import { compareRecords, ProblemError, readFeatures, type ComparedSide, type RecordComparison } from '@rootmap/core';
import type { FoundDataset } from '../project/find-dataset.js';
import { platformBelow, type NodePlatform } from '../survey/platform.js';
import { unitsOf } from './check-dataset.js';

/** What became of the records of one edition in another; both in their own CRS, which must be the same. Throws `wrong-use`. */
export function compareDatasets(before: FoundDataset, after: FoundDataset, key: string | null): RecordComparison {
  for (const { dataset } of [before, after])
    if (dataset.state === 'unreadable' || (dataset.kind !== 'vector' && dataset.kind !== 'table'))
      throw new ProblemError({ code: 'wrong-use', message: `${dataset.group.path} has no records that can be compared.` });
  for (const { dataset } of [before, after])
    if (key !== null && !dataset.fields?.some((f) => f.name === key))
      throw new ProblemError({ code: 'wrong-use', message: `${dataset.group.path} has no field ${key}.` });
  const [a, b] = [before.dataset.crs?.code ?? null, after.dataset.crs?.code ?? null];
  if (a !== b)
    throw new ProblemError({
      code: 'wrong-use',
      message: `They are in different CRSs (${a ?? 'unknown'}, ${b ?? 'unknown'}), so shapes cannot be held against each other. Make a copy in the same CRS first.`,
    });
  const platforms = [platformBelow(before.folder), platformBelow(after.folder)] as const;
  try {
    return compareRecords(sideOf(before, platforms[0]), sideOf(after, platforms[1]), key);
  } finally {
    for (const p of platforms) p.close();
  }
}

function sideOf({ dataset }: FoundDataset, platform: NodePlatform): ComparedSide {
  const wanted = { geometry: dataset.kind === 'vector', values: true };
  return {
    fields: readFeatures(dataset, platform, wanted).fields,
    records: () => readFeatures(dataset, platform, wanted).features,
    ...unitsOf(dataset),
  };
}
