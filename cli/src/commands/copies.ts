import { datasetId, lossWords, ProblemError, RESAMPLINGS, type Resampling } from '@rootmap/core';
import { basename, copyInto, findDataset, join, planCopies, rooted, runChange, type Copied } from '@rootmap/engine';
import { textFlag, type Call, type Command } from '../command.js';
import { datasetsFrom } from '../datasets-from.js';
import { withJournal } from '../journal.js';
import { heads, scopeAround, who } from '../scope.js';
import { crsFlag } from '../selection.js';
import { many } from '../text.js';

/** Datasets of a project computed in one CRS, each as a new file; the originals stay. */
export const copies: Command = {
  usage: 'copies FOLDER SOURCE[#TABLE]… --to-crs EPSG:n [--resampling nearest|bilinear|cubic] [--pixel SIDE] [--apply]',
  summary:
    'Copies datasets of a project into FOLDER in another CRS, each as a GeoPackage, a raster as a GeoTIFF; says what stays as it is, and how exact it is.',
  examples: [
    'copies working originals/beds.shp originals/lights.shp --to-crs EPSG:32624 --apply',
    'copies working originals/depth.tif --to-crs EPSG:32624 --resampling cubic --pixel 10',
  ],
  flags: { 'to-crs': { type: 'string' }, resampling: { type: 'string' }, pixel: { type: 'string' }, apply: { type: 'boolean' } },
  paths: [2, 200],
  run: async (call) => {
    const [folder, ...sources] = call.paths;
    const crs = crsFlag(call, 'to-crs');
    if (crs === null) throw wrongUse('Say in which CRS: --to-crs EPSG:n.');
    const scope = rooted(scopeAround(call, folder!));
    const ids = sources.flatMap(datasetsFrom).map((f) => datasetId(join(f.folder, f.dataset.group.path), f.dataset.table));
    const wish = rasterWish(call);
    const plan = planCopies(scope, { ids, crs, into: folder!, ...wish }, who());
    const apply = call.flags['apply'] === true;
    const written = new Map<string, Copied>();
    if (apply && plan.change)
      await withJournal((options) =>
        runChange(plan.change!, {
          ...options,
          stageAll: async (installs) => {
            for (const { id, target, table } of plan.copies) {
              const path = installs.find((i) => i.target === target)!.staged;
              const found = findDataset(scope, id);
              written.set(target, await copyInto(found, { crs, path, table, wish }, (n, of) => call.progress(`${table}: ${n} of ${of}`)));
            }
          },
        }),
      );
    const made = plan.copies.map(({ id, target, from, doubt, records, raster }) => {
      const done = written.get(target);
      return {
        source: id,
        file: target,
        from,
        doubt,
        records,
        raster: raster && {
          width: raster.grid.width,
          height: raster.grid.height,
          pixel: raster.grid.pixel,
          resampling: raster.resampling,
          because: raster.because,
          reduced: raster.reduced,
        },
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
          `${basename(c.file)}: ${c.raster ? rasterWords(c.raster) : many(c.records, 'record')}, from ${c.from}${c.doubt === null ? '' : `; ${c.doubt}`}`,
          ...(c.raster && c.written !== null
            ? [`    read back by another reader: each of its ${c.read} pixels is as computed; ${c.written} have a value`]
            : []),
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

function rasterWish(call: Call): { readonly resampling: Resampling | null; readonly pixel: number | null } {
  const [named, side] = [textFlag(call, 'resampling'), textFlag(call, 'pixel')];
  const resampling = RESAMPLINGS.find((r) => r === named) ?? null;
  if (named !== null && resampling === null) throw wrongUse(`--resampling takes one of ${RESAMPLINGS.join(', ')}.`);
  const pixel = side === null ? null : Number(side);
  if (pixel !== null && !(pixel > 0)) throw wrongUse('--pixel takes the length of a side, in the units of the CRS: a number above 0.');
  return { resampling, pixel };
}

const wrongUse = (message: string): ProblemError => new ProblemError({ code: 'wrong-use', message });

const rasterWords = (raster: { width: number; height: number; pixel: number; resampling: string; because: string }): string =>
  `${raster.width} × ${raster.height} pixels of ${Number(raster.pixel.toPrecision(6))}, ${raster.resampling} (${raster.because})`;
