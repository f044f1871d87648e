import { constants, crc32, deflateRaw } from 'node:zlib';
import { openNew, type FileHandle } from '../disk/files.js';
import { crcOfBoth } from './crc-of-both.js';
import { centralHeader, DEFLATE, endRecord, endRecords64, localHeader, STORE, type Written } from './zip-bytes.js';

/** Bytes are gathered to as many before they are written. */
const GATHER_BYTES = 1 << 20;

/** An entry that is packed already. */
export interface PackedEntry {
  readonly crc: number;
  readonly bytes: number;
  readonly data: Uint8Array;
  readonly stored: boolean;
}

/**
 * Writes a zip front to back, always with zip64 records, names in UTF-8, times in UTC, and a seal over all of it as its
 * comment. The same input gives the same bytes.
 */
export class ZipWriter {
  private at = 0;
  private crc = 0;
  private readonly gathered: Buffer[] = [];
  private gatheredBytes = 0;
  private writtenTo = 0;
  private readonly entries: Written[] = [];
  private constructor(private readonly file: FileHandle) {}

  /** A new file; nothing may stand there. */
  static async create(path: string): Promise<ZipWriter> {
    return new ZipWriter(await openNew(path));
  }

  get bytes(): number {
    return this.at;
  }

  /** Counts for the seal, and for where things stand; written when enough has come together. */
  private async write(data: Uint8Array): Promise<void> {
    this.crc = crc32(data, this.crc);
    this.at += data.length;
    this.gathered.push(Buffer.from(data.buffer, data.byteOffset, data.byteLength));
    this.gatheredBytes += data.length;
    if (this.gatheredBytes >= GATHER_BYTES) await this.flush();
  }

  private async flush(): Promise<void> {
    const all = this.gathered.length === 1 ? this.gathered[0]! : Buffer.concat(this.gathered);
    this.gathered.length = 0;
    this.gatheredBytes = 0;
    for (let done = 0; done < all.length;)
      done += (await this.file.write(all, done, all.length - done, this.writtenTo + done)).bytesWritten;
    this.writtenTo += all.length;
  }

  /** Adds a file that was packed by somebody else. */
  async addPacked(name: string, { crc, bytes, data, stored }: PackedEntry, modifiedMs: number): Promise<void> {
    const entry = { name: Buffer.from(name, 'utf8'), method: stored ? STORE : DEFLATE, modifiedMs, isFolder: false, offset: this.at };
    await this.write(localHeader(entry, crc, data.length, bytes));
    await this.write(data);
    this.entries.push({ ...entry, crc, packed: data.length, bytes });
  }

  /**
   * Adds a file of which pieces come that are packed already; what they are is known when the last has come. Its head is
   * written again then.
   */
  async addPieces(
    name: string,
    pieces: AsyncIterable<Uint8Array>,
    known: () => { readonly crc: number; readonly bytes: number },
    modifiedMs: number,
    stored: boolean,
  ): Promise<void> {
    const entry = { name: Buffer.from(name, 'utf8'), method: stored ? STORE : DEFLATE, modifiedMs, isFolder: false, offset: this.at };
    const before = this.crc;
    const placeholder = localHeader(entry, 0, 0, 0);
    await this.write(placeholder);
    await this.flush();
    const dataAt = this.at;
    this.crc = 0;
    for await (const piece of pieces) await this.write(piece);
    const packed = this.at - dataAt;
    const { crc, bytes } = known();
    const header = localHeader(entry, crc, packed, bytes);
    this.crc = crcOfBoth(crc32(header, before), this.crc, packed);
    await this.file.write(header, 0, header.length, entry.offset);
    this.entries.push({ ...entry, crc, packed, bytes });
  }

  /** Adds a file from a stream of pieces; `stored` leaves it unpacked, as suits what is packed already. */
  async add(name: string, pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array>, modifiedMs: number, stored: boolean): Promise<void> {
    let crc = 0;
    let bytes = 0;
    const counted = async function* (): AsyncGenerator<Uint8Array> {
      for await (const piece of pieces) {
        crc = crc32(piece, crc);
        bytes += piece.length;
        yield piece;
      }
    };
    await this.addPieces(name, stored ? counted() : deflated(counted()), () => ({ crc, bytes }), modifiedMs, stored);
  }

  /** Adds a folder that would not exist otherwise; `name` ends with `/`. */
  async addFolder(name: string, modifiedMs: number): Promise<void> {
    const entry = { name: Buffer.from(name, 'utf8'), method: STORE, modifiedMs, isFolder: true, offset: this.at };
    await this.write(localHeader(entry, 0, 0, 0));
    this.entries.push({ ...entry, crc: 0, packed: 0, bytes: 0 });
  }

  /** Writes the directory, brings all to the disk and closes. */
  async finish(): Promise<void> {
    const start = this.at;
    for (const entry of this.entries) await this.write(centralHeader(entry));
    await this.write(endRecords64(this.entries.length, start, this.at - start));
    await this.write(endRecord(this.crc));
    await this.flush();
    await this.file.sync();
    await this.file.close();
  }

  /** Closes without finishing, after a failure. */
  async abandon(): Promise<void> {
    await this.file.close();
  }
}

const PIECE_BYTES = 1 << 20;
/** As far back as deflate looks. */
const WINDOW_BYTES = 1 << 15;
/** Pieces that are being packed at a time: as many as the system library's pool has threads by itself. */
const AHEAD = 4;

const packPiece = (piece: Uint8Array, dictionary: Uint8Array | null, isLast: boolean): Promise<Uint8Array> =>
  new Promise((resolve, reject) =>
    deflateRaw(
      piece,
      { level: 6, finishFlush: isLast ? constants.Z_FINISH : constants.Z_SYNC_FLUSH, ...(dictionary ? { dictionary } : {}) },
      (error, packed) => (error ? reject(error) : resolve(packed)),
    ),
  );

/**
 * One raw deflate stream, of which several pieces are packed at the same time: each is given what stands before it as its
 * dictionary and ends at a byte (RFC 1951 allows both), so that they can stand one behind the other. The same bytes give the
 * same stream, however they come.
 */
export async function* deflated(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  const running: Promise<Uint8Array>[] = [];
  let before: Uint8Array | null = null;
  let waiting: Uint8Array | null = null;
  const begin = (piece: Uint8Array, isLast: boolean): void => {
    const packed = packPiece(piece, before, isLast);
    packed.catch(() => undefined); // it is thrown where it is taken
    running.push(packed);
    before = piece.subarray(Math.max(0, piece.length - WINDOW_BYTES));
  };
  for await (const piece of evenly(pieces)) {
    if (waiting !== null) begin(waiting, false);
    waiting = piece;
    if (running.length >= AHEAD) yield await running.shift()!;
  }
  begin(waiting ?? new Uint8Array(), true);
  while (running.length > 0) yield await running.shift()!;
}

/** The same bytes in pieces of one size. */
async function* evenly(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let parts: Uint8Array[] = [];
  let bytes = 0;
  for await (const piece of pieces) {
    let rest = piece;
    while (bytes + rest.length >= PIECE_BYTES) {
      const taken = PIECE_BYTES - bytes;
      yield Buffer.concat([...parts, rest.subarray(0, taken)], PIECE_BYTES);
      rest = rest.subarray(taken);
      parts = [];
      bytes = 0;
    }
    if (rest.length > 0) parts.push(rest);
    bytes += rest.length;
  }
  if (bytes > 0) yield Buffer.concat(parts, bytes);
}
