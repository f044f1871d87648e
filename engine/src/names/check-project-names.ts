import { existsSync } from 'node:fs';
import {
  absoluteAddress,
  checkNames,
  groupFiles,
  isMapFile,
  isProjectFile,
  printAddress,
  roleOf,
  DEFAULT_NAMING,
  type FileEntry,
  type NameCheck,
  type NamedThing,
  type NamingRules,
  type Place,
  folderOf,
  joined,
  nameOf,
  partsOf,
} from '@rootmap/core';
import { realPath } from '../disk/real-path.js';
import { join, isInside } from '../disk/native-path.js';
import { planMoves, type MovePlan } from '../move/plan-move.js';
import { listFiles, type Listing } from '../survey/list-files.js';
import { confinementOf, locationOf, type RootedScope } from '../project/scope.js';

export interface NamesPlan extends NameCheck {
  /** Renames that were left out because their folder holds originals. */
  readonly protectedPaths: readonly string[];
  readonly plan: MovePlan | null;
}

export interface NamesOptions {
  readonly naming?: NamingRules | undefined;
  /** Paths from the root that are to be renamed; left out: all of them. */
  readonly only?: readonly string[] | undefined;
  /** Another new name than the proposed one, by path. */
  readonly chosen?: Readonly<Record<string, string>> | undefined;
  readonly evenOriginals?: boolean | undefined;
  readonly who: string;
}

/** All names of a project against its rules. */
export function checkProjectNames(scope: RootedScope, naming = namingOf(scope), listing = listOf(scope)): NameCheck {
  return checkNames(
    thingsOf(listing.files, listing.folders),
    takenNames(listing.files, [...listing.folders, ...listing.nested]),
    naming,
    longestRoot(scope.root, scope.places),
    new Set(Object.keys(scope.project?.folders ?? {})),
  );
}

const namingOf = (scope: RootedScope): NamingRules => scope.project?.naming ?? DEFAULT_NAMING;
const listOf = (scope: RootedScope): Listing => listFiles(scope.root, { confinedTo: confinementOf(scope.root, scope.places) });

/**
 * All names of a project against its rules, and the renames that would put them right as one move. Names alone: the bytes of
 * originals stay, but their renames wait until the person says so.
 */
export function planNames(scope: RootedScope, roots: readonly string[], options: NamesOptions): NamesPlan {
  const root = scope.root;
  const folders = scope.project?.folders ?? {};
  const check = checkProjectNames(scope, options.naming);
  const renames = check.renames
    .filter((r) => !options.only || options.only.includes(r.from))
    .map((r) => ({ from: r.from, to: withName(r.to, options.chosen?.[r.from]) }));
  const isProtected = (path: string): boolean => !options.evenOriginals && roleOf(path, folders) === 'originals' && !(path in folders);
  const wanted = renames.filter((r) => !isProtected(r.from));
  const requests = wanted.map((r) => ({ from: join(root, r.from), to: join(root, r.to) }));
  const title = `Rename ${wanted.length} ${wanted.length === 1 ? 'thing' : 'things'} by the rules for names`;
  return {
    findings: check.findings,
    renames,
    protectedPaths: renames.filter((r) => isProtected(r.from)).map((r) => r.from),
    plan: requests.length
      ? planMoves(requests, [root, ...roots], scope.places, { who: options.who, title, kind: 'names', evenOriginals: true })
      : null,
  };
}

const withName = (path: string, name: string | undefined): string => (name ? joined([...partsOf(path).slice(0, -1), name]) : path);

/** What can have another name: folders, datasets, maps and documents. The inside of other programs' containers cannot. */
function thingsOf(files: readonly FileEntry[], folders: readonly string[]): NamedThing[] {
  const { groups } = groupFiles(files);
  const opaque = groups.filter((g) => g.format === 'opaque').map((g) => g.path);
  const isHidden = (path: string): boolean => opaque.some((o) => isInside(o, path));
  const maps = files.filter((f) => isMapFile(f.path)).map((f) => ({ path: f.path, isFolder: false, longest: f.path.length }));
  return [
    ...folders.filter((f) => !isHidden(f)).map((path) => ({ path, isFolder: true, longest: path.length })),
    ...groups
      .filter((g) => g.format !== 'opaque')
      .map((g) => ({ path: g.path, isFolder: false, longest: Math.max(...[g.main, ...g.companions].map((f) => f.path.length)) })),
    ...maps,
  ];
}

function takenNames(files: readonly FileEntry[], folders: readonly string[]): Map<string, string[]> {
  const taken = new Map<string, string[]>([['', []]]);
  for (const folder of folders) taken.set(folder, taken.get(folder) ?? []);
  for (const path of [...folders, ...files.filter((f) => !isProjectFile(f.path)).map((f) => f.path)]) {
    const folder = folderOf(path);
    const names = taken.get(folder) ?? [];
    names.push(nameOf(path));
    taken.set(folder, names);
  }
  return taken;
}

/** The root as the longest of its addresses has it: by drive name, or as it is here. */
export function longestRoot(root: string, places: readonly Place[]): number {
  const shown = printAddress(absoluteAddress(locationOf(root, places), places));
  return Math.max(shown.length, existsSync(root) ? realPath(root).length : root.length);
}
