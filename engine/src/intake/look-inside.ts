import { existsSync, statSync } from 'node:fs';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import {
  explain,
  groupFiles,
  isLitter,
  licenceWithin,
  DEFAULT_NAMING,
  ProblemError,
  proposeName,
  splitName,
  readMetadata,
  wrapperOf,
  type FileEntry,
  type FileGroup,
  type Origin,
  type ToldOrigin,
} from '@rootmap/core';
import type { IntakeGroup, IntakeView } from '@rootmap/core/contract';
import { basename, dirname, join } from '../disk/native-path.js';
import { createWriteStream, mkdirSync, readFileSync, rmSync, writeFileSync } from '../disk/files.js';
import { newScratch } from '../disk/scratch.js';
import type { Archive } from '../archive/archive.js';
import { foundCrs } from '../crs/facts-of.js';
import { openArchive } from '../archive/open-archive.js';
import { surveyFolder } from '../survey/list-datasets.js';
import { listFiles } from '../survey/list-files.js';

/** What the archive itself tells; the rest is told by where it is and where it goes. */
export type Inside = Omit<IntakeView, 'id' | 'name' | 'source' | 'isLoose' | 'freeBytes' | 'elsewhere' | 'reference'>;

/** Up to this much is unpacked into a folder of the system's, so that headers can be read before anything is brought in. */
const MOST_LOOKED_AT = 96 << 20;
const LONGEST_NOTE = 64 << 10;
const LONGEST_METADATA = 4 << 20;
const NOTE = /\.(txt|md|html?|xml)$/i;

/** What is in an archive, or in a folder of dropped files. A problem is told, not thrown. */
export async function lookInside(path: string): Promise<Inside> {
  try {
    return statSync(path).isDirectory() ? lookInFolder(path) : await lookInArchive(path);
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    return { ...NOTHING, problem: explain(error.problem) };
  }
}

const NOTHING: Inside = {
  files: 0,
  bytes: 0,
  wrapper: '',
  litter: 0,
  groups: [],
  refused: [],
  problem: null,
  proposed: {},
};

function lookInFolder(folder: string): Inside {
  const { files } = listFiles(folder, { confinedTo: folder });
  const kept = files.filter((f) => !isLitter(f.path));
  return {
    ...NOTHING,
    files: kept.length,
    bytes: sum(kept),
    litter: files.length - kept.length,
    groups: described(folder, kept),
    proposed: toldIn(folder, kept),
  };
}

async function lookInArchive(path: string): Promise<Inside> {
  const archive = await openArchive(path);
  try {
    const kept = archive.entries.filter((e) => !isLitter(e.path));
    const bytes = sum(kept);
    const seen = bytes <= MOST_LOOKED_AT ? await unpackAndLook(archive, kept) : { groups: grouped(kept), told: {}, damaged: [] };
    return {
      files: kept.length,
      bytes,
      wrapper: wrapperOf(kept.map((e) => e.path)),
      litter: archive.entries.length - kept.length,
      groups: seen.groups,
      refused: [...archive.refused, ...seen.damaged],
      problem: null,
      proposed: {
        title: basename(path).replace(/(\.tar)?\.[^.]*$/, ''),
        fetched: statSync(path).mtime.toISOString().slice(0, 10),
        ...seen.told,
      },
    };
  } finally {
    archive.close();
  }
}

const sum = (files: readonly { readonly bytes: number }[]): number => files.reduce((total, f) => total + f.bytes, 0);

/** Archives hold these by the thousand: a stream for each would take longer than its content. */
const SMALL_BYTES = 64 << 10;

interface Seen {
  readonly groups: readonly IntakeGroup[];
  readonly told: Partial<Origin>;
  readonly damaged: readonly { readonly path: string; readonly why: string }[];
}

async function unpackAndLook(archive: Archive, kept: readonly FileEntry[] | Archive['entries']): Promise<Seen> {
  const folder = newScratch('look');
  const damaged: { path: string; why: string }[] = [];
  try {
    const made = new Set<string>();
    const write = async (entry: { readonly path: string; readonly bytes: number }, content: Readable): Promise<void> => {
      const target = join(folder, entry.path);
      if (!made.has(dirname(target))) mkdirSync(dirname(target), { recursive: true });
      made.add(dirname(target));
      if (entry.bytes > SMALL_BYTES) return pipeline(content, createWriteStream(target));
      const parts: Buffer[] = [];
      for await (const part of content) parts.push(part as Buffer);
      writeFileSync(target, Buffer.concat(parts));
    };
    // One that is damaged is told alone, and the others are seen.
    const onDamaged = ({ path }: { readonly path: string }, error: unknown): void => {
      if ((error as { code?: string }).code === 'ENOSPC') throw error;
      rmSync(join(folder, path));
      damaged.push({ path, why: error instanceof ProblemError ? explain(error.problem) : `it is damaged (${(error as Error).message})` });
    };
    await archive.read(new Set(kept.map((e) => e.path)), write, onDamaged);
    const files = listFiles(folder, { confinedTo: folder }).files;
    return { groups: described(folder, files), told: toldIn(folder, files), damaged };
  } finally {
    rmSync(folder);
  }
}

