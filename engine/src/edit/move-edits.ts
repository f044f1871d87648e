import { randomUUID } from 'node:crypto';
import { lstatSync, statSync } from 'node:fs';
import { isMapFile, member, parseJsonTree, planPathFault, ProblemError, setAt, textOf, withParents } from '@rootmap/core';
import { basename, dirname, join, isInside, pathFrom } from '../disk/native-path.js';
import { readFileSync } from '../disk/files.js';
import type { PlannedStep, PlannedWrite } from '../changes/change.js';
import { keeperOf, originsCopied } from '../folders/origins.js';
import { expandMove } from '../move/expand.js';
import { guardedMode } from '../move/guard-originals.js';
import { findMentions } from '../move/mentions.js';
import type { MovedPairs } from '../move/follow-moves.js';
import { holdsProject, planMoves, spread, trashRootOf, type MovePlan } from '../move/plan-move.js';
import { planRenames } from '../names/plan-renames.js';
import { planNewProject } from '../project/new-project.js';
import type { RootedScope } from '../project/scope.js';
import { emptyPreview, previewOfMove, referencesOf } from './edit-preview.js';
import { guardStaying } from './folder-edits.js';
import { type Edit, type EditOptions, type EditPlan, projectWrite } from './planned.js';
import { missingFolders } from '../changes/missing-folders.js';
import { shownPath } from '../project/shown-path.js';

export async function planMoveEdit(
  scope: RootedScope,
  edit: Edit<'move'>,
  { roots, who, resolve, isQuick }: EditOptions,
): Promise<EditPlan> {
  const requests = edit.moves.map((m) => ({ from: resolve(m.from, false), to: resolve(m.to, true) }));
  const all = [scope.root, ...roots];
  const grown = edit.grown && resolve(edit.grown, false);
  const plan = planMoves(requests, all, scope.places, {
    who,
    evenOriginals: edit.evenOriginals,
    ...(grown ? { grown, title: `Bring in ${basename(grown)}` } : {}),
  });
  const mentioned = isQuick ? [] : (await findMentions(plan.entries, all)).map((m) => m.path);
  return { change: plan.change, preview: previewOfMove(plan, scope, mentioned), moved: movedBy(plan) };
}

const movedBy = (plan: MovePlan): MovedPairs => plan.entries.flatMap(({ from, to, isShared }) => (isShared ? [] : [{ from, to }]));

/** Deleting moves things into the trash; what uses them is told before. */
export function planTrash(scope: RootedScope, edit: Edit<'trash'>, { roots, who, resolve }: EditOptions): EditPlan {
  const paths = edit.paths.map((p) => resolve(p, false));
  const all = [scope.root, ...roots];
  const aside = join(scope.root, '.rootmap', 'trash', 'aside');
  const requests = paths.map((from, i) => ({ from, to: join(aside, String(i), basename(from)) }));
  const away = planMoves(requests, all, scope.places, { who, evenOriginals: edit.evenOriginals });
  const entries = away.entries.filter((e) => !e.isShared);
  const isGone = (path: string): boolean => entries.some((e) => isInside(e.from, path));
  const owners = all.map((root) => ({ root }));
  const title = paths.length === 1 ? `Delete ${basename(paths[0]!)}` : `Delete ${paths.length} things`;
  const steps: PlannedStep[] = [
    ...withoutFolders(scope, isGone),
    ...entries.map((e) => ({ kind: 'trash' as const, path: e.from, hash: null, trashOf: trashRootOf(e.from, owners, scope.places) })),
  ];
  return {
    change: { title, kind: 'delete', root: scope.root, who, steps },
    preview: {
      ...emptyPreview(title),
      files: away.files.length,
      moved: away.files.slice(0, 500).map((f) => ({ from: pathFrom(scope.root, f.from), to: '' })),
      usedBy: referencesOf({ ...away, references: away.references.filter((r) => !isGone(r.map)) }, scope).map((r) => ({
        map: r.map,
        title: r.title,
        path: r.before,
      })),
      trashedBytes: away.files.reduce((sum, f) => sum + (statSync(f.from, { throwIfNoEntry: false })?.size ?? 0), 0),
      changes: true,
    },
  };
}

/** The project file without the roles of folders that go. */
function withoutFolders(scope: RootedScope, isGone: (path: string) => boolean): PlannedWrite[] {
  const folders = scope.project?.folders ?? {};
  const kept = Object.fromEntries(Object.entries(folders).filter(([path]) => !isGone(join(scope.root, path))));
  return Object.keys(kept).length === Object.keys(folders).length ? [] : projectWrite(scope, { folders: kept });
}

