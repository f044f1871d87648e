import picomatch from 'picomatch';
import {
  formatOf,
  isMapFile,
  isProjectFile,
  looksSecret,
  nameOf,
  roleOf,
  standsIn,
  type FileEntry,
  type Role,
  type SendChoices,
} from '@rootmap/core';
import { RECORDS } from '../move/records.js';
import { isStagedName } from '../changes/staged-name.js';
import type { LeftOut, Use } from './bundle-file.js';

/** A file of the root that goes in. */
export interface Chosen {
  readonly entry: FileEntry;
  readonly role: Role;
  readonly uses: readonly Use[];
}

/** What may never go into a bundle, with the reason; an empty one: it is nobody's file. Null: it may. */
function never(path: string): string | null {
  const name = nameOf(path);
  if (isStagedName(name) || /-shm$/i.test(name)) return ''; // of a change or a program that is running
  if (name.startsWith('.')) return 'its name begins with a dot';
  return looksSecret(name) ? 'by its name it holds a key or a password' : null;
}

/** The role of a file: that of its folder, else what the file itself says. */
export function roleIn(path: string, folders: Readonly<Record<string, string>>): Role {
  const role = roleOf(path, folders);
  if (role !== null) return role;
  if (isMapFile(path)) return 'maps';
  const format = formatOf(nameOf(path));
  return format === 'document' ? 'documents' : format === 'geopackage' ? 'geodatabases' : 'other';
}

/** Paths and patterns as a person writes them: `./received/x.tif`, `received`, `*.tif`, `received/**`. */
function matcherOf(patterns: readonly string[]): (path: string) => string | null {
  const tests = patterns.map((text) => {
    const pattern = text.trim().replace(/^\.\//, '').replace(/\/+$/, '');
    const matches = picomatch(pattern, { nocase: true, dot: true, ...(pattern.includes('/') ? {} : { basename: true }) });
    return { text, test: (path: string) => standsIn(pattern, path) || matches(path) };
  });
  return (path) => tests.find((t) => t.test(path))?.text ?? null;
}

/**
 * Which files of a root go into a bundle; of the others it is told why not.
 * @param usesOf the layers that need a file, by its path from the root
 */
export function chooseFiles(
  files: readonly FileEntry[],
  usesOf: ReadonlyMap<string, readonly Use[]>,
  folders: Readonly<Record<string, string>>,
  choices: SendChoices,
): { chosen: Chosen[]; leftOut: LeftOut[] } {
  const chosen: Chosen[] = [];
  const leftOut: LeftOut[] = [];
  const matches = matcherOf(choices.without);
  const maps = choices.maps && new Set(choices.maps);
  const before = choices.notBefore === null ? -Infinity : Date.parse(choices.notBefore);
  const whyNot = ({ path, modifiedMs }: FileEntry, uses: readonly Use[], role: Role): string | null => {
    if (choices.layer !== null) return uses.length > 0 ? null : 'only one layer was asked for';
    if (isProjectFile(path)) return null;
    if (isMapFile(path) && maps && !maps.has(path)) return 'this map was not chosen';
    if (choices.withoutRoles.includes(role)) return `${role} stay out`;
    const pattern = matches(path);
    if (pattern !== null) return `left out by ${pattern}`;
    if (isMapFile(path) || uses.length > 0) return null;
    const isKept = nameOf(path) === RECORDS || formatOf(nameOf(path)) === 'document' || role === 'documents';
    if (choices.what === 'used' && !isKept) return 'no map uses it';
    return modifiedMs < before ? `no map uses it, and it was last changed before ${choices.notBefore!}` : null;
  };
  for (const entry of files) {
    const why = never(entry.path);
    if (why !== null) {
      if (why !== '') leftOut.push({ path: entry.path, why });
      continue;
    }
    const role = roleIn(entry.path, folders);
    const uses = usesOf.get(entry.path) ?? [];
    const shut = whyNot(entry, uses, role);
    if (shut === null) chosen.push({ entry, role, uses });
    else leftOut.push({ path: entry.path, why: shut });
  }
  return { chosen, leftOut };
}
