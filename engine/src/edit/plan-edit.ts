import { randomUUID } from 'node:crypto';
import { existsSync, lstatSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import {
  isBelow,
  isMapFile,
  must,
  patchProject,
  patchText,
  patchWorking,
  placeNamed,
  planPathFault,
  ProblemError,
  roleOf,
  splitName,
  storeReference,
  withParents,
  writeCsvt,
  type PlanFolder,
  type ProjectMembers,
} from '@rootmap/core';
import type { EditPreview, EditRequest } from '@rootmap/core/contract';
import type { PlannedChange, PlannedStep, PlannedWrite } from '../changes/change.js';
import { expandMove } from '../move/expand.js';
import { guardedMode, guardSteps } from '../move/guard-originals.js';
import { definitionOf } from '../crs/definitions.js';
import { linkTo } from '../links/link-to.js';
import { findMentions } from '../move/mentions.js';
import { planFollow, type MovedPairs } from '../move/follow-moves.js';
import { missingFolders, pathAt, planMoves, trashRootOf, type MovePlan } from '../move/plan-move.js';
import { planRenames } from '../project/plan-renames.js';
import { shownPath } from '../workbench/view-project.js';
import { planNewProject } from '../project/new-project.js';
import { readMaps } from '../project/read-maps.js';
import { writeOf } from '../project/remember.js';
import { confinementOf, linkLocations, locationOf, type Scope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import { planAddToMap } from './add-to-map.js';
import { findDataset } from '../survey/find-dataset.js';
import { planTableEdit } from '../geodatabase/tables/plan-table-edit.js';
import type { StagedContainer } from '../geodatabase/tables/stage-tables.js';
import { planUseTables } from '../geodatabase/use-tables.js';
import { emptyPreview, foldersOf, previewOfMove, referencesOf } from './edit-preview.js';

export interface EditPlan {
  readonly change: PlannedChange | null;
  readonly preview: EditPreview;
  /** What it moves, for projects that are away now. */
  readonly moved?: MovedPairs;
  /** How the content of its installs is made. */
  readonly containers?: readonly StagedContainer[];
}

export interface EditOptions {
  /** Roots of the other known projects. */
  readonly roots: readonly string[];
  readonly who: string;
  /** Where a path that a request names is, real and absolute. */
  readonly resolve: (at: { readonly place: string; readonly path: string }, mayBeNew: boolean) => string;
  /** What moved while this project was away, the oldest first. */
  readonly missed: readonly MovedPairs[];
  /** Leaves out the search for files that only mention what moves, which takes long. */
  readonly isQuick: boolean;
}

type Edit<K extends EditRequest['kind']> = Extract<EditRequest, { kind: K }>;

/** Plans what a person asks for; nothing is written. Throws what cannot be done, as a sentence. */
export async function planEdit(scope: Scope, edit: EditRequest, options: EditOptions): Promise<EditPlan> {
  switch (edit.kind) {
    case 'move':
      return planMoveEdit(scope, edit, options);
    case 'trash':
      return planTrash(scope, edit, options);
    case 'names':
      return planNamesEdit(scope, edit, options);
    case 'adopt':
      return planAdopt(scope, edit, options);
    case 'copy':
      return planCopy(scope, edit, options);
    case 'folders':
      return planFolders(scope, edit.folders, options);
    case 'role':
      return planRole(scope, edit, options);
    case 'naming':
      return setMembers(scope, { naming: edit.naming }, 'Choose the rules for names', options);
    case 'link':
      return planLink(scope, edit, options);
    case 'assign-crs':
      return planAssignCrs(scope, edit, options);
    case 'csv-columns':
      return planCsvColumns(scope, edit, options);
    case 'add-to-map':
      return planLayers(scope, edit, options);
    case 'relink':
      return planRelink(scope, edit, options);
    case 'unlink':
      return planUnlink(scope, edit.name, options);
    case 'working-geodatabase':
      return edit.map === null
        ? setMembers(scope, { workingGeodatabase: edit.path }, edit.path ? `Work in ${edit.path}` : 'Name no working geodatabase', options)
        : planMapWorking(scope, edit.map, edit.path, options);
    case 'use-tables':
      return planTables(scope, edit, options);
    case 'tables':
      return planTableEditOf(scope, edit, options);
    case 'separate':
      return setMembers(scope, { id: randomUUID() }, 'Make this copy a project of its own', options);
    case 'protect':
      return planned(
        scope,
        'Set the originals read-only',
        'protect',
        guardStaying(scope, scope.project?.folders ?? {}, new Set()),
        options,
      );
    case 'follow':
      return planFollowEdit(scope, options);
    case 'finish':
      return setMembers(scope, { status: 'finished', links: [] }, 'Finish the project', options);
  }
}

async function planMoveEdit(scope: Scope, edit: Edit<'move'>, { roots, who, resolve, isQuick }: EditOptions): Promise<EditPlan> {
  const requests = edit.moves.map((m) => ({ from: resolve(m.from, false), to: resolve(m.to, true) }));
  const all = [scope.root!, ...roots];
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
function planTrash(scope: Scope, edit: Edit<'trash'>, { roots, who, resolve }: EditOptions): EditPlan {
  const paths = edit.paths.map((p) => resolve(p, false));
  const all = [scope.root!, ...roots];
  const aside = join(scope.root!, '.rootmap', 'trash', 'aside');
  const requests = paths.map((from, i) => ({ from, to: join(aside, String(i), basename(from)) }));
  const away = planMoves(requests, all, scope.places, { who, evenOriginals: edit.evenOriginals });
  const entries = away.entries.filter((e) => !e.isShared);
  const isGone = (path: string): boolean => entries.some((e) => path === e.from || path.startsWith(`${e.from}/`));
  const owners = all.map((root) => ({ root }));
  const title = paths.length === 1 ? `Delete ${basename(paths[0]!)}` : `Delete ${paths.length} things`;
  const steps: PlannedStep[] = [
    ...withoutFolders(scope, isGone),
    ...entries.map((e) => ({ kind: 'trash' as const, path: e.from, hash: null, trashOf: trashRootOf(e.from, owners, scope.places) })),
  ];
  return {
    change: { title, kind: 'delete', root: scope.root!, who, steps },
    preview: {
      ...emptyPreview(title),
      files: away.files.length,
      moved: away.files.slice(0, 500).map((f) => ({ from: f.from.slice(scope.root!.length + 1), to: '' })),
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
function withoutFolders(scope: Scope, isGone: (path: string) => boolean): PlannedWrite[] {
  const folders = scope.project?.folders ?? {};
  const kept = Object.fromEntries(Object.entries(folders).filter(([path]) => !isGone(join(scope.root!, path))));
  return Object.keys(kept).length === Object.keys(folders).length ? [] : projectWrite(scope, { folders: kept });
}

async function planNamesEdit(scope: Scope, edit: Edit<'names'>, { roots, who }: EditOptions): Promise<EditPlan> {
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
function planAdopt(scope: Scope, edit: Edit<'adopt'>, { roots, who }: EditOptions): EditPlan {
  const root = scope.root!;
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

/** Files that stand in a folder of originals already become read-only where they are. */
function guardStaying(scope: Scope, roles: Readonly<Record<string, string>>, moving: ReadonlySet<string>): PlannedStep[] {
  const before = { root: scope.root!, folders: scope.project?.folders ?? {} };
  return guardSteps(
    filesOf(scope).flatMap((path) => (moving.has(path) ? [] : [{ from: path, to: path }])),
    [before],
    [{ root: scope.root!, folders: roles }],
  );
}

const filesOf = (scope: Scope): string[] =>
  listFiles(scope.root!, { confinedTo: confinementOf(scope.root!, scope.places) })
    .files.filter((f) => !isMapFile(f.path))
    .map((f) => join(scope.root!, f.path));

/** A copy that can be worked on: writable, and, of a map, with references that reach the same data from there. */
function planCopy(scope: Scope, edit: Edit<'copy'>, { roots, who, resolve }: EditOptions): EditPlan {
  const request = { from: resolve(edit.from, false), to: resolve(edit.to, true) };
  const moved = planMoves([request], [scope.root!, ...roots], scope.places, { who, evenOriginals: true });
  const texts = new Map(moved.change.steps.flatMap((s) => (s.kind === 'write' ? [[s.path, s.after] as const] : [])));
  const steps: PlannedStep[] = missingFolders(expandMove(request).map((e) => dirname(e.to))).map((path) => ({ kind: 'folder', path }));
  const modes: PlannedStep[] = [];
  for (const { from, to } of moved.files) {
    const text = isMapFile(from) ? (texts.get(from) ?? readFileSync(from)) : null;
    if (text) steps.push({ kind: 'write', path: to, before: null, after: text });
    if (text || moved.entries.some((e) => e.isFolder)) continue;
    steps.push({ kind: 'copy', from, path: to });
    const mode = guardedMode(lstatSync(from).mode, false);
    if (mode !== null) modes.push({ kind: 'mode', path: to, mode });
  }
  for (const e of moved.entries) if (e.isFolder) steps.push({ kind: 'copy', from: e.from, path: e.to });
  const title = `Copy ${basename(request.from)} to ${basename(dirname(request.to))}`;
  const copiedBytes = moved.files.reduce((sum, f) => sum + (statSync(f.from, { throwIfNoEntry: false })?.size ?? 0), 0);
  const preview = previewOfMove(moved, scope);
  return {
    change: { title, kind: 'copy', root: scope.root!, who, steps: [...steps, ...modes] },
    preview: { ...preview, title, references: [], referenceCount: 0, maps: 0, records: [], copiedBytes },
  };
}

/** Folders of a plan are added to a project; those that are there already only get their role. */
function planFolders(scope: Scope, wanted: readonly PlanFolder[], options: EditOptions): EditPlan {
  const root = scope.root!;
  const folders = wanted.filter((f) => !f.path.includes('<'));
  checkWritable(scope);
  const missing = missingFolders(withParents(folders.map((f) => f.path)).map((p) => join(root, p)));
  for (const path of missing) checkFree(path);
  const roles = { ...Object.fromEntries(folders.map((f) => [f.path, f.role])), ...scope.project?.folders };
  const steps: PlannedStep[] = [
    ...(scope.project && Object.keys(roles).length > Object.keys(scope.project.folders).length
      ? projectWrite(scope, { folders: roles })
      : []),
    ...missing.map((path) => ({ kind: 'folder', path }) as const),
  ];
  const title = folders.length === 1 ? `Make the folder ${folders[0]!.path}` : `Add ${folders.length} folders`;
  return planned(scope, title, 'folders', steps, options);
}

function checkFree(path: string): void {
  const above = dirname(path);
  const twin = existsSync(above) && readdirSync(above).find((n) => n.toLowerCase() === basename(path).toLowerCase());
  if (twin) throw new ProblemError({ code: 'exists', path: join(above, twin) });
}

function planRole(scope: Scope, edit: Edit<'role'>, options: EditOptions): EditPlan {
  const folders: Record<string, string> = { ...scope.project?.folders };
  delete folders[edit.path];
  if (edit.role !== null) folders[edit.path] = edit.role;
  const role = roleOf(edit.path, folders);
  const steps = [...projectWrite(scope, { folders }), ...guardStaying(scope, folders, new Set())];
  const title = edit.role === null ? `Take the role from ${edit.path}` : `Make ${edit.path} a folder for ${role}`;
  return planned(scope, title, 'protect', steps, options);
}

/** Only where there is none: what a file says of itself is not written over. */
function planAssignCrs(scope: Scope, edit: Edit<'assign-crs'>, options: EditOptions): EditPlan {
  const main = options.resolve(edit.dataset, false);
  const definition = definitionOf(edit.crs);
  if (!definition) throw new ProblemError({ code: 'not-found', what: 'CRS', id: edit.crs });
  const path = join(dirname(main), `${splitName(basename(main)).stem}.prj`);
  if (existsSync(path)) throw new ProblemError({ code: 'exists', path });
  const steps: PlannedStep[] = [{ kind: 'write', path, before: null, after: Buffer.from(definition.wkt, 'utf8') }];
  const isOriginal = roleOf(main.slice(scope.root!.length + 1), scope.project?.folders ?? {}) === 'originals';
  if (isOriginal) steps.push({ kind: 'mode', path, mode: 0o444 });
  return planned(scope, `Say that ${basename(main)} is in ${edit.crs}`, 'origin', steps, options);
}

/** A `.csvt` beside a table says which of its columns hold coordinates, or that none does. */
function planCsvColumns(scope: Scope, edit: Edit<'csv-columns'>, options: EditOptions): EditPlan {
  const main = options.resolve(edit.dataset, false);
  const { dataset } = findDataset(scope, main);
  if (dataset.group.format !== 'csv')
    throw new ProblemError({ code: 'wrong-use', message: `${basename(main)} is no CSV. Only of a CSV can columns be named.` });
  const fields = dataset.fields ?? [];
  const at = (name: string): number => {
    const i = fields.findIndex((f) => f.name === name);
    if (i < 0) throw new ProblemError({ code: 'not-found', what: 'column', id: name });
    return i;
  };
  const columns = edit.columns && { x: at(edit.columns.x), y: at(edit.columns.y) };
  const path = join(dirname(main), `${splitName(basename(main)).stem}.csvt`);
  const before = existsSync(path) ? readFileSync(path) : null;
  const after = Buffer.from(writeCsvt(fields, columns), 'utf8');
  const steps: PlannedStep[] = before && after.equals(before) ? [] : [{ kind: 'write', path, before, after }];
  const title = columns
    ? `Read ${edit.columns.x} and ${edit.columns.y} of ${basename(main)} as coordinates`
    : `Read ${basename(main)} as a table`;
  return planned(scope, title, 'origin', steps, options);
}

function planLayers(scope: Scope, edit: Edit<'add-to-map'>, options: EditOptions): EditPlan {
  const { title, steps, layers } = planAddToMap(scope, edit, Date.now());
  const plan = planned(scope, title, 'save', steps, options);
  return { ...plan, preview: { ...plan.preview, added: layers } };
}

function planTables(scope: Scope, edit: Edit<'use-tables'>, options: EditOptions): EditPlan {
  const { steps, layers } = planUseTables(scope, edit.pairs);
  const title = `Let ${layers.length} ${layers.length === 1 ? 'layer use a table' : 'layers use tables'}`;
  const plan = planned(scope, title, 'mend', steps, options);
  const references = referencesOf({ references: layers }, scope);
  return { ...plan, preview: { ...plan.preview, references, referenceCount: layers.length, maps: steps.length } };
}

function planTableEditOf(scope: Scope, edit: Edit<'tables'>, options: EditOptions): EditPlan {
  const { title, steps, containers, references, usedBy, bytes } = planTableEdit(scope, edit, options.roots, options.resolve);
  const plan = planned(scope, title, 'geodatabase', steps, options);
  const otherRoots = options.roots.filter((root) => root !== scope.root && steps.some((s) => s.path.startsWith(`${root}/`)));
  return {
    change: plan.change && { ...plan.change, otherRoots },
    containers,
    preview: {
      ...plan.preview,
      references: referencesOf({ references }, scope),
      referenceCount: references.length,
      maps: new Set(references.map((r) => r.map)).size,
      usedBy: usedBy.map((r) => ({ map: basename(r.map.path), title: r.title, path: r.reference.href })),
      stagedBytes: bytes,
    },
  };
}

/** A map of its own mind: by a reference like those of its layers, so that it moves and is found again as they are. */
function planMapWorking(scope: Scope, map: string, path: string | null, options: EditOptions): EditPlan {
  const seen = readMaps({ ...scope, maps: [join(scope.root!, map)] }).maps[0];
  if (!seen) throw new ProblemError({ code: 'not-found', what: 'map', id: map });
  const form = seen.file.storedForm ?? scope.project?.storedForm ?? 'relative';
  const target = path === null ? null : locationOf(join(scope.root!, path), scope.places);
  const href = target && storeReference(locationOf(seen.path, scope.places), target, null, form, scope.places).href;
  const patches = patchWorking(seen.file, href);
  const steps = patches.length > 0 ? [writeOf(seen, patchText(seen.file.text, patches))] : [];
  const title = path === null ? `Let ${seen.file.title} work where the project does` : `Let ${seen.file.title} work in ${path}`;
  return planned(scope, title, 'save', steps, options);
}

function planLink(scope: Scope, edit: Edit<'link'>, options: EditOptions): EditPlan {
  const folder = options.resolve(edit.folder, false);
  if (!statSync(folder).isDirectory())
    throw new ProblemError({ code: 'wrong-use', message: `${folder} is a file. Link the folder it is in.` });
  const kept = (scope.project?.links ?? []).filter((l) => !edit.replaces.includes(l.name));
  const link = linkTo(scope, edit.name, folder, edit.note);
  if (kept.some((l) => l.name === edit.name)) throw new ProblemError({ code: 'exists', path: `A link named ${edit.name}` });
  return setMembers(scope, { links: [...kept, link] }, `Link ${edit.name}`, options);
}

/** One answer for a link that is gone: it leads to the folder where its data stands now, and so does every layer below it. */
function planRelink(scope: Scope, edit: Edit<'relink'>, options: EditOptions): EditPlan {
  const links = scope.project?.links ?? [];
  const link = links.find((l) => l.name === edit.name);
  if (!link) throw new ProblemError({ code: 'not-found', what: 'link', id: edit.name });
  const folder = options.resolve(edit.folder, false);
  const title = `Find the link ${edit.name} again`;
  const before = linkLocations(scope).find((l) => l.name === edit.name)?.location;
  // An address that no place claims: only the link can be told anew; layers below it are found by it.
  if (!before)
    return setMembers(scope, { links: links.map((l) => (l === link ? linkTo(scope, l.name, folder, l.note) : l)) }, title, options);
  const { references, change } = planFollow(scope, [[{ from: pathAt(before, scope.places), to: folder }]], options.who);
  const plan = planned(scope, title, 'mend', change?.steps ?? [], options);
  return {
    ...plan,
    preview: {
      ...plan.preview,
      references: referencesOf({ references }, scope),
      referenceCount: references.length,
      maps: new Set(references.map((r) => r.map)).size,
    },
  };
}

/** A link goes from the project; what it led to stays. Layers that go through it are told. */
function planUnlink(scope: Scope, name: string, options: EditOptions): EditPlan {
  const links = scope.project?.links ?? [];
  if (!links.some((l) => l.name === name)) throw new ProblemError({ code: 'not-found', what: 'link', id: name });
  const plan = setMembers(scope, { links: links.filter((l) => l.name !== name) }, `Unlink ${name}`, options);
  const through = layersThrough(scope, name);
  return { ...plan, preview: { ...plan.preview, loosened: through } };
}

function layersThrough(scope: Scope, name: string): { map: string; title: string; path: string }[] {
  const link = linkLocations(scope).find((l) => l.name === name);
  if (!link) return [];
  return readMaps(scope).maps.flatMap((map) =>
    map.layers.flatMap(({ layer, judgement }) =>
      judgement.location && isBelow(link.location, judgement.location, scope.places)
        ? [{ map: basename(map.path), title: layer.title, path: layer.reference?.href ?? '' }]
        : [],
    ),
  );
}

function planFollowEdit(scope: Scope, { missed, who }: EditOptions): EditPlan {
  const { references, change } = planFollow(scope, missed, who);
  const title = change?.title ?? 'Nothing to follow';
  const preview = emptyPreview(title);
  return {
    change,
    preview: {
      ...preview,
      references: referencesOf({ references }, scope),
      referenceCount: references.length,
      maps: new Set(references.map((r) => r.map)).size,
      changes: change !== null,
    },
  };
}

const setMembers = (scope: Scope, members: ProjectMembers, title: string, options: EditOptions): EditPlan =>
  planned(scope, title, 'project', projectWrite(scope, members), options);

function planned(
  scope: Scope,
  title: string,
  kind: PlannedChange['kind'],
  steps: readonly PlannedStep[],
  { who }: Pick<EditOptions, 'who'>,
): EditPlan {
  checkWritable(scope);
  const change: PlannedChange = { title, kind, root: scope.root!, who, steps };
  const files = steps.filter((s) => s.kind === 'mode').length;
  return {
    change: steps.length ? change : null,
    preview: { ...emptyPreview(title), files, folders: foldersOf(change, scope), changes: steps.length > 0 },
  };
}

function checkWritable(scope: Scope): void {
  const place = placeNamed(scope.places, locationOf(scope.root!, scope.places).place);
  if (place?.readOnly) throw new ProblemError({ code: 'read-only', path: scope.root! });
}

/** The project file with other members; all else in it stays. Throws where the folder is no project. */
function projectWrite(scope: Scope, members: ProjectMembers): PlannedWrite[] {
  if (!scope.projectFile)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${scope.root!} is a folder without a project file. Make it a project first.`,
    });
  const before = readFileSync(scope.projectFile);
  const text = must(patchProject(scope.projectFile, before.toString('utf8'), members));
  const after = Buffer.from(text, 'utf8');
  return after.equals(before) ? [] : [{ kind: 'write', path: scope.projectFile, before, after }];
}
