/** PKWARE APPNOTE 6.3: signatures and fixed sizes. */
const LOCAL = 0x04034b50;
const CENTRAL = 0x02014b50;
const END_64 = 0x06064b50;
const LOCATOR_64 = 0x07064b50;
const END = 0x06054b50;
const NEEDS_ZIP64 = 45;
const UTF8_NAMES = 0x0800;
export const DEFLATE = 8;
export const STORE = 0;
const REGULAR_FILE = (0o100644 << 16) >>> 0;
const FOLDER = ((0o40755 << 16) | 0x10) >>> 0;
const MADE_ON_UNIX = 3 << 8;

/** An entry as the directory tells it. */
export interface Written {
  readonly name: Buffer;
  readonly method: number;
  readonly crc: number;
  readonly packed: number;
  readonly bytes: number;
  readonly offset: number;
  readonly modifiedMs: number;
  readonly isFolder: boolean;
}

/** MS-DOS date and time of a UTC instant; years before 1980 count as 1980. APPNOTE 4.4.6. */
function dosTime(ms: number): { time: number; date: number } {
  const d = new Date(Math.max(ms, Date.UTC(1980, 0, 1)));
  return {
    time: (d.getUTCHours() << 11) | (d.getUTCMinutes() << 5) | (d.getUTCSeconds() >> 1),
    date: ((d.getUTCFullYear() - 1980) << 9) | ((d.getUTCMonth() + 1) << 5) | d.getUTCDate(),
  };
}

/** Extended timestamp (0x5455): seconds since 1970 in UTC, as common unpackers read it. */
function timestampField(ms: number): Buffer {
  const field = Buffer.alloc(9);
  field.writeUInt16LE(0x5455, 0);
  field.writeUInt16LE(5, 2);
  field.writeUInt8(1, 4);
  field.writeInt32LE(Math.max(-0x80000000, Math.min(0x7fffffff, Math.floor(ms / 1000))), 5);
  return field;
}

function sizesField(values: readonly number[]): Buffer {
  const field = Buffer.alloc(4 + values.length * 8);
  field.writeUInt16LE(1, 0);
  field.writeUInt16LE(values.length * 8, 2);
  values.forEach((v, i) => field.writeBigUInt64LE(BigInt(v), 4 + i * 8));
  return field;
}

export type Head = Pick<Written, 'name' | 'method' | 'modifiedMs' | 'offset'>;

/** The head of an entry, sizes in a zip64 field always. */
export function localHeader(e: Head, crc: number, packed: number, bytes: number): Buffer {
  const extra = Buffer.concat([sizesField([bytes, packed]), timestampField(e.modifiedMs)]);
  const h = Buffer.alloc(30);
  const { time, date } = dosTime(e.modifiedMs);
  h.writeUInt32LE(LOCAL, 0);
  h.writeUInt16LE(NEEDS_ZIP64, 4);
  h.writeUInt16LE(UTF8_NAMES, 6);
  h.writeUInt16LE(e.method, 8);
  h.writeUInt16LE(time, 10);
  h.writeUInt16LE(date, 12);
  h.writeUInt32LE(crc, 14);
  h.writeUInt32LE(0xffffffff, 18);
  h.writeUInt32LE(0xffffffff, 22);
  h.writeUInt16LE(e.name.length, 26);
  h.writeUInt16LE(extra.length, 28);
  return Buffer.concat([h, e.name, extra]);
}

export function centralHeader(e: Written): Buffer {
  const extra = Buffer.concat([sizesField([e.bytes, e.packed, e.offset]), timestampField(e.modifiedMs)]);
  const h = Buffer.alloc(46);
  const { time, date } = dosTime(e.modifiedMs);
  h.writeUInt32LE(CENTRAL, 0);
  h.writeUInt16LE(MADE_ON_UNIX | NEEDS_ZIP64, 4);
  h.writeUInt16LE(NEEDS_ZIP64, 6);
  h.writeUInt16LE(UTF8_NAMES, 8);
  h.writeUInt16LE(e.method, 10);
  h.writeUInt16LE(time, 12);
  h.writeUInt16LE(date, 14);
  h.writeUInt32LE(e.crc, 16);
  h.writeUInt32LE(0xffffffff, 20);
  h.writeUInt32LE(0xffffffff, 24);
  h.writeUInt16LE(e.name.length, 28);
  h.writeUInt16LE(extra.length, 30);
  h.writeUInt32LE(e.isFolder ? FOLDER : REGULAR_FILE, 38);
  h.writeUInt32LE(0xffffffff, 42);
  return Buffer.concat([h, e.name, extra]);
}

/** A comment that lets every bit of the file be checked: CRC-32 of all that stands before the last record. */
const sealOf = (crc: number): Buffer =>
  Buffer.from(`CRC-32 of all before the end record: ${(crc >>> 0).toString(16).padStart(8, '0')}`, 'latin1');

/** The end of a directory with zip64 records, without the last one. */
export function endRecords64(count: number, start: number, length: number): Buffer {
  const end64 = Buffer.alloc(56);
  end64.writeUInt32LE(END_64, 0);
  end64.writeBigUInt64LE(44n, 4);
  end64.writeUInt16LE(MADE_ON_UNIX | NEEDS_ZIP64, 12);
  end64.writeUInt16LE(NEEDS_ZIP64, 14);
  end64.writeBigUInt64LE(BigInt(count), 24);
  end64.writeBigUInt64LE(BigInt(count), 32);
  end64.writeBigUInt64LE(BigInt(length), 40);
  end64.writeBigUInt64LE(BigInt(start), 48);
  const locator = Buffer.alloc(20);
  locator.writeUInt32LE(LOCATOR_64, 0);
  locator.writeBigUInt64LE(BigInt(start + length), 8);
  locator.writeUInt32LE(1, 16);
  return Buffer.concat([end64, locator]);
}

/** Of the last record, without the comment behind it. */
export const END_RECORD_BYTES = 22;

/** The last record, which says that the zip64 ones count, and seals the file. */
export function endRecord(crcBefore: number): Buffer {
  const seal = sealOf(crcBefore);
  const end = Buffer.alloc(END_RECORD_BYTES);
  end.writeUInt32LE(END, 0);
  end.writeUInt16LE(0xffff, 8);
  end.writeUInt16LE(0xffff, 10);
  end.writeUInt32LE(0xffffffff, 12);
  end.writeUInt32LE(0xffffffff, 16);
  end.writeUInt16LE(seal.length, 20);
  return Buffer.concat([end, seal]);
}
