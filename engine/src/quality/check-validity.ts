import { isSuspect, readFeatures, ValidityTally, type OnProgress, type QualityCheck } from '@rootmap/core';
import { ShapeJudge } from '../geodatabase/valid-shapes.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { platformBelow } from '../survey/platform.js';

const TOLD_EVERY = 5000;

/** Whether the shapes of a dataset keep the rules of simple features, and nothing else. */
export function checkValidity({ folder, dataset }: FoundDataset, onProgress: OnProgress = () => undefined): QualityCheck {
  const platform = platformBelow(folder);
  try {
    const judge = new ShapeJudge(false);
    const tally = new ValidityTally();
    let records = 0;
    for (const { geometry } of readFeatures(dataset, platform, { geometry: true, values: false }).features) {
      records++;
      const fault = geometry && isSuspect(geometry) ? judge.fault(geometry) : null;
      if (fault) tally.add(records, fault, null);
      if (records % TOLD_EVERY === 0) onProgress({ done: records, of: dataset.featureCount ?? 0, unit: 'records', item: dataset.id });
    }
    return tally.check(records);
  } finally {
    platform.close();
  }
}
