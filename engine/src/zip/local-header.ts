/** What the directory of a zip says of an entry, as its own head at `offset` has to say it. */
export interface Listed {
  readonly name: string;
  /** The bytes of the name, one a character. */
  readonly rawName: string;
  readonly offset: number;
  readonly method: number;
  readonly flags: number;
  readonly time: number;
  readonly date: number;
  readonly crc: number;
  readonly packedBytes: number;
  readonly bytes: number;
  /** Seconds since 1970 of the extended timestamp; null: there is none. */
  readonly timestamp: number | null;
}

const LOCAL = 0x04034b50;
const DESCRIPTOR = 0x08074b50;
const ZIP64 = 0x0001;
const TIMESTAMP = 0x5455;
const HAS_DESCRIPTOR = 1 << 3;
const UNKNOWN = 0xffffffff;
const FIXED_BYTES = 30;

/** Where an entry's packed bytes begin, from the beginning of its head; or why its head is not to be believed. */
export type LocalRead = { readonly dataAt: number } | { readonly problem: string };

const wrong = (what: string): LocalRead => ({ problem: `its own head says another ${what} than the directory` });

/**
 * Holds an entry's own head against the directory: PKWARE APPNOTE 4.3.7 and 4.4. Programs believe the one or the other, so
 * that an entry where they differ is another file for each of them.
 * @param head from the entry's offset; at least its fixed part, name and extra fields
 */
export function readLocalHeader(head: Buffer, e: Listed): LocalRead {
  if (head.length < FIXED_BYTES || head.readUInt32LE(0) !== LOCAL) return { problem: 'no entry begins where the directory says' };
  if (head.readUInt16LE(6) !== e.flags) return wrong('set of flags');
  if (head.readUInt16LE(8) !== e.method) return wrong('method');
  if (head.readUInt16LE(10) !== e.time || head.readUInt16LE(12) !== e.date) return wrong('time');
  const nameBytes = head.readUInt16LE(26);
  const dataAt = FIXED_BYTES + nameBytes + head.readUInt16LE(28);
  if (head.length < dataAt) return { problem: 'its own head is cut off' };
  if (head.toString('latin1', FIXED_BYTES, FIXED_BYTES + nameBytes) !== e.rawName) return wrong('name');
  const fields = readFields(head.subarray(FIXED_BYTES + nameBytes, dataAt));
  if (!fields) return { problem: 'the extra fields of its own head are damaged' };
  const later = (e.flags & HAS_DESCRIPTOR) !== 0;
  const crc = head.readUInt32LE(14);
  if (crc !== e.crc && !(later && crc === 0)) return wrong('checksum');
  const sizes = sizesOf(head, fields.get(ZIP64));
  if (!sizes) return { problem: 'the extra fields of its own head are damaged' };
  const areLater = later && sizes[0] === 0 && sizes[1] === 0;
  if (!areLater && (sizes[0] !== e.bytes || sizes[1] !== e.packedBytes)) return wrong('size');
  const timestamp = fields.get(TIMESTAMP);
  if (timestamp && timestamp.length >= 5 && (timestamp[0]! & 1) === 1 && e.timestamp !== null && timestamp.readInt32LE(1) !== e.timestamp)
    return wrong('time');
  return { dataAt };
}

/** Unpacked and packed, from the fixed part or its zip64 field; null: that field is cut off. */
function sizesOf(head: Buffer, zip64: Buffer | undefined): [number, number] | null {
  const packed = head.readUInt32LE(18);
  const bytes = head.readUInt32LE(22);
  if (packed !== UNKNOWN && bytes !== UNKNOWN) return [bytes, packed];
  const wanted = (bytes === UNKNOWN ? 8 : 0) + (packed === UNKNOWN ? 8 : 0);
  if (!zip64 || zip64.length < wanted) return null;
  const first = Number(zip64.readBigUInt64LE(0));
  if (bytes !== UNKNOWN) return [bytes, first];
  return [first, packed === UNKNOWN ? Number(zip64.readBigUInt64LE(8)) : packed];
}

/** Extra fields by id; null where they do not fill their space (APPNOTE 4.5.1). */
function readFields(extra: Buffer): Map<number, Buffer> | null {
  const fields = new Map<number, Buffer>();
  let at = 0;
  while (at + 4 <= extra.length) {
    const end = at + 4 + extra.readUInt16LE(at + 2);
    if (end > extra.length) return null;
    fields.set(extra.readUInt16LE(at), extra.subarray(at + 4, end));
    at = end;
  }
  return at === extra.length || extra.subarray(at).every((b) => b === 0) ? fields : null;
}

/** What stands behind the data of an entry whose head told nothing yet: null: it agrees, or is not there to be read. */
export function descriptorProblem(after: Buffer, e: Listed): string | null {
  if ((e.flags & HAS_DESCRIPTOR) === 0 || after.length < 12) return null;
  const at = after.readUInt32LE(0) === DESCRIPTOR ? 4 : 0;
  if (after.length < at + 12) return null;
  if (after.readUInt32LE(at) !== e.crc) return 'the record behind it says another checksum than the directory';
  const isShort = after.readUInt32LE(at + 4) === e.packedBytes && after.readUInt32LE(at + 8) === e.bytes;
  const isLong =
    after.length >= at + 20 &&
    Number(after.readBigUInt64LE(at + 4)) === e.packedBytes &&
    Number(after.readBigUInt64LE(at + 12)) === e.bytes;
  return isShort || isLong ? null : 'the record behind it says another size than the directory';
}
