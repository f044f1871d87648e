import { ByteBuffer } from 'flatbuffers';
import { Header } from 'flatgeobuf/lib/mjs/flat-geobuf/header.js';
import { crsOfCode } from '../../crs/identify.js';
import type { CrsTable } from '../../crs/crs-table.js';
import type { ByteSource } from '../../bytes/byte-source.js';
import { KINDS } from '../../geometry/read-wkb.js';
import { emptyDescription, unreadable, type Crs, type Description, type Field, type FileGroup } from '../../dataset/dataset.js';

/** "fgb", major version 3, "fgb", any patch (flatgeobuf.org, file format). */
const MAGIC = [0x66, 0x67, 0x62, 0x03, 0x66, 0x67, 0x62];
const LONGEST_HEADER = 64 << 20;
/** `ColumnType` of the schema, in its order. */
const TYPES: readonly Field['type'][] = [
  'integer',
  'integer',
  'boolean',
  'integer',
  'integer',
  'integer',
  'integer64',
  'integer64',
  'integer64',
  'real',
  'real',
  'text',
  'json',
  'datetime',
  'binary',
];

/** Everything that is told of a FlatGeobuf stands in its header; no feature is read. */
export function describeFlatGeobuf(group: FileGroup, open: (path: string) => ByteSource, table: CrsTable): Description {
  const source = open(group.path);
  const bad = (why: string): Description => unreadable('vector', `${group.path} cannot be read as FlatGeobuf: ${why}.`);
  const start = source.read(0, 12);
  if (start.length < 12 || !MAGIC.every((byte, i) => start[i] === byte)) return bad('it begins otherwise');
  const size = new DataView(start.buffer, start.byteOffset, 12).getUint32(8, true);
  if (size > LONGEST_HEADER || size < 8) return bad(`its header claims ${size} bytes`);
  const bytes = source.read(8, 4 + size);
  if (bytes.length < 4 + size) return bad('it ends inside its header');
  try {
    const header = Header.getSizePrefixedRootAsHeader(prefixed(bytes));
    // The library believes what it reads; a column takes four bytes of the header at least.
    if (header.columnsLength() > size / 4 || header.envelopeLength() > size / 8) return bad('its header is damaged');
    return fromHeader(header, table);
  } catch {
    return bad('its header is damaged'); // an offset that leads out of it
  }
}

/** Numbers are aligned as from the size in front of them, so it has to come along, at the start of a buffer of its own. */
export const prefixed = (bytes: Uint8Array): ByteBuffer => new ByteBuffer(bytes.slice());

function fromHeader(h: Header, table: CrsTable): Description {
  const type = KINDS[h.geometryType()] ?? 'Geometry';
  const envelope = h.envelopeArray();
  const count = Number(h.featuresCount());
  return {
    ...emptyDescription('vector'),
    geometryType: type + (h.hasZ() ? 'Z' : '') + (h.hasM() ? 'M' : ''),
    featureCount: count === 0 && !envelope ? null : count, // a stream does not know its count
    fields: fieldsOf(h),
    crs: crsOf(h, table),
    bbox: envelope && envelope.length >= 4 ? [envelope[0]!, envelope[1]!, envelope[2]!, envelope[3]!] : null,
  };
}

function fieldsOf(h: Header): Field[] {
  return Array.from({ length: h.columnsLength() }, (_, i) => {
    const column = h.columns(i);
    return { name: column?.name() ?? `field_${i + 1}`, type: TYPES[column?.type() ?? -1] ?? 'text' };
  });
}

function crsOf(h: Header, table: CrsTable): Crs | null {
  const crs = h.crs();
  if (!crs) return null;
  const code = crs.code();
  if (code > 0 && (crs.org() ?? 'EPSG').toUpperCase() === 'EPSG') return crsOfCode(`EPSG:${code}`, table);
  return { code: null, name: crs.name(), wkt: crs.wkt() };
}
