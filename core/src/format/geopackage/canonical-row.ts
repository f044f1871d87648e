import { lengthPrefix, type Hasher } from '../../bytes/byte-source.js';

/** A value as SQLite stores it. */
export type SqlValue = null | bigint | number | string | Uint8Array;

const encoder = new TextEncoder();

/**
 * Canonical bytes of one value for the hash of a table (docs/fingerprint.md): a tag byte, then for
 * N(ull) nothing; I(nteger) 8 bytes big-endian; R(eal) the IEEE double big-endian; T(ext) length and UTF-8; B(lob) length
 * and bytes. Lengths are 8 bytes big-endian.
 */
export function hashValue(hasher: Hasher, value: SqlValue): void {
  if (value === null) return hasher.update(tag('N'));
  if (typeof value === 'bigint') return hasher.update(fixed('I', (v) => v.setBigInt64(1, value)));
  if (typeof value === 'number') return hasher.update(fixed('R', (v) => v.setFloat64(1, value)));
  const bytes = typeof value === 'string' ? encoder.encode(value) : value;
  hasher.update(tag(typeof value === 'string' ? 'T' : 'B'));
  hasher.update(lengthPrefix(bytes.length));
  hasher.update(bytes);
}

const tag = (letter: string): Uint8Array => encoder.encode(letter);
function fixed(letter: string, set: (view: DataView) => void): Uint8Array {
  const out = new Uint8Array(9);
  out[0] = letter.charCodeAt(0);
  set(new DataView(out.buffer));
  return out;
}
