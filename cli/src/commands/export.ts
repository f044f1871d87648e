import { lossWords, ProblemError, splitName, EVERY_RECORD } from '@rootmap/core';
import type { ExportDone, ExportFormat } from '@rootmap/core/contract';
import { basename, dirname, isShared, planExport, runChange, withHalfHelper, writeExport, writeRasterExport } from '@rootmap/engine';
import type { Command } from '../command.js';
import { datasetFrom } from '../datasets-from.js';
import { withJournal } from '../journal.js';
import { heads, scopeAround, who } from '../scope.js';
import { crsFlag, SELECTION_FLAGS, selectionFrom } from '../selection.js';
import { many } from '../text.js';

const FORMATS: Readonly<Record<string, ExportFormat>> = {
  '.gpkg': 'geopackage',
  '.shp': 'shapefile',
  '.dbf': 'shapefile',
  '.geojson': 'geojson',
  '.json': 'geojson',
  '.csv': 'csv',
  '.tif': 'geotiff',
};

function formatOf(file: string): ExportFormat {
  const { ending } = splitName(basename(file));
  const format = FORMATS[ending.toLowerCase()];
  if (!format)
    throw new ProblemError({
      code: 'wrong-use',
      message: `What ${basename(file)} is to be cannot be told: end it in .gpkg, .shp, .geojson, .csv or .tif.`,
    });
  return format;
}

/** A dataset, or a part of it, as a new file of another format or CRS. */
export const takeOut: Command = {
  usage: 'export SOURCE[#TABLE] FILE [--where FILTER] [--box=W,S,E,N [--box-crs EPSG:n]] [--to-crs EPSG:n]',
  summary: 'Writes a dataset, or those of its records that meet a filter or an area, as a new file; the ending says of which format.',
  examples: [
    'export originals/beds.shp exports/beds.geojson',
    'export work.gpkg#moorings exports/deep.gpkg --where "depth_m > 12" --to-crs EPSG:32624',
    'export originals/lights.shp exports/harbour.shp --box=481000,4870000,484000,4873000',
  ],
  flags: { ...SELECTION_FLAGS, 'to-crs': { type: 'string' } },
  paths: [2, 2],
  run: async (call) => {
    const [source, file] = [call.paths[0]!, call.paths[1]!];
    const found = datasetFrom(source);
    const format = formatOf(file);
    const selection = selectionFrom(call) ?? EVERY_RECORD;
    const wanted = { format, crs: crsFlag(call, 'to-crs'), selection, isQuick: true };
    const scope = scopeAround(call, dirname(file));
    return withHalfHelper(import.meta.url, false, async (helper) => {
      if (format === 'geopackage' && isShared(found)) helper?.start(); // it gets ready while the export is planned
      const plan = planExport(scope, found, wanted, file, who());
      if (!plan.change) throw new ProblemError({ code: 'wrong-use', message: `It cannot be written so: ${plan.why}.` });
      const { change, targets } = plan;
      const onProgress = (done: number): void => call.progress(`${done} of ${plan.records}`);
      let done: Omit<ExportDone, 'path'> | null = null;
      await withJournal((options) =>
        runChange(change, {
          ...options,
          stageAll: async (installs) => {
            const staged = Object.fromEntries(
              Object.entries(targets).map(([ending, target]) => [ending, installs.find((i) => i.target === target)!.staged]),
            );
            done =
              format === 'geotiff'
                ? await writeRasterExport(found, { bands: [], composite: null }, staged['tif']!, (now) => onProgress(now.done))
                : await writeExport(
                    found,
                    { ...wanted, format, facts: plan.facts, name: splitName(basename(file)).stem },
                    staged,
                    onProgress,
                    helper,
                  );
          },
        }),
      );
      const { read, written, skipped, losses, unit } = done as unknown as ExportDone;
      const part = read < plan.of ? ` of ${plan.of}` : '';
      return {
        json: {
          ...heads(scope),
          files: plan.files.map((f) => f.path),
          format,
          crs: plan.crs,
          of: plan.of,
          read,
          written,
          unit,
          skipped,
          losses,
        },
        text: [
          ...plan.files.map((f) => f.path),
          `${unit === 'pixels' ? `${written} pixels` : many(written, 'record')}${part}${plan.crs === null ? '' : `, in ${plan.crs}`}`,
          ...(skipped.length > 0 ? [`left out: ${skipped.map((s) => `record ${s.record}: ${s.why}`).join('; ')}`] : []),
          ...(losses.length > 0 ? [`lost or changed: ${losses.map(lossWords).join('; ')}`] : []),
        ],
        status: skipped.length > 0 ? 1 : 0,
      };
    });
  },
};
