import { statSync } from 'node:fs';
import {
  byCodePoint,
  checkBag,
  parseBagInfo,
  partsOf,
  SEAL_LABEL,
  ProblemError,
  type ExpectedChecksum,
  type Manifest,
  type OnProgress,
} from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { createReadStream } from '../disk/files.js';
import { onDisk } from '../disk/disk-problem.js';
import { crcOfBoth } from '../zip/crc-of-both.js';
import { END_RECORD_BYTES, endRecord } from '../zip/zip-bytes.js';
import { ZipReader, type ZipEntry } from '../zip/zip-reader.js';
import { listBagFolder } from './bag-folder.js';
import { HELD_BYTES, type CheckTask, type ToCheck } from './check-files.js';
import { ahead, Team } from './team.js';

export interface VerifyResult {
  readonly valid: boolean;
  /** Payload files. */
  readonly files: number;
  readonly bytes: number;
  readonly findings: readonly BagFinding[];
  /** The payload with the SHA-256 that the bag states of each file, which was held against it; empty where it states none. */
  readonly manifest: Manifest;
}
export interface BagFinding {
  readonly path: string;
  readonly problem: string;
}

/** A bag, wherever it is: its files by path in the bag, and a way to read them. */
export interface OpenBag {
  readonly sizes: ReadonlyMap<string, number>;
  readonly refused: readonly BagFinding[];
  /** Null: it is a folder. */
  readonly zip: ZipReader | null;
  /** How the zip's directory has a file; null in a folder. */
  entry(path: string): ZipEntry | null;
  /** Its real path in a folder; null in a zip. */
  file(path: string): string | null;
  modifiedMs(path: string): number;
  stream(path: string): Promise<AsyncIterable<Uint8Array>>;
  close(): void;
}

/** The folder of a bag that holds what it carries. */
export const PAYLOAD = 'data/';

const LONGEST_TAG_BYTES = 256 * 1024 * 1024;

/** Opens a bundle: a zip with the bag at its top or in its one top folder, or a bag's folder. */
export async function openBag(path: string): Promise<OpenBag> {
  const stat = onDisk(path, () => statSync(path));
  return stat.isDirectory() ? openFolder(path) : openZip(path);
}

function openFolder(folder: string): OpenBag {
  const { files, refused } = listBagFolder(folder);
  const byPath = new Map(files.map((f) => [f.path, f]));
  return {
    sizes: new Map(files.map((f) => [f.path, f.bytes])),
    refused,
    zip: null,
    entry: () => null,
    file: (path) => join(folder, path),
    modifiedMs: (path) => byPath.get(path)?.modifiedMs ?? 0,
    stream: (path) => Promise.resolve(createReadStream(join(folder, path))),
    close: () => undefined,
  };
}

async function openZip(path: string): Promise<OpenBag> {
  const zip = await ZipReader.open(path);
  const top = topFolder(zip.entries.map((e) => e.name));
  const inBag = zip.entries.map((e) => ({ ...e, path: e.name.slice(top.length) })).filter((e) => e.path !== '');
  const byPath = new Map(inBag.map((e) => [e.path, e]));
  return {
    sizes: new Map(inBag.map((e) => [e.path, e.bytes])),
    refused: zip.refused,
    zip,
    entry: (p) => byPath.get(p) ?? null,
    file: () => null,
    modifiedMs: (p) => byPath.get(p)?.modifiedMs ?? 0,
    stream: (p) => zip.stream(top + p),
    close: () => zip.close(),
  };
}

/** The one folder around the whole bag, with its slash; empty when the bag is at the top. */
function topFolder(names: readonly string[]): string {
  if (names.includes('bagit.txt')) return '';
  const first = names[0] === undefined ? undefined : partsOf(names[0])[0];
  return first !== undefined && names.length > 0 && names.every((n) => partsOf(n)[0] === first && n !== first) ? `${first}/` : '';
}

export async function readTag(bag: OpenBag, path: string): Promise<string> {
  if ((bag.sizes.get(path) ?? 0) > LONGEST_TAG_BYTES)
    throw new ProblemError({ code: 'too-large', file: path, bytes: bag.sizes.get(path)!, limitBytes: LONGEST_TAG_BYTES });
  const parts: Uint8Array[] = [];
  for await (const piece of await bag.stream(path)) parts.push(piece);
  return Buffer.concat(parts).toString('utf8');
}

