import { folderOf, nameOf } from '../address/parts.js';
import { groupFiles } from '../dataset/group-files.js';
import { foldName } from '../address/address.js';
import { proposeName } from '../naming/propose.js';
import type { NamingRules } from '../naming/rules.js';
import { splitName } from '../naming/split-name.js';
import type { FileEntry } from '../dataset/dataset.js';

/** A file of an archive, and its path below the folder that it goes into. */
export interface ArrangedFile {
  readonly from: string;
  readonly to: string;
}

const joined = (folder: string, name: string): string => (folder === '' ? name : `${folder}/${name}`);

/** What systems leave in archives for themselves. Common practice, no source. */
export const isLitter = (path: string): boolean =>
  path
    .split('/')
    .some((p) => p === '__MACOSX' || p === '.DS_Store' || /^thumbs\.db$/i.test(p) || /^desktop\.ini$/i.test(p) || p.startsWith('._'));

/** The one folder that everything in an archive is in, with its slash; '' where there is none. */
export function wrapperOf(paths: readonly string[]): string {
  let wrapper = '';
  for (;;) {
    const tops = new Set(paths.map((p) => p.slice(wrapper.length)).map((p) => (p.includes('/') ? p.slice(0, p.indexOf('/') + 1) : '')));
    const [top] = tops;
    if (tops.size !== 1 || !top) return wrapper;
    wrapper += top;
  }
}

export interface ArrangeOptions {
  /** Names one thing gets that would stand in for another's. */
  readonly archive: string;
  /** Paths that stand below the target folder already. */
  readonly taken: readonly string[];
  /** Names are made safe by these rules on their way in; null: they stay. */
  readonly naming: NamingRules | null;
}

/**
 * Where the files of an archive go below their folder: without the folders that only wrap the whole, companions with their
 * main file, nothing over anything that is there. What would be is called after its archive.
 */
export function arrange(files: readonly FileEntry[], options: ArrangeOptions): ArrangedFile[] {
  const wrapper = wrapperOf(files.map((f) => f.path));
  const inner = files.map((f) => ({ ...f, path: f.path.slice(wrapper.length) }));
  const taken = new Set(options.taken.map(foldName));
  const folders = new Map<string, string>([['', '']]);
  const targetFolder = (folder: string): string => {
    const known = folders.get(folder);
    if (known !== undefined) return known;
    const name = options.naming ? proposeName(nameOf(folder), options.naming) : nameOf(folder);
    const target = joined(targetFolder(folderOf(folder)), name);
    folders.set(folder, target);
    return target;
  };
  return unitsOf(inner)
    .flatMap((unit) => place(unit, targetFolder(folderOf(unit.main)), taken, options))
    .map((a) => ({ ...a, from: wrapper + a.from }));
}

interface Unit {
  readonly main: string;
  readonly files: readonly string[];
  /** The inside of another program's container keeps its names. */
  readonly isFixed: boolean;
}

function unitsOf(files: readonly FileEntry[]): Unit[] {
  const { groups } = groupFiles(files);
  const units = groups.map((g): Unit => {
    const isFixed = g.format === 'opaque';
    return { main: g.path, files: (isFixed ? g.companions : [g.main, ...g.companions]).map((f) => f.path), isFixed };
  });
  const inUnits = new Set(units.flatMap((u) => u.files));
  return [...units, ...files.filter((f) => !inUnits.has(f.path)).map((f) => ({ main: f.path, files: [f.path], isFixed: false }))];
}

function place(unit: Unit, folder: string, taken: Set<string>, { archive, naming }: ArrangeOptions): ArrangedFile[] {
  const { stem } = splitName(nameOf(unit.main));
  const named = (to: string): ArrangedFile[] =>
    unit.files.map((from) => ({
      from,
      to: joined(folder, unit.isFixed ? nameOf(unit.main) + from.slice(unit.main.length) : renamed(nameOf(from), stem, to)),
    }));
  const isFree = (to: string): boolean => named(to).every((f) => !taken.has(foldName(f.to)));
  let to = naming && !unit.isFixed ? proposeName(stem, naming) : stem;
  if (!isFree(to)) to = naming ? proposeName(`${to}_${archive}`, naming) : `${to}_${archive}`;
  for (let n = 2; !isFree(to) && n < 10_000; n++) to = `${to.replace(/_\d+$/, '')}_${n}`;
  const placed = named(to);
  for (const f of placed) taken.add(foldName(f.to));
  return placed;
}

const renamed = (name: string, stem: string, to: string): string =>
  name.toLowerCase().startsWith(stem.toLowerCase()) ? to + name.slice(stem.length) : name;
