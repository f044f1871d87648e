import { inflateSync } from 'node:zlib';

/** zlib's packing taken off; null where it is damaged, or more comes of it than may. */
export function inflate(packed: Uint8Array, mostBytes: number): Uint8Array | null {
  try {
    return inflateSync(packed, { maxOutputLength: mostBytes });
  } catch {
    return null; // a damaged block: the caller gives the image up
  }
}
