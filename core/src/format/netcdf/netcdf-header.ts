import { viewOf, type ByteSource } from '../../bytes/byte-source.js';

export interface Variable {
  readonly name: string;
  /** Numbers of its dimensions, the slowest first. */
  readonly dimensions: readonly number[];
  /** Its attributes that are text. */
  readonly texts: ReadonlyMap<string, string>;
  /** One of its numbers, as it stands in the file; null: it has none there. */
  numberAt(source: ByteSource, index: number): number | null;
}
export interface NetcdfHeader {
  readonly dimensions: readonly { readonly name: string; readonly length: number }[];
  readonly variables: readonly Variable[];
}

const LARGEST_HEADER = 8 << 20;
const MOST = 100_000;
const [DIMENSION, VARIABLE, ATTRIBUTE] = [10, 11, 12];
const CHAR = 2;
/** Bytes of a value by type: byte, char, short, int, float, double; of CDF-5 ubyte, ushort, uint, int64, uint64. */
const SIZES: readonly number[] = [0, 1, 1, 2, 4, 4, 8, 1, 2, 4, 8, 8];

class Damaged extends Error {}

/** Header of a classic NetCDF (Unidata, the NetCDF classic format specification); null: it is none, or damaged. */
export function readNetcdfHeader(source: ByteSource): NetcdfHeader | null {
  try {
    return new HeaderReader(source.read(0, LARGEST_HEADER)).read();
  } catch (error) {
    if (error instanceof Damaged || error instanceof RangeError) return null; // it ends within its header
    throw error;
  }
}

class HeaderReader {
  private readonly view: DataView;
  private at = 4;
  private readonly version: number;

  constructor(private readonly bytes: Uint8Array) {
    this.view = viewOf(bytes);
    this.version = bytes[3] ?? 0;
    if (bytes[0] !== 0x43 || bytes[1] !== 0x44 || bytes[2] !== 0x46 || ![1, 2, 5].includes(this.version)) throw new Damaged();
  }

  read(): NetcdfHeader {
    const records = this.count();
    const dimensions = this.list(DIMENSION, () => {
      const name = this.name();
      const length = this.count();
      return { name, length: length === 0 ? records : length };
    });
    this.attributes();
    const variables = this.list(VARIABLE, () => this.variable());
    return { dimensions, variables };
  }

  private word(): number {
    const value = this.view.getUint32(this.at);
    this.at += 4;
    return value;
  }

  /** Counts and sizes have 64 bits in CDF-5. */
  private count(): number {
    if (this.version !== 5) return this.word();
    const value = Number(this.view.getBigUint64(this.at));
    this.at += 8;
    return value;
  }

  private list<T>(tag: number, read: () => T): T[] {
    const found = this.word();
    const count = this.count();
    if (found === 0 && count === 0) return [];
    if (found !== tag || count > MOST) throw new Damaged();
    return Array.from({ length: count }, read);
  }

  private text(length: number): string {
    const text = new TextDecoder().decode(this.bytes.subarray(this.at, this.at + length));
    this.skip(length);
    return text;
  }

  /** Everything is filled up to four bytes. */
  private skip(length: number): void {
    this.at += Math.ceil(length / 4) * 4;
    if (this.at > this.bytes.length) throw new Damaged();
  }

  private name(): string {
    return this.text(this.count());
  }

  private attributes(): Map<string, string> {
    const texts = new Map<string, string>();
    this.list(ATTRIBUTE, () => {
      const name = this.name();
      const type = this.word();
      const count = this.count();
      const size = SIZES[type];
      if (!size) throw new Damaged();
      if (type === CHAR) texts.set(name, this.text(count));
      else this.skip(count * size);
    });
    return texts;
  }

  private variable(): Variable {
    const name = this.name();
    const dimensions = Array.from({ length: Math.min(this.count(), MOST) }, () => this.count());
    const texts = this.attributes();
    const type = this.word();
    this.count(); // its size, which may be wrong for large ones
    const begin = this.version === 1 ? this.word() : Number(this.view.getBigUint64(this.at));
    if (this.version !== 1) this.at += 8;
    const size = SIZES[type];
    if (!size) throw new Damaged();
    return { name, dimensions, texts, numberAt: (source, index) => numberIn(source.read(begin + index * size, size), type) };
  }
}

function numberIn(bytes: Uint8Array, type: number): number | null {
  if (bytes.length < SIZES[type]!) return null;
  const view = viewOf(bytes);
  const readers: Readonly<Record<number, () => number>> = {
    1: () => view.getInt8(0),
    3: () => view.getInt16(0),
    4: () => view.getInt32(0),
    5: () => view.getFloat32(0),
    6: () => view.getFloat64(0),
    7: () => view.getUint8(0),
    8: () => view.getUint16(0),
    9: () => view.getUint32(0),
    10: () => Number(view.getBigInt64(0)),
    11: () => Number(view.getBigUint64(0)),
  };
  return readers[type]?.() ?? null;
}
