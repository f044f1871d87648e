import { readFeatures, readTableForRows, type Field, type Value } from '@rootmap/core';
import type { FieldStatistics, StatisticsView } from '@rootmap/core/contract';
import { platformBelow } from '../survey/platform.js';
import type { FoundDataset } from '../project/find-dataset.js';

const MOST_DISTINCT = 1000;
const SAMPLES = 4;
const LONGEST_SAMPLE = 60;

/** What stands in the fields of a dataset: filled, distinct, range and mean of numbers, the most frequent values. One pass. */
export function fieldStatistics({ folder, dataset }: FoundDataset, onProgress: (done: number) => void): StatisticsView {
  const platform = platformBelow(folder);
  try {
    const { fields, features } = readFeatures(dataset, platform, { geometry: false, values: true });
    const tallies = fields.map((f) => new Tally(f));
    let records = 0;
    for (const { values } of features) {
      tallies.forEach((tally, i) => tally.add(values[i] ?? null));
      if ((++records & 4095) === 0) onProgress(records);
    }
    const table =
      dataset.group.format === 'dbf' ? dataset.group.path : dataset.group.format === 'shapefile' ? dbfOf(dataset.group.companions) : null;
    const encoding = table ? (readTableForRows(table, dataset.group, (path) => platform.open(path))?.encoding ?? null) : null;
    return { records, fields: tallies.map((t) => t.view()), encoding };
  } finally {
    platform.close();
  }
}

const dbfOf = (companions: readonly { readonly path: string }[]): string | null =>
  companions.find((c) => /\.dbf$/i.test(c.path))?.path ?? null;

class Tally {
  private filled = 0;
  private least: number | null = null;
  private most: number | null = null;
  private sum = 0;
  private numbers = 0;
  private counts: Map<string, number> | null = new Map();
  private readonly first: string[] = [];

  constructor(private readonly field: Field) {}

  add(value: Value): void {
    if (value === null || value === '') return;
    this.filled++;
    if (typeof value === 'number' || typeof value === 'bigint') {
      const n = Number(value);
      this.least = this.least === null || n < this.least ? n : this.least;
      this.most = this.most === null || n > this.most ? n : this.most;
      this.sum += n;
      this.numbers++;
    }
    const text = value instanceof Uint8Array ? `${value.length} bytes` : String(value);
    if (this.first.length < SAMPLES && !this.first.includes(text)) this.first.push(text);
    if (this.counts) {
      this.counts.set(text, (this.counts.get(text) ?? 0) + 1);
      if (this.counts.size > MOST_DISTINCT) this.counts = null;
    }
  }

  view(): FieldStatistics {
    const frequent = this.counts && [...this.counts].filter(([, n]) => n > 1).sort((a, b) => b[1] - a[1]);
    const samples = frequent && frequent.length > 0 ? frequent.slice(0, SAMPLES).map(([text]) => text) : this.first;
    return {
      name: this.field.name,
      type: this.field.type,
      filled: this.filled,
      distinct: this.counts?.size ?? null,
      min: this.least,
      max: this.most,
      mean: this.numbers > 0 ? this.sum / this.numbers : null,
      samples: samples.map((s) => (s.length > LONGEST_SAMPLE ? `${s.slice(0, LONGEST_SAMPLE)}…` : s)),
    };
  }
}
