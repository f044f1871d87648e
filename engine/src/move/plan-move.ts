import { statSync } from 'node:fs';
import {
  byCodePoint,
  isMapFile,
  isProjectFile,
  patchText,
  placeNamed,
  Relocations,
  rewriteMap,
  type Location,
  type Moves,
  type Place,
  type Relocation,
} from '@rootmap/core';
import { basename, dirname, join, isBelow, pathFrom, rebase, isInside } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import type { PlannedChange, PlannedCopy, PlannedStep, PlannedTrash, PlannedWrite } from '../changes/change.js';
import { onDisk } from '../disk/disk-problem.js';
import { pathOf } from '../places/places.js';
import { linkLocations, locationOf } from '../project/scope.js';
import { actualLocations } from './actual-locations.js';
import { carrierOf, checkEntries, foldersAmong } from './check-entries.js';
import { expandMove, FolderGroups, type MovedEntry, type MoveRequest } from './expand.js';
import { guardSteps, type GuardedRoot } from './guard-originals.js';
import { knownProjects, type KnownMap, type KnownProject } from './known-maps.js';
import { isOneDisk } from './one-disk.js';
import { orderMoves } from './order-steps.js';
import { relocateRecords } from './records.js';
import { relocateProject } from './relocate-project.js';
import { relocateStyles } from './relocate-styles.js';
import { missingFolders } from '../changes/missing-folders.js';

export interface MoveOptions {
  readonly who: string;
  readonly title?: string;
  readonly kind?: PlannedChange['kind'];
  /** The person has been told that these are originals, and means it. */
  readonly evenOriginals?: boolean;
  /** Folders to be made, whether or not anything goes into them. */
  readonly folders?: readonly string[];
  /** Files that are written along with it, such as a project file. */
  readonly writes?: readonly PlannedWrite[];
  /** Roles that the first root's folders are to have, where they are not those of its project file. */
  readonly roles?: Readonly<Record<string, string>>;
  /** A grown folder that things are taken from: its maps follow, and what is left empty in it goes away. */
  readonly grown?: string;
}

export interface ReferenceRow {
  readonly map: string;
  readonly layer: string;
  readonly title: string;
  readonly before: string;
  readonly after: string;
}

export interface MovePlan {
  readonly files: readonly { readonly from: string; readonly to: string }[];
  readonly references: readonly ReferenceRow[];
  readonly damaged: readonly { readonly path: string; readonly message: string }[];
  /** Project files and origin records that change. */
  readonly records: readonly string[];
  /** Bytes that have to be copied, since the target is on another disk. */
  readonly copiedBytes: number;
  readonly change: PlannedChange;
  readonly entries: readonly MovedEntry[];
}

/**
 * Plans to move or rename: files with their companions, every reference to them in every map of every known project, project
 * files and origin records, as one change. Nothing is written.
 * @param roots roots of all known projects; the first one owns the change
 */
