import {
  datasetId,
  GEOJSON_HEAD,
  GEOJSON_TAIL,
  geoJsonFeature,
  ProblemError,
  readFeatures,
  wkbToGeoJson,
  type Feature,
  type FeatureStream,
  type Field,
  type Value,
} from '@rootmap/core';
import { basename, dirname, join } from '../disk/native-path.js';
import { copyFileSync, rmSync, writeFileSync } from '../disk/files.js';
import { newScratch } from '../disk/scratch.js';
import { definitionOf } from '../crs/definitions.js';
import { transformer, type Transformer } from '../crs/transformer.js';
import { platformBelow } from '../survey/platform.js';
import { ExportTally, type ExportSource } from '../export/export-source.js';
import { planShapefile, writeShapefileExport } from '../export/shapefile-export.js';
import { versionOf } from '../disk/cache-folder.js';
import type { RootedScope } from '../project/scope.js';
import { datasetsOfFile, findDataset, type FoundDataset } from '../project/find-dataset.js';
import { addTable, editTable } from './edit-geopackage.js';
import { editGeoJson, LARGEST_GEOJSON_BYTES } from './edit-geojson.js';
import { editedRecords, shapeOfDrawn, typedValue } from './edited-records.js';
import { readWholeText, type DigitiseOrder } from './plan-digitise.js';

const WGS84 = 'EPSG:4326';

/** Writes what was drawn into the staged files of a change, and reads it back. @returns how many records the dataset has then */
export function stageDigitised(scope: RootedScope, order: DigitiseOrder, staged: Readonly<Record<string, string>>): number {
  const { request, format } = order;
  const found = request.dataset === null ? null : findDataset(scope, request.dataset);
  const own = found ? found.dataset.crs!.code! : format === 'geojson' ? WGS84 : request.crs;
  const to = own === request.crs ? null : transformer(request.crs, own);
  if (own !== request.crs && !to)
    throw new ProblemError({
      code: 'wrong-use',
      message: `How ${request.crs} becomes ${own} is not known here. Draw in a map whose CRS is ${own}.`,
    });
  const records =
    format === 'geopackage'
      ? stageTable(order, found, staged['gpkg']!, to)
      : format === 'geojson'
        ? stageGeoJson(order, found, staged['geojson']!, to)
        : stageShapefile(order, found, staged, own, to);
  // What was staged was made from the files as they were when they were shown: nothing else may be replaced by it.
  if (request.dataset !== null && versionOf(findDataset(scope, request.dataset)) !== request.state)
    throw new ProblemError({ code: 'changed-meanwhile', path: order.path });
  return records;
}

function stageTable({ request, path, table }: DigitiseOrder, found: FoundDataset | null, staged: string, to: Transformer | null): number {
  if (found) return editTable(path, staged, table!, found.dataset.fields ?? [], request, to);
  const create = request.create!;
  const isThere = datasetsOfFile(path).length > 0;
  if (isThere && datasetsOfFile(path).some((d) => d.dataset.table?.toLowerCase() === table!.toLowerCase()))
    throw new ProblemError({ code: 'exists', path: datasetId(path, table) });
  return addTable(
    isThere ? path : null,
    staged,
    { name: table!, fields: create.fields, crs: request.crs, geometryType: create.kind },
    request,
  );
}

function stageGeoJson({ request, path }: DigitiseOrder, found: FoundDataset | null, staged: string, to: Transformer | null): number {
  if (found) {
    const { text, records } = editGeoJson(
      basename(path),
      readWholeText(path, LARGEST_GEOJSON_BYTES),
      found.dataset.fields ?? [],
      request,
      to,
    );
    writeFileSync(staged, text);
    return records;
  }
  const { fields } = request.create!;
  const lines = request.added.map((a) =>
    geoJsonFeature(
      { id: 0, geometry: shapeOfDrawn(a.geometry, to), values: fields.map((f, i) => typedValue(a.values[i] ?? null, f)) },
      fields,
    )!,
  );
  writeFileSync(staged, GEOJSON_HEAD + lines.join(',\n') + GEOJSON_TAIL);
  return lines.length;
}

