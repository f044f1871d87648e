import type { Field } from '../dataset/dataset.js';
import type { Feature, Value } from '../feature/feature.js';
import { FieldTally, Found } from './field-tally.js';
import { isKeyName } from './key-fields.js';
import { checked, manyOf, type CheckCode, type CheckExample, type QualityCheck } from './quality-check.js';
import type { FieldProfile } from './profile.js';
import { farBounds, medianOf } from './robust.js';
import { Hash64, SeenBefore } from './same.js';
import { scaleBorne, scaleWords } from './scale.js';
import { ValidityTally, type Fault } from './validity-tally.js';
import { ShapeTally } from './shape-tally.js';

/** What of a dataset is known before its records are read. */
export interface VectorSubject {
  readonly fields: readonly Field[];
  readonly hasShapes: boolean;
  /** Metres of one unit of its CRS; null: degrees, or nobody knows. */
  readonly metres: number | null;
  /** Whether its coordinates are in degrees. */
  readonly isDegrees: boolean;
  /** Whether a box of its coordinates lies in the area that its CRS is meant for; null: that cannot be told. */
  readonly isInArea: ((box: readonly [number, number, number, number]) => boolean) | null;
  /** Whether a shape reaches into the area that the project is about; null: the project names none. */
  readonly isInInterest: ((wkb: Uint8Array, box: readonly [number, number, number, number]) => boolean) | null;
  /** Values that may stand in fields, by the field's name. */
  readonly codes: ReadonlyMap<string, ReadonlySet<string>>;
  /** What breaks the rules of simple features in a shape; null: nothing. */
  readonly faultOf: (wkb: Uint8Array) => Fault | null;
}

/** Below this share of values a field is mostly empty (common practice, no source). */
const SPARSE = 0.1;
/** An area is a sliver that is thinner and smaller than this share of the median (common practice, no source). */
const THIN = 0.1;
const SMALL = 0.1;
const MOST_EXAMPLES = 20;

class Places {
  count = 0;
  readonly first: CheckExample[] = [];
  add(record: number, at: readonly [number, number] | null, what: string): void {
    this.count++;
    if (this.first.length < MOST_EXAMPLES) this.first.push({ record, at, what });
  }
}

/** Every check of records and shapes, in one pass. Feed it each record, then ask for the checks. */
export class VectorChecks {
  private records = 0;
  private readonly fields: readonly FieldTally[];
  private readonly shapes: ShapeTally;
  private readonly empty = new Places();
  private readonly odd = new Places();
  private readonly sameShape = new Places();
  private readonly sameRecord = new Places();
  private readonly outside = new Places();
  private readonly beyond = new Places();
  private readonly validity = new ValidityTally();
  private readonly keys: readonly { readonly index: number; readonly seen: SeenBefore; readonly twice: Found }[];
  private readonly seenShapes = new SeenBefore();
  private readonly seenRecords = new SeenBefore();
  private readonly hash = new Hash64();
  /** Where shapes are, for examples: of each that is held by the tally. */
  private readonly places: (readonly [number, number] | null)[] = [];

  constructor(private readonly subject: VectorSubject) {
    this.fields = subject.fields.map((f) => new FieldTally(f, subject.codes.get(f.name) ?? null));
    this.shapes = new ShapeTally(subject.isDegrees ? null : (subject.metres ?? 1));
    this.keys = subject.fields.flatMap((f, index) => (isKeyName(f.name) ? [{ index, seen: new SeenBefore(), twice: new Found() }] : []));
  }

  add({ geometry, values }: Pick<Feature, 'geometry' | 'values'>): void {
    const record = ++this.records;
    this.fields.forEach((tally, i) => tally.add(values[i] ?? null));
    for (const { index, seen, twice } of this.keys) {
      const value = values[index] ?? null;
      if (value !== null && value !== '' && seen.again(this.hash.reset().text(String(value)))) twice.add(record, String(value));
    }
    const at = this.subject.hasShapes ? this.shape(record, geometry) : null;
    const hash = this.hash.reset();
    if (geometry) hash.bytes(geometry);
    // A key of its own makes no other record of it.
    values.forEach((v, i) => !isKeyName(this.subject.fields[i]?.name ?? '') && hash.text(textOf(v)));
    if (this.seenRecords.again(hash)) this.sameRecord.add(record, at, 'as one before it');
  }

  private shape(record: number, geometry: Uint8Array | null): readonly [number, number] | null {
    const measured = geometry && this.shapes.add(geometry);
    if (!measured) this.shapes.addNone();
    if (this.places.length < MOST_PLACES) this.places.push(measured?.at ?? null);
    if (!geometry || !measured || measured.isEmpty) {
      this.empty.add(record, null, 'no shape');
      return null;
    }
    const { at, isOdd, box } = measured;
    if (isOdd) this.odd.add(record, at, 'a coordinate that is no number');
    if (this.seenShapes.again(this.hash.reset().bytes(geometry))) this.sameShape.add(record, at, 'as one before it');
    const fault = isOdd ? null : this.subject.faultOf(geometry);
    if (fault) this.validity.add(record, fault, at);
    if (!isOdd && this.subject.isInArea?.(box) === false) this.outside.add(record, at, 'outside');
    if (!isOdd && this.subject.isInInterest?.(geometry, box) === false) this.beyond.add(record, at, 'outside');
    return at;
  }

