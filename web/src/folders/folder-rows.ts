import { groupBy, roleOf, type Role } from '@rootmap/core';
import type { FolderNodeView, FoldersView, LinkedFolderView, NameFindingView, ThingView } from '@rootmap/core/contract';

interface RowBase {
  /** From the root; '' is the root. Of what a link shows: `link:`, its name, and the path from there. */
  readonly path: string;
  /** The link that it is shown by: it belongs to others too, and is only looked at here. */
  readonly link: string | null;
  readonly name: string;
  readonly depth: number;
  readonly bytes: number;
  readonly role: Role | null;
  readonly findings: readonly NameFindingView[];
}
export interface FolderRow extends RowBase {
  readonly kind: 'folder';
  readonly files: number;
  readonly isOpen: boolean;
  readonly hasMore: boolean;
  /** The role stands for this very folder, not for one above. */
  readonly isPlanned: boolean;
  /** A project of its own: shown, not entered. */
  readonly isNested: boolean;
}
export interface ThingRow extends RowBase {
  readonly kind: 'thing';
  readonly thing: ThingView;
}
export type Row = FolderRow | ThingRow;

const parentOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')));
export const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);
export const folderOfRow = (row: Row): string => (row.kind === 'folder' ? row.path : parentOf(row.path));

/** A folder's content by name, made once for a view and walked for every opening and closing. */
export interface Tree {
  readonly view: FoldersView;
  readonly folders: ReadonlyMap<string, readonly FolderNodeView[]>;
  readonly things: ReadonlyMap<string, readonly ThingView[]>;
  readonly findings: ReadonlyMap<string, readonly NameFindingView[]>;
}

const collator = new Intl.Collator(undefined, { numeric: true, sensitivity: 'base' });
const byName = (a: { path: string }, b: { path: string }): number => collator.compare(nameOf(a.path), nameOf(b.path));

export function treeOf(view: FoldersView): Tree {
  const folders = groupBy<FolderNodeView, string>(
    [...view.folders, ...view.nested.map((path) => ({ path, bytes: 0, files: 0 }))].filter((f) => f.path !== ''),
    (f) => parentOf(f.path),
  );
  const things = groupBy(view.things, (t) => parentOf(t.path));
  for (const list of [...folders.values(), ...things.values()]) list.sort(byName);
  return { view, folders, things, findings: groupBy(view.findings, (f) => f.path) };
}

/** A part of the tree that hangs on one folder. */
interface Branch {
  /** Before each of its paths. */
  readonly prefix: string;
  readonly name: string;
  readonly link: string | null;
  readonly isAlwaysOpen: boolean;
  readonly sizes: ReadonlyMap<string, FolderNodeView>;
  readonly folders: ReadonlyMap<string, readonly FolderNodeView[]>;
  readonly things: ReadonlyMap<string, readonly ThingView[]>;
  readonly findings: ReadonlyMap<string, readonly NameFindingView[]>;
  readonly roles: Readonly<Record<string, string>>;
  readonly nested: ReadonlySet<string>;
}

/** The rows that are to be seen: open folders with what is in them, or, with words to look for, what has them. */
export function rowsOf(tree: Tree, rootName: string, open: ReadonlySet<string>, words: string): Row[] {
  const { view, folders, things, findings } = tree;
  const sizes = new Map(view.folders.map((f) => [f.path, f]));
  const own = { prefix: '', name: rootName, link: null, isAlwaysOpen: true, roles: view.roles, nested: new Set(view.nested) };
  return branchRows({ ...own, sizes, folders, things, findings }, open, pathsWith(view, words));
}

/** Before the name of a link, in the path of what it shows. */
const LINK = 'link:';
export const linkPath = (name: string, path = ''): string => `${LINK}${name}${path === '' ? '' : `/${path}`}`;
/** Path of a row from the folder that its link leads to. */
export const withinLink = (row: Row): string => row.path.slice(linkPath(row.link ?? '').length + 1);
/** Only what is the project's own can be moved, renamed and deleted here. */
export const isOwn = (path: string): boolean => !path.startsWith(LINK);

