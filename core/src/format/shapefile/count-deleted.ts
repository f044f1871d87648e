import type { ForwardReader } from '../../bytes/forward-reader.js';
import type { DbfHeader } from './read-dbf-header.js';

/** Byte 0 of a record: 0x20 live, 0x2A marked deleted. The header's count includes both. */
const DELETED = 0x2a;

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
