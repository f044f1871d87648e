import {
  checked,
  metadataChecks,
  RasterChecks,
  statedChecks,
  readFeatures,
  unitMetres,
  VectorChecks,
  type Dataset,
  type Extent,
  type FieldProfile,
  type OnProgress,
  type Origin,
  type QualityCheck,
  isSuspect,
} from '@rootmap/core';
import { crsKey, definitionOf } from '../crs/definitions.js';
import { foundCrs } from '../crs/facts-of.js';
import { crsNamed, holdsSpot } from '../crs/search-crs.js';
import { transformer } from '../crs/transformer.js';
import { ShapeJudge } from '../geodatabase/valid-shapes.js';
import { readWindow } from '../pixels/pixel-source.js';
import { openPixels } from '../pixels/open-pixels.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { placedBy } from '../project/placed-by.js';
import { reachesInto } from './area-of-interest.js';
import { Coverage } from './coverage.js';
import { LineEnds } from './line-ends.js';
import { filesOf } from './sheet-file.js';
import { platformBelow, type NodePlatform } from '../survey/platform.js';

export interface CheckOptions {
  readonly origin: Origin | null;
  /** It has no publisher (`isMadeHere`). */
  readonly isMadeHere: boolean;
  /** Code of the project's CRS; null: it has none. */
  readonly projectCrs: string | null;
  /** Values that may stand in fields, by field. */
  readonly codes: ReadonlyMap<string, readonly string[]>;
  /** The areas that the project is about; null: it names none. */
  readonly area: FoundDataset | null;
  readonly nowMs: number;
  readonly onProgress?: OnProgress;
}

/** Everything that can be computed of one dataset, in one pass over its records or pixels. Nothing is written. */
export async function checkDataset(found: FoundDataset, options: CheckOptions): Promise<CheckedData> {
  const { dataset } = found;
  if (dataset.state === 'unreadable') {
    const why = dataset.findings[0]?.message ?? `${dataset.group.path} cannot be read.`;
    return { checks: [checked('unreadable', 'fail', [1, 1], why)], fields: [] };
  }
  const platform = platformBelow(found.folder);
  try {
    const { origin, isMadeHere, projectCrs, codes, area, nowMs, onProgress = () => undefined } = options;
    const { modifiedMs } = filesOf(dataset);
    const { checks, fields, scale, pixel } =
      dataset.kind === 'raster'
        ? await rasterChecks(found, platform, onProgress)
        : dataset.kind === 'vector' || dataset.kind === 'table'
          ? vectorChecks(dataset, platform, { codes, isInInterest: area && reachesInto(area, dataset), onProgress })
          : NOTHING;
    const all = [
      ...checks,
      ...metadataChecks({ dataset, origin, isMadeHere, projectCrs, modifiedMs, nowMs }),
      ...(origin ? statedChecks(origin, { ...foundCrs(dataset.crs), scale, pixel, modifiedMs, nowMs }) : []),
    ];
    return { checks: all, fields };
  } finally {
    platform.close();
  }
}

/** What was found, and what stands in its fields or bands. */
export interface CheckedData {
  readonly checks: readonly QualityCheck[];
  readonly fields: readonly FieldProfile[];
}
/** The scale that it bears and the size of its pixels in metres, where they can be told. */
interface Checked extends CheckedData {
  readonly scale: number | null;
  readonly pixel: number | null;
}
const NOTHING: Checked = { checks: [], fields: [], scale: null, pixel: null };

interface Units {
  readonly metres: number | null;
  readonly isDegrees: boolean;
}

export function unitsOf({ crs }: Dataset): Units {
  const key = crsKey(crs);
  const string = key === null ? null : (definitionOf(key)?.proj4 ?? null);
  if (string === null) return { metres: null, isDegrees: false };
  return /\+proj=longlat\b/.test(string) ? { metres: null, isDegrees: true } : { metres: unitMetres(string), isDegrees: false };
}

const TOLD_EVERY = 5000;

interface Expected extends Pick<Required<CheckOptions>, 'codes' | 'onProgress'> {
  readonly isInInterest: ReturnType<typeof reachesInto>;
}

