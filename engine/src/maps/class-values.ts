import { classBreaks, parseFilter, readFeatures, testRecord, type KeyValue, type Value } from '@rootmap/core';
import type { ClassesRequest, ClassesView } from '@rootmap/core/contract';
import { platformBelow } from '../survey/platform.js';
import type { FoundDataset } from '../project/find-dataset.js';

const MOST_VALUES = 200;

/** Breaks of classes over the values of a field, or the values themselves, the most frequent first. One pass. */
export function classValues(
  { folder, dataset }: FoundDataset,
  request: Omit<ClassesRequest, 'dataset'>,
  onProgress: (done: number) => void,
): ClassesView {
  const parsed = request.filter.trim() === '' ? null : parseFilter(request.filter);
  const filter = parsed?.ok ? parsed.condition : null;
  const counts = new Map<KeyValue, number>();
  const numbers: number[] = [];
  const platform = platformBelow(folder);
  let done = 0;
  try {
    const { fields, features } = readFeatures(dataset, platform, { geometry: false, values: true });
    const at = fields.findIndex((f) => f.name === request.field);
    for (const { values } of features) {
      if ((++done & 4095) === 0) onProgress(done);
      if (filter && testRecord(filter, (f) => values[fields.findIndex((x) => x.name === f)]) !== true) continue;
      const value = keyOf(values[at] ?? null);
      if (request.method === 'values') counts.set(value, (counts.get(value) ?? 0) + 1);
      else if (typeof value === 'number' && Number.isFinite(value)) numbers.push(value);
    }
  } finally {
    platform.close();
  }
  if (request.method !== 'values') {
    const breaks = classBreaks(Float64Array.from(numbers), request.method, request.classes);
    return { breaks, values: [], isCut: false, counted: numbers.length };
  }
  const sorted = [...counts].sort((a, b) => b[1] - a[1]);
  return {
    breaks: [],
    values: sorted.slice(0, MOST_VALUES).map(([value, count]) => ({ value, count })),
    isCut: sorted.length > MOST_VALUES,
    counted: done,
  };
}

const keyOf = (v: Value): KeyValue => (typeof v === 'bigint' ? Number(v) : v instanceof Uint8Array ? null : v);