/** All parts are written anew under their own names in a folder of their own, read back and compared, then staged. */
function stageShapefile(
  { request, path }: DigitiseOrder,
  found: FoundDataset | null,
  staged: Readonly<Record<string, string>>,
  own: string,
  to: Transformer | null,
): number {
  const folder = newScratch('draw');
  const platform = found ? platformBelow(found.folder) : null;
  try {
    const before = (): FeatureStream => (found ? readFeatures(found.dataset, platform!) : { fields: request.create!.fields, features: [] });
    const records = (): FeatureStream => editedRecords(before(), request, to);
    const kind = found?.dataset.geometryType ?? request.create!.kind;
    const source: ExportSource = { fields: before().fields, records, crs: own, isMoved: false, kind, arcs: 0, selected: null, facts: null };
    const plan = planShapefile(source);
    if (!plan || plan.shapeType === null)
      throw new ProblemError({
        code: 'wrong-use',
        message: 'A shapefile holds shapes of one kind only. Make the dataset in a geodatabase.',
      });
    const stem = join(folder, 'drawn');
    const tally = new ExportTally(() => undefined);
    writeShapefileExport(source, plan, (ending) => `${stem}.${ending}`, tally);
    writeFileSync(`${stem}.cpg`, 'UTF-8');
    if (staged['prj']) writeFileSync(`${stem}.prj`, definitionOf(own)?.wkt ?? '');
    if (tally.skipped.length > 0)
      throw new ProblemError({
        code: 'failed',
        what: `Writing ${basename(path)}`,
        why: `record ${tally.skipped[0]!.record}: ${tally.skipped[0]!.why}`,
      });
    compare(records(), `${stem}.shp`, path);
    for (const [ending, target] of Object.entries(staged)) copyFileSync(`${stem}.${ending}`, target);
    return tally.written;
  } finally {
    platform?.close();
    rmSync(folder);
  }
}

/** What was written is read again: every shape and every value must be the same. */
function compare(wanted: FeatureStream, file: string, path: string): void {
  const [written] = datasetsOfFile(file);
  const platform = platformBelow(dirname(file));
  const refuse = (record: number, what: string): never => {
    throw new ProblemError({
      code: 'failed',
      what: `Writing ${basename(path)}`,
      why: `${what} of record ${record} would not be the same when it is read again; nothing was changed`,
    });
  };
  try {
    const read = written ? readFeatures(written.dataset, platform) : { fields: [], features: [] };
    const iterator = read.features[Symbol.iterator]();
    let n = 0;
    for (const f of wanted.features) {
      n++;
      const next = iterator.next() as IteratorResult<Feature, undefined>;
      const other = next.done === true ? refuse(n, 'the shape') : next.value;
      if (shapeText(f) !== shapeText(other)) refuse(n, 'the shape');
      wanted.fields.forEach((field, i) => {
        if (wanted.fields.length === read.fields.length && !sameValue(f.values[i] ?? null, other.values[i] ?? null, field))
          refuse(n, field.name);
      });
    }
    if (iterator.next().done !== true) refuse(n + 1, 'the number');
  } finally {
    platform.close();
  }
}

/** Rings are written in the order and direction that the format asks for: shapes are compared by their vertices. */
const shapeText = (f: Feature): string => {
  const numbers = f.geometry ? JSON.stringify(wkbToGeoJson(f.geometry)?.coordinates ?? null).match(/-?[\d.]+(?:e[-+]?\d+)?/gi) : null;
  return [...(numbers ?? [])].sort().join(' ');
};

function sameValue(a: Value, b: Value, { type }: Field): boolean {
  if (a === b || (a === null && b === '') || (a === '' && b === null)) return true;
  if (type === 'real' && a !== null && b !== null) return Math.abs(Number(a) - Number(b)) <= Math.abs(Number(a)) * 1e-12;
  return a !== null && b !== null && !(a instanceof Uint8Array) && String(a).trimEnd() === String(b).trimEnd();
}
