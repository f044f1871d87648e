import { existsSync } from 'node:fs';
import {
  patchText,
  patchWorking,
  ProblemError,
  storeReference,
  writeCsvt,
  behindName,
  besideName,
  CSVW_ENDING,
  writeCsvw,
  type StatedDialect,
} from '@rootmap/core';
import { readFileSync } from '../disk/files.js';
import { rootsWrittenIn } from '../move/plan-move.js';
import { basename, dirname, join } from '../disk/native-path.js';
import type { PlannedStep } from '../changes/change.js';
import { definitionOf } from '../crs/definitions.js';
import { readMaps } from '../project/read-maps.js';
import { writeOf } from '../project/remember.js';
import { amongOriginals, locationOf, type RootedScope } from '../project/scope.js';
import { planAddToMap } from './add-to-map.js';
import { findDataset } from '../project/find-dataset.js';
import { readOtherwise, textReadingOf } from '../geodatabase/text-reading.js';
import { planTableEdit } from '../geodatabase/tables/plan-table-edit.js';
import { planUseTables } from '../geodatabase/use-tables.js';
import { referencesOf } from './edit-preview.js';
import { type Edit, type EditOptions, type EditPlan, planned } from './planned.js';

/** Where there is none, or one that nobody knows: what a file says of itself, and is understood, is not written over. */
export function planAssignCrs(scope: RootedScope, edit: Edit<'assign-crs'>, options: EditOptions): EditPlan {
  const main = options.resolve(edit.dataset, false);
  const definition = definitionOf(edit.crs);
  if (!definition) throw new ProblemError({ code: 'not-found', what: 'CRS', id: edit.crs });
  const path = join(dirname(main), besideName(basename(main), '.prj'));
  const before = existsSync(path) ? readFileSync(path) : null;
  if (before && findDataset(scope, main).dataset.crs?.code) throw new ProblemError({ code: 'exists', path });
  const steps: PlannedStep[] = [{ kind: 'write', path, before, after: Buffer.from(definition.wkt, 'utf8') }];
  const isOriginal = amongOriginals(scope, main);
  if (isOriginal) steps.push({ kind: 'mode', path, mode: 0o444 });
  return planned(scope, `Say that ${basename(main)} is in ${edit.crs}`, 'origin', steps, options);
}

/** A `.csvt` beside a table says which of its columns hold coordinates, or that none does, and what type each has. */
export function planCsvColumns(scope: RootedScope, edit: Edit<'csv-columns'>, options: EditOptions): EditPlan {
  const main = options.resolve(edit.dataset, false);
  const found = findDataset(scope, main);
  if (found.dataset.group.format !== 'csv')
    throw new ProblemError({ code: 'wrong-use', message: `${basename(main)} is no CSV. Only of a CSV can columns be named.` });
  const { dataset, reading } = edit.dialect
    ? readOtherwise(found, edit.dialect)
    : { dataset: found.dataset, reading: textReadingOf(found) };
  const fields = dataset.fields ?? [];
  const at = (name: string): number => {
    const i = fields.findIndex((f) => f.name === name);
    if (i < 0) throw new ProblemError({ code: 'not-found', what: 'column', id: name });
    return i;
  };
  const columns = edit.columns && { x: at(edit.columns.x), y: at(edit.columns.y) };
  const path = join(dirname(main), besideName(basename(main), '.csvt'));
  const before = existsSync(path) ? readFileSync(path) : null;
  const texts = new Set((edit.asText ?? []).map(at));
  const typed = fields.map((f, i) => (texts.has(i) ? { name: f.name, type: 'text' as const } : f));
  const after = Buffer.from(writeCsvt(typed, columns), 'utf8');
  const steps: PlannedStep[] = before && after.equals(before) ? [] : [{ kind: 'write', path, before, after }];
  if (edit.dialect) steps.push(...dialectSteps(main, edit.dialect));
  const title = columns
    ? `Read ${edit.columns.x} and ${edit.columns.y} of ${basename(main)} as coordinates`
    : `Read ${basename(main)} as a table`;
  const plan = planned(scope, title, 'origin', steps, options);
  return { ...plan, preview: { ...plan.preview, reading } };
}

/** The metadata beside a table, where they say something else then. */
function dialectSteps(main: string, dialect: StatedDialect): PlannedStep[] {
  const path = join(dirname(main), behindName(basename(main), CSVW_ENDING));
  const before = existsSync(path) ? readFileSync(path) : null;
  const isNothing = before === null && Object.values(dialect).every((v) => v === null);
  const after = Buffer.from(writeCsvw(before?.toString('utf8') ?? null, basename(main), dialect), 'utf8');
  return isNothing || (before && after.equals(before)) ? [] : [{ kind: 'write', path, before, after }];
}

export function planLayers(scope: RootedScope, edit: Edit<'add-to-map'>, options: EditOptions): EditPlan {
  const { title, steps, layers } = planAddToMap(scope, edit, Date.now());
  const plan = planned(scope, title, 'save', steps, options);
  return { ...plan, preview: { ...plan.preview, added: layers } };
}

export function planTables(scope: RootedScope, edit: Edit<'use-tables'>, options: EditOptions): EditPlan {
  const { steps, layers } = planUseTables(scope, edit.pairs);
  const title = `Let ${layers.length} ${layers.length === 1 ? 'layer use a table' : 'layers use tables'}`;
  const plan = planned(scope, title, 'mend', steps, options);
  const references = referencesOf({ references: layers }, scope);
  return { ...plan, preview: { ...plan.preview, references, referenceCount: layers.length, maps: steps.length } };
}

export function planTableEditOf(scope: RootedScope, edit: Edit<'tables'>, options: EditOptions): EditPlan {
  const { title, steps, containers, references, usedBy, bytes } = planTableEdit(scope, edit, options.roots, options.resolve);
  const plan = planned(scope, title, 'geodatabase', steps, options);
  const otherRoots = rootsWrittenIn(options.roots, scope.root, steps);
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
export function planMapWorking(scope: RootedScope, map: string, path: string | null, options: EditOptions): EditPlan {
  const seen = readMaps({ ...scope, maps: [join(scope.root, map)] }).maps[0];
  if (!seen) throw new ProblemError({ code: 'not-found', what: 'map', id: map });
  const form = seen.file.storedForm ?? scope.project?.storedForm ?? 'relative';
  const target = path === null ? null : locationOf(join(scope.root, path), scope.places);
  const href = target && storeReference(locationOf(seen.path, scope.places), target, null, form, scope.places).href;
  const patches = patchWorking(seen.file, href);
  const steps = patches.length > 0 ? [writeOf(seen, patchText(seen.file.text, patches))] : [];
  const title = path === null ? `Let ${seen.file.title} work where the project does` : `Let ${seen.file.title} work in ${path}`;
  return planned(scope, title, 'save', steps, options);
}
