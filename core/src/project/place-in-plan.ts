import type { DatasetKind, Format } from '../dataset/dataset.js';
import { foldersToMake, type FolderPlan, type PlanFolder } from './folder-plan.js';
import type { Role } from './roles.js';

/** One thing of a grown folder: a dataset, a map, or a document. */
export interface GrownThing {
  /** From the root, `/` as separator. */
  readonly path: string;
  readonly format: Format | 'map';
  readonly kind: DatasetKind | 'map';
  /** A table or a raster; told from its header where there is one. */
  readonly isRaster: boolean;
  /** Maps that use it. */
  readonly usedBy: number;
}

export interface PlaceProposal {
  readonly path: string;
  /** Folder of the plan, and what is kept of the old folders below it. Null: it stays where it is. */
  readonly folder: string | null;
  readonly role: Role | null;
  /** Why there, a clause that a person can check. */
  readonly why: string;
}

/** Words in names that tell what a file is for. Common practice, no source. */
const RESULT = /(^|[^a-z])(final|result|results|deliver\w*|output|publish\w*|report)([^a-z]|$)/i;
const MADE =
  /(^|[^a-z])(clip\w*|buffer\w*|merge\w*|dissolve\w*|join\w*|intersect\w*|union|reproj\w*|edit\w*|draft|work\w*|derived|tmp|temp|calc\w*|sel(ection)?|subset|v\d+|copy|new)([^a-z]|$)/i;
const EXPORTED = /\.(pdf|png|svg|jpe?g)$/i;
const ARCHIVE = /\.(zip|7z|rar|tar|gz|tgz)$/i;

function wanted(thing: GrownThing): { role: Role; why: string } {
  const name = thing.path.toLowerCase();
  if (thing.kind === 'map') return { role: 'maps', why: 'it is a map file' };
  if (thing.format === 'geopackage') return { role: 'geodatabases', why: 'it is a geodatabase' };
  if (ARCHIVE.test(name)) return { role: 'originals', why: 'it is an archive, as data comes' };
  if (thing.kind === 'document') {
    if (EXPORTED.test(name) && /map|plan|figure|export/.test(name)) return { role: 'exports', why: 'it is a sheet or a picture' };
    return { role: 'documents', why: 'it is a document' };
  }
  if (RESULT.test(name)) return { role: 'results', why: 'its name or folder says that it is a result' };
  if (MADE.test(name)) return { role: 'working', why: 'its name or folder says that it was made from something else' };
  return { role: 'originals', why: 'nothing says that it was made here, so it counts as received' };
}

/** Stand-ins where a plan has no folder of a role, in this order. */
const INSTEAD: Readonly<Record<Role, readonly Role[]>> = {
  originals: ['other'],
  working: ['other'],
  results: ['exports', 'working'],
  maps: ['documents'],
  documents: ['other'],
  geodatabases: ['working', 'originals'],
  exports: ['results', 'documents'],
  other: [],
};

/** A plan may have several folders of a role; the one whose name fits the thing is taken, else the first. */
function folderFor(thing: GrownThing, role: Role, folders: readonly PlanFolder[]): PlanFolder | null {
  for (const r of [role, ...INSTEAD[role]]) {
    const found = folders.filter((f) => f.role === r);
    if (found.length === 0) continue;
    if (thing.isRaster) return found.find((f) => /imag|raster/i.test(f.path)) ?? found[0]!;
    return found.find((f) => !/imag|raster/i.test(f.path)) ?? found[0]!;
  }
  return null;
}

/**
 * Where each thing of a grown folder belongs in a plan. What stands in a folder of its role already stays; the others keep
 * their nearest own folder, so that things that stood together stay together.
 */
export function placeInPlan(things: readonly GrownThing[], plan: Pick<FolderPlan, 'folders'>): PlaceProposal[] {
  const folders = foldersToMake(plan);
  return things.map((thing): PlaceProposal => {
    const at = folders.find((f) => thing.path.startsWith(`${f.path}/`));
    if (at) return { path: thing.path, folder: null, role: at.role, why: `it is in ${at.path} already` };
    const { role, why } = wanted(thing);
    const folder = folderFor(thing, role, folders);
    if (!folder) return { path: thing.path, folder: null, role: null, why: 'the plan has no folder for it' };
    const kept = keptFolders(thing.path, folder.path);
    return { path: thing.path, folder: kept === '' ? folder.path : `${folder.path}/${kept}`, role: folder.role, why };
  });
}

/** Old folders above a thing, without one that only says what the plan's folder says. */
function keptFolders(path: string, folder: string): string {
  const parts = path.split('/').slice(0, -1);
  const says = (text: string): string => text.toLowerCase().replace(/[^a-z]/g, '');
  return parts.filter((p) => says(p) !== says(folder.slice(folder.lastIndexOf('/') + 1))).join('/');
}
