import { ForwardReader } from '../../bytes/forward-reader.js';
import type { ByteSource } from '../../bytes/byte-source.js';
import type { DbfField, DbfHeader } from './read-dbf-header.js';

export type DbfValue = string | number | boolean | null;
const DELETED = 0x2a;

/** Rows in file order, marked-deleted ones left out; `index` is the record's position, from 0. Streams. */
export function* readDbfRows(source: ByteSource, header: DbfHeader): Generator<{ index: number; values: DbfValue[] }> {
  const reader = new ForwardReader(source);
  reader.skip(header.headerBytes);
  for (let index = 0; index < header.records && header.recordBytes > 0; index++) {
    const record = reader.take(header.recordBytes);
    if (record.byteLength < header.recordBytes) return;
    if (record.getUint8(0) === DELETED) continue;
    yield { index, values: header.fields.map((f) => readValue(record, f, header)) };
  }
}

function readValue(record: DataView, field: DbfField, header: DbfHeader): DbfValue {
  if (field.offset + field.lengthBytes > record.byteLength) return null;
  const bytes = new Uint8Array(record.buffer, record.byteOffset + field.offset, field.lengthBytes);
  if (field.code === 'I') return field.lengthBytes === 4 ? record.getInt32(field.offset, true) : null;
  const text = header.encoding.decode(bytes).replace(/\0[\s\S]*$/, '');
  switch (field.type) {
    case 'integer':
    case 'integer64':
    case 'real': {
      const trimmed = text.trim();
      const value = Number(trimmed);
      return trimmed === '' || /^\*+$/.test(trimmed) || Number.isNaN(value) ? null : value;
    }
    case 'boolean':
      return /^[TtYy]/.test(text) ? true : /^[FfNn]/.test(text) ? false : null;
    case 'date':
      return /^\d{8}$/.test(text) && text !== '00000000' ? `${text.slice(0, 4)}-${text.slice(4, 6)}-${text.slice(6, 8)}` : null;
    default: {
      const value = text.replace(/ +$/, '');
      return value === '' ? null : value;
    }
  }
}

/** How many of the stated records are marked deleted; the reader's bytes all pass by. */
export function countDeleted(reader: ForwardReader, header: DbfHeader): number {
  let deleted = 0;
  if (!reader.skip(header.headerBytes) || header.recordBytes === 0) return 0;
  for (let i = 0; i < header.records; i++) {
    const flag = reader.take(1);
    if (flag.byteLength === 0) break;
    if (flag.getUint8(0) === DELETED) deleted++;
    if (!reader.skip(header.recordBytes - 1)) break;
  }
  return deleted;
}
