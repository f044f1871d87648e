import { existsSync } from 'node:fs';
import { indexOfShapes, ProblemError, quadtreeIndex, readDbfHeader, splitName, viewOf, besideName } from '@rootmap/core';
import { basename, dirname, join } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import type { PlannedStep } from '../changes/change.js';
import { OpenFiles } from '../disk/file-source.js';
import { recordsOf } from '../mend/lost-companions.js';
import type { RootedScope } from '../project/scope.js';
import { type Edit, type EditOptions, type EditPlan, planned } from './planned.js';

/** The main file of a shapefile, and what else has its stem, endings in lower case. */
function shapefileAt(main: string): { name: string; has: ReadonlySet<string> } {
  const name = basename(main);
  if (!/\.shp$/i.test(name))
    throw new ProblemError({ code: 'wrong-use', message: `${name} is no shapefile. Only a shapefile has companions of that kind.` });
  const { stem } = splitName(name);
  const names = readdirSync(dirname(main)).filter((n) => splitName(n).stem.toLowerCase() === stem.toLowerCase());
  return { name, has: new Set(names.map((n) => splitName(n).ending.toLowerCase())) };
}

/** Whether it is named `.shx` or `.SHX`, the main file's own spelling is followed. */
const besides = (main: string, ending: string): string => main.slice(0, -4) + (main.endsWith('SHP') ? ending.toUpperCase() : ending);

/** What there is stays: only an index that is not there is made. */
export function planRebuildIndex(scope: RootedScope, edit: Edit<'rebuild-index'>, options: EditOptions): EditPlan {
  const main = options.resolve(edit.dataset, false);
  const { name, has } = shapefileAt(main);
  const files = new OpenFiles();
  try {
    const steps: PlannedStep[] = [];
    const write = (ending: string, content: Uint8Array | null): void => {
      if (!content)
        throw new ProblemError({
          code: 'wrong-use',
          message: `The shapes of ${name} are damaged, too, so no index can be made of them. Take a copy of it from a backup.`,
        });
      steps.push({ kind: 'write', path: besides(main, ending), before: null, after: content });
    };
    if (!has.has('.shx')) write('.shx', indexOfShapes(files.source(main)));
    if (edit.isSpatial && !has.has('.qix')) write('.qix', quadtreeIndex(files.source(main)));
    if (steps.length === 0) throw new ProblemError({ code: 'exists', path: besides(main, edit.isSpatial ? '.qix' : '.shx') });
    const title =
      steps.length === 2 || has.has('.shx')
        ? `Make the ${has.has('.shx') ? 'spatial index' : 'indexes'} of ${name}`
        : `Make the index of ${name} anew`;
    return planned(scope, title, 'mend', steps, options);
  } finally {
    files.close();
  }
}

/** Only a table that has a record for every shape is brought. */
export function planBringTable(scope: RootedScope, edit: Edit<'bring-table'>, options: EditOptions): EditPlan {
  const main = options.resolve(edit.dataset, false);
  const from = options.resolve(edit.table, false);
  const { name, has } = shapefileAt(main);
  const path = besides(main, '.dbf');
  if (has.has('.dbf') || existsSync(path)) throw new ProblemError({ code: 'exists', path });
  const files = new OpenFiles();
  try {
    const header = readDbfHeader(from, viewOf(files.source(from).read(0, 65_535)));
    if (!header.ok) throw new ProblemError(header.problem);
    const records = recordsOf(main, files);
    if (records !== header.value.records)
      throw new ProblemError({
        code: 'wrong-use',
        message: `${basename(from)} has ${header.value.records} records, and ${name} has ${records ?? 'damaged'} shapes. It is not its table.`,
      });
    const cpg = join(dirname(from), besideName(basename(from), '.cpg'));
    const steps: PlannedStep[] = [{ kind: 'copy', from, path }];
    if (existsSync(cpg) && !has.has('.cpg')) steps.push({ kind: 'copy', from: cpg, path: besides(main, '.cpg') });
    return planned(scope, `Bring the table of ${name} back`, 'mend', steps, options);
  } finally {
    files.close();
  }
}
