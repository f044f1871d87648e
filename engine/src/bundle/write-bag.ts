import { createHash } from 'node:crypto';
import { statSync } from 'node:fs';
import { crc32 } from 'node:zlib';
import {
  BAG_DECLARATION,
  byCodePoint,
  ProblemError,
  readMeHtml,
  readMeText,
  writeBagInfo,
  writeManifest,
  type OnProgress,
} from '@rootmap/core';
import { basename, dirname, join } from '../disk/native-path.js';
import { createReadStream, mkdirSync, utimesSync, writeFileSync } from '../disk/files.js';
import { deflated, ZipWriter } from '../zip/zip-writer.js';
import type { BundleFile } from './bundle-file.js';
import type { ToCopy } from './copy-files.js';
import type { ToPack } from './pack-files.js';
import { isPacked } from './packed-size.js';
import type { PackPlan } from './pack-plan.js';
import { readMeOf } from './read-me-of.js';
import { ahead, Team } from './team.js';

const SOFTWARE = 'Root Map 0.1.0';

interface Checksums {
  readonly path: string;
  readonly sha256: string;
  readonly sha512: string;
}
const sumsOf = (path: string, bytes: Uint8Array): Checksums => ({
  path,
  sha256: createHash('sha256').update(bytes).digest('hex'),
  sha512: createHash('sha512').update(bytes).digest('hex'),
});

/** Tag files that stand before the payload, and those that follow from its checksums, each with its text. */
class Tags {
  private readonly sums: Checksums[] = [];
  constructor(private readonly put: (name: string, bytes: Buffer) => Promise<void>) {}

  private async add(name: string, text: string): Promise<void> {
    const bytes = Buffer.from(text, 'utf8');
    await this.put(name, bytes);
    this.sums.push(sumsOf(name, bytes));
  }

  async begin(plan: PackPlan, isSealed: boolean): Promise<void> {
    const name = plan.scope.project?.name ?? basename(plan.scope.root);
    const readMe = readMeOf(plan);
    await this.add('READ_ME.html', readMeHtml(readMe));
    await this.add('READ_ME.txt', readMeText(readMe));
    const info = writeBagInfo({
      baggingDate: new Date(newestOf(plan)).toISOString().slice(0, 10),
      payloadBytes: plan.bytes,
      payloadFiles: plan.payload.length,
      description: plan.scope.project?.title ?? name,
      software: SOFTWARE,
      isSealed,
    });
    await this.add('bag-info.txt', info);
    await this.add('bagit.txt', BAG_DECLARATION);
  }

  async end(payload: readonly Checksums[]): Promise<void> {
    for (const algorithm of ['sha256', 'sha512'] as const)
      await this.add(`manifest-${algorithm}.txt`, writeManifest(payload.map((s) => ({ path: s.path, checksum: s[algorithm] }))));
    const sorted = [...this.sums].sort((a, b) => byCodePoint(a.path, b.path));
    for (const algorithm of ['sha256', 'sha512'] as const)
      await this.add(`tagmanifest-${algorithm}.txt`, writeManifest(sorted.map((s) => ({ path: s.path, checksum: s[algorithm] }))));
  }
}

const newestOf = (plan: PackPlan): number => Math.max(0, ...plan.payload.map((f) => f.modifiedMs));

/** More than this goes through piece by piece; less is held whole. */
const HELD_BYTES = 8 << 20;
const BATCH_BYTES = 4 << 20;
const MOST_FILES = 400;

/** Files in order, dealt out: many small ones together, each large one alone. */
function batchesOf(files: readonly BundleFile[]): BundleFile[][] {
  const batches: BundleFile[][] = [];
  let batch: BundleFile[] = [];
  let bytes = 0;
  for (const file of files) {
    const isLarge = file.bytes > HELD_BYTES;
    if (batch.length > 0 && (isLarge || batch.length >= MOST_FILES || bytes + file.bytes > BATCH_BYTES)) {
      batches.push(batch);
      batch = [];
      bytes = 0;
    }
    if (isLarge) batches.push([file]);
    else {
      batch.push(file);
      bytes += file.bytes;
    }
  }
  if (batch.length > 0) batches.push(batch);
  return batches;
}

const toPack = (f: BundleFile): ToPack => ({
  source: f.content ? null : f.source,
  content: f.content,
  bytes: f.sourceBytes,
  modifiedMs: f.modifiedMs,
  stored: isPacked(f.to),
});

