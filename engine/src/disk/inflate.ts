import { inflateSync } from 'node:zlib';

/** What comes out in pieces is put together once more: a block of a raster comes out in one. */
const LARGEST_PIECE = 1 << 20;
const LEAST_PIECE = 64;

/** zlib's packing taken off; null where it is damaged, or more comes of it than may. */
export function inflate(packed: Uint8Array, mostBytes: number): Uint8Array | null {
  try {
    return inflateSync(packed, { maxOutputLength: mostBytes, chunkSize: Math.min(LARGEST_PIECE, Math.max(LEAST_PIECE, mostBytes + 1)) });
  } catch {
    return null; // a damaged block: the caller gives the image up
  }
}
