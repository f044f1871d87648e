import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import type { ByteSource } from '@rootmap/core';

/**
 * Files that are open while a piece of work runs. Each is opened at its first use and closed by `close`, so that a source
 * can be read again from its beginning without opening it again. Sockets, pipes and devices are refused.
 */
export class OpenFiles {
  private readonly open = new Map<string, { fd: number; sizeBytes: number }>();

  source(path: string): ByteSource {
    const file = this.open.get(path) ?? this.add(path);
    return {
      sizeBytes: file.sizeBytes,
      read: (offset, length) => readAt(file.fd, offset, Math.max(0, Math.min(length, file.sizeBytes - offset))),
    };
  }

  private add(path: string): { fd: number; sizeBytes: number } {
    const fd = openSync(path, 'r');
    const stat = fstatSync(fd);
    if (!stat.isFile()) {
      closeSync(fd);
      throw Object.assign(new Error(`${path} is not a file`), { code: 'ENOENT', syscall: 'open', path });
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

function readAt(fd: number, offset: number, length: number): Uint8Array {
  if (!Number.isSafeInteger(offset) || offset < 0 || length <= 0) return new Uint8Array(0);
  const buffer = Buffer.allocUnsafeSlow(length);
  let got = 0;
  while (got < length) {
    const n = readSync(fd, buffer, got, length - got, offset + got);
    if (n === 0) break;
    got += n;
  }
  return buffer.subarray(0, got);
}
