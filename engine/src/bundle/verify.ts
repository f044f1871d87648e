import { createHash } from 'node:crypto';
import { statSync } from 'node:fs';
import { byCodePoint, checkBag, explain, ProblemError, type ExpectedChecksum, partsOf } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { createReadStream } from '../disk/files.js';
import { onDisk } from '../disk/disk-problem.js';
import { listBagFolder } from './bag-folder.js';
import { ZipReader } from '../zip/zip-reader.js';

export interface VerifyResult {
  readonly valid: boolean;
  /** Payload files. */
  readonly files: number;
  readonly bytes: number;
  readonly findings: readonly { readonly path: string; readonly problem: string }[];
}

/** A bag, wherever it is: its files by path in the bag, and a way to read them. */
export interface OpenBag {
  readonly sizes: ReadonlyMap<string, number>;
  readonly refused: readonly { readonly path: string; readonly problem: string }[];
  modifiedMs(path: string): number;
  stream(path: string): Promise<AsyncIterable<Uint8Array>>;
  close(): void;
}

const LONGEST_TAG_BYTES = 256 * 1024 * 1024;

/** Opens a bundle: a zip with the bag at its top or in its one top folder, or a bag's folder. */
export async function openBag(path: string): Promise<OpenBag> {
  const stat = onDisk(path, () => statSync(path));
  return stat.isDirectory() ? openFolder(path) : openZip(path);
}

function openFolder(folder: string): OpenBag {
  const { files, refused } = listBagFolder(folder);
  return {
    sizes: new Map(files.map((f) => [f.path, f.bytes])),
    refused,
    modifiedMs: (path) => files.find((f) => f.path === path)?.modifiedMs ?? 0,
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

async function readTag(bag: OpenBag, path: string): Promise<string> {
  if ((bag.sizes.get(path) ?? 0) > LONGEST_TAG_BYTES)
    throw new ProblemError({ code: 'too-large', file: path, bytes: bag.sizes.get(path)!, limitBytes: LONGEST_TAG_BYTES });
  const parts: Uint8Array[] = [];
  for await (const piece of await bag.stream(path)) parts.push(piece);
  return Buffer.concat(parts).toString('utf8');
}

export async function verifyBundle(path: string, signal?: AbortSignal): Promise<VerifyResult> {
  const bag = await openBag(path);
  try {
    return await verifyBag(bag, signal);
  } finally {
    bag.close();
  }
}

/** Structure, then every checksum, each file read once for all its algorithms. RFC 8493 section 3. */
export async function verifyBag(bag: OpenBag, signal?: AbortSignal): Promise<VerifyResult> {
  const findings: { path: string; problem: string }[] = [...bag.refused];
  const tags = new Map<string, string>();
  for (const path of bag.sizes.keys())
    if (/^(bagit|bag-info|fetch|manifest-[^/]+|tagmanifest-[^/]+)\.txt$/i.test(path)) tags.set(path, await readTag(bag, path));
  const { problems, checksums } = checkBag(bag.sizes, (p) => tags.get(p) ?? '');
  findings.push(...problems.map(({ path, problem }) => ({ path, problem })));
  const byPath = new Map<string, ExpectedChecksum[]>();
  for (const c of checksums) byPath.set(c.path, [...(byPath.get(c.path) ?? []), c]);
  for (const [path, expected] of byPath) {
    signal?.throwIfAborted();
    const wrong = await wrongChecksums(bag, path, expected);
    if (wrong) findings.push({ path, problem: wrong });
  }
  const payload = [...bag.sizes].filter(([p]) => p.startsWith('data/') && !p.endsWith('/'));
  return {
    valid: findings.length === 0,
    files: payload.length,
    bytes: payload.reduce((sum, [, bytes]) => sum + bytes, 0),
    findings: findings.sort((a, b) => byCodePoint(a.path, b.path)),
  };
}

async function wrongChecksums(bag: OpenBag, path: string, expected: readonly ExpectedChecksum[]): Promise<string | null> {
  const hashes = expected.map((e) => createHash(e.algorithm));
  try {
    for await (const piece of await bag.stream(path)) for (const hash of hashes) hash.update(piece);
  } catch (error) {
    return error instanceof ProblemError ? explain(error.problem) : `it cannot be unpacked: ${(error as Error).message}`;
  }
  const wrong = expected.filter((e, i) => hashes[i]!.digest('hex') !== e.checksum);
  return wrong.length ? `its ${wrong.map((e) => e.algorithm).join(' and ')} is another one than listed` : null;
}
