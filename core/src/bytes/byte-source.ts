/**
 * Bytes that can be read at any offset. Synchronous, since headers are read in workers, where it is fastest.
 * `read` gives at most `length` bytes, fewer only at the end of the file.
 */
export interface ByteSource {
  readonly sizeBytes: number;
  read(offset: number, length: number): Uint8Array;
}

export const memorySource = (bytes: Uint8Array): ByteSource => ({
  sizeBytes: bytes.length,
  read: (offset, length) => bytes.subarray(offset, Math.min(bytes.length, offset + length)),
});

export const viewOf = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/** Streams the whole source in pieces of `pieceBytes`. */
export function* pieces(source: ByteSource, pieceBytes = 1 << 20, from = 0): Generator<Uint8Array> {
  for (let at = from; at < source.sizeBytes;) {
    const piece = source.read(at, pieceBytes);
    if (piece.length === 0) return;
    yield piece;
    at += piece.length;
  }
}

/** A running hash, handed in by whoever has the platform's cryptography. */
export interface Hasher {
  update(bytes: Uint8Array): void;
  /** Lower-case hex. */
  digest(): string;
}
export type NewHasher = () => Hasher;

/** A byte count as 8 bytes, big-endian: stands in front of each part of a hash over several parts. */
export function lengthPrefix(length: number): Uint8Array {
  const out = new Uint8Array(8);
  viewOf(out).setBigUint64(0, BigInt(length));
  return out;
}