/** The rows of a linked folder. @param content undefined: it was not opened yet */
export function linkRows(name: string, content: LinkedFolderView | undefined, open: ReadonlySet<string>, words: string): Row[] {
  const { folders = [], things = [] } = content ?? {};
  const inner = groupBy(
    folders.filter((f) => f.path !== ''),
    (f) => parentOf(f.path),
  );
  const held = groupBy(things, (t) => parentOf(t.path));
  for (const list of [...inner.values(), ...held.values()]) list.sort(byName);
  const branch: Branch = {
    prefix: linkPath(name),
    name,
    link: name,
    isAlwaysOpen: false,
    sizes: new Map(folders.map((f) => [f.path, f])),
    folders: inner,
    things: held,
    findings: new Map(),
    roles: {},
    nested: new Set(),
  };
  const rows = branchRows(branch, open, content ? pathsWith(content, words) : null);
  // What is not known yet may be opened to be known.
  return content ? rows : rows.map((r) => (r.kind === 'folder' ? { ...r, hasMore: true } : r));
}

function branchRows(branch: Branch, open: ReadonlySet<string>, shown: ReadonlySet<string> | null): Row[] {
  const { prefix, link, sizes, findings, roles, nested } = branch;
  const rows: Row[] = [];
  const full = (path: string): string => (prefix === '' || path === '' ? prefix + path : `${prefix}/${path}`);
  const visit = (path: string, depth: number): void => {
    const node = sizes.get(path) ?? { path, bytes: 0, files: 0 };
    const folders = (branch.folders.get(path) ?? []).filter((f) => !shown || shown.has(f.path));
    const things = (branch.things.get(path) ?? []).filter((t) => !shown || shown.has(t.path));
    const isOpen = (path === '' && branch.isAlwaysOpen) || shown !== null || open.has(full(path));
    rows.push({
      kind: 'folder',
      path: full(path),
      link,
      name: path === '' ? branch.name : nameOf(path),
      depth,
      bytes: node.bytes,
      files: node.files,
      role: roleOf(path, roles),
      isPlanned: Object.hasOwn(roles, path),
      isNested: nested.has(path),
      isOpen,
      hasMore: folders.length + things.length > 0,
      findings: findings.get(path) ?? [],
    });
    if (!isOpen) return;
    for (const f of folders) visit(f.path, depth + 1);
    for (const t of things)
      rows.push({
        kind: 'thing',
        path: full(t.path),
        link,
        name: nameOf(t.path),
        depth: depth + 1,
        bytes: t.bytes,
        role: roleOf(t.path, roles),
        findings: findings.get(t.path) ?? [],
        thing: t,
      });
  };
  visit('', 0);
  return rows;
}

/** Paths that have all the words, the folders above them, and what is below a folder that has them; null: there are no words. */
function pathsWith(view: Pick<FoldersView, 'folders' | 'things'>, text: string): Set<string> | null {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return null;
  const shown = new Set<string>();
  for (const { path } of [...view.folders, ...view.things]) {
    const lower = path.toLowerCase();
    if (!words.every((w) => lower.includes(w))) continue;
    for (let at = path; at !== ''; at = parentOf(at)) shown.add(at);
  }
  return shown;
}

/** What is in a selected folder goes with it and is not named again. */
export const withoutInner = (paths: readonly string[]): string[] =>
  paths.filter((p) => p !== '' && !paths.some((other) => other !== p && p.startsWith(`${other}/`)));

/** Everything between two rows, as Shift selects it. */
export function rangeOf(rows: readonly Row[], from: string, to: string): string[] {
  const a = rows.findIndex((r) => r.path === from);
  const b = rows.findIndex((r) => r.path === to);
  if (a < 0 || b < 0) return [to];
  return rows.slice(Math.min(a, b), Math.max(a, b) + 1).map((r) => r.path);
}
