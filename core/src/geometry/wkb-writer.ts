/** Codes of ISO/IEC 13249-3 well-known binary; 1000 is added for Z, 2000 for M, 3000 for both. */
export const WKB = {
  Point: 1,
  LineString: 2,
  Polygon: 3,
  MultiPoint: 4,
  MultiLineString: 5,
  MultiPolygon: 6,
  GeometryCollection: 7,
  CircularString: 8,
  CompoundCurve: 9,
  CurvePolygon: 10,
  MultiCurve: 11,
  MultiSurface: 12,
} as const;

/** Writes little-endian well-known binary into one buffer that grows; `finish` gives a copy and begins anew. */
export class WkbWriter {
  private bytes = new Uint8Array(1024);
  private view = new DataView(this.bytes.buffer);
  private at = 0;

  private room(more: number): void {
    if (this.at + more <= this.bytes.length) return;
    const larger = new Uint8Array(Math.max(this.bytes.length * 2, this.at + more));
    larger.set(this.bytes.subarray(0, this.at));
    this.bytes = larger;
    this.view = new DataView(larger.buffer);
  }

  /** Begins a geometry: byte order and type. */
  type(code: number, hasZ = false, hasM = false): void {
    this.room(5);
    this.view.setUint8(this.at, 1);
    this.view.setUint32(this.at + 1, code + (hasZ ? 1000 : 0) + (hasM ? 2000 : 0), true);
    this.at += 5;
  }
  count(n: number): void {
    this.room(4);
    this.view.setUint32(this.at, n, true);
    this.at += 4;
  }
  /** Leaves room for a count that is not known yet. */
  reserveCount(): number {
    this.count(0);
    return this.at - 4;
  }
  setCount(at: number, n: number): void {
    this.view.setUint32(at, n, true);
  }
  /** Two to four ordinates. */
  position(x: number, y: number, third?: number, fourth?: number): void {
    this.room(32);
    this.view.setFloat64(this.at, x, true);
    this.view.setFloat64(this.at + 8, y, true);
    this.at += 16;
    if (third === undefined) return;
    this.view.setFloat64(this.at, third, true);
    this.at += 8;
    if (fourth === undefined) return;
    this.view.setFloat64(this.at, fourth, true);
    this.at += 8;
  }
  /** Bytes that are laid out as WKB has them: pairs of doubles, little-endian. */
  raw(source: Uint8Array): void {
    this.room(source.length);
    this.bytes.set(source, this.at);
    this.at += source.length;
  }
  finish(): Uint8Array {
    return this.finishInPlace().slice();
  }
  /** Without a copy: good until the next geometry is begun. */
  finishInPlace(): Uint8Array {
    const done = this.bytes.subarray(0, this.at);
    this.at = 0;
    return done;
  }
}
