import type { Extent } from '../../dataset/dataset.js';
import { readWkb } from '../../geometry/read-wkb.js';

const ENVELOPE_BYTES: readonly number[] = [0, 32, 48, 48, 64];

/**
 * Where the well-known binary begins in a GeoPackage geometry (OGC 12-128r17, clause 2.1.3: header, envelope, ISO WKB); null
 * where the blob is damaged or of an extended type.
 */
export function wkbOffset(blob: Uint8Array): number | null {
  if (blob.length < 8 || blob[0] !== 0x47 || blob[1] !== 0x50) return null;
  const envelope = ENVELOPE_BYTES[(blob[3]! >> 1) & 7];
  return envelope === undefined || (blob[3]! & 0x20) !== 0 ? null : 8 + envelope;
}

/** The box of a GeoPackage geometry: its envelope where it has one, else that of its positions. Null where it is empty or damaged. */
export function boxOfBlob(blob: Uint8Array): Extent | null {
  const from = wkbOffset(blob);
  if (from === null) return null;
  let box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  if (from > 8 && blob.length >= from) {
    const view = new DataView(blob.buffer, blob.byteOffset, blob.byteLength);
    const at = (i: number): number => view.getFloat64(8 + 8 * i, (blob[3]! & 1) === 1);
    box = [at(0), at(2), at(1), at(3)]; // its order is x from, x to, y from, y to
  } else
    readGeometryBlob(blob, (x, y) => {
      box = [Math.min(box[0], x), Math.min(box[1], y), Math.max(box[2], x), Math.max(box[3], y)];
    });
  return box.every(Number.isFinite) ? box : null;
}

/** Calls `onVertex` for each position of a GeoPackage geometry. Gives the number of vertices; null where it is damaged. */
export function readGeometryBlob(blob: Uint8Array, onVertex: (x: number, y: number) => void): number | null {
  const from = wkbOffset(blob);
  if (from === null) return null;
  let vertices = 0;
  const vertex = (x: number, y: number): void => {
    vertices++;
    onVertex(x, y);
  };
  return readWkb(blob, { vertex }, from) ? vertices : null;
}
