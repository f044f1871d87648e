import { viewOf } from '../bytes/byte-source.js';
import { WKB } from './wkb-writer.js';

/** What comes by in a geometry, from the outside in. */
export interface WkbVisitor {
  /** A geometry begins: its code without dimensions, and how many parts, rings or positions it has. */
  geometry?(code: number, count: number, hasZ: boolean, hasM: boolean): void;
  /** A run of positions begins: a point, a line, one ring. */
  run?(count: number): void;
  /** `at` is the offset of x in the bytes; y stands 8 behind it, then z and m. Empty points are passed over. */
  vertex(x: number, y: number, at: number): void;
  /** The geometry that began last and has not ended yet ends. */
  end?(): void;
}

/**
 * Reads ISO well-known binary (OGC 06-103r4, clause 8; both byte orders, Z and M).
 * @returns false where the bytes are damaged or hold a kind of geometry that is not read
 */
export function readWkb(bytes: Uint8Array, visitor: WkbVisitor, from = 0): boolean {
  return new WkbReader(viewOf(bytes), from, visitor).read(0);
}

const DEEPEST = 32;

class WkbReader {
  constructor(
    private readonly view: DataView,
    private at: number,
    private readonly visitor: WkbVisitor,
  ) {}

  private has(bytes: number): boolean {
    return this.at + bytes <= this.view.byteLength;
  }

  read(depth: number): boolean {
    const isRead = this.geometry(depth);
    if (isRead) this.visitor.end?.();
    return isRead;
  }

  private geometry(depth: number): boolean {
    if (depth > DEEPEST || !this.has(5)) return false;
    const little = this.view.getUint8(this.at) === 1;
    const code = this.view.getUint32(this.at + 1, little);
    this.at += 5;
    const dimensions = Math.floor(code / 1000);
    if (dimensions > 3) return false;
    const type = code % 1000;
    const hasZ = (dimensions & 1) === 1;
    const hasM = dimensions >= 2;
    const size = 2 + Number(hasZ) + Number(hasM);
    if (type === 1) {
      this.visitor.geometry?.(type, 1, hasZ, hasM);
      return this.positions(1, size, little);
    }
    if (!this.has(4)) return false;
    const count = this.view.getUint32(this.at, little);
    this.at += 4;
    this.visitor.geometry?.(type, count, hasZ, hasM);
    if (type === 2 || type === 8) return this.positions(count, size, little);
    if (type === 3) return this.each(count, () => this.ring(size, little));
    if ((type >= 4 && type <= 7) || (type >= 9 && type <= 12)) return this.each(count, () => this.read(depth + 1));
    return false;
  }

  private ring(size: number, little: boolean): boolean {
    if (!this.has(4)) return false;
    const count = this.view.getUint32(this.at, little);
    this.at += 4;
    return this.positions(count, size, little);
  }

  private each(n: number, step: () => boolean): boolean {
    for (let i = 0; i < n; i++) if (!step()) return false;
    return true;
  }

  private positions(n: number, size: number, little: boolean): boolean {
    const bytes = size * 8;
    if (!this.has(n * bytes)) return false;
    this.visitor.run?.(n);
    for (let i = 0; i < n; i++, this.at += bytes) {
      const x = this.view.getFloat64(this.at, little);
      const y = this.view.getFloat64(this.at + 8, little);
      if (!Number.isNaN(x) && !Number.isNaN(y)) this.visitor.vertex(x, y, this.at);
    }
    return true;
  }
}

/** Code of the outermost geometry with its dimensions, read without a view since it is asked for so often. */
export const wkbCode = (wkb: Uint8Array): number =>
  wkb[0] === 1
    ? wkb[1]! + wkb[2]! * 0x100 + wkb[3]! * 0x10000 + wkb[4]! * 0x1000000
    : wkb[4]! + wkb[3]! * 0x100 + wkb[2]! * 0x10000 + wkb[1]! * 0x1000000;

/** Name of the geometry's kind with Z and M, as in `Description.geometryType`; null where the bytes are none. */
export function kindOfWkb(wkb: Uint8Array): string | null {
  if (wkb.length < 5) return null;
  const code = wkbCode(wkb);
  const name = KINDS[code % 1000];
  return name ? `${name}${['', 'Z', 'M', 'ZM'][Math.floor(code / 1000)] ?? ''}` : null;
}
/** Names of the kinds by their code; FlatGeobuf counts them the same way. */
export const KINDS: readonly string[] = ['Geometry', ...Object.keys(WKB)];

/** The one kind that holds all of some kinds: a multi kind where only the number of parts differs. Null: there are none. */
export function commonKind(kinds: ReadonlySet<string>): string | null {
  if (kinds.size <= 1) return [...kinds][0] ?? null;
  const z = [...kinds].every((k) => /Z/.test(k)) ? 'Z' : '';
  const single = new Set([...kinds].map((k) => k.replace(/^Multi/, '').replace(/[ZM]+$/, '')));
  return single.size === 1 ? `Multi${[...single][0]}${z}` : `Geometry${z}`;
}

/**
 * Puts every position through a function, in a copy. Z and M stay.
 * @returns null where a position has no image, or the bytes are damaged
 */
export function mapWkb(wkb: Uint8Array, to: (x: number, y: number) => readonly [number, number] | null): Uint8Array | null {
  const out = wkb.slice();
  const view = viewOf(out);
  let isWhole = true;
  const little = wkb[0] === 1;
  const isRead = readWkb(wkb, {
    vertex: (x, y, at) => {
      const image = to(x, y);
      if (!image) isWhole = false;
      else {
        view.setFloat64(at, image[0], little);
        view.setFloat64(at + 8, image[1], little);
      }
    },
  });
  return isRead && isWhole ? out : null;
}

/** A shape of one part as the kind that holds many, with one part in it; others stay as they are. */
export function asMany(wkb: Uint8Array): Uint8Array {
  const isLittle = wkb[0] === 1;
  const code = wkbCode(wkb);
  if (code % 1000 < 1 || code % 1000 > 3) return wkb;
  const out = new Uint8Array(9 + wkb.length);
  const view = viewOf(out);
  out[0] = wkb[0]!;
  view.setUint32(1, code + 3, isLittle); // each kind of one part stands three before that of many
  view.setUint32(5, 1, isLittle);
  out.set(wkb, 9);
  return out;
}
