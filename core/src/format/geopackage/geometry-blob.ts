import { viewOf } from '../../bytes/byte-source.js';

const ENVELOPE_BYTES: readonly number[] = [0, 32, 48, 48, 64];

/**
 * Calls `onVertex` for each position of a GeoPackage geometry (OGC 12-128r17, clause 2.1.3: header, then ISO WKB). Gives
 * the number of vertices; null where the blob is damaged or of an extended type.
 */
export function readGeometryBlob(blob: Uint8Array, onVertex: (x: number, y: number) => void): number | null {
  if (blob.length < 8 || blob[0] !== 0x47 || blob[1] !== 0x50) return null;
  const envelope = ENVELOPE_BYTES[(blob[3]! >> 1) & 7];
  if (envelope === undefined || (blob[3]! & 0x20) !== 0) return null;
  const reader = new WkbReader(viewOf(blob), 8 + envelope, onVertex);
  return reader.geometry(0) ? reader.vertices : null;
}

class WkbReader {
  vertices = 0;
  constructor(
    private readonly view: DataView,
    private at: number,
    private readonly onVertex: (x: number, y: number) => void,
  ) {}

  private has(bytes: number): boolean {
    return this.at + bytes <= this.view.byteLength;
  }

  geometry(depth: number): boolean {
    if (depth > 32 || !this.has(5)) return false;
    const little = this.view.getUint8(this.at) === 1;
    const code = this.view.getUint32(this.at + 1, little);
    this.at += 5;
    const type = code % 1000;
    const dimension = 2 + [0, 1, 1, 2][Math.min(3, Math.floor(code / 1000))]!;
    if (type === 1) return this.points(1, dimension, little);
    if (type === 2 || type === 8) return this.counted(little, (n) => this.points(n, dimension, little));
    if (type === 3)
      return this.counted(little, (rings) => this.each(rings, () => this.counted(little, (n) => this.points(n, dimension, little))));
    if ((type >= 4 && type <= 7) || (type >= 9 && type <= 12))
      return this.counted(little, (n) => this.each(n, () => this.geometry(depth + 1)));
    return false;
  }

  private counted(little: boolean, use: (n: number) => boolean): boolean {
    if (!this.has(4)) return false;
    const n = this.view.getUint32(this.at, little);
    this.at += 4;
    return use(n);
  }
  private each(n: number, step: () => boolean): boolean {
    for (let i = 0; i < n; i++) if (!step()) return false;
    return true;
  }
  private points(n: number, dimension: number, little: boolean): boolean {
    const bytes = dimension * 8;
    if (!this.has(n * bytes)) return false;
    for (let i = 0; i < n; i++, this.at += bytes) {
      const x = this.view.getFloat64(this.at, little);
      const y = this.view.getFloat64(this.at + 8, little);
      if (Number.isNaN(x) || Number.isNaN(y)) continue; // an empty point
      this.vertices++;
      this.onVertex(x, y);
    }
    return true;
  }
}
