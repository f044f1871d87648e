import { groupBy, roleOf, type Role } from '@rootmap/core';
import type { FolderNodeView, FoldersView, NameFindingView, ThingView } from '@rootmap/core/contract';

interface RowBase {
  /** From the root; '' is the root. */
  readonly path: string;
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

/** The rows that are to be seen: open folders with what is in them, or, with words to look for, what has them. */
export function rowsOf(tree: Tree, rootName: string, open: ReadonlySet<string>, words: string): Row[] {
  const { view } = tree;
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = wanted.length ? pathsWith(view, wanted) : null;
  const rows: Row[] = [];
  const sizes = new Map(view.folders.map((f) => [f.path, f]));
  const nested = new Set(view.nested);
  const visit = (path: string, depth: number): void => {
    const node = sizes.get(path) ?? { path, bytes: 0, files: 0 };
    const folders = (tree.folders.get(path) ?? []).filter((f) => !shown || shown.has(f.path));
    const things = (tree.things.get(path) ?? []).filter((t) => !shown || shown.has(t.path));
    const isOpen = path === '' || shown !== null || open.has(path);
    rows.push({
      kind: 'folder',
      path,
      name: path === '' ? rootName : nameOf(path),
      depth,
      bytes: node.bytes,
      files: node.files,
      role: roleOf(path, view.roles),
      isPlanned: Object.hasOwn(view.roles, path),
      isNested: nested.has(path),
      isOpen,
      hasMore: folders.length + things.length > 0,
      findings: tree.findings.get(path) ?? [],
    });
    if (!isOpen) return;
    for (const f of folders) visit(f.path, depth + 1);
    for (const t of things)
      rows.push({
        kind: 'thing',
        path: t.path,
        name: nameOf(t.path),
        depth: depth + 1,
        bytes: t.bytes,
        role: roleOf(t.path, view.roles),
        findings: tree.findings.get(t.path) ?? [],
        thing: t,
      });
  };
  visit('', 0);
  return rows;
}

/** Paths that have all the words, the folders above them, and what is below a folder that has them. */
function pathsWith(view: FoldersView, words: readonly string[]): Set<string> {
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