/** The bag in a zip. Gives its bytes. */
export async function writeBag(plan: PackPlan, path: string, progress: OnProgress, signal?: AbortSignal): Promise<number> {
  const name = plan.scope.project?.name ?? basename(plan.scope.root);
  const newest = newestOf(plan);
  const zip = await ZipWriter.create(path);
  const team = new Team();
  const stop = (): void => void team.close();
  signal?.addEventListener('abort', stop);
  const sums: Checksums[] = [];
  let done = 0;
  const tags = new Tags((tag, bytes) => zip.add(`${name}/${tag}`, pieces(bytes), newest, false));
  try {
    signal?.throwIfAborted();
    await tags.begin(plan, true);
    if (plan.payload.length === 0) await zip.addFolder(`${name}/data/`, newest);
    const packed = (batch: readonly BundleFile[]) =>
      batch[0]!.bytes > HELD_BYTES && !batch[0]!.content ? Promise.resolve(null) : team.run('pack', { files: batch.map(toPack) });
    for await (const [batch, reply] of ahead(batchesOf(plan.payload), 2 * team.size + 1, packed)) {
      signal?.throwIfAborted();
      progress({ done, of: plan.bytes, unit: 'bytes', item: batch[0]!.to });
      if (reply === null) {
        const [large] = batch;
        sums.push(
          await addLarge(
            zip,
            `${name}/data/${large!.to}`,
            large!,
            (bytes) => progress({ done: done + bytes, of: plan.bytes, unit: 'bytes', item: large!.to }),
            signal,
          ),
        );
      } else
        for (const [i, p] of reply.files.entries()) {
          const file = batch[i]!;
          const data = reply.data.subarray(p.at, p.at + p.packed);
          await zip.addPacked(`${name}/data/${file.to}`, { crc: p.crc, bytes: p.bytes, data, stored: isPacked(file.to) }, file.modifiedMs);
          sums.push({ path: `data/${file.to}`, sha256: p.sha256, sha512: p.sha512 });
        }
      done += batch.reduce((sum, f) => sum + f.bytes, 0);
    }
    await tags.end(sums);
    await zip.finish();
    return zip.bytes;
  } catch (error) {
    await zip.abandon();
    throw signal?.aborted ? new ProblemError({ code: 'cancelled', what: 'The bundle' }) : error;
  } finally {
    signal?.removeEventListener('abort', stop);
    await team.close();
  }
}

const PIECE_BYTES = 1 << 18;
function* pieces(bytes: Buffer): Generator<Buffer> {
  for (let at = 0; at < bytes.length; at += PIECE_BYTES) yield bytes.subarray(at, at + PIECE_BYTES);
}

/** A large file goes through in pieces: hashed here, packed by the pool of the system library; it must stay as it was listed. */
async function addLarge(
  zip: ZipWriter,
  name: string,
  file: BundleFile,
  onBytes: (bytes: number) => void,
  signal?: AbortSignal,
): Promise<Checksums> {
  const a = createHash('sha256');
  const b = createHash('sha512');
  let crc = 0;
  let bytes = 0;
  const read = async function* (): AsyncGenerator<Uint8Array> {
    for await (const piece of createReadStream(file.source!, { highWaterMark: PIECE_BYTES })) {
      signal?.throwIfAborted();
      const part = piece as Buffer;
      a.update(part);
      b.update(part);
      crc = crc32(part, crc);
      bytes += part.length;
      onBytes(bytes);
      yield part;
    }
  };
  const stored = isPacked(file.to);
  await zip.addPieces(name, stored ? read() : deflated(read()), () => ({ crc, bytes }), file.modifiedMs, stored);
  const now = statSync(file.source!);
  if (bytes !== file.sourceBytes || now.size !== bytes || now.mtimeMs !== file.modifiedMs)
    throw new ProblemError({ code: 'changed-meanwhile', path: file.source! });
  return { path: `data/${file.to}`, sha256: a.digest('hex'), sha512: b.digest('hex') };
}

/** The bag as a folder; nothing may stand there. */
export async function writeFolder(plan: PackPlan, folder: string, progress: OnProgress, signal?: AbortSignal): Promise<void> {
  const newest = newestOf(plan);
  const team = new Team();
  const stop = (): void => void team.close();
  signal?.addEventListener('abort', stop);
  let done = 0;
  try {
    mkdirSync(join(folder, 'data'), { recursive: true });
    const tags = new Tags((name, bytes) => {
      writeFileSync(join(folder, name), bytes);
      utimesSync(join(folder, name), newest / 1000, newest / 1000);
      return Promise.resolve();
    });
    await tags.begin(plan, false);
    for (const made of new Set(plan.payload.map((f) => dirname(join(folder, 'data', f.to))))) mkdirSync(made, { recursive: true });
    const toCopy = (f: BundleFile): ToCopy => ({ ...toPack(f), target: join(folder, 'data', f.to) });
    const copy = (batch: readonly BundleFile[]) =>
      team.run('copy', { files: batch.map(toCopy) }, (bytes) => {
        done += bytes;
        progress({ done, of: plan.bytes, unit: 'bytes', item: batch[0]!.to });
      });
    const sums: Checksums[] = [];
    for await (const [batch, copied] of ahead(batchesOf(plan.payload), 2 * team.size, copy))
      copied.forEach((sum, i) => sums.push({ path: `data/${batch[i]!.to}`, ...sum }));
    await tags.end(sums);
  } catch (error) {
    throw signal?.aborted ? new ProblemError({ code: 'cancelled', what: 'The copy' }) : error;
  } finally {
    signal?.removeEventListener('abort', stop);
    await team.close();
  }
}
