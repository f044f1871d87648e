import { createHash } from 'node:crypto';
import { crc32, deflateRawSync } from 'node:zlib';
import { ProblemError } from '@rootmap/core';
import { closeSync, fstatSync, readSync } from '../disk/files.js';
import { openToRead } from '../disk/open.js';

/** A file to be packed: what stands at `source`, as it was listed, or `content`. */
export interface ToPack {
  readonly source: string | null;
  readonly content: Uint8Array | null;
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly stored: boolean;
}

export interface PackedFile {
  readonly crc: number;
  readonly bytes: number;
  /** Where its packed bytes stand in `data`. */
  readonly at: number;
  readonly packed: number;
  readonly sha256: string;
  readonly sha512: string;
}

const hashOf = (algorithm: 'sha256' | 'sha512', bytes: Uint8Array): string => createHash(algorithm).update(bytes).digest('hex');

/** Files that fit into memory together, read whole, hashed and packed; the packed bytes of all stand in `data` one behind the other. */
export function packFiles({ files }: { readonly files: readonly ToPack[] }): { data: Uint8Array<ArrayBuffer>; files: PackedFile[] } {
  const packed: PackedFile[] = [];
  const parts: Uint8Array[] = [];
  let at = 0;
  for (const file of files) {
    const bytes = file.content ?? (file.source === null ? new Uint8Array() : readAsListed(file.source, file.bytes, file.modifiedMs));
    const part = file.stored ? bytes : deflateRawSync(bytes, { level: 6, ...windowFor(bytes.length) });
    packed.push({
      crc: crc32(bytes),
      bytes: bytes.length,
      at,
      packed: part.length,
      sha256: hashOf('sha256', bytes),
      sha512: hashOf('sha512', bytes),
    });
    parts.push(part);
    at += part.length;
  }
  const data = new Uint8Array(at);
  at = 0;
  for (const part of parts) {
    data.set(part, at);
    at += part.length;
  }
  return { data, files: packed };
}

/** A window no larger than the file needs: zlib clears all of it for each file. Its log2, and that of its hash table less seven. */
const windowFor = (bytes: number): { windowBits?: number; memLevel?: number } =>
  bytes <= 1 << 10
    ? { windowBits: 10, memLevel: 4 }
    : bytes <= 1 << 12
      ? { windowBits: 12, memLevel: 5 }
      : bytes <= 1 << 13
        ? { windowBits: 13, memLevel: 6 }
        : {};

/** The bytes of a file that must still be as it was listed. Throws `changed-meanwhile`. */
function readAsListed(path: string, bytes: number, modifiedMs: number): Uint8Array {
  const fd = openToRead(path, true);
  try {
    const all = Buffer.allocUnsafe(bytes);
    let done = 0;
    while (done < bytes) {
      const read = readSync(fd, all, done, bytes - done, done);
      if (read === 0) break;
      done += read;
    }
    const now = fstatSync(fd);
    if (done !== bytes || now.size !== bytes || now.mtimeMs !== modifiedMs) throw new ProblemError({ code: 'changed-meanwhile', path });
    return all;
  } finally {
    closeSync(fd);
  }
}
