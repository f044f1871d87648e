import {
  fieldsOf,
  mapWkb,
  meetsArea,
  ProblemError,
  readFeatures,
  testRecord,
  type Condition,
  type Feature,
  type FeatureStream,
  type Value,
  type Wanted,
} from '@rootmap/core';
import type { Selection } from '@rootmap/core/contract';
import { crsKey, keyName } from '../crs/definitions.js';
import { transformer, type Transformer } from '../crs/transformer.js';
import { platformBelow } from '../survey/platform.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { conditionOf } from './filter-condition.js';

/** Takes the records of a dataset that are selected from those that are read. */
export interface RecordSelector {
  /** Every record is meant. */
  readonly isAll: boolean;
  /** What has to be read so that it can choose, beside what is wanted anyway. */
  readonly wanted: (wanted: Wanted) => Wanted;
  readonly of: (stream: FeatureStream) => FeatureStream;
}

export const NO_RECORD = 'no record is like that: take a condition away, or choose another area';

/** Throws `wrong-use` where the filter is none, names a field that is not there, or the area cannot be told in the CRS of the data. */
export function recordSelector({ dataset }: FoundDataset, { filter, area, records }: Selection): RecordSelector {
  const condition = conditionOf(filter);
  const names = (dataset.fields ?? []).map((f) => f.name);
  const unknown = condition && fieldsOf(condition).find((f) => !names.includes(f));
  if (unknown !== null && unknown !== undefined)
    throw new ProblemError({
      code: 'wrong-use',
      message: `The filter asks for "${unknown}", which is no field of ${dataset.group.path}. Its fields are ${names.join(', ')}.`,
    });
  const ids = records && new Set(records);
  const ring = area && [...area.corners, area.corners[0]!].flat();
  const to = area ? toArea(dataset, area.crs) : null;
  const tests: ((record: Feature) => boolean)[] = [];
  if (ids) tests.push((r) => ids.has(r.id));
  if (condition) tests.push(valueTest(condition, names));
  if (ring)
    tests.push(({ geometry }) => {
      const shape = geometry && to ? mapWkb(geometry, to) : geometry;
      return shape !== null && meetsArea(shape, ring);
    });
  return {
    isAll: tests.length === 0,
    wanted: (w) => ({
      ...w,
      geometry: w.geometry || ring !== null,
      values: w.values || condition !== null,
      ...(condition ? { hint: condition } : {}),
    }),
    of: (stream) => (tests.length === 0 ? stream : { ...stream, features: chosen(stream.features, tests) }),
  };
}

export function countSelected(found: FoundDataset, selection: Selection): number {
  const selector = recordSelector(found, selection);
  const platform = platformBelow(found.folder);
  try {
    let count = 0;
    for (const _ of selector.of(readFeatures(found.dataset, platform, selector.wanted({ geometry: false, values: false }))).features)
      count++;
    return count;
  } finally {
    platform.close();
  }
}

function* chosen(features: Iterable<Feature>, tests: readonly ((record: Feature) => boolean)[]): Generator<Feature> {
  for (const feature of features) if (tests.every((test) => test(feature))) yield feature;
}

function valueTest(condition: Condition, names: readonly string[]): (record: Feature) => boolean {
  const places = new Map(names.map((name, i) => [name, i]));
  let values: readonly Value[] = [];
  const valueOf = (name: string): Value | undefined => values[places.get(name) ?? -1];
  return (record) => {
    ({ values } = record);
    return testRecord(condition, valueOf) === true;
  };
}

/** From the CRS of the data to that of the area; null: it is the same. */
function toArea(dataset: FoundDataset['dataset'], crs: string | null): Transformer | null {
  const own = crsKey(dataset.crs);
  if (crs === null || crs === own) return null;
  const to = own === null ? null : transformer(own, crs);
  if (!to)
    throw new ProblemError({
      code: 'wrong-use',
      message: `Which records of ${dataset.group.path} are in that area cannot be told: ${own === null ? 'nobody knows which CRS it is in' : `how ${keyName(own)} becomes ${crs} is not known here`}.`,
    });
  return to;
}
