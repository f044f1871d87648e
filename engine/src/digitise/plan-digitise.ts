import { existsSync, statSync } from 'node:fs';
import { datasetId, ProblemError, splitName, type Field, besideName } from '@rootmap/core';
import type { DigitiseRequest, NewDataset } from '@rootmap/core/contract';
import { basename, dirname, extname, join } from '../disk/native-path.js';
import { readFileSync } from '../disk/files.js';
import type { PlannedChange, PlannedStep } from '../changes/change.js';
import { mustBeKnown } from '../crs/definitions.js';
import { refuseHeld } from '../geodatabase/holders.js';
import { replaceContainer } from '../geodatabase/replace-container.js';
import { amongOriginals, type RootedScope } from '../project/scope.js';
import { findDataset, type FoundDataset } from '../project/find-dataset.js';
import { versionOf } from '../disk/cache-folder.js';
import { missingFolders } from '../changes/missing-folders.js';

/** What is staged, and from what: as data, so that a worker can do it. */
export interface DigitiseOrder {
  readonly request: DigitiseRequest;
  /** Real path of the container or main file. */
  readonly path: string;
  readonly format: 'shapefile' | 'geojson' | 'geopackage';
  readonly table: string | null;
  /** Files that are written, by what they are. */
  readonly targets: Readonly<Record<string, string>>;
}
export interface DigitisePlan {
  readonly change: PlannedChange;
  readonly order: DigitiseOrder;
  /** Id of the dataset. */
  readonly dataset: string;
}

const EDITABLE = new Set(['shapefile', 'geojson', 'geopackage']);
/** Indexes that other programs made of the old shapes. */
const STALE = ['sbn', 'sbx', 'qix', 'fix'];

/** Why a dataset cannot be edited in place; null: it can. */
export function whyNotEditable({ dataset }: FoundDataset): string | null {
  if (dataset.kind !== 'vector') return 'it has no shapes';
  if (dataset.state !== 'ok') return 'it is not whole';
  if (!EDITABLE.has(dataset.group.format))
    return `files of this kind (${dataset.group.format}) are read, not written: bring it into a geodatabase`;
  if (dataset.crs?.code === undefined || dataset.crs?.code === null)
    return 'nobody knows which CRS it is in: find its CRS first, in Sources';
  return null;
}

/** Plans to save what was drawn. Nothing is written. Throws what cannot be done, as a sentence. */
export function planDigitise(
  scope: RootedScope,
  request: DigitiseRequest,
  resolve: (at: NewDataset['at']) => string,
  who: string,
): DigitisePlan {
  return request.dataset === null ? planNew(scope, request, resolve, who) : planEdit(scope, request, request.dataset, who);
}

function planEdit(scope: RootedScope, request: DigitiseRequest, id: string, who: string): DigitisePlan {
  const found = findDataset(scope, id);
  const { dataset, folder } = found;
  const why = whyNotEditable(found);
  const path = join(folder, dataset.group.path);
  if (why !== null) throw new ProblemError({ code: 'wrong-use', message: `${basename(path)} cannot be edited here: ${why}.` });
  const isOriginal = amongOriginals(scope, path);
  if (isOriginal) throw new ProblemError({ code: 'protected', path: basename(path), folder: basename(dirname(path)) });
  if (versionOf(found) !== request.state) throw new ProblemError({ code: 'changed-meanwhile', path });
  checkNewFields(request.newFields, dataset.fields ?? []);
  const format = dataset.group.format as DigitiseOrder['format'];
  const count = request.added.length + request.changed.length + request.removed.length;
  const title = `Edit ${dataset.table ?? basename(path)}: ${count} ${count === 1 ? 'record' : 'records'}`;
  const base = { title, kind: 'save' as const, root: scope.root, who };
  if (format === 'geopackage') {
    refuseHeld(path);
    const change: PlannedChange = { ...base, steps: replaceContainer(path) };
    return { change, dataset: id, order: { request, path, format, table: dataset.table, targets: { gpkg: path } } };
  }
  const beside = (ending: string): string => companionOf(found, ending) ?? besides(path, ending);
  const targets: Record<string, string> =
    format === 'geojson' ? { geojson: path } : { shp: path, shx: beside('shx'), dbf: beside('dbf'), cpg: beside('cpg') };
  const stale = format === 'shapefile' ? STALE.flatMap((e) => companionOf(found, e) ?? []) : [];
  const steps: PlannedStep[] = [
    ...[...Object.values(targets), ...stale].flatMap((p): PlannedStep[] => (existsSync(p) ? [{ kind: 'trash', path: p, hash: null }] : [])),
    ...Object.values(targets).map((p): PlannedStep => ({ kind: 'install', path: p })),
  ];
  return { change: { ...base, steps }, dataset: id, order: { request, path, format, table: null, targets } };
}

