import { createHash, type Hash } from 'node:crypto';
import { crc32, createInflateRaw, inflateRawSync, type InflateRaw } from 'node:zlib';
import type { ExpectedChecksum } from '@rootmap/core';
import { closeSync, fstatSync, futimesSync, readSync, writeSync } from '../disk/files.js';
import { openToRead, openToWrite } from '../disk/open.js';
import { DEFLATE, STORE } from '../zip/zip-bytes.js';
import { descriptorProblem, readLocalHeader, type Listed } from '../zip/local-header.js';

/** One file of a bag to be checked, and put at `target` where that is wanted and it is right. */
export interface ToCheck {
  readonly path: string;
  readonly expected: readonly Pick<ExpectedChecksum, 'algorithm' | 'checksum'>[];
  /** Of a zip: how its directory has it. */
  readonly entry: Listed | null;
  /** Of a folder: its real path. */
  readonly file: string | null;
  readonly target: string | null;
  readonly modifiedMs: number;
}

/** Files that stand one behind the other in a zip, with what is between them: bytes `from` to `to`. */
export interface CheckTask {
  readonly zip: string | null;
  readonly from: number;
  readonly to: number;
  readonly files: readonly ToCheck[];
}
export interface Checked {
  readonly findings: readonly { readonly path: string; readonly problem: string }[];
  /** CRC-32 of the bytes of the zip that were read, as they stand there. */
  readonly crc: number;
  readonly length: number;
}

const PIECE_BYTES = 1 << 20;
/** How far unpacking may be ahead. */
const AHEAD_BYTES = 4 << 20;
/** Files up to this size are held whole. */
export const HELD_BYTES = 8 << 20;

export async function checkFiles(task: CheckTask, progress: (bytes: number) => void): Promise<Checked> {
  if (task.zip === null) return { findings: checkFolder(task.files, progress), crc: 0, length: 0 };
  const [only] = task.files;
  const fd = openToRead(task.zip);
  try {
    const isLarge = task.files.length === 1 && Math.max(only!.entry!.bytes, task.to - task.from) > HELD_BYTES;
    return isLarge ? await checkLarge(fd, task, only!, progress) : checkHeld(fd, task, progress);
  } finally {
    closeSync(fd);
  }
}

function readRun(fd: number, from: number, length: number): Buffer {
  const all = Buffer.allocUnsafe(length);
  let done = 0;
  while (done < length) {
    const read = readSync(fd, all, done, length - done, from + done);
    if (read === 0) break;
    done += read;
  }
  return all.subarray(0, done);
}

function checkHeld(fd: number, { from, to, files }: CheckTask, progress: (bytes: number) => void): Checked {
  const run = readRun(fd, from, to - from);
  const findings: { path: string; problem: string }[] = [];
  let bytes = 0;
  for (const file of files) {
    const entry = file.entry!;
    const problem = checkOne(run.subarray(entry.offset - from), entry, file);
    if (problem !== null) findings.push({ path: file.path, problem });
    bytes += entry.bytes;
  }
  progress(bytes);
  return { findings, crc: crc32(run), length: run.length };
}

function checkOne(at: Buffer, entry: Listed, file: ToCheck): string | null {
  const head = readLocalHeader(at, entry);
  if ('problem' in head) return head.problem;
  const packed = at.subarray(head.dataAt, head.dataAt + entry.packedBytes);
  if (packed.length < entry.packedBytes) return 'it is cut off';
  const after = descriptorProblem(at.subarray(head.dataAt + entry.packedBytes), entry);
  if (after !== null) return after;
  if (entry.method !== STORE && entry.method !== DEFLATE) return `it is packed by a method (${entry.method}) that is not read here`;
  let bytes: Buffer;
  try {
    bytes = entry.method === STORE ? packed : inflateRawSync(packed, { maxOutputLength: Math.max(1, entry.bytes) });
  } catch (error) {
    return whyNotUnpacked(error);
  }
  const problem = judge(bytes.length, crc32(bytes), entry, hashesOf(file), (hash) => hash.update(bytes), file);
  if (problem === null && file.target !== null) put(file.target, bytes, file.modifiedMs);
  return problem;
}

const whyNotUnpacked = (error: unknown): string =>
  (error as { code?: string }).code === 'ERR_BUFFER_TOO_LARGE'
    ? 'it unpacks to more than the directory says'
    : `it cannot be unpacked: ${(error as Error).message}`;

const hashesOf = (file: ToCheck): Hash[] => file.expected.map((e) => createHash(e.algorithm));

function judge(
  bytes: number,
  crc: number,
  entry: Listed,
  hashes: readonly Hash[],
  feed: (hash: Hash) => void,
  file: ToCheck,
): string | null {
  if (bytes !== entry.bytes) return `it unpacks to ${bytes} bytes, and the directory says ${entry.bytes}`;
  if (crc !== entry.crc) return 'it cannot be unpacked: its checksum in the zip is another one';
  hashes.forEach(feed);
  return wrongHashes(hashes, file);
}

function wrongHashes(hashes: readonly Hash[], { expected }: ToCheck): string | null {
  const wrong = expected.filter((e, i) => hashes[i]!.digest('hex') !== e.checksum);
  return wrong.length ? `its ${wrong.map((e) => e.algorithm).join(' and ')} is another one than listed` : null;
}