function described(folder: string, files: readonly FileEntry[]): IntakeGroup[] {
  const { datasets, leftBehind } = surveyFolder(folder, folder);
  const known = new Set(files.map((f) => f.path));
  const metadata = metadataBy(files);
  const groups = datasets
    .filter((d) => d.group.format === 'opaque' || known.has(d.group.path))
    .map((d): IntakeGroup => ({
      ...bare(d.group),
      path: d.group.path + (d.table === null ? '' : `#${d.table}`),
      geometry: d.geometryType,
      count: d.featureCount,
      ...foundCrs(d.crs),
      isDescribed: true,
      told: ownTold(folder, d.group, metadata),
      findings: [...d.findings, ...nameOf(d.group)],
    }));
  return [...groups, ...leftBehind.map((path) => orphan(path, files))];
}

const grouped = (entries: readonly FileEntry[]): IntakeGroup[] => {
  const { groups, leftBehind } = groupFiles(entries);
  return [...groups.map(bare), ...leftBehind.map((path) => orphan(path, entries))];
};

const bare = (g: FileGroup): IntakeGroup => {
  const own = g.format === 'opaque' ? g.companions : [g.main, ...g.companions];
  return {
    path: g.path,
    kind: g.kind,
    format: g.format,
    files: own.map((f) => f.path),
    bytes: sum(own),
    geometry: null,
    count: null,
    ...foundCrs(null),
    isDescribed: false,
    told: null,
    findings: [...missingOf(g), ...noCrs(g), ...nameOf(g)],
  };
};

const orphan = (path: string, files: readonly FileEntry[]): IntakeGroup => ({
  path,
  kind: 'left-behind',
  format: path.slice(path.lastIndexOf('.') + 1),
  files: [path],
  bytes: files.find((f) => f.path === path)?.bytes ?? 0,
  geometry: null,
  count: null,
  ...foundCrs(null),
  isDescribed: true,
  told: null,
  findings: [{ code: 'left-behind', message: 'its main file is not here' }],
});

const hasCompanion = (g: FileGroup, ending: string): boolean => g.companions.some((c) => c.path.toLowerCase().endsWith(`.${ending}`));

/** A name that other programs will not take; safe names are offered when it is brought in. */
function nameOf(g: FileGroup): { code: string; message: string }[] {
  const name = basename(g.path);
  const { stem, ending } = splitName(name);
  const safe = proposeName(stem, DEFAULT_NAMING) + ending;
  return safe === name || g.format === 'document'
    ? []
    : [{ code: 'name', message: `its name gives trouble in some programs: ${safe} is safe` }];
}

/** Companions that a dataset cannot do without. */
const missingOf = (g: FileGroup): { code: string; message: string }[] =>
  g.format !== 'shapefile'
    ? []
    : ['shx', 'dbf']
        .filter((e) => !hasCompanion(g, e))
        .map((e) => ({ code: `missing-${e}`, message: `its .${e} is not here, and it cannot be read without` }));

const noCrs = (g: FileGroup): { code: string; message: string }[] =>
  g.format === 'shapefile' && !hasCompanion(g, 'prj')
    ? [{ code: 'no-crs', message: 'its .prj is not here, so nobody knows the reference system of its coordinates' }]
    : [];

/** Metadata that is called like a dataset is its own: `roads.shp.xml`, `roads.xml`. By main paths in small letters. */
const ownNames = (main: string): readonly string[] => [`${main}.xml`, `${main.replace(/\.[^./]*$/, '')}.xml`].map((n) => n.toLowerCase());

/** The metadata among files, by paths in small letters. */
const metadataBy = (files: readonly FileEntry[]): ReadonlyMap<string, FileEntry> =>
  new Map(files.flatMap((f) => (/\.xml$/i.test(f.path) ? [[f.path.toLowerCase(), f] as const] : [])));

function ownTold(folder: string, { main }: FileGroup, metadata: ReadonlyMap<string, FileEntry>): ToldOrigin | null {
  const told = metadataIn(
    folder,
    ownNames(main.path).flatMap((name) => metadata.get(name) ?? []),
  );
  return Object.keys(told).length > 0 ? told : null;
}

function metadataIn(folder: string, files: readonly FileEntry[]): ToldOrigin {
  const told: ToldOrigin = {};
  for (const f of files) {
    const path = join(folder, f.path);
    if (!/\.xml$/i.test(f.path) || f.bytes > LONGEST_METADATA || !existsSync(path)) continue;
    const more = readMetadata(readFileSync(path));
    if (more) Object.assign(told, { ...more, ...told });
  }
  return told;
}

/**
 * What metadata and notes beside the data tell of its origin; the first that tells something is believed. Where several
 * datasets came, what is one's own tells nothing of the others.
 */
function toldIn(folder: string, all: readonly FileEntry[]): Partial<Origin> {
  const mains = groupFiles(all)
    .groups.filter((g) => g.format !== 'document' && g.format !== 'opaque')
    .map((g) => g.main.path);
  const own = new Set(mains.length > 1 ? mains.flatMap(ownNames) : []);
  const files = all.filter((f) => !own.has(f.path.toLowerCase()));
  const told = metadataIn(folder, files);
  return told.licence ? told : { ...told, licence: licenceIn(folder, files) };
}

/** A known licence that the notes name; '' where they name none. */
function licenceIn(folder: string, files: readonly FileEntry[]): string {
  for (const f of files) {
    const path = join(folder, f.path);
    if (!NOTE.test(f.path) || f.bytes > LONGEST_NOTE || !existsSync(path)) continue;
    const found = licenceWithin(readFileSync(path, 'utf8'));
    if (found) return found.name;
  }
  return '';
}
