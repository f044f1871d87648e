import { csvLines, csvPlan, csvRow, GEOJSON_HEAD, GEOJSON_TAIL, geoJsonFeature, ProblemError, writeCsvt, type Loss } from '@rootmap/core';
import type { ExportDone, ExportFormat } from '@rootmap/core/contract';
import { writeFileSync } from '../disk/files.js';
import { definitionOf } from '../crs/definitions.js';
import { platformBelow } from '../survey/platform.js';
import { NO_RECORD } from '../rows/select-records.js';
import type { HalfHelper } from '../geodatabase/half-writer.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { writeGeopackageExport } from './geopackage-export.js';
import { exportSource, ExportTally, type ExportSource, type RecordsWanted } from './export-source.js';
import { FileSink } from './file-sink.js';
import { textLosses } from './text-losses.js';
import { planShapefile, writeShapefileExport } from './shapefile-export.js';

/** Formats of records; a raster has one of its own. */
export type RecordFormat = Exclude<ExportFormat, 'geotiff'>;

const BATCH = 512;

/**
 * Writes all files of an export into their staged paths.
 * @param request `name`: what a table of it is called, where the format has tables
 * @param staged by ending, as the plan names them
 * @param helper a second thread, for what many records take
 */
export async function writeExport(
  found: FoundDataset,
  request: RecordsWanted & { readonly format: RecordFormat; readonly name: string },
  staged: Readonly<Record<string, string>>,
  onProgress: (done: number) => void,
  helper?: HalfHelper,
): Promise<Omit<ExportDone, 'path'>> {
  const platform = platformBelow(found.folder);
  const tally = new ExportTally(onProgress);
  try {
    const source = exportSource(found, platform, request);
    const done =
      request.format === 'geopackage'
        ? await writeGeopackageExport(
            { found, source, wanted: request, path: pathIn(staged, 'gpkg'), table: request.name, onProgress },
            helper,
          )
        : writeFiles(found, source, request.format, staged, tally);
    if (done.read === 0 && request.facts) throw new ProblemError({ code: 'wrong-use', message: `It cannot be written so: ${NO_RECORD}.` });
    return done;
  } finally {
    platform.close();
  }
}

function pathIn(staged: Readonly<Record<string, string>>, ending: string): string {
  const path = staged[ending];
  if (path === undefined) throw new Error(`nothing is staged for .${ending}`);
  return path;
}

function writeFiles(
  found: FoundDataset,
  source: ExportSource,
  format: Exclude<RecordFormat, 'geopackage'>,
  staged: Readonly<Record<string, string>>,
  tally: ExportTally,
): Omit<ExportDone, 'path'> {
  const pathOf = (ending: string): string => pathIn(staged, ending);
  const losses = format === 'shapefile' ? writeShapefile(source, pathOf, staged, tally) : writeText(source, format, pathOf, tally);
  if (staged['prj']) writeFileSync(staged['prj'], wktOf(source.crs, found));
  return { unit: 'records', check: null, read: tally.read, written: tally.written, skipped: tally.skipped, losses };
}

function writeText(source: ExportSource, format: 'geojson' | 'csv', pathOf: (ending: string) => string, tally: ExportTally): Loss[] {
  if (format === 'geojson') writeGeoJson(source, pathOf('geojson'), tally);
  else writeCsv(source, pathOf, tally);
  return textLosses(source, format, tally);
}

function writeShapefile(
  source: ExportSource,
  pathOf: (ending: string) => string,
  staged: Readonly<Record<string, string>>,
  tally: ExportTally,
): readonly Loss[] {
  const plan = planShapefile(source);
  if (!plan) throw new ProblemError({ code: 'wrong-use', message: 'A shapefile holds shapes of one kind only.' });
  writeShapefileExport(source, plan, pathOf, tally);
  if (plan.shapeType !== null || staged['cpg']) writeFileSync(pathOf('cpg'), 'UTF-8');
  return plan.losses;
}

/** The definition beside the data; what a file tells of a CRS that has no code comes along. */
export const wktOf = (crs: string | null, { dataset }: FoundDataset): string =>
  (crs === null ? null : definitionOf(crs)?.wkt) ?? dataset.crs?.wkt ?? '';

function writeGeoJson({ records }: ExportSource, path: string, tally: ExportTally): void {
  const { fields, features } = records();
  const sink = new FileSink(path);
  try {
    sink.text(GEOJSON_HEAD);
    for (const feature of features) {
      const text = geoJsonFeature(feature, fields);
      tally.add(feature, text !== null);
      if (text !== null) sink.text(tally.written > 1 ? `,\n${text}` : text);
    }
    sink.text(GEOJSON_TAIL);
  } finally {
    sink.close();
  }
}

function writeCsv({ records, kind }: ExportSource, pathOf: (ending: string) => string, tally: ExportTally): void {
  const { fields, features } = records();
  const plan = csvPlan(fields, kind === null ? 'none' : /^Point/.test(kind) ? 'xy' : 'wkt');
  const sink = new FileSink(pathOf('csv'));
  try {
    sink.text(csvLines([plan.header]));
    let batch: string[][] = [];
    for (const feature of features) {
      const row = csvRow(feature, plan);
      tally.add(feature, row !== null);
      if (row) batch.push(row);
      if (batch.length < BATCH) continue;
      sink.text(csvLines(batch));
      batch = [];
    }
    sink.text(csvLines(batch));
  } finally {
    sink.close();
  }
  const own = plan.shape === 'xy' ? 2 : plan.shape === 'wkt' ? 1 : 0;
  const columns = [
    ...plan.header.slice(0, own).map((name) => ({ name, type: plan.shape === 'xy' ? ('real' as const) : ('text' as const) })),
    ...fields,
  ];
  if (plan.shape !== 'wkt') writeFileSync(pathOf('csvt'), writeCsvt(columns, plan.shape === 'xy' ? { x: 0, y: 1 } : null));
}
