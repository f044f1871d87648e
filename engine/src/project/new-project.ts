import { randomUUID } from 'node:crypto';
import { existsSync, statSync } from 'node:fs';
import {
  DEFAULT_NAMING,
  isProjectFile,
  planPathFault,
  proposeName,
  ProblemError,
  withParents,
  writeProjectFile,
  type NamingRules,
  type PlanFolder,
  type ProjectLink,
  joined,
} from '@rootmap/core';
import { basename, join } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import { refuseOtherSpelling } from '../disk/other-spelling.js';
import type { PlannedChange, PlannedStep } from '../changes/change.js';
import { missingFolders } from '../changes/missing-folders.js';
import { mustBeKnown } from '../crs/definitions.js';

export interface NewProjectRequest {
  /** Absolute path of the folder that becomes the root; it need not be there. */
  readonly root: string;
  readonly title: string;
  readonly summary?: string;
  readonly folders: readonly PlanFolder[];
  readonly crs: string | null;
  readonly naming?: NamingRules;
  readonly links?: readonly ProjectLink[];
  /** Makes a working geodatabase under the project's name: an empty one is staged by whoever carries the change out. */
  readonly withGeodatabase?: boolean;
}

export interface NewProjectPlan {
  readonly projectFile: string;
  /** Role by folder, as the project file will have them. */
  readonly roles: Readonly<Record<string, string>>;
  /** Folders and files that are made, in their order. */
  readonly created: readonly string[];
  readonly change: PlannedChange;
}

/** Plans a new project: its folder, the folders of its plan, and its project file. What is in the folder already stays. */
export function planNewProject(request: NewProjectRequest, who: string, now = new Date()): NewProjectPlan {
  const { root } = request;
  if (existsSync(root)) checkFolder(root);
  else refuseOtherSpelling(root);
  mustBeKnown(request.crs);
  const folders = request.folders.filter((f) => !f.path.includes('<'));
  for (const f of folders) {
    const why = planPathFault(f.path);
    if (why) throw new ProblemError({ code: 'bad-name', name: f.path, why });
  }
  const name = proposeName(basename(root), DEFAULT_NAMING);
  const projectFile = join(root, `${name}.rootmap.json`);
  const geodatabase = request.withGeodatabase ? `${geodatabaseFolder(folders)}${name}.gpkg` : null;
  const isNew = geodatabase !== null && !existsSync(join(root, geodatabase));
  const roles = Object.fromEntries(folders.map((f) => [f.path, f.role]));
  const text = writeProjectFile({
    id: randomUUID(),
    name,
    title: request.title.trim() || basename(root),
    summary: request.summary ?? '',
    created: `${now.toISOString().slice(0, 19)}Z`,
    crs: request.crs,
    folders: roles,
    links: request.links ?? [],
    workingGeodatabase: geodatabase,
    ...(request.naming ? { naming: request.naming } : {}),
  });
  const made = missingFolders([root, ...withParents(folders.map((f) => f.path)).map((p) => join(root, p))]);
  const steps: PlannedStep[] = [
    ...made.map((path) => ({ kind: 'folder', path }) as const),
    { kind: 'write', path: projectFile, before: null, after: Buffer.from(text, 'utf8') },
    ...(isNew ? [{ kind: 'install', path: join(root, geodatabase) } as const] : []),
  ];
  return {
    projectFile,
    roles,
    created: [...made, projectFile, ...(isNew ? [join(root, geodatabase)] : [])],
    change: { title: `New project ${request.title.trim() || name}`, kind: 'new', root, who, steps },
  };
}

const geodatabaseFolder = (folders: readonly PlanFolder[]): string => {
  const found = folders.find((f) => f.role === 'geodatabases');
  return found ? joined([found.path, '']) : '';
};

function checkFolder(root: string): void {
  if (!statSync(root).isDirectory()) throw new ProblemError({ code: 'exists', path: root });
  const there = readdirSync(root).find(isProjectFile);
  if (there)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${root} is a project already (${there}). Open it, or choose another folder.`,
    });
}
