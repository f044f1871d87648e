import { existsSync } from 'node:fs';
import { arcsLost, ProblemError, splitName, fileName, type Loss } from '@rootmap/core';
import type { ExportPreview } from '@rootmap/core/contract';
import { basename, dirname, join } from '../disk/native-path.js';
import { crsKey } from '../crs/definitions.js';
import type { PlannedChange, PlannedStep } from '../changes/change.js';
import { doubtOf } from '../crs/doubt.js';
import { keeperAt, originsAlong } from '../folders/origins.js';
import { platformBelow } from '../survey/platform.js';
import type { Scope } from '../project/scope.js';
import { dataAt, type FoundDataset } from '../project/find-dataset.js';
import { NO_RECORD } from '../rows/select-records.js';
import { selectionWords } from '../rows/selection-words.js';
import { exportSource, type ExportSource, type RecordsWanted, type SelectedFacts } from './export-source.js';
import { MOST_COMPONENT_BYTES, planShapefile } from './shapefile-export.js';
import { planRaster, type RasterChoice } from './raster-export.js';
import { textLosses } from './text-losses.js';
import { wktOf } from './write-export.js';
import { missingFolders } from '../changes/missing-folders.js';

export interface ExportPlan extends ExportPreview {
  readonly change: PlannedChange | null;
  /** Path of each file by its ending. */
  readonly targets: Readonly<Record<string, string>>;
  /** Of a selection, for whoever writes it. */
  readonly facts: SelectedFacts | null;
}

interface Parts {
  /** Endings with the bytes of each; null: not known before it is written. */
  readonly files: readonly (readonly [ending: string, bytes: number | null])[];
  readonly losses: readonly Loss[];
  readonly why: string | null;
}

/** What an export would write, and what it would lose. Nothing is written. */
export function planExport(
  scope: Scope,
  found: FoundDataset,
  { bands = [], composite = null, ...wanted }: RecordsWanted & Partial<RasterChoice>,
  path: string,
  who: string,
): ExportPlan {
  const { dataset } = found;
  const { format } = wanted;
  if (dataset.kind !== 'vector' && dataset.kind !== 'table' && dataset.kind !== 'raster')
    throw new ProblemError({ code: 'wrong-use', message: `${dataset.group.path} has neither records nor pixels to be exported.` });
  if ((dataset.kind === 'raster') !== (format === 'geotiff'))
    throw new ProblemError({
      code: 'wrong-use',
      message:
        dataset.kind === 'raster'
          ? 'A raster is exported as a GeoTIFF.'
          : 'Records are exported as a GeoPackage, a shapefile, GeoJSON or CSV.',
    });
  const platform = platformBelow(found.folder);
  try {
    if (format === 'geotiff') return rasterPlan(scope, found, { bands, composite }, path, who);
    const source = exportSource(found, platform, wanted);
    const parts =
      format === 'shapefile'
        ? shapefileParts(source, found)
        : format === 'geopackage'
          ? { files: [['gpkg', null] as const], losses: arcsLost(source.arcs), why: null }
          : textParts(source, found, format);
    const own = source.isMoved ? crsKey(dataset.crs) : null;
    const doubt = source.isMoved && own !== null && source.crs !== null ? doubtOf(own, source.crs).why : null;
    const { targets, taken } = targetsOf(path, parts.files);
    const surfaces =
      dataset.geometryType === 'MultiPatch' ? 'its shapes are surfaces in space (MultiPatch), which are not read here' : null;
    const none = source.selected === 0 ? NO_RECORD : null;
    const why = surfaces ?? none ?? parts.why ?? (taken === undefined ? null : `${basename(taken)} is there already`);
    return {
      files: parts.files.map(([ending, bytes]) => ({ path: targets[ending]!, bytes })),
      records: source.selected ?? dataset.featureCount ?? 0,
      of: dataset.featureCount ?? 0,
      unit: 'records',
      bands: 0,
      crs: source.crs,
      facts: source.facts,
      losses: [...(doubt === null ? [] : [{ code: 'position' as const, what: doubt, count: null }]), ...parts.losses],
      why,
      targets,
      change: why === null ? changeOf(scope, found, targets, who, source.facts === null ? null : selectionWords(wanted.selection!)) : null,
    };
  } finally {
    platform.close();
  }
}

