import { folderOf, nameOf } from '../address/parts.js';
import { byCodePoint, sortedBy } from '../code-point-order.js';
import type { FileEntry, FileGroup, Format } from './dataset.js';
import { COMPANIONS, endingOf, formatOf, GEOREFERENCE, isMapFile, isOrphan, isProjectFile, KIND, PRECEDENCE } from './formats.js';
import { isOpaqueFolder } from './opaque.js';

export interface Grouping {
  /** By code point of the main path. */
  readonly groups: readonly FileGroup[];
  /** Companions whose main file is gone. */
  readonly leftBehind: readonly string[];
}

interface Main {
  readonly format: Format;
  readonly entry: FileEntry;
  readonly name: string;
  readonly stem: string;
  readonly companions: FileEntry[];
  readonly borrowed: FileEntry[];
}

/**
 * Groups a listing into datasets. One pass a folder, no file is opened. Maps and project files are passed over.
 * Companions are matched without regard to case; the exact spelling wins where two would fit.
 */
export function groupFiles(entries: readonly FileEntry[]): Grouping {
  const folders = new Map<string, FileEntry[]>();
  for (const entry of entries) {
    const folder = folderOf(entry.path);
    const list = folders.get(folder);
    if (list) list.push(entry);
    else folders.set(folder, [entry]);
  }
  const groups: FileGroup[] = [];
  const leftBehind: string[] = [];
  for (const [folder, files] of folders) {
    if (isOpaqueFolder(files.map((f) => nameOf(f.path)))) groups.push(opaqueGroup(folder, files));
    else groupFolder(files, groups, leftBehind);
  }
  return { groups: sortedBy(groups, (g) => g.path), leftBehind: leftBehind.sort(byCodePoint) };
}

function opaqueGroup(folder: string, files: readonly FileEntry[]): FileGroup {
  const sorted = sortedBy(files, (f) => f.path);
  const modifiedMs = Math.max(...files.map((f) => f.modifiedMs));
  return {
    format: 'opaque',
    kind: 'opaque',
    path: folder,
    main: { path: folder, bytes: 0, modifiedMs },
    companions: sorted,
    borrowed: [],
  };
}

function groupFolder(files: readonly FileEntry[], groups: FileGroup[], leftBehind: string[]): void {
  const mains: Main[] = [];
  const rest: { entry: FileEntry; name: string }[] = [];
  const names = new Set(files.map((f) => nameOf(f.path).toLowerCase()));
  for (const entry of files) {
    const name = nameOf(entry.path);
    if (isMapFile(name) || isProjectFile(name)) continue;
    const format = entry.content ?? mainFormat(name, names);
    if (format) mains.push({ format, entry, name, stem: stemOf(name), companions: [], borrowed: [] });
    else rest.push({ entry, name });
  }
  const claims = new Claims(mains);
  for (const { entry, name } of rest) {
    const [owner, ...others] = claims.of(name);
    if (owner) owner.companions.push(entry);
    else if (isOrphan(name)) leftBehind.push(entry.path);
    for (const other of others) other.borrowed.push(entry);
  }
  for (const m of mains)
    groups.push({
      format: m.format,
      kind: KIND[m.format],
      path: m.entry.path,
      main: m.entry,
      companions: sortedBy(m.companions, (f) => f.path),
      borrowed: m.borrowed,
    });
}

const stemOf = (name: string): string => name.slice(0, name.length - endingOf(name).length - 1);

/** The format of a file that stands on its own, given the names beside it. */
function mainFormat(name: string, names: ReadonlySet<string>): Format | null {
  const format = formatOf(name);
  const lower = name.toLowerCase();
  if (format === 'image') {
    const stem = stemOf(lower);
    const placed = names.has(`${lower}.aux.xml`) || [...GEOREFERENCE].some((e) => names.has(`${stem}.${e}`));
    return placed ? 'image' : null;
  }
  if (format === 'dbf' && names.has(`${stemOf(lower)}.shp`)) return null;
  return format;
}

/** Finds the main files that a side file can serve, the owner first. */
class Claims {
  private readonly byStem = new Map<string, Main[]>();
  private readonly byName = new Map<string, Main[]>();

  constructor(mains: readonly Main[]) {
    for (const m of mains) {
      if (m.format === 'document') continue;
      push(this.byStem, m.stem.toLowerCase(), m);
      push(this.byName, m.name.toLowerCase(), m);
    }
  }

  of(name: string): Main[] {
    const lower = name.toLowerCase();
    const found: Main[] = [];
    const take = (main: Main): void => {
      if (!found.includes(main)) found.push(main);
    };
    // Every split of the name at a dot (or at the dash of a database's side file), the longest stem first.
    for (let at = lower.length - 1; at > 0; at--) {
      const ch = lower[at];
      if (ch !== '.' && ch !== '-') continue;
      const head = lower.slice(0, at);
      const ending = lower.slice(ch === '.' ? at + 1 : at);
      for (const m of this.byName.get(head) ?? []) if (fitsWhole(m.format, ending)) take(m);
      if (ch === '.') for (const m of this.byStem.get(head) ?? []) if (fitsStem(m.format, ending)) take(m);
      if (found.length) break;
    }
    const exact = (m: Main): number => (name.startsWith(m.stem) ? 0 : 1);
    found.sort((a, b) => PRECEDENCE.indexOf(a.format) - PRECEDENCE.indexOf(b.format) || exact(a) - exact(b));
    // Two mains that differ only in case do not share one companion: the exactly spelled one has it.
    return found.filter((m, i) => i === 0 || m.format !== found[0]!.format);
  }
}

function push(map: Map<string, Main[]>, key: string, main: Main): void {
  const list = map.get(key);
  if (list) list.push(main);
  else map.set(key, [main]);
}

function fitsStem(format: Format, ending: string): boolean {
  const rule = COMPANIONS[format];
  return !!rule && (rule.stem.includes(ending) || (!!rule.takesAll && !ending.includes('.')));
}

function fitsWhole(format: Format, ending: string): boolean {
  const rule = COMPANIONS[format];
  return !!rule && (rule.whole.includes(ending) || (!!rule.takesAll && !ending.includes('.')));
}
