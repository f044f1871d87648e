import { Readable } from 'node:stream';
import yauzl, { RandomAccessReader, type ZipFile } from 'yauzl';
import { closeSync, fstatSync, readSync } from '../disk/files.js';
import { openToRead } from '../disk/open.js';

const WINDOW_BYTES = 1 << 20;
const PIECE_BYTES = 1 << 18;

/** Reads of a few bytes one behind the other, as those of a directory are, come from a window of the file in memory. */
class WindowedReader extends RandomAccessReader {
  private window = Buffer.alloc(0);
  private windowAt = 0;
  constructor(private readonly fd: number) {
    super();
  }

  override read(buffer: Buffer, offset: number, length: number, position: number, callback: (error: Error | null) => void): void {
    let failed: Error | null = null;
    try {
      if (length > WINDOW_BYTES) this.fill(buffer, offset, length, position);
      else {
        if (position < this.windowAt || position + length > this.windowAt + this.window.length) {
          const window = Buffer.allocUnsafe(WINDOW_BYTES);
          this.window = window.subarray(0, readSync(this.fd, window, 0, WINDOW_BYTES, position));
          this.windowAt = position;
        }
        if (this.window.length < length) throw new Error('unexpected end of the file');
        this.window.copy(buffer, offset, position - this.windowAt, position - this.windowAt + length);
      }
    } catch (error) {
      failed = error as Error;
    }
    callback(failed);
  }

  private fill(buffer: Buffer, offset: number, length: number, position: number): void {
    for (let done = 0; done < length;) {
      const read = readSync(this.fd, buffer, offset + done, length - done, position + done);
      if (read === 0) throw new Error('unexpected end of the file');
      done += read;
    }
  }

  override _readStreamForRange(start: number, end: number): Readable {
    const { fd } = this;
    const pieces = function* (): Generator<Buffer> {
      for (let at = start; at < end;) {
        const piece = Buffer.allocUnsafe(Math.min(PIECE_BYTES, end - at));
        const read = readSync(fd, piece, 0, piece.length, at);
        if (read === 0) return;
        at += read;
        yield piece.subarray(0, read);
      }
    };
    return Readable.from(pieces());
  }

  override close(callback: (error: Error | null) => void): void {
    closeSync(this.fd);
    callback(null);
  }
}

/** Opens a zip of which the entries are asked for one by one; names come as bytes. */
export function openWindowed(path: string, done: (error: Error | null, zip: ZipFile) => void): void {
  const fd = openToRead(path);
  const reader = new WindowedReader(fd);
  const options = { lazyEntries: true, autoClose: false, decodeStrings: false, validateEntrySizes: true };
  yauzl.fromRandomAccessReader(reader, fstatSync(fd).size, options, (error, zip) => {
    if (error) closeSync(fd);
    done(error, zip);
  });
}
