import { ProblemError, withCodes } from '@rootmap/core';
import { relative } from '../disk/native-path.js';
import { keeperOf, planRecords } from '../folders/origins.js';
import { dataAt, findDataset } from '../project/find-dataset.js';
import type { RootedScope } from '../project/scope.js';
import { assertAreas } from '../quality/area-of-interest.js';
import { type Edit, type EditOptions, type EditPlan, planned, setMembers } from './planned.js';

/** What a project asks of its data, in the project file. */
export function planQuality(scope: RootedScope, { area, sheets }: Edit<'quality'>, options: EditOptions): EditPlan {
  if (area === null) return setMembers(scope, { quality: { area: null, sheets } }, 'Say what the project asks of its data', options);
  const found = findDataset(scope, area);
  assertAreas(found);
  const { path, table } = dataAt(found);
  const named = relative(scope.root, path) + (table === null ? '' : `#${table}`);
  return setMembers(scope, { quality: { area: named, sheets } }, 'Say what the project asks of its data', options);
}

/** Values that may stand in a field, in the record beside the data. */
export function planCodes(scope: RootedScope, { dataset, field, codes }: Edit<'codes'>, options: EditOptions): EditPlan {
  const found = findDataset(scope, dataset);
  if (!(found.dataset.fields ?? []).some((f) => f.name === field)) throw new ProblemError({ code: 'not-found', what: 'field', id: field });
  const { writes, damaged } = planRecords([{ ...dataAt(found), change: (before) => withCodes(before, field, codes) }], keeperOf(scope));
  if (damaged[0] !== undefined)
    throw new ProblemError({
      code: 'wrong-shape',
      file: damaged[0],
      member: 'resources',
      expected: 'a list, as in a Frictionless Data Package',
    });
  const title = codes.length > 0 ? `List the codes of ${field}` : `Expect no codes in ${field}`;
  return planned(scope, title, 'origin', writes, options);
}
