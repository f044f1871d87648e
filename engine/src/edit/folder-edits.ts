import { existsSync } from 'node:fs';
import { isMapFile, ProblemError, roleOf, withParents, type PlanFolder } from '@rootmap/core';
import { basename, dirname, join } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import type { PlannedStep } from '../changes/change.js';
import { guardSteps } from '../move/guard-originals.js';
import { confinementOf, type RootedScope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import { type Edit, type EditOptions, type EditPlan, checkWritable, planned, projectWrite } from './planned.js';
import { missingFolders } from '../changes/missing-folders.js';

/** Folders of a plan are added to a project; those that are there already only get their role. */
export function planFolders(scope: RootedScope, wanted: readonly PlanFolder[], options: EditOptions): EditPlan {
  const root = scope.root;
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

export function planRole(scope: RootedScope, edit: Edit<'role'>, options: EditOptions): EditPlan {
  const folders: Record<string, string> = { ...scope.project?.folders };
  delete folders[edit.path];
  if (edit.role !== null) folders[edit.path] = edit.role;
  const role = roleOf(edit.path, folders);
  const steps = [...projectWrite(scope, { folders }), ...guardStaying(scope, folders, new Set())];
  const title = edit.role === null ? `Take the role from ${edit.path}` : `Make ${edit.path} a folder for ${role}`;
  return planned(scope, title, 'protect', steps, options);
}

/** Files that stand in a folder of originals already become read-only where they are. */
export function guardStaying(scope: RootedScope, roles: Readonly<Record<string, string>>, moving: ReadonlySet<string>): PlannedStep[] {
  const before = { root: scope.root, folders: scope.project?.folders ?? {} };
  return guardSteps(
    filesOf(scope).flatMap((path) => (moving.has(path) ? [] : [{ from: path, to: path }])),
    [before],
    [{ root: scope.root, folders: roles }],
  );
}

const filesOf = (scope: RootedScope): string[] =>
  listFiles(scope.root, { confinedTo: confinementOf(scope.root, scope.places) })
    .files.filter((f) => !isMapFile(f.path))
    .map((f) => join(scope.root, f.path));
