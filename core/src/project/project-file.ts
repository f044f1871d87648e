import type { StoredForm } from '../address/reference.js';
import { member, items, parseJsonTree, textOf, toValue } from '../json/json-tree.js';
import { done, fail, type Result } from '../problem.js';

export interface ProjectLink {
  readonly name: string;
  /** Relative to the root, tried first. */
  readonly path: string | null;
  /** A `file:` URI. */
  readonly address: string | null;
  readonly note: string;
}

export interface ProjectFile {
  readonly id: string;
  readonly name: string;
  readonly title: string;
  readonly summary: string;
  readonly created: string;
  readonly crs: string | null;
  readonly storedForm: StoredForm;
  readonly workingGeodatabase: string | null;
  readonly folders: Readonly<Record<string, string>>;
  readonly links: readonly ProjectLink[];
}

export const PROJECT_FORMAT = 'rootmap-project/1';

/** Reads a project file. Missing members have their defaults; only its form and id must be there. Never throws. */
export function parseProjectFile(file: string, text: string): Result<ProjectFile> {
  const tree = parseJsonTree(file, text);
  if (!tree.ok) return tree;
  const root = tree.value;
  const format = textOf(member(root, 'format'));
  if (format !== PROJECT_FORMAT) return fail({ code: 'wrong-shape', file, member: 'format', expected: `"${PROJECT_FORMAT}"` });
  const id = textOf(member(root, 'id'));
  if (!id) return fail({ code: 'wrong-shape', file, member: 'id', expected: 'the id of the project' });
  const name = textOf(member(root, 'name')) ?? file.replace(/^.*\//, '').replace(/\.rootmap\.json$/i, '');
  const folders = member(root, 'folders');
  return done({
    id,
    name,
    title: textOf(member(root, 'title')) ?? name,
    summary: textOf(member(root, 'summary')) ?? '',
    created: textOf(member(root, 'created')) ?? '',
    crs: textOf(member(root, 'crs')) ?? null,
    storedForm: textOf(member(root, 'storedForm')) === 'absolute' ? 'absolute' : 'relative',
    workingGeodatabase: textOf(member(root, 'workingGeodatabase')) ?? null,
    folders: folders?.kind === 'object' ? (toValue(folders) as Record<string, string>) : {},
    links: items(member(root, 'links')).flatMap((l) => {
      const linkName = textOf(member(l, 'name'));
      if (linkName === undefined) return [];
      return [
        {
          name: linkName,
          path: textOf(member(l, 'path')) ?? null,
          address: textOf(member(l, 'address')) ?? null,
          note: textOf(member(l, 'note')) ?? '',
        },
      ];
    }),
  });
}

/** A new project file as text. */
export function writeProjectFile(p: Omit<ProjectFile, 'links'> & { links?: readonly ProjectLink[] }): string {
  const value = {
    format: PROJECT_FORMAT,
    id: p.id,
    name: p.name,
    title: p.title,
    summary: p.summary,
    created: p.created,
    crs: p.crs,
    storedForm: p.storedForm,
    workingGeodatabase: p.workingGeodatabase,
    folders: p.folders,
    links: p.links ?? [],
    services: [],
  };
  return `${JSON.stringify(value, null, 2)}\n`;
}
