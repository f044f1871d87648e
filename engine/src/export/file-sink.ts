import { closeSync, openSync, writeSync } from '../disk/files.js';

const ROOM = 1 << 18;

/** A file that grows at its end, in large pieces, and whose beginning can be written last. */
export class FileSink {
  private readonly fd: number;
  private readonly buffer = Buffer.allocUnsafe(ROOM);
  private at = 0;
  private flushed = 0;

  constructor(path: string) {
    this.fd = openSync(path, 'w');
  }

  get bytes(): number {
    return this.flushed + this.at;
  }

  write(bytes: Uint8Array): void {
    if (this.at + bytes.length > ROOM) this.flush();
    if (bytes.length > ROOM) {
      this.put(bytes, this.flushed);
      this.flushed += bytes.length;
      return;
    }
    this.buffer.set(bytes, this.at);
    this.at += bytes.length;
  }

  text(text: string): void {
    this.write(Buffer.from(text, 'utf8'));
  }

  /** Writes over what stands at the beginning. */
  patchHead(bytes: Uint8Array): void {
    this.flush();
    this.put(bytes, 0);
  }

  close(): void {
    try {
      this.flush();
    } finally {
      closeSync(this.fd);
    }
  }

  private flush(): void {
    this.put(this.buffer.subarray(0, this.at), this.flushed);
    this.flushed += this.at;
    this.at = 0;
  }

  private put(bytes: Uint8Array, position: number): void {
    for (let done = 0; done < bytes.length;) done += writeSync(this.fd, bytes, done, bytes.length - done, position + done);
  }
}
