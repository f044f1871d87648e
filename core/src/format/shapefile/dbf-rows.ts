import { ForwardReader } from '../../bytes/forward-reader.js';
import type { ByteSource } from '../../bytes/byte-source.js';
import type { Value, Wanted } from '../../feature/feature.js';
import { fieldsOf, type Condition } from '../../filter/expression.js';
import { testRecord } from '../../filter/test-record.js';
import type { DbfField, DbfHeader } from './read-dbf-header.js';

const DELETED = 0x2a;

/** A row that does not meet the hint: only the fields that it names were decoded. */
export const UNMET = 'unmet';

/**
 * Rows of a dBASE table in the order of the file; null for one that is marked as deleted. `withValues` false: empty rows.
 * @param hint rows that do not meet it are told as such
 */
export function* dbfRows(
  source: ByteSource,
  header: DbfHeader,
  withValues = true,
  range?: Wanted['range'],
  hint?: Condition,
): Generator<readonly Value[] | null | typeof UNMET> {
  const reader = new ForwardReader(source);
  const first = range?.from ?? 0;
  const records = Math.min(header.records, range?.to ?? Infinity);
  if (header.recordBytes < 1 || !reader.skip(header.headerBytes + first * header.recordBytes)) return;
  const none: readonly Value[] = [];
  const { fields } = header;
  const test = hint && withValues ? hintTest(hint, fields) : null;
  for (let n = first; n < records && reader.holds(header.recordBytes); n++) {
    const { view, offset } = reader;
    if (view.getUint8(offset) === DELETED) yield null;
    else if (!withValues) yield none;
    else {
      const bytes = new Uint8Array(view.buffer, view.byteOffset + offset, header.recordBytes);
      const text = latin1.decode(bytes); // one text for all fields: ASCII is cut out of it, letter for byte
      const values = new Array<Value>(fields.length);
      if (test) for (const i of test.named) values[i] = valueOf(bytes, text, fields[i]!, header);
      if (test && !test.meets(values)) yield UNMET;
      else {
        for (let i = 0; i < fields.length; i++) if (!test?.isNamed[i]) values[i] = valueOf(bytes, text, fields[i]!, header);
        yield values;
      }
    }
    reader.pass(header.recordBytes);
  }
}

/** Which fields a hint names, by their places, and whether the values there meet it. */
function hintTest(hint: Condition, fields: readonly DbfField[]) {
  const places = new Map(fields.map((f, i) => [f.name, i]));
  const named = fieldsOf(hint).flatMap((name) => places.get(name) ?? []);
  let values: readonly Value[] = [];
  const valueAt = (name: string): Value | undefined => values[places.get(name) ?? -1];
  return {
    named,
    isNamed: fields.map((_, i) => named.includes(i)),
    meets: (of: readonly Value[]): boolean => {
      values = of;
      return testRecord(hint, valueAt) === true;
    },
  };
}

const latin1 = new TextDecoder('latin1');

function valueOf(record: Uint8Array, text: string, field: DbfField, header: DbfHeader): Value {
  const from = field.offset;
  const to = Math.min(record.length, from + field.lengthBytes);
  switch (field.code) {
    case 'N':
    case 'F':
      return decimal(record, from, to) ?? numberOf(text.slice(from, to).trim(), field);
    case 'D': {
      const day = text.slice(from, to).trim();
      return /^\d{8}$/.test(day) && day !== '00000000' ? `${day.slice(0, 4)}-${day.slice(4, 6)}-${day.slice(6)}` : null;
    }
    case 'L':
      return /^[TtYy]$/.test(text.slice(from, to)) ? true : /^[FfNn]$/.test(text.slice(from, to)) ? false : null;
    case 'I':
    case '+':
      return to - from < 4 ? null : new DataView(record.buffer, record.byteOffset + from, 4).getInt32(0, true);
    case 'O':
    case 'B':
      return to - from < 8 ? null : new DataView(record.buffer, record.byteOffset + from, 8).getFloat64(0, true);
    default:
      return textOf(record, text, from, to, header);
  }
}

function numberOf(text: string, field: DbfField): Value {
  if (text === '' || text.startsWith('*')) return null; // stars stand for what did not fit
  const value = Number(text);
  if (Number.isNaN(value)) return null;
  return field.decimals === 0 && !Number.isSafeInteger(value) && /^[-+]?\d+$/.test(text) ? BigInt(text) : value;
}

/** Text ends before its padding; bytes beyond ASCII go through the table's encoding. */
function textOf(record: Uint8Array, text: string, from: number, to: number, header: DbfHeader): Value {
  let end = to;
  while (end > from && (record[end - 1] === 0x20 || record[end - 1] === 0)) end--;
  if (end <= from) return null;
  for (let i = from; i < end; i++) if (record[i]! >= 0x80) return header.encoding.decode(record.subarray(from, end));
  return text.slice(from, end);
}

/** Digits of a whole that a double holds exactly; a power of ten up to 22 is exact too, so that one division rounds rightly. */
const MOST_DIGITS = 15;

/** A number that is written plainly, right-aligned, without making a text of it; null: it is written otherwise, or there is none. */
function decimal(bytes: Uint8Array, from: number, to: number): number | null {
  let i = from;
  while (i < to && bytes[i] === 0x20) i++;
  const isNegative = bytes[i] === 0x2d;
  if (isNegative) i++;
  let whole = 0;
  let digits = 0;
  let behind = -1;
  for (; i < to; i++) {
    const b = bytes[i]!;
    if (b === 0x2e && behind < 0) behind = 0;
    else if (b >= 0x30 && b <= 0x39) {
      whole = whole * 10 + (b - 0x30);
      digits++;
      if (behind >= 0) behind++;
    } else return null;
  }
  if (digits === 0 || digits > MOST_DIGITS) return null;
  const value = behind > 0 ? whole / 10 ** behind : whole;
  return isNegative ? -value : value;
}
