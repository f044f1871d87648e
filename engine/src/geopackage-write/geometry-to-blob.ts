import { readWkb, straightWkb, WKB, wkbCode, type WkbVisitor } from '@rootmap/core';

const NONE: readonly number[] = [];
/** Flags of the header (OGC 12-128r17, clause 2.1.3): little-endian; with an xy envelope; empty. */
const LITTLE = 0x01;
const WITH_ENVELOPE = 0x02;
const EMPTY = 0x10;
/** Collections may hold some. */
const FIRST_WITH_ARCS = WKB.GeometryCollection;

/** Makes GeoPackage geometries of well-known binary, and knows the box of the last one. One buffer serves all. */
export class BlobMaker implements WkbVisitor {
  private bytes!: Buffer;
  private view!: DataView;
  private readonly box = new Float64Array(4);
  private isEmpty = true;

  constructor(private readonly srsId: number) {
    this.makeRoom(1 << 12);
  }

  /** With what stands at the beginning of each. */
  private makeRoom(length: number): void {
    this.bytes = Buffer.alloc(length);
    this.view = new DataView(this.bytes.buffer, this.bytes.byteOffset, length);
    this.bytes[0] = 0x47;
    this.bytes[1] = 0x50;
    this.bytes[2] = 0;
    this.view.setInt32(4, this.srsId, true);
  }

  vertex(x: number, y: number): void {
    const { box } = this;
    if (this.isEmpty) {
      box[0] = box[2] = x;
      box[1] = box[3] = y;
      this.isEmpty = false;
      return;
    }
    if (x < box[0]!) box[0] = x;
    else if (x > box[2]!) box[2] = x;
    if (y < box[1]!) box[1] = y;
    else if (y > box[3]!) box[3] = y;
  }

  /** minx, miny, maxx, maxy of the last geometry; nothing where it was empty. */
  get lastBox(): Float64Array | readonly number[] {
    return this.isEmpty ? NONE : this.box;
  }

  /** @returns good until the next one is made; null where the bytes are damaged */
  make(wkb: Uint8Array): Buffer | null {
    this.isEmpty = true;
    // An arc reaches beyond the points that tell it.
    const straight = wkbCode(wkb) % 1000 < FIRST_WITH_ARCS ? wkb : straightWkb(wkb);
    if (!straight || !readWkb(straight, this)) return null;
    const isPoint = wkbCode(wkb) % 1000 === 1;
    const envelope = isPoint || this.isEmpty ? 0 : 32; // a point is its own envelope
    const length = 8 + envelope + wkb.length;
    if (length > this.bytes.length) this.makeRoom(length * 2);
    const out = this.bytes;
    out[3] = LITTLE | (envelope > 0 ? WITH_ENVELOPE : 0) | (this.isEmpty ? EMPTY : 0);
    if (envelope > 0) {
      this.view.setFloat64(8, this.box[0]!, true);
      this.view.setFloat64(16, this.box[2]!, true);
      this.view.setFloat64(24, this.box[1]!, true);
      this.view.setFloat64(32, this.box[3]!, true);
    }
    out.set(wkb, 8 + envelope);
    return out.subarray(0, length);
  }
}
