import { createHash } from 'node:crypto';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { joined, partsOf } from '@rootmap/core';
import type { DataPackage } from '@rootmap/core';
import { dirname, join } from '../disk/native-path.js';
import { createReadStream, createWriteStream, mkdirSync, utimesSync, writeFileSync } from '../disk/files.js';
import type { Archive, ArchiveEntry } from '../archive/archive.js';
import { openArchive } from '../archive/open-archive.js';
import type { RunOptions } from '../changes/run-change.js';
import { listFiles } from '../survey/list-files.js';
import type { IntakePlan } from './plan-intake.js';

const READ_ONLY = 0o444;
const USUAL = 0o644;

/** An archive, or a folder of dropped files read as if it were one. */
export async function openSource(path: string, isFolder: boolean): Promise<Archive> {
  if (!isFolder) return openArchive(path);
  const { files } = listFiles(path, { confinedTo: path });
  return {
    entries: files,
    refused: [],
    read: async (wanted, take) => {
      for (const f of files) if (wanted.has(f.path)) await take(f, createReadStream(join(path, f.path)));
    },
    close: () => undefined,
  };
}

/** All of an archive into a folder of our own, so that its datasets can be read. */
export async function unpackWhole(file: string, folder: string): Promise<void> {
  mkdirSync(folder, { recursive: true });
  const archive = await openArchive(file);
  try {
    await archive.read(new Set(archive.entries.map((e) => e.path)), async (entry, content) => {
      const path = join(folder, ...partsOf(entry.path));
      mkdirSync(dirname(path), { recursive: true });
      await pipeline(content, createWriteStream(path));
    });
  } finally {
    archive.close();
  }
}

/**
 * Fills the staged paths of an intake, straight from the archive: every byte is written once. Checksums are verified on the
 * way. Originals are made read-only before anybody sees them.
 */
export function unpackInto(
  plan: IntakePlan,
  archive: Archive,
  onBytes: (bytes: number, item: string) => void,
  signal: AbortSignal,
): NonNullable<RunOptions['stageAll']> {
  const to = new Map(plan.files.map((f) => [f.from, f.to]));
  const mode = plan.isOriginal ? READ_ONLY : USUAL;
  return async (installs) => {
    const staged = new Map(installs.map((i) => [i.target, i.staged]));
    const pathFor = (target: string): string =>
      plan.isWhole ? join(staged.get(plan.target)!, target) : staged.get(join(plan.target, target))!;
    const made = new Set<string>();
    const hashes = new Map<string, string>();
    const write = async (entry: ArchiveEntry, content: Readable): Promise<void> => {
      signal.throwIfAborted();
      const path = pathFor(to.get(entry.path)!);
      if (plan.isWhole && !made.has(dirname(path))) {
        mkdirSync(dirname(path), { recursive: true });
        made.add(dirname(path));
      }
      const hash = createHash('sha256');
      content.on('data', (piece: Buffer) => {
        hash.update(piece);
        onBytes(piece.length, entry.path);
      });
      await pipeline(content, createWriteStream(path, { flags: 'wx', mode, highWaterMark: 1 << 20 }), { signal });
      hashes.set(to.get(entry.path)!, `sha256:${hash.digest('hex')}`);
      if (entry.modifiedMs > 0) utimesSync(path, entry.modifiedMs / 1000, entry.modifiedMs / 1000);
    };
    if (plan.isWhole) mkdirSync(staged.get(plan.target)!, { recursive: true });
    await archive.read(new Set(to.keys()), write);
    for (const [path, text] of plan.records)
      if (plan.isWhole || staged.has(join(plan.target, path))) writeFileSync(pathFor(path), withHashes(text, path, hashes));
  };
}

/** The record with the hash of each file, as it came out of the archive. */
function withHashes(text: string, path: string, hashes: ReadonlyMap<string, string>): string {
  const beside = partsOf(path).slice(0, -1);
  const record = JSON.parse(text) as DataPackage;
  const resources = record.resources.map((resource) => {
    const files = resource['rootmap:files'];
    if (!Array.isArray(files)) return resource;
    return {
      ...resource,
      'rootmap:files': (files as string[]).map((name) => ({ path: name, hash: hashes.get(joined([...beside, name])) })),
    };
  });
  return `${JSON.stringify({ ...record, resources }, null, 2)}\n`;
}