export async function verifyBundle(path: string, signal?: AbortSignal, progress?: OnProgress): Promise<VerifyResult> {
  const bag = await openBag(path);
  try {
    return await verifyBag(bag, { signal, progress });
  } finally {
    bag.close();
  }
}

/** What is wrong with the structure, and the checksums that each file must have. */
export interface BagStructure {
  readonly findings: readonly BagFinding[];
  readonly expected: ReadonlyMap<string, readonly ExpectedChecksum[]>;
  /** The bag says that its zip carries a seal over all of it. */
  readonly isSealed: boolean;
}

/** The structure of a bag, before any file of it is read. RFC 8493 section 3. */
export async function structureOf(bag: OpenBag): Promise<BagStructure> {
  const findings: BagFinding[] = [...bag.refused];
  const tags = new Map<string, string>();
  for (const path of bag.sizes.keys())
    if (/^(bagit|bag-info|fetch|manifest-[^/]+|tagmanifest-[^/]+)\.txt$/i.test(path)) {
      try {
        tags.set(path, await readTag(bag, path));
      } catch (error) {
        findings.push({ path, problem: `it cannot be unpacked: ${(error as Error).message}` });
      }
    }
  const { problems, checksums } = checkBag(bag.sizes, (p) => tags.get(p) ?? '');
  findings.push(...problems.map(({ path, problem }) => ({ path, problem })));
  const expected = new Map<string, ExpectedChecksum[]>();
  for (const c of checksums) {
    const list = expected.get(c.path);
    if (list) list.push(c);
    else expected.set(c.path, [c]);
  }
  const info = parseBagInfo(tags.get('bag-info.txt') ?? '');
  return { findings, expected, isSealed: info.some(([label]) => label === SEAL_LABEL) };
}

export interface VerifyOptions {
  readonly signal?: AbortSignal | undefined;
  readonly progress?: OnProgress | undefined;
  /** Known already: it is not read again. */
  readonly structure?: BagStructure;
  /** Where a file goes once it is right; null: nowhere. Its folder must be there. */
  readonly targetOf?: (path: string) => string | null;
}

/** Structure, then every checksum and every head of the zip, each file read once for all of it, on all cores. RFC 8493 section 3. */
export async function verifyBag(bag: OpenBag, options: VerifyOptions = {}): Promise<VerifyResult> {
  const team = new Team(); // its threads start while the structure is read
  try {
    return await verifyWith(team, bag, options);
  } finally {
    await team.close();
  }
}

async function verifyWith(team: Team, bag: OpenBag, options: VerifyOptions): Promise<VerifyResult> {
  const { findings: known, expected, isSealed } = options.structure ?? (await structureOf(bag));
  const findings = [...known];
  const payload = [...bag.sizes].filter(([p]) => p.startsWith(PAYLOAD) && !p.endsWith('/'));
  const bytes = payload.reduce((sum, [, b]) => sum + b, 0);
  const of = [...bag.sizes.values()].reduce((sum, b) => sum + b, 0);
  let done = 0;
  const { tasks, problems } = bag.zip ? tasksOfZip(bag, bag.zip, expected, isSealed, options) : tasksOfFolder(bag, expected, options);
  findings.push(...problems);
  const stop = (): void => void team.close();
  options.signal?.addEventListener('abort', stop);
  try {
    options.signal?.throwIfAborted();
    let crc = 0;
    let length = 0;
    const check = (task: CheckTask) =>
      team.run('check', task, (read) => {
        done += read;
        options.progress?.({ done: Math.min(done, of), of, unit: 'bytes', item: task.files[0]?.path ?? '' });
      });
    for await (const [, checked] of ahead(tasks, 2 * team.size, check)) {
      findings.push(...checked.findings);
      crc = crcOfBoth(crc, checked.crc, checked.length);
      length += checked.length;
    }
    if (bag.zip && isSealed && !isAsSealed(bag.zip, crc, length))
      findings.push({ path: 'the zip', problem: 'it is not as it was written: bytes between or behind its files are others' });
  } finally {
    options.signal?.removeEventListener('abort', stop);
  }
  findings.sort((a, b) => byCodePoint(a.path, b.path));
  return { valid: findings.length === 0, files: payload.length, bytes, findings, manifest: statedSums(expected) };
}