export async function planNamesEdit(scope: RootedScope, edit: Edit<'names'>, { roots, who }: EditOptions): Promise<EditPlan> {
  const { only, chosen, evenOriginals, evenMentioned } = edit;
  const names = await planRenames(scope, roots, { ...(only ? { only } : {}), chosen, evenOriginals, evenMentioned, who });
  const preview = names.plan ? previewOfMove(names.plan, scope) : emptyPreview('No name to change');
  const mentionedNames = names.mentioned.map((m) => ({ path: m.path, files: m.files.map((f) => shownPath(f, scope)) }));
  return {
    change: names.plan?.change ?? null,
    preview: { ...preview, protectedPaths: names.protectedPaths, mentionedNames },
    ...(names.plan ? { moved: movedBy(names.plan) } : {}),
  };
}

/** A grown folder becomes a project: project file, folders and moves are one change with one undo. */
export function planAdopt(scope: RootedScope, edit: Edit<'adopt'>, { roots, who }: EditOptions): EditPlan {
  const root = scope.root;
  const made = planNewProject({ root, title: edit.title, folders: edit.folders, crs: edit.crs }, who);
  const requests = edit.moves.map((m) => {
    const why = planPathFault(m.folder);
    if (why) throw new ProblemError({ code: 'bad-name', name: m.folder, why });
    return { from: join(root, m.path), to: join(root, m.folder, basename(m.path)) };
  });
  const plan = planMoves(requests, [root, ...roots], scope.places, {
    who,
    title: `Make ${edit.title} a project`,
    kind: 'new',
    folders: withParents(Object.keys(made.roles)).map((f) => join(root, f)),
    writes: made.change.steps.filter((s) => s.kind === 'write'),
    roles: made.roles,
    grown: root,
  });
  const stay = guardStaying(scope, made.roles, new Set(plan.files.map((f) => f.from)));
  const change = { ...plan.change, steps: [...plan.change.steps, ...stay] };
  return { change, preview: previewOfMove({ ...plan, change }, scope), moved: movedBy(plan) };
}

const isTrash = (path: string): boolean => path.includes('/.rootmap/trash');

/** A map that is copied by itself is another map: it gets an id of its own, and beside the first one another title. */
function asOwnMap(bytes: Uint8Array, isBeside: boolean): Uint8Array {
  const before = Buffer.from(bytes).toString('utf8');
  const tree = parseJsonTree('', before);
  if (!tree.ok) return bytes;
  const title = textOf(member(member(tree.value, 'properties'), 'title'));
  const text = setAt(before, ['id'], `urn:uuid:${randomUUID()}`);
  return Buffer.from(isBeside && title ? setAt(text, ['properties', 'title'], `${title}, copy`) : text, 'utf8');
}

/**
 * A copy that can be worked on: writable, and maps in it reach the same data from there, or the copies of it. A folder that
 * holds a project is copied as it is, originals protected as they are, without its trash.
 */
export function planCopy(scope: RootedScope, edit: Edit<'copy'>, { roots, who, resolve }: EditOptions): EditPlan {
  const request = { from: resolve(edit.from, false), to: resolve(edit.to, true) };
  const moved = planMoves([request], [scope.root, ...roots], scope.places, { who, evenOriginals: true });
  // Where a move rewrites what it takes along, the text stands at the old path, or at the new one on another disk.
  const texts = new Map(moved.change.steps.flatMap((s) => (s.kind === 'write' ? [[s.path, s.after] as const] : [])));
  const folders = moved.entries.flatMap((e) => (e.isFolder ? spread(e).filter((f) => f.isFolder && !isTrash(f.from)) : []));
  const files = moved.files.filter((f) => !isTrash(f.from));
  const isProject = folders[0] !== undefined && holdsProject(folders[0].from);
  const needed = [...expandMove(request).map((e) => dirname(e.to)), ...folders.map((f) => f.to)];
  const steps: PlannedStep[] = missingFolders(needed).map((path) => ({ kind: 'folder', path }));
  const modes: PlannedStep[] = [];
  for (const { from, to } of files) {
    const rewritten = texts.get(from) ?? texts.get(to);
    const text =
      from === request.from && isMapFile(from) ? asOwnMap(rewritten ?? readFileSync(from), dirname(from) === dirname(to)) : rewritten;
    steps.push(text ? { kind: 'write', path: to, before: null, after: text } : { kind: 'copy', from, path: to });
    const mode = isProject || text ? null : guardedMode(lstatSync(from).mode, false);
    if (mode !== null) modes.push({ kind: 'mode', path: to, mode });
  }
  // Of a folder the records come along as files.
  const records = folders.length > 0 ? [] : originsCopied(files, keeperOf(scope)).writes;
  const title = `Copy ${basename(request.from)} to ${basename(dirname(request.to))}`;
  const copiedBytes = files.reduce((sum, f) => sum + (statSync(f.from, { throwIfNoEntry: false })?.size ?? 0), 0);
  const preview = previewOfMove(moved, scope);
  return {
    change: { title, kind: 'copy', root: scope.root, who, steps: [...steps, ...records, ...modes] },
    preview: {
      ...preview,
      title,
      files: files.length,
      references: [],
      referenceCount: 0,
      maps: 0,
      records: [],
      copiedBytes,
      isOldTrashed: false,
    },
  };
}