/** @param ending without its dot */
const besides = (path: string, ending: string): string => join(dirname(path), besideName(basename(path), `.${ending}`));

const companionOf = ({ folder, dataset }: FoundDataset, ending: string): string | null => {
  const found = dataset.group.companions.find((c) => extname(c.path).slice(1).toLowerCase() === ending);
  return found ? join(folder, found.path) : null;
};

function checkNewFields(added: readonly Field[], before: readonly Field[]): void {
  const taken = new Set(before.map((f) => f.name.toLowerCase()));
  for (const f of added) {
    if (taken.has(f.name.toLowerCase()) || ['fid', 'geom'].includes(f.name.toLowerCase()))
      throw new ProblemError({ code: 'bad-name', name: f.name, why: 'a field of that name is there already' });
    taken.add(f.name.toLowerCase());
  }
}

function planNew(scope: RootedScope, request: DigitiseRequest, resolve: (at: NewDataset['at']) => string, who: string): DigitisePlan {
  const wanted = request.create;
  if (!wanted) throw new ProblemError({ code: 'wrong-use', message: 'Say which dataset is edited, or what the new one is.' });
  mustBeKnown(request.crs);
  const path = resolve(wanted.at);
  checkNewFields(wanted.fields, []);
  const ending = { shapefile: '.shp', geojson: '.geojson', geopackage: '.gpkg' }[wanted.format];
  if (extname(path).toLowerCase() !== ending)
    throw new ProblemError({ code: 'bad-name', name: basename(path), why: `it must end in ${ending}` });
  const folders = missingFolders([dirname(path)]).map((folder): PlannedStep => ({ kind: 'folder', path: folder }));
  const name = wanted.format === 'geopackage' ? wanted.table || splitName(basename(path)).stem : basename(path);
  const base = {
    title: `Make ${name} of ${request.added.length} ${request.added.length === 1 ? 'shape' : 'shapes'}`,
    kind: 'new' as const,
    root: scope.root,
    who,
  };
  const order = { request, path, format: wanted.format, table: wanted.format === 'geopackage' ? name : null };
  if (wanted.format === 'geopackage') {
    const isThere = existsSync(path);
    if (isThere) refuseHeld(path);
    const steps: PlannedStep[] = isThere ? replaceContainer(path) : [...folders, { kind: 'install', path }];
    return { change: { ...base, steps }, dataset: datasetId(path, name), order: { ...order, targets: { gpkg: path } } };
  }
  const endings = wanted.format === 'geojson' ? ['geojson'] : ['shp', 'shx', 'dbf', 'cpg', 'prj'];
  const targets = Object.fromEntries(endings.map((e) => [e, besides(path, e)]));
  const taken = Object.values(targets).find((p) => existsSync(p));
  if (taken) throw new ProblemError({ code: 'exists', path: taken });
  return {
    change: { ...base, steps: [...folders, ...Object.values(targets).map((p): PlannedStep => ({ kind: 'install', path: p }))] },
    dataset: path,
    order: { ...order, targets },
  };
}

/** The bytes of a file that is edited as text; more than that is not held. */
export function readWholeText(path: string, most: number): string {
  const { size } = statSync(path);
  if (size > most) throw new ProblemError({ code: 'too-large', file: path, bytes: size, limitBytes: most });
  return readFileSync(path, 'utf8');
}
