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
      return numberOf(ascii(bytes).trim(), field);
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

function ascii(bytes: Uint8Array): string {
  return bytes.length < 256 ? String.fromCharCode(...bytes) : new TextDecoder('latin1').decode(bytes);
}
