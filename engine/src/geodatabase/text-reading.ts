import { areNames, csvRows, layoutOf } from '@rootmap/core';
import type { TextReading } from '@rootmap/core/contract';
import type { FoundDataset } from '../project/find-dataset.js';
import { platformBelow } from '../survey/platform.js';

const SAMPLES = 3;

/** How a table of text is read, with its first values as they stand; null: it is no such table. */
export function textReadingOf({ folder, dataset: { group, fields } }: FoundDataset): TextReading | null {
  if (group.format !== 'csv' || !fields) return null;
  const platform = platformBelow(folder);
  try {
    const source = platform.open(group.path);
    const layout = layoutOf(source);
    const rows: string[][] = [];
    let hasNames = false;
    let isFirst = true;
    for (const row of csvRows(source, layout, group.path)) {
      if (isFirst && areNames(row, fields)) hasNames = true;
      else rows.push(row);
      isFirst = false;
      if (rows.length === SAMPLES) break;
    }
    return {
      encoding: layout.encoding,
      isGuessed: layout.confidence < 1,
      delimiter: layout.delimiter,
      hasNames,
      columns: fields.map((f, i) => ({
        name: f.name,
        type: f.type,
        writtenAs: f.writtenAs ?? null,
        samples: rows.map((row) => (row[i] ?? '').slice(0, 80)),
      })),
    };
  } finally {
    platform.close();
  }
}