export function planMoves(
  requests: readonly MoveRequest[],
  roots: readonly string[],
  places: readonly Place[],
  options: MoveOptions,
): MovePlan {
  const projects = knownProjects(options.grown ? [...roots, options.grown] : roots, places);
  const groups = new FolderGroups();
  const entries = withoutRepeats(requests.flatMap((r) => expandMove(r, groups)));
  checkEntries(entries, places, projects, options.evenOriginals === true);
  const moves = new Relocations(
    entries.flatMap((e) => (e.isShared ? [] : [toRelocation(e, places)])),
    places,
  );
  const finalPath = (path: string): string => pathAt(moves.of(locationOf(path, places)), places);
  const actual = actualLocations(places);
  const rewritten = projects.flatMap((p) =>
    p.maps.map((map) => ({ map, ...rewriteMap(map, moves, places, actual, linksOf(p, moves, places)) })),
  );
  const touched = rewritten.filter((r) => r.patches.length > 0);
  const records = relocateRecords(entries);
  const writes: PlannedWrite[] = [
    ...touched.map((r) => writeMap(r.map, patchText(r.map.file.text, r.patches))),
    ...relocateStyles(projects, moves, places, actual),
    ...projects.flatMap((p) => relocateProject(p, moves, places)),
    ...records.writes,
    ...(options.writes ?? []),
  ];
  const owners = projects.filter((p) => roots.includes(p.root));
  const steps = toSteps(entries, writes, options.folders ?? [], owners, places);
  const leftRecords = records.trash.map((t) => ({ ...t, trashOf: trashRootOf(t.path, owners, places) }));
  const root = projects[0]?.root ?? dirname(requests[0]!.from);
  const files = [...new Set(entries.flatMap(filesOf))].map((from) => ({ from, to: finalPath(from) }));
  const guarded = guardSteps(
    files.filter((f) => !isMapFile(f.to)),
    projects.map((p) => ({ root: p.root, folders: p.project?.folders ?? {} })),
    projects.map((p, i) => rolesAfter(p, finalPath, i === 0 ? options.roles : undefined)),
  );
  return {
    files,
    references: touched.flatMap(({ map, references }) => references.map((r) => ({ map: map.path, ...r }))),
    damaged: projects.flatMap((p) => p.damaged),
    records: [...writes.slice(touched.length), ...records.trash].map((w) => w.path),
    copiedBytes: steps.copiedBytes,
    entries,
    change: {
      title: options.title ?? titleOf(requests),
      kind: options.kind ?? 'move',
      root,
      otherRoots: rootsWrittenIn(
        projects.map((p) => p.root),
        root,
        writes,
      ),
      who: options.who,
      steps: [
        ...steps.steps,
        ...leftRecords,
        ...guarded,
        ...(options.grown ? emptiedFolders(entries, options.grown, options.folders ?? []) : []),
      ],
    },
  };
}

/** Roots that a change writes in, beside its own: they are locked, too. */
export const rootsWrittenIn = (roots: readonly string[], own: string, steps: readonly { readonly path: string }[]): string[] =>
  roots.filter((root) => root !== own && steps.some((s) => isBelow(root, s.path)));

/** A root and the roles of its folders after the move. */
function rolesAfter(p: KnownProject, finalPath: (path: string) => string, roles?: Readonly<Record<string, string>>): GuardedRoot {
  const root = finalPath(p.root);
  if (roles) return { root, folders: roles };
  const folders = Object.entries(p.project?.folders ?? {}).map(([path, role]) => [finalPath(join(p.root, path)), role] as const);
  return {
    root,
    folders: Object.fromEntries(folders.flatMap(([path, role]) => (isBelow(root, path) ? [[pathFrom(root, path), role]] : []))),
  };
}

/** Old folders above what moved, the deepest first: each goes if nothing is left in it. */
function emptiedFolders(entries: readonly MovedEntry[], grown: string, kept: readonly string[]): PlannedStep[] {
  const folders = new Set<string>();
  for (const { from } of entries)
    for (let folder = dirname(from); isInside(grown, folder) && !kept.includes(folder); folder = dirname(folder)) folders.add(folder);
  return [...folders].sort((a, b) => b.length - a.length || byCodePoint(a, b)).map((path) => ({ kind: 'drop-folder', path }));
}

export const pathAt = (location: Location, places: readonly Place[]): string =>
  join(pathOf(placeNamed(places, location.place)!), ...location.segments);

function titleOf(requests: readonly MoveRequest[]): string {
  const [first] = requests;
  if (!first) return 'Make folders';
  if (requests.length > 1) return `Move ${requests.length} things`;
  const isRename = dirname(first.from) === dirname(first.to);
  return isRename
    ? `Rename ${basename(first.from)} to ${basename(first.to)}`
    : `Move ${basename(first.from)} to ${basename(dirname(first.to))}`;
}

/** A selection may hold a folder and things in it, or two files of one dataset: each goes once. */
function withoutRepeats(entries: readonly MovedEntry[]): MovedEntry[] {
  const byFrom = new Map<string, MovedEntry>();
  for (const e of entries) if (!byFrom.has(e.from) || byFrom.get(e.from)!.isShared) byFrom.set(e.from, e);
  const folders = foldersAmong(entries);
  return [...byFrom.values()].filter((e) => {
    const above = carrierOf(e.from, folders);
    return !above || e.to !== rebase(e.from, above.from, above.to); // it goes with its folder
  });
}

const toRelocation = (e: MovedEntry, places: readonly Place[]): Relocation => ({
  from: locationOf(e.from, places),
  to: locationOf(e.to, places),
});