  checks(): QualityCheck[] {
    return [
      checked('records', this.records === 0 ? 'fail' : 'pass', [0, this.records], `It has ${manyOf(this.records, 'record')}.`),
      ...(this.subject.hasShapes && this.records > 0 ? this.shapeChecks() : []),
      this.told('same-record', this.sameRecord, 'note', [
        'No record is as another, keys aside.',
        (n) => `${manyOf(n, 'record')} ${n === 1 ? 'is' : 'are'} as one before, keys aside.`,
      ]),
      ...this.keyChecks(),
      ...this.fieldChecks(),
    ];
  }

  /** What stands in each field. */
  profiles(): FieldProfile[] {
    return this.fields.map((t) => t.profile());
  }

  private told(
    code: CheckCode,
    { count, first }: Places,
    found: 'note' | 'fail',
    [none, some]: readonly [string, (count: number) => string],
  ): QualityCheck {
    return checked(code, count === 0 ? 'pass' : found, [count, this.records], count === 0 ? none : some(count), first);
  }

  private shapeChecks(): QualityCheck[] {
    return [
      this.told('empty-shapes', this.empty, 'note', [
        'Every record has a shape.',
        (n) => `${manyOf(n, 'record')} ${n === 1 ? 'has' : 'have'} no shape.`,
      ]),
      this.told('no-number', this.odd, 'fail', [
        'Every coordinate is a number.',
        (n) => `${manyOf(n, 'shape')} ${n === 1 ? 'has' : 'have'} coordinates that are no numbers.`,
      ]),
      this.told('same-shape', this.sameShape, 'note', [
        'No shape is there twice.',
        (n) => `${manyOf(n, 'shape')} ${n === 1 ? 'was' : 'were'} there before, corner by corner.`,
      ]),
      this.validity.check(this.records),
      ...(this.subject.isInArea
        ? [
            this.told('outside-crs', this.outside, 'note', [
              'Every shape lies in the area that its CRS is meant for.',
              (n) => `${manyOf(n, 'shape')} ${n === 1 ? 'lies' : 'lie'} outside the area that its CRS is meant for.`,
            ]),
          ]
        : []),
      ...(this.subject.isInInterest
        ? [
            this.told('outside-area', this.beyond, 'note', [
              'Every shape reaches into the area that the project is about.',
              (n) => `${manyOf(n, 'shape')} ${n === 1 ? 'lies' : 'lie'} outside the area that the project is about.`,
            ]),
          ]
        : []),
      ...this.sliverCheck(),
      ...this.scaleCheck(),
    ];
  }

  private sliverCheck(): QualityCheck[] {
    const areas = this.shapes.areas.sorted();
    if (areas.length === 0) return [];
    const small = medianOf(areas) * SMALL;
    const [held, thin] = [this.shapes.areas.held(), this.shapes.thinness.held()];
    const found = new Places();
    for (let i = 0; i < held.length; i++)
      if (thin[i]! < THIN && held[i]! < small)
        found.add(this.shapes.areas.recordOf(i), this.places[i * this.shapes.areas.stride] ?? null, `thinness ${thin[i]!.toPrecision(2)}`);
    const detail =
      found.count === 0
        ? 'No area is thin (4πA/P² below 0.1) and smaller than a tenth of the median.'
        : `${manyOf(found.count, 'area')} ${found.count === 1 ? 'is' : 'are'} thin (4πA/P² below 0.1) and smaller than a tenth of the median${this.sampled(this.shapes.areas.stride)}.`;
    return [checked('slivers', found.count === 0 ? 'pass' : 'note', [found.count, areas.length], detail, found.first)];
  }

  private readonly sampled = (stride: number): string => (stride === 1 ? '' : `, of every ${stride}th that was held`);

  /** Denominator of the scale that the distance of its corners bears; null: it has none, or their unit is not known. */
  get scaleBorne(): number | null {
    const metres = this.spacingMetres();
    return metres === null ? null : scaleBorne(metres);
  }

  private spacingMetres(): number | null {
    const median = medianOf(this.shapes.spacing.sorted());
    return !(median > 0) || (!this.subject.isDegrees && this.subject.metres === null) ? null : median;
  }

  private scaleCheck(): QualityCheck[] {
    const median = this.spacingMetres();
    if (median === null) return [];
    const spacing = `${Number(median.toPrecision(3))} m`;
    return [
      checked(
        'scale',
        'pass',
        [0, this.records],
        `Its corners are ${spacing} apart (median), which bears about ${scaleWords(scaleBorne(median))} (Tobler 1987). How it was digitised may bear less.`,
      ),
    ];
  }

