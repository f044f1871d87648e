import { ForwardReader } from '../../bytes/forward-reader.js';
import type { ByteSource } from '../../bytes/byte-source.js';
import type { Value } from '../../feature/feature.js';
import type { DbfField, DbfHeader } from './read-dbf-header.js';

const DELETED = 0x2a;

/** Rows of a dBASE table in the order of the file; null for one that is marked as deleted. `withValues` false: empty rows. */
export function* dbfRows(source: ByteSource, header: DbfHeader, withValues = true): Generator<readonly Value[] | null> {
  const reader = new ForwardReader(source);
  if (header.recordBytes < 1 || !reader.skip(header.headerBytes)) return;
  const none: readonly Value[] = [];
  for (let n = 0; n < header.records && reader.holds(header.recordBytes); n++) {
    const { view, offset } = reader;
    if (view.getUint8(offset) === DELETED) yield null;
    else if (!withValues) yield none;
    else {
      const bytes = new Uint8Array(view.buffer, view.byteOffset + offset, header.recordBytes);
      yield header.fields.map((f) => valueOf(bytes, f, header));
    }
    reader.pass(header.recordBytes);
  }
}

function valueOf(record: Uint8Array, field: DbfField, header: DbfHeader): Value {
  const bytes = record.subarray(field.offset, field.offset + field.lengthBytes);
  switch (field.code) {
    case 'N':
    case 'F':
      return decimal(bytes) ?? numberOf(ascii(bytes).trim(), field);
    case 'D': {
      const text = ascii(bytes).trim();
      return /^\d{8}$/.test(text) && text !== '00000000' ? `${text.slice(0, 4)}-${text.slice(4, 6)}-${text.slice(6)}` : null;
    }
    case 'L':
      return /^[TtYy]$/.test(ascii(bytes)) ? true : /^[FfNn]$/.test(ascii(bytes)) ? false : null;
    case 'I':
    case '+':
      return bytes.length < 4 ? null : new DataView(bytes.buffer, bytes.byteOffset, 4).getInt32(0, true);
    case 'O':
    case 'B':
      return bytes.length < 8 ? null : new DataView(bytes.buffer, bytes.byteOffset, 8).getFloat64(0, true);
    default:
      return textOf(bytes, header);
  }
}

function numberOf(text: string, field: DbfField): Value {
  if (text === '' || text.startsWith('*')) return null; // stars stand for what did not fit
  const value = Number(text);
  if (Number.isNaN(value)) return null;
  return field.decimals === 0 && !Number.isSafeInteger(value) && /^[-+]?\d+$/.test(text) ? BigInt(text) : value;
}

/** Text ends before its padding; bytes beyond ASCII go through the table's encoding. */
function textOf(bytes: Uint8Array, header: DbfHeader): Value {
  let end = bytes.length;
  while (end > 0 && (bytes[end - 1] === 0x20 || bytes[end - 1] === 0)) end--;
  if (end === 0) return null;
  for (let i = 0; i < end; i++) if (bytes[i]! >= 0x80) return header.encoding.decode(bytes.subarray(0, end));
  return ascii(bytes.subarray(0, end));
}

/** Short, so that it is quicker than a decoder for the many short values of a table. */
function ascii(bytes: Uint8Array): string {
  if (bytes.length > 64) return new TextDecoder('latin1').decode(bytes);
  let text = '';
  for (let i = 0; i < bytes.length; i++) text += String.fromCharCode(bytes[i]!);
  return text;
}

/** Digits of a whole that a double holds exactly; a power of ten up to 22 is exact too, so that one division rounds rightly. */
const MOST_DIGITS = 15;

/** A number that is written plainly, right-aligned, without making a text of it; null: it is written otherwise, or there is none. */
function decimal(bytes: Uint8Array): number | null {
  let i = 0;
  while (i < bytes.length && bytes[i] === 0x20) i++;
  const isNegative = bytes[i] === 0x2d;
  if (isNegative) i++;
  let whole = 0;
  let digits = 0;
  let behind = -1;
  for (; i < bytes.length; i++) {
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
