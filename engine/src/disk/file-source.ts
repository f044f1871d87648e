import { closeSync, fstatSync, readSync } from 'node:fs';
import { ProblemError, type ByteSource } from '@rootmap/core';
import { openToRead } from './open.js';
import { isPlaceholder } from './placeholder.js';

/**
 * Files that are open while a piece of work runs. Each is opened at its first use and closed by `close`, so that a source
 * can be read again from its beginning without opening it again. Sockets, pipes and devices are refused, and files that
 * stand in the cloud only.
 */
export class OpenFiles {
  private readonly open = new Map<string, { fd: number; sizeBytes: number }>();

  /** @param knownBytes the size, where a listing has told it of a regular file just now: spares asking again */
  source(path: string, knownBytes?: number): ByteSource {
    return new FileSource(this.open.get(path) ?? this.add(path, knownBytes));
  }

  private add(path: string, knownBytes?: number): { fd: number; sizeBytes: number } {
    const fd = openToRead(path, knownBytes !== undefined);
    if (knownBytes !== undefined) {
      const known = { fd, sizeBytes: knownBytes };
      this.open.set(path, known);
      return known;
    }
    const stat = fstatSync(fd);
    if (isPlaceholder(stat)) {
      closeSync(fd);
      throw new ProblemError({ code: 'in-the-cloud', path });
    }
    const file = { fd, sizeBytes: stat.size };
    this.open.set(path, file);
    return file;
  }

  close(): void {
    for (const { fd } of this.open.values()) closeSync(fd);
    this.open.clear();
  }
}

class FileSource implements ByteSource {
  readonly sizeBytes: number;
  constructor(private readonly file: { readonly fd: number; readonly sizeBytes: number }) {
    this.sizeBytes = file.sizeBytes;
  }
  read(offset: number, length: number): Uint8Array {
    return readAt(this.file.fd, offset, Math.max(0, Math.min(length, this.sizeBytes - offset)));
  }
}

function readAt(fd: number, offset: number, length: number): Uint8Array {
  if (!Number.isSafeInteger(offset) || offset < 0 || length <= 0) return new Uint8Array(0);
  const buffer = Buffer.allocUnsafe(length);
  let got = 0;
  while (got < length) {
    const n = readSync(fd, buffer, got, length - got, offset + got);
    if (n === 0) break;
    got += n;
  }
  return buffer.subarray(0, got);
}