export function linksOf(p: KnownProject, moves: Moves, places: readonly Place[]) {
  const scope = { places, root: p.root, project: p.project, projectFile: p.projectFile, named: p.root, maps: [] };
  return linkLocations(scope).map((l) => ({ name: l.name, before: l.location, after: moves.of(l.location) }));
}

export const writeMap = (map: KnownMap, text: string): PlannedWrite => ({
  kind: 'write',
  path: map.path,
  before: map.bytes,
  after: Buffer.from(text, 'utf8'),
});

const filesOf = (entry: MovedEntry): string[] => (entry.isFolder ? filesBelow(entry.from) : [entry.from]);

function filesBelow(folder: string): string[] {
  const found: string[] = [];
  for (const entry of onDisk(folder, () => readdirSync(folder, { withFileTypes: true }))) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) found.push(...filesBelow(path));
    else found.push(path);
  }
  return found.sort(byCodePoint);
}

/** Writes first, then folders, copies, moves, and what goes to the trash because it was copied. */
function toSteps(
  entries: readonly MovedEntry[],
  writes: readonly PlannedWrite[],
  folders: readonly string[],
  projects: readonly KnownProject[],
  places: readonly Place[],
): { steps: PlannedStep[]; copiedBytes: number } {
  const here = entries.filter((e) => !e.isShared && isOneDisk(e.from, e.to));
  const away = entries.filter((e) => !e.isShared && !isOneDisk(e.from, e.to));
  const copied = away.flatMap((e) => (e.isFolder ? spread(e) : [e]));
  const text = new Map(writes.map((w) => [w.path, w]));
  const rewrites: PlannedWrite[] = [];
  const copies: PlannedCopy[] = [];
  for (const e of copied) {
    if (e.isFolder) continue;
    const written = text.get(e.from);
    text.delete(e.from); // what is rewritten on its way is written at its new place only
    if (written) rewrites.push({ kind: 'write', path: e.to, before: null, after: written.after });
    else copies.push({ kind: 'copy', from: e.from, path: e.to });
  }
  for (const e of entries) if (e.isShared) copies.push({ kind: 'copy', from: e.from, path: e.to });
  const needed = [
    ...folders,
    ...entries.map((e) => dirname(e.to)),
    ...copied.flatMap((e) => (e.isFolder ? [e.to] : [dirname(e.to)])),
    ...writes.flatMap((w) => (w.before === null ? [dirname(w.path)] : [])),
  ];
  const trash = away.map((e): PlannedTrash => ({
    kind: 'trash',
    path: e.from,
    hash: null,
    trashOf: trashRootOf(e.from, projects, places),
  }));
  const steps = [
    ...[...text.values()].filter((w) => w.before !== null),
    ...missingFolders(needed).map((path) => ({ kind: 'folder', path }) as const),
    ...[...text.values()].filter((w) => w.before === null),
    ...rewrites,
    ...copies,
    ...orderMoves(here),
    ...trash,
  ];
  return { steps, copiedBytes: copies.reduce((sum, c) => sum + (statSync(c.from, { throwIfNoEntry: false })?.size ?? 0), 0) };
}

/** The root whose trash takes a path: the nearest project's, else its place's. */
export function trashRootOf(path: string, projects: readonly { readonly root: string }[], places: readonly Place[]): string {
  const owners = projects.map((p) => p.root).filter((root) => isBelow(root, path));
  const nearest = owners.sort((a, b) => b.length - a.length)[0];
  return nearest ?? pathOf(placeNamed(places, locationOf(path, places).place)!);
}

/** A folder and all below it, one by one, so that maps in it can be rewritten on their way. */
export function spread(folder: MovedEntry): MovedEntry[] {
  const found: MovedEntry[] = [{ ...folder }];
  for (const entry of readdirSync(folder.from, { withFileTypes: true })) {
    const inner = { from: join(folder.from, entry.name), to: join(folder.to, entry.name), isFolder: entry.isDirectory(), isShared: false };
    if (entry.isDirectory()) found.push(...spread(inner));
    else found.push(inner);
  }
  return found;
}

/** A folder that holds a project is known by its project file. */
export const holdsProject = (folder: string): boolean => readdirSync(folder).some(isProjectFile);
