import type { Field } from '../dataset/dataset.js';
import type { Value } from '../feature/feature.js';
import { histogramOf, type FieldProfile } from './profile.js';
import { SampledColumn } from './sampled-column.js';

/** Numbers that are held of a field. */
const MOST_NUMBERS = 1 << 20;
/** UTF-8 that was read as windows-1252 (Ã¼, â€™ and their like), and the sign for what could not be read. */
const DAMAGED = /\uFFFD|Ã[\u0080-\u00BF\u0152-\u0178\u2013-\u2122]|â€[\u0153\u2122\u201C\u201D\u0161\u00A6\u2013\u2014]|Â[\u00A0-\u00BF]/;
const NUMBER = /^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/;
/** Codes begin with zeros, or have more digits than numbers keep. */
const IS_CODE = /^0\d|^\d{16,}/;
const MOST_EXAMPLES = 20;

export interface FoundValue {
  /** From 1. */
  readonly record: number;
  readonly value: string;
}

/** Values that something is the matter with: how many, and the first of them. */
export class Found {
  count = 0;
  readonly first: FoundValue[] = [];
  add(record: number, value: string): void {
    this.count++;
    if (this.first.length < MOST_EXAMPLES) this.first.push({ record, value: value.slice(0, 80) });
  }
}

/** What comes by in one field. */
export class FieldTally {
  records = 0;
  /** Neither null nor an empty text. */
  filled = 0;
  readonly spaces = new Found();
  readonly damaged = new Found();
  readonly numbers: SampledColumn | null;
  private first: string | null = null;
  private isOne = true;
  /** Texts that are numbers, and are no codes. */
  private numerals = 0;

  /** Values that are not among the codes that are expected. */
  readonly strange = new Found();

  /** @param codes what may stand in it; null: anything */
  constructor(
    readonly field: Field,
    readonly codes: ReadonlySet<string> | null = null,
  ) {
    this.numbers = /^(integer|integer64|real)$/.test(field.type) ? new SampledColumn(MOST_NUMBERS) : null;
  }

  add(value: Value): void {
    this.records++;
    this.numbers?.add(typeof value === 'number' || typeof value === 'bigint' ? Number(value) : NaN);
    if (value === null || value === '' || value instanceof Uint8Array) {
      if (value instanceof Uint8Array) this.filled++;
      return;
    }
    this.filled++;
    const text = typeof value === 'string' ? value : String(value);
    if (this.first === null) this.first = text;
    else if (this.isOne && this.first !== text) this.isOne = false;
    if (this.codes && !this.codes.has(text)) this.strange.add(this.records, text);
    if (typeof value === 'string') this.look(value);
  }

  private look(text: string): void {
    const [start, end] = [text.charCodeAt(0), text.charCodeAt(text.length - 1)];
    if (start <= 32 || end <= 32 || start === 0xa0 || end === 0xa0) this.spaces.add(this.records, JSON.stringify(text));
    if (DAMAGED.test(text)) this.damaged.add(this.records, text);
    if (NUMBER.test(text) && !IS_CODE.test(text)) this.numerals++;
  }

  profile(): FieldProfile {
    const { name, type } = this.field;
    const histogram = this.numbers && histogramOf(this.numbers.sorted(), this.numbers.stride);
    return { name, type, filled: this.filled, of: this.records, histogram };
  }

  /** All that is there is the same, in more than one record. */
  get isConstant(): boolean {
    return this.isOne && this.filled > 1 && this.filled === this.records;
  }
  get only(): string {
    return this.first ?? '';
  }
  /** Every value is a number, and the field is text. */
  get isNumeral(): boolean {
    return this.field.type === 'text' && this.filled > 0 && this.numerals === this.filled;
  }
}
