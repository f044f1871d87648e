import { arrangeBundle, byCodePoint, isProjectFile, nameOf, type Role, type SendChoices, type ToArrange } from '@rootmap/core';
import { basename, below, dirname } from '../disk/native-path.js';
import { RECORDS } from '../move/records.js';
import type { Use } from './bundle-file.js';

/** Files that stay together: their paths in the bundle as it is, the main file first. */
export interface Unit {
  readonly files: readonly { readonly path: string; readonly source: string }[];
  readonly role: Role;
  readonly from: 'inside' | 'along' | 'added';
  readonly uses: readonly Use[];
}

/** Folder of a bundle for what comes along; its name says what it is. */
export const ALONG = 'along';

/** Names of the folders that data from outside gets, by its real folder: the last name of that folder, numbered where two are alike. */
export function foldersAlong(sources: readonly string[], taken: (path: string) => boolean): Map<string, string> {
  const byFolder = new Map<string, string>();
  const used = new Set<string>();
  const top = numbered(ALONG, taken);
  for (const folder of [...new Set(sources)].sort(byCodePoint)) {
    const name = numbered(basename(folder).replace(/[<>:"\\|?*]/g, '_') || 'data', (n) => used.has(n.toLowerCase()));
    used.add(name.toLowerCase());
    byFolder.set(folder, `${top}/${name}`);
  }
  return byFolder;
}

function numbered(name: string, isTaken: (name: string) => boolean): string {
  for (let n = 1; ; n++) {
    const next = n === 1 ? name : `${name}_${n}`;
    if (!isTaken(next)) return next;
  }
}

/** Where things that come along stand in a bundle as it is. @param files real paths, the main one first */
export function unitAlong(files: readonly string[], folders: ReadonlyMap<string, string>): { path: string; source: string }[] {
  const folder = dirname(files[0]!);
  return files.map((source) => ({ source, path: `${folders.get(folder)!}/${below(folder, source)!}` }));
}

/**
 * Where each file stands in the bundle: as it is, or by a plan. The project file stays at the top; records of origin are made
 * anew beside the data, so they have no place here.
 */
export function placeFiles(units: readonly Unit[], choices: SendChoices): Map<string, string> {
  const plan = choices.arrange;
  if (!plan) return new Map(units.flatMap((u) => u.files.map((f) => [f.source, f.path] as const)));
  const placed = new Map<string, string>();
  const things: ToArrange[] = [];
  const sources: Unit['files'][] = [];
  for (const unit of units) {
    const [main] = unit.files;
    if (isProjectFile(main!.path)) placed.set(main!.source, nameOf(main!.path));
    else if (nameOf(main!.path) !== RECORDS) {
      things.push({ paths: unit.files.map((f) => f.path), role: unit.role });
      sources.push(unit.files);
    }
  }
  const to = arrangeBundle(things, plan, choices.placings);
  for (const files of sources) for (const { path, source } of files) placed.set(source, to.get(path)!);
  return placed;
}

/** Roles of the folders of a bundle, as its project file tells them. */
export function rolesInBundle(
  choices: SendChoices,
  folders: Readonly<Record<string, string>>,
  along: string | null,
): Record<string, string> | null {
  if (!choices.arrange) return along === null ? null : { ...folders, [along]: 'originals' };
  const fixed = choices.arrange.folders.filter((f) => !f.path.includes('<'));
  return Object.fromEntries(fixed.map((f) => [f.path, f.role]));
}

/** Role of what comes along: data as it came. */
export const ROLE_ALONG: Role = 'originals';
