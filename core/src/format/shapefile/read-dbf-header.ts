import type { Field, FieldType } from '../../dataset/dataset.js';
import { done, fail, type Result } from '../../problem.js';
import { encodingOfLdid, guessing, type TextEncoding } from './encoding.js';

export const DBF_HEADER_BYTES = 32;
const DESCRIPTOR_BYTES = 32;
export const END_OF_FIELDS = 0x0d;
const LITTLE = true;
/** 255 descriptors and the terminator: more is not read. */
export const DBF_LONGEST_HEADER_BYTES = 65535;
const MOST_FIELDS = 2047;
/** The low three bits are the version (2 to 5), the others flags for memo and SQL tables; a few writers have numbers of their own. */
const isVersion = (byte: number): boolean => ((byte & 7) >= 2 && (byte & 7) <= 5) || byte === 0x30 || byte === 0x31 || byte === 0x8e;

export interface DbfField extends Field {
  /** C, N, F, D, L, M … as in the file. */
  readonly code: string;
  /** Offset in the record, the deletion flag counted as byte 0. */
  readonly offset: number;
  readonly lengthBytes: number;
  readonly decimals: number;
}

export interface DbfHeader {
  readonly records: number;
  readonly headerBytes: number;
  readonly recordBytes: number;
  readonly ldid: number;
  readonly encoding: TextEncoding;
  readonly fields: readonly DbfField[];
}

/**
 * dBASE table header. `view` starts at byte 0 and holds the whole header where the file has it (`headerBytes`).
 * `encoding` overrides the header's own hint (a `.cpg` goes before the LDID). Never throws.
 */
export function readDbfHeader(file: string, view: DataView, encoding: TextEncoding | null = null): Result<DbfHeader> {
  if (view.byteLength < DBF_HEADER_BYTES)
    return fail({ code: 'truncated', file, neededBytes: DBF_HEADER_BYTES, gotBytes: view.byteLength });
  const version = view.getUint8(0);
  if (!isVersion(version))
    return fail({ code: 'bad-field', file, field: 'the version', offset: 0, expected: 'a dBASE version', found: version });
  const headerBytes = view.getUint16(8, LITTLE);
  const recordBytes = view.getUint16(10, LITTLE);
  if (headerBytes < DBF_HEADER_BYTES + 1)
    return fail({ code: 'bad-field', file, field: 'the header length', offset: 8, expected: '33 or more', found: headerBytes });
  if (view.byteLength < headerBytes) return fail({ code: 'truncated', file, neededBytes: headerBytes, gotBytes: view.byteLength });
  const ldid = view.getUint8(29);
  const used = encoding ?? encodingOfLdid(ldid) ?? guessing;
  const fields: DbfField[] = [];
  let offset = 1; // byte 0 of a record is the deletion flag
  for (let at = DBF_HEADER_BYTES; at + DESCRIPTOR_BYTES <= headerBytes && fields.length < MOST_FIELDS; at += DESCRIPTOR_BYTES) {
    if (view.getUint8(at) === END_OF_FIELDS) break;
    const field = readDescriptor(view, at, offset, used);
    fields.push(field);
    offset += field.lengthBytes;
  }
  return done({ records: view.getUint32(4, LITTLE), headerBytes, recordBytes, ldid, encoding: used, fields });
}

function readDescriptor(view: DataView, at: number, offset: number, encoding: TextEncoding): DbfField {
  const slot = new Uint8Array(view.buffer, view.byteOffset + at, 11); // some writers fill all 11 bytes
  const end = slot.indexOf(0);
  const name = encoding.decode(end < 0 ? slot : slot.subarray(0, end)).trim();
  const code = String.fromCharCode(view.getUint8(at + 11));
  let lengthBytes = view.getUint8(at + 16);
  let decimals = view.getUint8(at + 17);
  if (code === 'C' && decimals > 0) {
    lengthBytes += decimals * 256; // long character fields keep their high byte in the decimals (common practice)
    decimals = 0;
  }
  return { name, code, offset, lengthBytes, decimals, type: fieldType(code, lengthBytes, decimals) };
}

function fieldType(code: string, lengthBytes: number, decimals: number): FieldType {
  switch (code) {
    case 'N':
    case 'F':
      if (decimals > 0 || lengthBytes > 18) return 'real';
      return lengthBytes < 10 ? 'integer' : 'integer64';
    case 'D':
      return 'date';
    case 'L':
      return 'boolean';
    case 'I':
    case '+':
      return 'integer';
    case 'O':
    case 'B':
    case 'Y':
      return 'real';
    case 'T':
    case '@':
      return 'datetime';
    case 'G':
    case 'P':
      return 'binary';
    default:
      return 'text';
  }
}
