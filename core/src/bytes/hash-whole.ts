import type { ByteSource, NewHasher } from './byte-source.js';
import { ForwardReader } from './forward-reader.js';

/** `sha256:` and the hex digest of the whole source: the hash of formats that are one file. */
export function hashWhole(source: ByteSource, newHasher: NewHasher): string {
  const hasher = newHasher();
  ForwardReader.hashing(source, hasher).drain();
  return `sha256:${hasher.digest()}`;
}