function vectorChecks(dataset: Dataset, platform: NodePlatform, { codes, isInInterest, onProgress }: Expected): Checked {
  const hasShapes = dataset.kind === 'vector';
  const { fields, features } = readFeatures(dataset, platform, { geometry: hasShapes, values: true });
  const judge = new ShapeJudge(false);
  const checks = new VectorChecks({
    fields,
    hasShapes,
    ...unitsOf(dataset),
    isInArea: areaOf(dataset),
    isInInterest,
    codes: new Map([...codes].map(([field, list]) => [field, new Set(list)])),
    faultOf: (wkb) => (isSuspect(wkb) ? judge.fault(wkb) : null),
  });
  const coverage = /Polygon|Geometry/.test(dataset.geometryType ?? '') ? new Coverage() : null;
  const lines = /LineString|Geometry/.test(dataset.geometryType ?? '') ? new LineEnds() : null;
  let done = 0;
  for (const feature of features) {
    checks.add(feature);
    if (feature.geometry) {
      coverage?.add(feature.geometry);
      lines?.add(feature.geometry, done + 1);
    }
    if (++done % TOLD_EVERY === 0) onProgress({ done, of: dataset.featureCount ?? 0, unit: 'records', item: dataset.id });
  }
  const again = () => readFeatures(dataset, platform, { geometry: true, values: false }).features;
  return {
    checks: [...checks.checks(), ...(coverage?.checks(again) ?? []), ...(lines?.checks() ?? [])],
    fields: checks.profiles(),
    scale: checks.scaleBorne,
    pixel: null,
  };
}

/** Whether the corners of a box lie in the area that the CRS is meant for; null: that cannot be told. */
function areaOf({ crs }: Dataset): ((box: Extent) => boolean) | null {
  const key = crsKey(crs);
  const known = key === null ? null : crsNamed(key);
  const toDegrees = key === null ? null : transformer(key, 'EPSG:4326');
  if (!known || !toDegrees) return null;
  return ([minx, miny, maxx, maxy]) =>
    [
      [minx, miny],
      [maxx, maxy],
    ].every(([x, y]) => {
      const spot = toDegrees(x!, y!);
      return spot !== null && holdsSpot(known, spot[0], spot[1]);
    });
}

/** Pixels that are asked for at once, and rows: as many as tiles have in most files. */
const AT_ONCE = 1 << 22;
const MOST_ROWS = 256;

async function rasterChecks(found: FoundDataset, platform: NodePlatform, onProgress: OnProgress): Promise<Checked> {
  const { dataset } = found;
  const { group, table, raster, bbox } = dataset;
  const pixels = await openPixels(found.folder, group, table, platform);
  const transform = placedBy(found, platform);
  const [c, a, b, f, d, e] = transform ?? [0, 0, 0, 0, 0, 0];
  const checks = new RasterChecks({
    width: pixels?.width ?? raster?.width ?? 0,
    height: pixels?.height ?? raster?.height ?? 0,
    bands: pixels && !pixels.isReduced ? pixels.bands : 0,
    pixel: raster?.pixel ?? [0, 0],
    ...unitsOf(dataset),
    latitude: bbox ? (bbox[1] + bbox[3]) / 2 : null,
    placeOf: (col, row) => (transform ? [c + (col + 0.5) * a + (row + 0.5) * b, f + (col + 0.5) * d + (row + 0.5) * e] : null),
  });
  const told = (): Checked => ({
    checks: checks.checks(),
    fields: checks.profiles(),
    scale: checks.scaleBorne,
    pixel: checks.pixelMetres(),
  });
  if (!pixels) return told();
  try {
    if (!pixels.isReduced) {
      const { width, height, bands } = pixels;
      const rows = Math.max(1, Math.min(MOST_ROWS, Math.floor(AT_ONCE / width)));
      for (let band = 0; band < bands; band++)
        for (let row = 0; row < height; row += rows) {
          const count = Math.min(rows, height - row);
          const values = (await readWindow(pixels, band, { col: 0, row, width: pixels.width, height: count }))!;
          for (let i = 0; i < count; i++) checks.add(band, row + i, values.subarray(i * width, (i + 1) * width));
          onProgress({ done: (band * height + row + count) * width, of: bands * height * width, unit: 'pixels', item: dataset.id });
        }
    }
    return told();
  } finally {
    pixels.close();
  }
}
