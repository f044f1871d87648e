import { datasetId, lossWords, ProblemError } from '@rootmap/core';
import { basename, findDataset, join, planCopies, rooted, runChange, writeCopy } from '@rootmap/engine';
import type { Command } from '../command.js';
import { datasetsFrom } from '../datasets-from.js';
import { withJournal } from '../journal.js';
import { heads, scopeAround, who } from '../scope.js';
import { crsFlag } from '../selection.js';
import { many } from '../text.js';

/** Datasets of a project computed in one CRS, each as a new file; the originals stay. */
export const copies: Command = {
  usage: 'copies FOLDER SOURCE[#TABLE]… --to-crs EPSG:n [--apply]',
  summary: 'Copies datasets of a project into FOLDER in another CRS, each as a GeoPackage; says what stays as it is, and how exact it is.',
  examples: ['copies working originals/beds.shp originals/lights.shp --to-crs EPSG:32624 --apply'],
  flags: { 'to-crs': { type: 'string' }, apply: { type: 'boolean' } },
  paths: [2, 200],
  run: async (call) => {
    const [folder, ...sources] = call.paths;
    const crs = crsFlag(call, 'to-crs');
    if (crs === null) throw new ProblemError({ code: 'wrong-use', message: 'Say in which CRS: --to-crs EPSG:n.' });
    const scope = rooted(scopeAround(call, folder!));
    const ids = sources.flatMap(datasetsFrom).map((f) => datasetId(join(f.folder, f.dataset.group.path), f.dataset.table));
    const plan = planCopies(scope, ids, crs, folder!, who());
    const apply = call.flags['apply'] === true;
    const written = new Map<string, ReturnType<typeof writeCopy>>();
    if (apply && plan.change)
      await withJournal((options) =>
        runChange(plan.change!, {
          ...options,
          stageAll: (installs) => {
            for (const { id, target, table } of plan.copies) {
              const path = installs.find((i) => i.target === target)!.staged;
              written.set(
                target,
                writeCopy(findDataset(scope, id), crs, path, table, (n) => call.progress(`${table}: ${n}`)),
              );
            }
            return Promise.resolve();
          },
        }),
      );
    const made = plan.copies.map(({ id, target, from, doubt, records }) => {
      const done = written.get(target);
      return {
        source: id,
        file: target,
        from,
        doubt,
        records,
        read: done?.read ?? null,
        written: done?.written ?? null,
        skipped: done?.skipped ?? [],
        losses: done?.losses ?? [],
      };
    });
    const isWhole = plan.left.length === 0 && made.every((c) => c.skipped.length === 0);
    return {
      json: { ...heads(scope), copies: made, left: plan.left, applied: apply && plan.change !== null },
      text: [
        ...made.flatMap((c) => [
          `${basename(c.file)}: ${many(c.records, 'record')}, from ${c.from}${c.doubt === null ? '' : `; ${c.doubt}`}`,
          ...(c.skipped.length > 0 ? [`    ${many(c.skipped.length, 'record')} left out: no place in ${crs}, or damaged`] : []),
          ...(c.losses.length > 0 ? [`    lost or changed: ${c.losses.map(lossWords).join('; ')}`] : []),
        ]),
        ...plan.left.map((l) => `stays as it is: ${l.id}: ${l.why}`),
        apply ? `${many(made.length, 'copy', 'copies')} made` : `${many(made.length, 'copy', 'copies')} to be made; --apply does it`,
      ],
      status: isWhole ? 0 : 1,
    };
  },
};