  private keyChecks(): QualityCheck[] {
    // Where most values are there before, they name something else than the record.
    const keys = this.keys.filter(({ twice }) => twice.count * 2 <= this.records);
    return keys.map(({ index, twice }) => {
      const { name } = this.subject.fields[index]!;
      const detail =
        twice.count === 0
          ? `No value of ${name} is there twice.`
          : `${manyOf(twice.count, 'value')} of ${name} ${twice.count === 1 ? 'was' : 'were'} there before.`;
      const examples = twice.first.map((f) => ({ record: f.record, at: null, what: f.value }));
      return checked('same-key', twice.count === 0 ? 'pass' : 'note', [twice.count, this.records], detail, examples);
    });
  }

  private fieldChecks(): QualityCheck[] {
    if (this.records === 0 || this.fields.length === 0) return [];
    const named = (
      code: CheckCode,
      which: (t: FieldTally) => boolean,
      found: 'note' | 'fail',
      [none, some]: readonly [string, string],
      what: (t: FieldTally) => string = () => '',
    ): QualityCheck => {
      const those = this.fields.filter(which);
      const detail = those.length === 0 ? none : `${some}: ${those.map((t) => t.field.name + what(t)).join(', ')}.`;
      return checked(code, those.length === 0 ? 'pass' : found, [those.length, this.fields.length], detail);
    };
    const share = (t: FieldTally): string => ` (${Math.round((100 * t.filled) / t.records)} % filled)`;
    return [
      named('empty-fields', (t) => t.filled === 0, 'note', ['Every field has values.', 'No record has a value of']),
      named(
        'sparse-fields',
        (t) => t.filled > 0 && t.filled < t.records * SPARSE,
        'note',
        ['No field is mostly empty.', 'Mostly empty'],
        share,
      ),
      named(
        'constant-fields',
        (t) => t.isConstant,
        'note',
        ['No field has one value only.', 'The same in every record'],
        (t) => ` (${t.only.slice(0, 40)})`,
      ),
      named('type-misfit', (t) => t.isNumeral, 'note', ['No text field holds numbers only.', 'Text that is numbers throughout']),
      this.outlierCheck(),
      ...(this.subject.codes.size > 0
        ? [this.valueCheck('codes', (t) => t.strange, 'fail', 'are not among the codes that are expected')]
        : []),
      this.valueCheck('stray-spaces', (t) => t.spaces, 'note', 'begin or end with a space'),
      this.valueCheck('encoding', (t) => t.damaged, 'fail', 'have letters that were read in the wrong encoding'),
    ];
  }

  private valueCheck(code: CheckCode, of: (t: FieldTally) => Found, found: 'note' | 'fail', what: string): QualityCheck {
    const those = this.fields.filter((t) => of(t).count > 0);
    const count = those.reduce((sum, t) => sum + of(t).count, 0);
    const detail =
      count === 0
        ? `No values ${what}.`
        : `${manyOf(count, 'value')} ${what}: ${those.map((t) => `${t.field.name} (${of(t).count})`).join(', ')}.`;
    const examples = those.flatMap((t) => of(t).first.map((f) => ({ record: f.record, at: null, what: `${t.field.name}: ${f.value}` })));
    return checked(code, count === 0 ? 'pass' : found, [count, this.records * this.fields.length], detail, examples);
  }

  private outlierCheck(): QualityCheck {
    const examples: CheckExample[] = [];
    const told: string[] = [];
    let [count, of] = [0, 0];
    for (const { field, numbers } of this.fields) {
      if (!numbers || isKeyName(field.name)) continue;
      const sorted = numbers.sorted();
      of += sorted.length;
      const bounds = farBounds(sorted);
      if (!bounds) continue;
      let far = 0;
      numbers.held().forEach((v, i) => {
        if (!(v < bounds.low || v > bounds.high)) return;
        far++;
        if (examples.length < MOST_EXAMPLES)
          examples.push({
            record: numbers.recordOf(i),
            at: null,
            what: `${field.name}: ${v}, median ${Number(bounds.median.toPrecision(6))}`,
          });
      });
      if (far > 0) told.push(`${field.name} (${far}${this.sampled(numbers.stride)})`);
      count += far;
    }
    const detail =
      count === 0
        ? 'No number is far from the others (3.5 by median and MAD).'
        : `${manyOf(count, 'number')} ${count === 1 ? 'is' : 'are'} far from the others (3.5 by median and MAD): ${told.join(', ')}.`;
    return checked('outliers', count === 0 ? 'pass' : 'note', [count, of], detail, examples);
  }
}

/** Positions that are kept for examples. */
const MOST_PLACES = 1 << 20;

function textOf(value: Value): string {
  return value === null ? '\u0000' : value instanceof Uint8Array ? `${value.length} bytes` : String(value);
}
