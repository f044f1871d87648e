import { createHash } from 'node:crypto';
import { existsSync, lstatSync } from 'node:fs';
import {
  BAG_DECLARATION,
  byCodePoint,
  isMapFile,
  patchReference,
  patchText,
  ProblemError,
  storeReference,
  unportablePaths,
  writeBagInfo,
  writeManifest,
  type FileEntry,
  type LayerState,
  type TextPatch,
  type OnProgress,
} from '@rootmap/core';
import { basename, dirname, join, resolve } from '../disk/native-path.js';
import { createReadStream } from '../disk/files.js';
import { runChange, type RunOptions } from '../changes/run-change.js';
import { isStagedName } from '../changes/staged-name.js';
import { readMaps, type LayerSeen, type MapDamaged, type MapSeen } from '../project/read-maps.js';
import { layerRow, type LayerRow } from '../project/layer-row.js';
import { confinementOf, type RootedScope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import { ZipWriter } from '../zip/zip-writer.js';
import { carriersFor, type Carrier } from './carriers.js';
import { stylesInBundle } from './styles-in-bundle.js';
import { verifyBundle } from './verify.js';

const SOFTWARE = 'Root Map 0.1.0';

/** Already packed; packing again costs time and gains nothing. */
const PACKED = /\.(zip|gz|tgz|7z|rar|png|jpe?g|jp2|kmz|xlsx|docx|odt|pdf|fgb)$/i;
/** Longest root that a receiver is reckoned with: `C:\Users\` and a usual name of folders. */
const RECKONED_ROOT_CHARACTERS = 60;

export interface PackPlan {
  readonly scope: RootedScope;
  readonly damaged: readonly MapDamaged[];
  readonly payload: readonly FileEntry[];
  readonly leftOut: readonly { readonly path: string; readonly why: string }[];
  /** Maps whose absolute references to data inside are written relatively in the bundle. */
  readonly rewritten: ReadonlyMap<string, Buffer>;
  readonly layers: readonly LayerRow[];
  readonly findings: readonly { readonly path: string; readonly why: string }[];
  readonly bytes: number;
}

/** What a bundle of the project would hold, and how its layers will be on arrival. Reads only. */
export function planPack(scope: RootedScope, out?: string): PackPlan {
  const root = scope.root;
  if (!root) throw new ProblemError({ code: 'wrong-use', message: 'A bundle is made of a project folder. Name the folder.' });
  const listing = listFiles(root, { confinedTo: confinementOf(root, scope.places) });
  const target = out === undefined ? null : resolve(out);
  const leftOut = [
    ...listing.nested.map((path) => ({ path, why: 'it is a project of its own' })),
    ...listing.skipped.map(({ path, why }) => ({ path, why })),
  ];
  const payload = listing.files
    .filter((f) => keep(f.path, join(root, f.path) === target, leftOut))
    .sort((a, b) => byCodePoint(a.path, b.path));
  const seen = readMaps({ ...scope, named: root, maps: payload.filter((f) => isMapFile(f.path)).map((f) => join(root, f.path)) });
  for (const map of seen.maps)
    for (const { layer, judgement: j } of map.layers)
      if (j.reach !== 'inside' && j.reach !== 'service')
        leftOut.push({
          path: j.resolved ?? layer.reference?.href ?? layer.title,
          why: j.state === 'adrift' ? `the data of "${layer.title}" was not found` : `the data of "${layer.title}" is outside the root`,
        });
  const rewritten = new Map(
    seen.maps.flatMap((m) => {
      const styles = stylesInBundle(m, scope);
      leftOut.push(...styles.leftOut);
      return rewriteInside(m, styles.patches, scope);
    }),
  );
  const inBag = new Set(payload.map((f) => join(root, f.path)));
  return {
    scope,
    damaged: seen.damaged,
    payload,
    leftOut: dedupe(leftOut),
    rewritten,
    layers: seen.maps.flatMap((m) => m.layers.map((l) => onArrival(m, l, inBag))),
    findings: unportablePaths(
      payload.map((f) => f.path),
      RECKONED_ROOT_CHARACTERS,
    ),
    bytes: payload.reduce((sum, f) => sum + (rewritten.get(join(root, f.path))?.length ?? f.bytes), 0),
  };
}

function keep(path: string, isTarget: boolean, leftOut: { path: string; why: string }[]): boolean {
  const name = basename(path);
  if (isTarget) return false;
  if (isStagedName(name)) return false; // staged by a change that is still running
  if (/-shm$/i.test(name)) return false;
  if (name.startsWith('.')) {
    leftOut.push({ path, why: 'its name begins with a dot' });
    return false;
  }
  return true;
}

const dedupe = (list: readonly { path: string; why: string }[]) => [...new Map(list.map((l) => [`${l.path}\n${l.why}`, l])).values()];

/** Absolute references to data inside the root name one machine; in the bundle they are relative. */
function rewriteInside(map: MapSeen, styles: readonly TextPatch[], scope: RootedScope): [string, Buffer][] {
  const data: TextPatch[] = map.layers.flatMap(({ layer, judgement: j }) => {
    if (j.stored !== 'absolute' || j.reach !== 'inside' || !j.location || !layer.reference) return [];
    return patchReference(layer.reference, storeReference(map.location, j.location, j.table, 'relative', scope.places).href);
  });
  const patches = [...data, ...styles];
  return patches.length ? [[map.path, Buffer.from(patchText(map.file.text, patches), 'utf8')]] : [];
}

function onArrival(map: MapSeen, seen: LayerSeen, inBag: ReadonlySet<string>): LayerRow {
  const row = layerRow(map, seen);
  if (row.reach === 'service' || (row.reach === 'inside' && row.resolved !== null && (inBag.has(row.resolved) || row.state !== 'sound')))
    return row;
  const state: LayerState = 'adrift';
  if (row.state === 'adrift') return row;
  return { ...row, state, reason: row.reach === 'inside' ? 'no-file' : 'outside', detail: 'its data does not travel' };
}

export interface PackResult {
  readonly file: string;
  readonly bytes: number;
  readonly payload: { readonly files: number; readonly bytes: number };
  readonly brought: readonly { readonly from: string; readonly to: string }[];
  readonly leftOut: PackPlan['leftOut'];
  readonly layers: readonly LayerRow[];
  readonly carriers: readonly Carrier[];
}

/** Writes the bundle as a change, reads it back, and only then puts it in its place. Throws where a file changed meanwhile. */
export async function pack(
  plan: PackPlan,
  out: string,
  who: string,
  options: RunOptions,
  progress: OnProgress = () => undefined,
  signal?: AbortSignal,
): Promise<PackResult> {
  const file = resolve(out);
  let bytes = 0;
  const stage = async (staged: string): Promise<void> => {
    bytes = await writeBag(plan, staged, progress, signal);
    const check = await verifyBundle(staged, signal);
    if (!check.valid)
      throw new ProblemError({
        code: 'failed',
        what: 'Reading the bundle back',
        why: check.findings.map((f) => `${f.path} ${f.problem}`).join('; '),
      });
  };
  await runChange(
    { title: `Bundle ${basename(file)}`, kind: 'pack', root: file, who, steps: [{ kind: 'install', path: file }] },
    { ...options, stage },
  );
  return {
    file,
    bytes,
    payload: { files: plan.payload.length, bytes: plan.bytes },
    brought: [],
    leftOut: plan.leftOut,
    layers: plan.layers,
    carriers: carriersFor(bytes),
  };
}

async function writeBag(plan: PackPlan, path: string, progress: OnProgress, signal?: AbortSignal): Promise<number> {
  const root = plan.scope.root;
  const name = plan.scope.project?.name ?? basename(root);
  const newest = Math.max(0, ...plan.payload.map((f) => f.modifiedMs));
  const zip = await ZipWriter.create(path);
  const sums: Checksums[] = [];
  let done = 0;
  try {
    const tag = async (tagName: string, text: string): Promise<Checksums> => {
      const bytes = Buffer.from(text, 'utf8');
      const sum = new Summing();
      sum.update(bytes);
      await zip.add(`${name}/${tagName}`, [bytes], newest, false);
      return sum.of(tagName);
    };
    const info = writeBagInfo({
      baggingDate: new Date(newest).toISOString().slice(0, 10),
      payloadBytes: plan.bytes,
      payloadFiles: plan.payload.length,
      description: plan.scope.project?.title ?? name,
      software: SOFTWARE,
    });
    const tags = [await tag('bag-info.txt', info), await tag('bagit.txt', BAG_DECLARATION)];
    if (plan.payload.length === 0) await zip.addFolder(`${name}/data/`, newest);
    for (const entry of plan.payload) {
      signal?.throwIfAborted();
      const full = join(root, entry.path);
      progress({ done, of: plan.bytes, unit: 'bytes', item: entry.path });
      const sum = new Summing();
      await zip.add(
        `${name}/data/${entry.path}`,
        summed(contentOf(plan, entry, full), sum, signal),
        entry.modifiedMs,
        PACKED.test(entry.path),
      );
      sums.push(sum.of(`data/${entry.path}`));
      done += entry.bytes;
    }
    for (const algorithm of ['sha256', 'sha512'] as const)
      tags.push(await tag(`manifest-${algorithm}.txt`, writeManifest(sums.map((s) => ({ path: s.path, checksum: s[algorithm] })))));
    tags.sort((a, b) => byCodePoint(a.path, b.path));
    for (const algorithm of ['sha256', 'sha512'] as const)
      await tag(`tagmanifest-${algorithm}.txt`, writeManifest(tags.map((s) => ({ path: s.path, checksum: s[algorithm] }))));
    await zip.finish();
    return zip.bytes;
  } catch (error) {
    await zip.abandon();
    throw signal?.aborted ? new ProblemError({ code: 'cancelled', what: 'The bundle' }) : error;
  }
}

/** A file's bytes as they go into the bundle; it must still be the file that was listed, to its last byte. */
async function* contentOf(plan: PackPlan, entry: FileEntry, full: string): AsyncGenerator<Uint8Array> {
  const rewritten = plan.rewritten.get(full);
  if (rewritten) {
    yield rewritten;
    return;
  }
  let bytes = 0;
  for await (const piece of createReadStream(full, { highWaterMark: 1 << 20 })) {
    bytes += (piece as Buffer).length;
    yield piece as Buffer;
  }
  const now = lstatSync(full);
  const isLink = now.isSymbolicLink();
  if (bytes !== entry.bytes || (!isLink && now.mtimeMs !== entry.modifiedMs))
    throw new ProblemError({ code: 'changed-meanwhile', path: full });
}

interface Checksums {
  readonly path: string;
  readonly sha256: string;
  readonly sha512: string;
}
class Summing {
  private readonly a = createHash('sha256');
  private readonly b = createHash('sha512');
  update(bytes: Uint8Array): void {
    this.a.update(bytes);
    this.b.update(bytes);
  }
  of(path: string): Checksums {
    return { path, sha256: this.a.digest('hex'), sha512: this.b.digest('hex') };
  }
}

async function* summed(pieces: AsyncIterable<Uint8Array>, sum: Summing, signal?: AbortSignal): AsyncGenerator<Uint8Array> {
  for await (const piece of pieces) {
    signal?.throwIfAborted();
    sum.update(piece);
    yield piece;
  }
}

export function suggestedBundle(scope: RootedScope): string {
  const stem = join(dirname(scope.root), scope.project?.name ?? basename(scope.root));
  for (let n = 1; ; n++) {
    const file = n === 1 ? `${stem}.zip` : `${stem}_${n}.zip`;
    if (!existsSync(file)) return file;
  }
}
