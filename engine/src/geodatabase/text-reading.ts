import {
  CSVW_ENDING,
  csvRows,
  describeGroup,
  isNames,
  layoutOf,
  memorySource,
  statedLayout,
  writeCsvw,
  type ByteSource,
  type Dataset,
  type StatedDialect,
} from '@rootmap/core';
import type { TextReading } from '@rootmap/core/contract';
import { basename } from '../disk/native-path.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { diskSentence } from '../disk/disk-problem.js';
import { platformBelow } from '../survey/platform.js';

const SAMPLES = 3;

/** How a table of text is read, with its first values as they stand; null: it is no such table. */
export function textReadingOf({ folder, dataset }: FoundDataset): TextReading | null {
  const platform = platformBelow(folder);
  try {
    return readingOf(dataset, (path) => platform.open(path));
  } finally {
    platform.close();
  }
}

/** A table of text as it would be read with other words of it beside it; what is stated of its columns now does not count. */
export function readOtherwise({ folder, dataset }: FoundDataset, dialect: StatedDialect): { dataset: Dataset; reading: TextReading } {
  const { group } = dataset;
  const path = `${group.path}${CSVW_ENDING}`;
  const bytes = new TextEncoder().encode(writeCsvw(null, basename(group.path), dialect));
  const others = group.companions.filter((f) => f.path !== path && !f.path.toLowerCase().endsWith('.csvt'));
  const platform = platformBelow(folder);
  const open = (p: string): ByteSource => (p === path ? memorySource(bytes) : platform.open(p));
  try {
    const companions = [...others, { path, bytes: bytes.length, modifiedMs: 0 }];
    const [read] = describeGroup({ ...group, companions }, { ...platform, open, crs: platform.crs }, diskSentence);
    return { dataset: read!, reading: readingOf(read!, open)! };
  } finally {
    platform.close();
  }
}

function readingOf({ group, fields }: Dataset, open: (path: string) => ByteSource): TextReading | null {
  if (group.format !== 'csv' || !fields) return null;
  const source = open(group.path);
  const stated = statedLayout(group, open);
  const layout = layoutOf(source, stated);
  const rows: string[][] = [];
  let hasNames = false;
  let isFirst = true;
  for (const row of csvRows(source, layout, group.path)) {
    if (isFirst && isNames(row, layout, fields)) hasNames = true;
    else rows.push(row);
    isFirst = false;
    if (rows.length === SAMPLES) break;
  }
  return {
    encoding: layout.encoding,
    isGuessed: layout.confidence < 1,
    stated: { delimiter: stated.delimiter, encoding: stated.encoding, hasNames: stated.hasNames },
    delimiter: layout.delimiter,
    hasNames,
    columns: fields.map((f, i) => ({
      name: f.name,
      type: f.type,
      writtenAs: f.writtenAs ?? null,
      samples: rows.map((row) => (row[i] ?? '').slice(0, 80)),
    })),
  };
}