function statedSums(expected: BagStructure['expected']): Manifest {
  const manifest = new Map<string, string>();
  for (const [path, sums] of expected) {
    const sha256 = path.startsWith(PAYLOAD) ? sums.find((s) => s.algorithm === 'sha256')?.checksum : undefined;
    if (sha256 !== undefined) manifest.set(path.slice(PAYLOAD.length), sha256);
  }
  return manifest;
}

/** Where the last record of a zip begins. */
const endOf = (zip: ZipReader): number => zip.fileBytes - zip.comment.length - END_RECORD_BYTES;

/** Whether a zip of ours is as it was written, to its last bit. */
function isAsSealed(zip: ZipReader, crc: number, length: number): boolean {
  return length === endOf(zip) && zip.end().equals(endRecord(crc));
}

interface Tasks {
  readonly tasks: readonly CheckTask[];
  readonly problems: readonly BagFinding[];
}

const MOST_FILES = 400;
const BATCH_BYTES = 4 << 20;

type Expected = BagStructure['expected'];
const toCheck = (bag: OpenBag, path: string, expected: Expected, { targetOf }: VerifyOptions): ToCheck => ({
  path,
  expected: (expected.get(path) ?? []).map(({ algorithm, checksum }) => ({ algorithm, checksum })),
  entry: bag.entry(path),
  file: bag.file(path),
  target: path.endsWith('/') ? null : (targetOf?.(path) ?? null),
  modifiedMs: bag.modifiedMs(path),
});

/** Runs of a zip's entries, in the order in which they stand there. Two that share bytes are refused: no honest zip has them. */
function tasksOfZip(bag: OpenBag, zip: ZipReader, expected: Expected, isSealed: boolean, options: VerifyOptions): Tasks {
  const files = [...bag.sizes.keys()]
    .map((path) => toCheck(bag, path, expected, options))
    .sort((a, b) => a.entry!.offset - b.entry!.offset);
  const problems: BagFinding[] = [];
  const end = isSealed ? endOf(zip) : zip.fileBytes;
  const tasks: CheckTask[] = [];
  let batch: ToCheck[] = [];
  let bytes = 0;
  const flush = (to: number): void => {
    if (batch.length > 0) tasks.push({ zip: zip.path, from: tasks.length === 0 ? 0 : batch[0]!.entry!.offset, to, files: batch });
    batch = [];
    bytes = 0;
  };
  for (const [i, file] of files.entries()) {
    const { offset, packedBytes, bytes: unpacked } = file.entry!;
    const next = files[i + 1]?.entry!.offset ?? end;
    if (offset + packedBytes > next) problems.push({ path: file.path, problem: 'its bytes are those of another file, too' });
    const size = Math.max(unpacked, next - offset);
    if (batch.length >= MOST_FILES || bytes + size > BATCH_BYTES || size > HELD_BYTES) flush(offset);
    batch.push(file);
    bytes += size;
    if (size > HELD_BYTES) flush(next);
  }
  flush(end);
  return problems.length > 0 ? { tasks: [], problems } : { tasks, problems };
}

function tasksOfFolder(bag: OpenBag, expected: Expected, options: VerifyOptions): Tasks {
  const tasks: CheckTask[] = [];
  let batch: ToCheck[] = [];
  let bytes = 0;
  const flush = (): void => {
    if (batch.length > 0) tasks.push({ zip: null, from: 0, to: 0, files: batch });
    batch = [];
    bytes = 0;
  };
  for (const [path, size] of bag.sizes) {
    if (path.endsWith('/')) continue;
    batch.push(toCheck(bag, path, expected, options));
    bytes += size;
    if (batch.length >= MOST_FILES || bytes > BATCH_BYTES) flush();
  }
  flush();
  return { tasks, problems: [] };
}
