import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { fieldsOf, labelText, readFeatures, testRecord, type Condition, type Value } from '@rootmap/core';
import type { LayerDrawing } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { readFileSync, renameSync, writeFileSync } from '../disk/files.js';
import { platformBelow } from '../survey/platform.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { conditionOf } from '../rows/filter-condition.js';
import type { ShapeStore } from './shape-store.js';

/** Class of a record that is not drawn. */
export const HIDDEN = 0xffff;
const MOST_CLASSES = 0xfff0;
const MOST_KEPT = 100_000;

interface ClassHead {
  /** Rules that each class is drawn by. */
  readonly classes: readonly (readonly number[])[];
  readonly counts: readonly number[];
  readonly hidden: number;
}

/** The class of each shape of a store, and its label. */
export interface ShapeClasses {
  readonly head: ClassHead;
  readonly of: Uint16Array;
  readonly labels: readonly string[] | null;
}

export const drawingName = (drawing: LayerDrawing): string =>
  createHash('sha256').update(JSON.stringify(drawing)).digest('hex').slice(0, 16);

/** Every shape is drawn in one way and has no label: there is nothing to be told apart. */
export const isPlain = (d: LayerDrawing): boolean =>
  d.filter.trim() === '' && d.label === null && d.raster === null && d.rules.every((r) => r.filter === null && !r.isElse);

export function readClasses(folder: string, name: string): ShapeClasses | null {
  const path = join(folder, `${name}.classes`);
  if (!existsSync(path)) return null;
  const head = JSON.parse(readFileSync(`${path}.json`, 'utf8')) as ClassHead & { labels: readonly string[] | null };
  const bytes = readFileSync(path);
  return { head, of: new Uint16Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength)), labels: head.labels };
}

/** Works the classes out in one pass over the values, and keeps them in `folder`. Throws where a filter is none. */
export function makeClasses(
  found: FoundDataset,
  store: ShapeStore,
  drawing: LayerDrawing,
  folder: string,
  onProgress: (done: number) => void,
): ShapeClasses {
  const sorter = new Sorter(drawing);
  const place = placesOf(store.ids);
  const of = new Uint16Array(store.head.count).fill(HIDDEN);
  const labels = drawing.label === null ? null : Array<string>(store.head.count).fill('');
  const platform = platformBelow(found.folder);
  let done = 0;
  try {
    const { fields, features } = readFeatures(found.dataset, platform, { geometry: false, values: true });
    sorter.begin(fields.map((f) => f.name));
    for (const { id, values } of features) {
      if ((++done & 4095) === 0) onProgress(done);
      const n = place(id);
      if (n < 0) continue;
      of[n] = sorter.classOf(values);
      if (labels && of[n] !== HIDDEN) labels[n] = labelText(drawing.label!, (f) => values[sorter.at(f)]);
    }
  } finally {
    platform.close();
  }
  const made: ShapeClasses = { head: sorter.head(of), of, labels };
  const path = join(folder, `${drawingName(drawing)}.classes`);
  writeFileSync(`${path}.json`, JSON.stringify({ ...made.head, labels }));
  writeFileSync(`${path}.part`, new Uint8Array(of.buffer));
  renameSync(`${path}.part`, path);
  return made;
}

/** Where a record's shape is in the store; -1: it has none. Ids that rise are walked along with the records. */
function placesOf(ids: Float64Array): (id: number) => number {
  let rises = true;
  for (let i = 1; i < ids.length && rises; i++) rises = ids[i]! > ids[i - 1]!;
  if (!rises) {
    const places = new Map<number, number>();
    ids.forEach((id, n) => places.set(id, n));
    return (id) => places.get(id) ?? -1;
  }
  let at = 0;
  return (id) => {
    if (at > 0 && ids[at - 1]! >= id) at = 0;
    while (at < ids.length && ids[at]! < id) at++;
    return ids[at] === id ? at++ : -1;
  };
}

/** Sorts records into classes: each class is a set of rules that draw it. */
class Sorter {
  private readonly filter: Condition | null;
  private readonly rules: readonly { readonly condition: Condition | null; readonly isElse: boolean }[];
  private readonly needed: readonly string[];
  private readonly classes: number[][] = [];
  private readonly byKey = new Map<string, number>();
  /** Classes of records by the values that decide: most records share theirs with others. */
  private readonly known = new Map<string, number>();
  private columns = new Map<string, number>();

  constructor(drawing: LayerDrawing) {
    this.filter = conditionOf(drawing.filter);
    this.rules = drawing.rules.map((r) => ({ condition: r.filter === null ? null : conditionOf(r.filter), isElse: r.isElse }));
    const conditions = [this.filter, ...this.rules.map((r) => r.condition)].filter((c) => c !== null);
    this.needed = [...new Set(conditions.flatMap(fieldsOf))];
  }

  begin(names: readonly string[]): void {
    this.columns = new Map(names.map((name, i) => [name, i]));
  }
  at(field: string): number {
    return this.columns.get(field) ?? -1;
  }

  classOf(values: readonly Value[]): number {
    const key = this.needed.map((f) => String(values[this.at(f)] ?? '\0')).join('\x01');
    const before = this.known.get(key);
    if (before !== undefined) return before;
    const valueOf = (field: string): Value | undefined => values[this.at(field)];
    const found = this.filter === null || testRecord(this.filter, valueOf) === true ? this.classOfRules(valueOf) : HIDDEN;
    if (this.known.size < MOST_KEPT) this.known.set(key, found);
    return found;
  }

  private classOfRules(valueOf: (field: string) => Value | undefined): number {
    const met = this.rules.flatMap((r, i) => (!r.isElse && (r.condition === null || testRecord(r.condition, valueOf) === true) ? [i] : []));
    const drawn = met.length > 0 ? met : this.rules.flatMap((r, i) => (r.isElse ? [i] : []));
    if (drawn.length === 0) return HIDDEN;
    const key = drawn.join(' ');
    const known = this.byKey.get(key);
    if (known !== undefined) return known;
    if (this.classes.length >= MOST_CLASSES) return HIDDEN;
    this.classes.push(drawn);
    this.byKey.set(key, this.classes.length - 1);
    return this.classes.length - 1;
  }

  head(of: Uint16Array): ClassHead {
    const byClass = new Float64Array(this.classes.length);
    let hidden = 0;
    for (const c of of) {
      if (c === HIDDEN) hidden++;
      else byClass[c]!++;
    }
    const counts = this.rules.map((_, rule) => this.classes.reduce((sum, rules, c) => sum + (rules.includes(rule) ? byClass[c]! : 0), 0));
    return { classes: this.classes, counts, hidden };
  }
}
