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
