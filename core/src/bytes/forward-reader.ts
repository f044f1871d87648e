import { pieces, viewOf, type ByteSource, type Hasher } from './byte-source.js';

/**
 * Reads a source once from front to back in bounded memory, handing every byte to a hash as it passes. `peek` and `take`
 * give fewer bytes only at the end of the source.
 */
export class ForwardReader {
  private readonly feed: Generator<Uint8Array>;
  private buffer: Uint8Array = new Uint8Array(0);
  private at = 0;
  private viewed: DataView | null = null;

  constructor(
    source: ByteSource,
    private readonly onPiece: (piece: Uint8Array) => void = () => undefined,
  ) {
    this.feed = pieces(source);
  }

  static hashing(source: ByteSource, hasher: Hasher): ForwardReader {
    return new ForwardReader(source, (piece) => hasher.update(piece));
  }

  private load(): boolean {
    const next = this.feed.next();
    if (next.done) return false;
    this.onPiece(next.value);
    this.viewed = null;
    const rest = this.buffer.subarray(this.at);
    if (rest.length === 0) this.buffer = next.value;
    else {
      const joined = new Uint8Array(rest.length + next.value.length);
      joined.set(rest);
      joined.set(next.value, rest.length);
      this.buffer = joined;
    }
    this.at = 0;
    return true;
  }

  /** A view of the next bytes, which are still to be taken. */
  peek(length: number): DataView {
    while (this.buffer.length - this.at < length && this.load());
    return viewOf(this.buffer.subarray(this.at, this.at + length));
  }

  /** A view of the next bytes, consumed. */
  take(length: number): DataView {
    const view = this.peek(length);
    this.at += view.byteLength;
    return view;
  }

  /** Makes sure of the next bytes: they stand in `view` from `offset` on. False: the source ends before. */
  holds(length: number): boolean {
    while (this.buffer.length - this.at < length) if (!this.load()) return false;
    return true;
  }
  /** Of all that is held; another one after more was loaded. */
  get view(): DataView {
    return (this.viewed ??= viewOf(this.buffer));
  }
  get offset(): number {
    return this.at;
  }
  /** After `holds`: the next bytes were read. */
  pass(length: number): void {
    this.at += length;
  }

  /** Passes over bytes without keeping them; false at the end of the source. */
  skip(length: number): boolean {
    let left = length;
    for (;;) {
      const have = Math.min(left, this.buffer.length - this.at);
      this.at += have;
      left -= have;
      if (left === 0) return true;
      if (!this.load()) return false;
    }
  }

  /** Lets the rest pass, so that the hash covers the whole source. */
  drain(): void {
    do this.at = this.buffer.length;
    while (this.load());
  }
}
