import { createHash } from 'node:crypto';
import { ProblemError } from '@rootmap/core';
import { closeSync, fstatSync, futimesSync, readSync, writeSync } from '../disk/files.js';
import { openToRead, openToWrite } from '../disk/open.js';

export interface ToCopy {
  readonly source: string | null;
  readonly content: Uint8Array | null;
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly target: string;
}
export interface CopyTask {
  readonly files: readonly ToCopy[];
}
export interface Copied {
  readonly sha256: string;
  readonly sha512: string;
}

const PIECE_BYTES = 1 << 20;

/** Copies of files, hashed as they are read; each must still be as it was listed. Nothing may stand at their targets. */
export const copyFiles = ({ files }: CopyTask, progress: (bytes: number) => void): Copied[] => files.map((file) => copyOne(file, progress));

function copyOne({ source, content, bytes, modifiedMs, target }: ToCopy, progress: (bytes: number) => void): Copied {
  const hashes = (['sha256', 'sha512'] as const).map((a) => createHash(a));
  const to = openToWrite(target, 'wx');
  try {
    const take = (piece: Uint8Array): void => {
      for (const hash of hashes) hash.update(piece);
      for (let done = 0; done < piece.length;) done += writeSync(to, piece, done, piece.length - done);
      progress(piece.length);
    };
    if (content) take(content);
    else if (source !== null) readPieces(source, bytes, modifiedMs, take);
    futimesSync(to, modifiedMs / 1000, modifiedMs / 1000);
  } finally {
    closeSync(to);
  }
  const [sha256, sha512] = hashes.map((h) => h.digest('hex'));
  return { sha256: sha256!, sha512: sha512! };
}

function readPieces(source: string, bytes: number, modifiedMs: number, take: (piece: Uint8Array) => void): void {
  const fd = openToRead(source, true);
  try {
    const buffer = Buffer.allocUnsafe(Math.min(PIECE_BYTES, Math.max(1, bytes)));
    let done = 0;
    for (;;) {
      const read = readSync(fd, buffer, 0, buffer.length, done);
      if (read === 0) break;
      take(buffer.subarray(0, read));
      done += read;
    }
    const now = fstatSync(fd);
    if (done !== bytes || now.size !== bytes || now.mtimeMs !== modifiedMs)
      throw new ProblemError({ code: 'changed-meanwhile', path: source });
  } finally {
    closeSync(fd);
  }
}