function put(target: string, bytes: Uint8Array, modifiedMs: number): void {
  const fd = openToWrite(target, 'wx');
  try {
    for (let done = 0; done < bytes.length;) done += writeSync(fd, bytes, done, bytes.length - done);
    futimesSync(fd, modifiedMs / 1000, modifiedMs / 1000);
  } finally {
    closeSync(fd);
  }
}

/** What comes out of a large file, piece by piece: counted, hashed, and written where it is wanted. */
class Sink {
  bytes = 0;
  crc = 0;
  readonly hashes: Hash[];
  private readonly fd: number | null;
  constructor(
    private readonly file: ToCheck,
    private readonly progress: (bytes: number) => void,
  ) {
    this.hashes = hashesOf(file);
    this.fd = file.target === null ? null : openToWrite(file.target, 'wx');
  }
  take(piece: Uint8Array): void {
    this.bytes += piece.length;
    this.crc = crc32(piece, this.crc);
    for (const hash of this.hashes) hash.update(piece);
    if (this.fd !== null) for (let done = 0; done < piece.length;) done += writeSync(this.fd, piece, done, piece.length - done);
    this.progress(piece.length);
  }
  close(): void {
    if (this.fd === null) return;
    futimesSync(this.fd, this.file.modifiedMs / 1000, this.file.modifiedMs / 1000);
    closeSync(this.fd);
  }
}

async function checkLarge(fd: number, { from, to }: CheckTask, file: ToCheck, progress: (bytes: number) => void): Promise<Checked> {
  const entry = file.entry!;
  const head = readLocalHeader(readRun(fd, from, Math.min(to - from, 30 + 2 * 0xffff)), entry);
  const dataFrom = 'problem' in head ? to : from + head.dataAt;
  const dataTo = dataFrom + entry.packedBytes;
  let crc = 0;
  let length = 0;
  const packedPieces = function* (): Generator<Buffer> {
    for (let at = from; at < to; at += PIECE_BYTES) {
      const piece = readRun(fd, at, Math.min(PIECE_BYTES, to - at));
      crc = crc32(piece, crc);
      length += piece.length;
      const [start, end] = [Math.max(dataFrom, at), Math.min(dataTo, at + piece.length)];
      if (end > start) yield piece.subarray(start - at, end - at);
      if (piece.length < Math.min(PIECE_BYTES, to - at)) return; // cut off
    }
  };
  const finding = async (): Promise<string | null> => {
    if ('problem' in head) return head.problem;
    if (entry.method !== STORE && entry.method !== DEFLATE) return `it is packed by a method (${entry.method}) that is not read here`;
    const sink = new Sink(file, progress);
    try {
      if (entry.method === STORE) for (const piece of packedPieces()) sink.take(piece);
      else await inflate(packedPieces(), sink, entry.bytes);
    } catch (error) {
      if ((error as { syscall?: string }).syscall !== undefined) throw error; // a full disk is not the bundle's fault
      return whyNotUnpacked(error);
    } finally {
      sink.close();
    }
    return (
      judge(sink.bytes, sink.crc, entry, sink.hashes, () => undefined, file) ??
      descriptorProblem(readRun(fd, dataTo, Math.max(0, Math.min(24, to - dataTo))), entry)
    );
  };
  const problem = await finding();
  for (const piece of restOf(fd, from + length, to)) {
    crc = crc32(piece, crc);
    length += piece.length;
  }
  return { findings: problem === null ? [] : [{ path: file.path, problem }], crc, length };
}

function* restOf(fd: number, from: number, to: number): Generator<Buffer> {
  for (let at = from; at < to; at += PIECE_BYTES) {
    const piece = readRun(fd, at, Math.min(PIECE_BYTES, to - at));
    if (piece.length === 0) return;
    yield piece;
  }
}

/** Reading goes no further ahead than unpacking does. */
async function inflate(pieces: Iterable<Buffer>, sink: Sink, most: number): Promise<void> {
  const how = { chunkSize: PIECE_BYTES, highWaterMark: AHEAD_BYTES }; // the second is for the stream, which goes on while hashes are made
  const inflater: InflateRaw = createInflateRaw(how);
  const feed = async (): Promise<void> => {
    for (const piece of pieces) if (!inflater.write(piece)) await new Promise<void>((resume) => inflater.once('drain', resume));
    inflater.end();
  };
  const feeding = feed();
  feeding.catch((error: Error) => inflater.destroy(error));
  for await (const piece of inflater as AsyncIterable<Buffer>) {
    sink.take(piece);
    if (sink.bytes > most) throw Object.assign(new Error('too much'), { code: 'ERR_BUFFER_TOO_LARGE' });
  }
  await feeding;
}

/** Files that stand by themselves in a bag's folder. */
function checkFolder(files: readonly ToCheck[], progress: (bytes: number) => void): Checked['findings'] {
  const findings: { path: string; problem: string }[] = [];
  for (const file of files) {
    const fd = openToRead(file.file!);
    try {
      const sink = new Sink(file, progress);
      for (const piece of restOf(fd, 0, fstatSync(fd).size)) sink.take(piece);
      sink.close();
      const problem = wrongHashes(sink.hashes, file);
      if (problem !== null) findings.push({ path: file.path, problem });
    } finally {
      closeSync(fd);
    }
  }
  return findings;
}