/** Where each file of an export goes, by its ending, and one that stands there already. */
function targetsOf(path: string, files: Parts['files']): { targets: Record<string, string>; taken: string | undefined } {
  const { stem } = splitName(basename(path));
  const targets = Object.fromEntries(files.map(([ending]) => [ending, join(dirname(path), fileName(stem, `.${ending}`))]));
  return { targets, taken: Object.values(targets).find((p) => existsSync(p)) };
}

/** All files appear together; what was written down of the data goes along. */
function changeOf(
  scope: Scope,
  found: FoundDataset,
  targets: Readonly<Record<string, string>>,
  who: string,
  selected: string | null = null,
): PlannedChange {
  const [main] = Object.values(targets);
  const folder = dirname(main!);
  const { table, group } = found.dataset;
  const steps: PlannedStep[] = [
    ...missingFolders([folder]).map((path) => ({ kind: 'folder', path }) as const),
    ...Object.values(targets).map((path) => ({ kind: 'install', path }) as const),
    ...originsAlong(
      [{ from: dataAt(found), to: { path: main!, table: null }, ...(selected === null ? {} : { how: selected }) }],
      keeperAt(scope, folder),
    ).writes,
  ];
  const name = table ?? basename(group.path);
  const title = selected === null ? `Export ${name} to ${basename(main!)}` : `Take a part of ${name} out into ${basename(main!)}`;
  return { title, kind: 'copy', root: scope.root ?? folder, who, steps };
}

function rasterPlan(scope: Scope, found: FoundDataset, choice: RasterChoice, path: string, who: string): ExportPlan {
  const { bands, crs, losses, why: refusal } = planRaster(found, choice);
  const { targets, taken } = targetsOf(path, [['tif', null]]);
  const why = refusal ?? (taken === undefined ? null : `${basename(taken)} is there already`);
  const { raster } = found.dataset;
  return {
    files: [{ path: targets['tif']!, bytes: null }],
    facts: null,
    records: (raster?.width ?? 0) * (raster?.height ?? 0),
    of: (raster?.width ?? 0) * (raster?.height ?? 0),
    unit: 'pixels',
    bands,
    crs,
    losses,
    why,
    targets,
    change: why === null ? changeOf(scope, found, targets, who) : null,
  };
}

function shapefileParts(source: ExportSource, found: FoundDataset): Parts {
  const plan = planShapefile(source);
  if (!plan) {
    const why = 'its shapes are of several kinds, and a shapefile holds one: choose GeoJSON, or bring it into a geodatabase by kind';
    return { files: [['shp', null]], losses: [], why };
  }
  const isShape = plan.shapeType !== null;
  const sized = (isShape ? (['shp', 'shx', 'dbf'] as const) : (['dbf'] as const)).map((e) => [e, plan.bytes[e]] as const);
  const large = sized.find(([, bytes]) => bytes > MOST_COMPONENT_BYTES);
  const why = large
    ? `its .${large[0]} would have ${large[1]} bytes, and no more than ${MOST_COMPONENT_BYTES} are read everywhere: choose another format, or a part of it`
    : null;
  const side = [['cpg', 5] as const, ...(isShape && wktOf(source.crs, found) !== '' ? [['prj', null] as const] : [])];
  return { files: [...sized, ...side], losses: plan.losses, why };
}

function textParts(source: ExportSource, found: FoundDataset, format: 'geojson' | 'csv'): Parts {
  const losses = textLosses(source, format, null);
  if (format === 'geojson') return { files: [['geojson', null]], losses, why: null };
  const isPoint = source.kind !== null && /^Point/.test(source.kind);
  const isPrj = source.kind !== null && wktOf(source.crs, found) !== '';
  const files = [
    ['csv', null] as const,
    ...(source.kind === null || isPoint ? [['csvt', null] as const] : []),
    ...(isPrj ? [['prj', null] as const] : []),
  ];
  return { files, losses, why: null };
}
