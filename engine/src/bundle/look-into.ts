import { existsSync } from 'node:fs';
import {
  explain,
  folderOf,
  isMapFile,
  isProjectFile,
  nameOf,
  parseBagInfo,
  parseManifest,
  parseMapFile,
  parseProjectFile,
  parseReference,
  printAddress,
  ProblemError,
  type Before,
  type Manifest,
} from '@rootmap/core';
import type { BundleView } from '@rootmap/core/contract';
import { dirname, basename, join } from '../disk/native-path.js';
import { MOST_NOTE_BYTES, readFileSync } from '../disk/files.js';
import type { PackPlan } from './pack-plan.js';
import { sha256Of } from './sha256-of.js';
import { openBag, PAYLOAD, readTag, structureOf, type BagFinding, type OpenBag } from './verify.js';

/** What a bundle says of itself, before anything of it is unpacked. Its checksums are not checked yet. */
export interface BundleLook extends Omit<BundleView, 'here'> {
  /** Id of the project in it; null: there is none. */
  readonly projectId: string | null;
}

const LARGEST_MAP_BYTES = 64 << 20;
/** All maps that are read together; a bundle that claims more is looked into as far as that. */
const MOST_MAP_BYTES = 256 << 20;
const LARGEST_READ_ME_BYTES = 1 << 20;

export async function lookIntoBundle(path: string): Promise<BundleLook> {
  const bag = await openBag(path);
  try {
    const { findings } = await structureOf(bag);
    const paths = [...bag.sizes.keys()].filter((p) => p.startsWith(PAYLOAD) && !p.endsWith('/'));
    const text = (tag: string): Promise<string> => (bag.sizes.has(tag) ? readTag(bag, tag) : Promise.resolve(''));
    const info = new Map(parseBagInfo(await text('bag-info.txt')));
    const projectPath = paths.find((p) => isProjectFile(p) && folderOf(p) === 'data');
    const parsed = projectPath ? parseProjectFile(projectPath, await readTag(bag, projectPath)) : null;
    const project = parsed?.ok ? parsed.value : null;
    const maps = await mapsOf(bag, mapsToRead(bag, paths));
    return {
      title: project?.title ?? info.get('External-Description') ?? basename(path),
      projectId: project?.id ?? null,
      name: project?.name ?? basename(path).replace(/\.zip$/i, ''),
      files: paths.length,
      bytes: paths.reduce((sum, p) => sum + bag.sizes.get(p)!, 0),
      bagged: info.get('Bagging-Date') ?? '',
      software: info.get('Bag-Software-Agent') ?? '',
      receipt: receiptBeside(path),
      ...maps,
      readMe: (bag.sizes.get('READ_ME.txt') ?? 0) <= LARGEST_READ_ME_BYTES ? await text('READ_ME.txt') : '',
      findings: [...findings, ...maps.findings],
    };
  } finally {
    bag.close();
  }
}

function mapsToRead(bag: OpenBag, paths: readonly string[]): string[] {
  let bytes = 0;
  return paths.filter((p) => isMapFile(p) && bag.sizes.get(p)! <= LARGEST_MAP_BYTES && (bytes += bag.sizes.get(p)!) <= MOST_MAP_BYTES);
}

async function mapsOf(bag: OpenBag, paths: readonly string[]): Promise<Pick<BundleLook, 'maps' | 'services' | 'drives' | 'findings'>> {
  const maps: BundleLook['maps'][number][] = [];
  const services = new Map<string, { title: string; address: string }>();
  const drives = new Map<string, number>();
  const findings: BagFinding[] = [];
  for (const path of paths) {
    const parsed = parseMapFile(nameOf(path), await readTag(bag, path));
    if (!parsed.ok) {
      findings.push({ path, problem: explain(parsed.problem) });
      continue;
    }
    maps.push({ path: path.slice(PAYLOAD.length), title: parsed.value.title, layers: parsed.value.layers.length });
    for (const { reference, title } of parsed.value.layers) {
      const read = reference && parseReference(reference.href);
      if (!read || !read.ok) continue;
      if (read.value.kind === 'service') services.set(reference.href, { title, address: reference.href });
      else if (read.value.kind === 'absolute') {
        const { address } = read.value;
        const name = printAddress({ ...address, segments: address.flavour === 'posix' ? address.segments.slice(0, 2) : [] });
        drives.set(name, (drives.get(name) ?? 0) + 1);
      }
    }
  }
  return { maps, services: [...services.values()], drives: [...drives].map(([name, layers]) => ({ name, layers })), findings };
}

function receiptBeside(path: string): BundleLook['receipt'] {
  const file = join(dirname(path), `${basename(path).replace(/\.zip$/i, '')}.receipt.json`);
  if (!existsSync(file)) return null;
  try {
    const { sentBy, made } = JSON.parse(readFileSync(file, 'utf8', MOST_NOTE_BYTES)) as { sentBy?: unknown; made?: unknown };
    return typeof sentBy === 'string' && typeof made === 'string' ? { sentBy, made } : null;
  } catch (error) {
    if (error instanceof SyntaxError || error instanceof ProblemError) return null; // it is no receipt of ours
    throw error;
  }
}

/** The payload of a bundle by path, with the SHA-256 that its manifest states; empty where it has no such manifest. */
export async function manifestOf(bag: OpenBag): Promise<Manifest> {
  const tag = [...bag.sizes.keys()].find((p) => /^manifest-sha-?256\.txt$/i.test(p));
  const lines = tag === undefined ? [] : parseManifest(await readTag(bag, tag));
  return new Map(lines.flatMap((l) => (l?.path.startsWith(PAYLOAD) ? [[l.path.slice(PAYLOAD.length), l.checksum] as const] : [])));
}

/** What a project and its bundle hold right after it was received. */
export const editionReceived = (manifest: Manifest): Before => ({ here: manifest, bundle: manifest });

/** What stood here when a bundle was made, of all that went in, as it was before it was rewritten for the bundle; and the bundle's own. */
export async function editionSent(plan: PackPlan, sent: Manifest): Promise<Before> {
  const here = new Map<string, string>();
  for (const file of plan.payload) {
    if (file.from !== 'inside' || file.source === null) continue;
    const isAsItIs = file.content === null && !plan.tablesOut.has(file.source);
    const hash = isAsItIs ? sent.get(file.to) : await sha256Of(file.source);
    if (hash !== undefined) here.set(file.asIs, hash);
  }
  return { here, bundle: sent };
}
