import type { Extent, Field } from '../dataset/dataset.js';
import type { Feature } from '../feature/feature.js';
import { isKeyName } from './key-fields.js';
import type { CheckExample } from './quality-check.js';
import { medianOf } from './robust.js';
import { Hash64 } from './same.js';
import { scaleBorne } from './scale.js';
import { ShapeTally } from './shape-tally.js';

const MOST_EXAMPLES = 20;
/** Places of each sort that are told, for a map. */
const MOST_PLACES = 2000;

/** One side of a comparison: its records, read again each time that they are asked for. */
export interface ComparedSide {
  readonly fields: readonly Field[];
  readonly records: () => Iterable<Pick<Feature, 'geometry' | 'values'>>;
  /** Metres of one unit of its CRS; null: degrees, or nobody knows. */
  readonly metres: number | null;
  readonly isDegrees: boolean;
}

/** What its shapes are, in all. */
interface SideMeasures {
  readonly records: number;
  readonly vertices: number;
  /** Median distance of corners in metres; null: there are none, or its units are not known. */
  readonly spacing: number | null;
  /** Denominator of the scale that this bears (Tobler 1987). */
  readonly scale: number | null;
  /** Null: it has no shapes. */
  readonly extent: Extent | null;
}

type Place = readonly [x: number, y: number];

export interface RecordComparison {
  /** Field that tells which record is which; null: records are told by shape and content, so none is changed. */
  readonly key: string | null;
  readonly same: number;
  readonly added: number;
  readonly removed: number;
  readonly changed: number;
  readonly fields: { readonly added: readonly string[]; readonly gone: readonly string[] };
  readonly before: SideMeasures;
  readonly after: SideMeasures;
  /** Records that are added or changed, by their position in the new one. */
  readonly examples: readonly CheckExample[];
  /** Where records are that became something else, up to 2,000 of each sort: those that are removed as they were. */
  readonly places: { readonly added: readonly Place[]; readonly removed: readonly Place[]; readonly changed: readonly Place[] };
}

/** What became of the records of one edition in another, by a key that both have, else by shape and content. */
export function compareRecords(before: ComparedSide, after: ComparedSide, wantedKey: string | null = null): RecordComparison {
  const common = before.fields.filter((f) => after.fields.some((a) => a.name === f.name)).map((f) => f.name);
  const key = wantedKey ?? common.find((name) => isKeyName(name) && isUnique(before, name) && isUnique(after, name)) ?? null;
  const measured = [new Measured(before), new Measured(after)] as const;
  const old = new Map<string, { content: string; count: number; readonly at: Place | null }>();
  const places = { added: [] as Place[], removed: [] as Place[], changed: [] as Place[] };
  const note = (list: Place[], at: Place | null): void => {
    if (at && list.length < MOST_PLACES) list.push(at);
  };
  const hash = new Hash64();
  const [ofOld, ofNew] = [positions(before, common), positions(after, common)];
  for (const record of before.records()) {
    const at = measured[0].add(record.geometry);
    const content = contentOf(hash, record, ofOld);
    const id = key === null ? content : keyOf(record, before, key);
    const known = old.get(id);
    if (known) known.count++;
    else old.set(id, { content, count: 1, at });
  }
  let [same, added, changed, position] = [0, 0, 0, 0];
  const examples: CheckExample[] = [];
  for (const record of after.records()) {
    position++;
    const at = measured[1].add(record.geometry);
    const content = contentOf(hash, record, ofNew);
    const id = key === null ? content : keyOf(record, after, key);
    const known = old.get(id);
    const what = !known || known.count === 0 ? 'added' : known.content === content ? null : 'changed';
    if (known && known.count > 0) known.count--;
    if (what === null) same++;
    else {
      if (what === 'added') added++;
      else changed++;
      note(places[what], at);
      if (examples.length < MOST_EXAMPLES) examples.push({ record: position, at, what: key === null ? what : `${what}: ${key} ${id}` });
    }
  }
  let removed = 0;
  for (const { count, at } of old.values()) {
    removed += count;
    if (count > 0) note(places.removed, at);
  }
  return {
    key,
    same,
    added,
    removed,
    changed,
    fields: {
      added: after.fields.map((f) => f.name).filter((name) => !common.includes(name)),
      gone: before.fields.map((f) => f.name).filter((name) => !common.includes(name)),
    },
    before: measured[0].told(),
    after: measured[1].told(),
    examples,
    places,
  };
}

function isUnique(side: ComparedSide, name: string): boolean {
  const at = side.fields.findIndex((f) => f.name === name);
  const seen = new Set<string>();
  for (const { values } of side.records()) {
    const value = values[at] ?? null;
    if (value === null || value === '' || seen.has(String(value))) return false;
    seen.add(String(value));
  }
  return seen.size > 0;
}

const positions = ({ fields }: ComparedSide, names: readonly string[]): number[] =>
  names.map((name) => fields.findIndex((f) => f.name === name));

const keyOf = ({ values }: Pick<Feature, 'values'>, { fields }: ComparedSide, key: string): string =>
  String(values[fields.findIndex((f) => f.name === key)] ?? '');

/** Shape and values of the fields that both have, as 64 bits. */
function contentOf(hash: Hash64, { geometry, values }: Pick<Feature, 'geometry' | 'values'>, at: readonly number[]): string {
  hash.reset();
  if (geometry) hash.bytes(geometry);
  for (const i of at) {
    const value = values[i] ?? null;
    hash.text(value === null ? '\u0000' : value instanceof Uint8Array ? `${value.length} bytes` : String(value));
  }
  return `${hash.high} ${hash.low}`;
}

class Measured {
  private records = 0;
  private extent: Extent | null = null;
  private readonly shapes: ShapeTally;
  private readonly isKnown: boolean;

  constructor({ metres, isDegrees }: ComparedSide) {
    this.shapes = new ShapeTally(isDegrees ? null : (metres ?? 1));
    this.isKnown = isDegrees || metres !== null;
  }

  /** Its first position; null: it has none. */
  add(geometry: Uint8Array | null): readonly [number, number] | null {
    this.records++;
    const measured = geometry && this.shapes.add(geometry);
    if (!measured || measured.isEmpty || measured.isOdd) return null;
    const [a, b] = [this.extent, measured.box];
    this.extent = a ? [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[2], b[2]), Math.max(a[3], b[3])] : [...b];
    return measured.at;
  }

  told(): SideMeasures {
    const spacing = this.isKnown ? medianOf(this.shapes.spacing.sorted()) : NaN;
    const isTold = spacing > 0;
    return {
      records: this.records,
      vertices: this.shapes.vertices,
      spacing: isTold ? spacing : null,
      scale: isTold ? scaleBorne(spacing) : null,
      extent: this.extent,
    };
  }
}
