import { readFeatures, type Field } from '@rootmap/core';
import type { RecordsView, ShownValue } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { CacheFolder, versionOf } from '../disk/cache-folder.js';
import { platformBelow } from '../survey/platform.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { shown, valueReader } from './read-rows.js';
import { openRowTable } from './row-table.js';

type Record = RecordsView['records'][number];

/** Single records with their values: from where they stand, or from the table that a look through the file makes. */
export function readRecords(
  found: FoundDataset,
  ids: readonly number[],
  dataFolder: string,
  onProgress: (done: number) => void = () => undefined,
): RecordsView {
  const fields = found.dataset.fields ?? [];
  const isByPlace = found.dataset.group.format === 'shapefile';
  return { fields, records: isByPlace ? inPlace(found, ids, fields) : fromTable(found, ids, dataFolder, onProgress) };
}

function inPlace({ folder, dataset }: FoundDataset, ids: readonly number[], fields: readonly Field[]): Record[] {
  const platform = platformBelow(folder);
  try {
    return ids.flatMap((id) => {
      const { features } = readFeatures(dataset, platform, { geometry: false, values: true, range: { from: id, to: id + 1 } });
      for (const record of features) if (record.id === id) return [{ id, values: record.values.map((v, i) => shown(v, fields[i])) }];
      return [];
    });
  } finally {
    platform.close();
  }
}

function fromTable(found: FoundDataset, ids: readonly number[], dataFolder: string, onProgress: (done: number) => void): Record[] {
  const cache = new CacheFolder(join(dataFolder, 'cache', 'rows'));
  const version = versionOf(found);
  const table = openRowTable(found, cache.of(version), onProgress);
  try {
    cache.touch(version);
    const valuesOf = valueReader(table);
    return ids.flatMap((id) => {
      const key = table.keyOf(id);
      const values: ShownValue[] | null = key === null ? null : valuesOf(key);
      return values ? [{ id, values }] : [];
    });
  } finally {
    table.close();
  }
}
