import type { Crs, Description, Extent, FileGroup, Format } from './dataset.js';
import { endingOf } from './formats.js';

/** What a layer remembers of its data, so that the data can be recognised elsewhere. Unknown is null. */
export interface Fingerprint {
  readonly v: 1;
  readonly format: Format;
  readonly geometryType: string | null;
  readonly count: number | null;
  readonly vertices: number | null;
  readonly fields: readonly (readonly [name: string, type: string])[] | null;
  readonly extent: Extent | null;
  readonly crs: string | { readonly wkt: string } | null;
  readonly raster: {
    readonly width: number;
    readonly height: number;
    readonly pixel: readonly [number, number];
    readonly bands: number;
  } | null;
  /** Size of the main file and each companion that belongs to the data, by ending. */
  readonly bytes: Readonly<Record<string, number>>;
  readonly modified: string | null;
  readonly grid: string | null;
  readonly hash: string | null;
}

/** The part that costs one streaming read. */
export interface FullPart {
  readonly vertices: number | null;
  readonly grid: string | null;
  readonly hash: string | null;
  /** Rows that are marked deleted, where the format has such. */
  readonly deletedRows: number;
}

const SIZED = /\.(shp|shx|dbf|tif|tiff|png|jpe?g|asc|gpkg|geojson|fgb|km[lz]|gpx|csv|tsv|xlsx)$/i;

const crsPart = (crs: Crs | null): Fingerprint['crs'] => crs && (crs.code ?? (crs.wkt ? { wkt: crs.wkt } : null));

/** The fingerprint that headers give, widened by the full part where that is known. */
export function fingerprintOf(group: FileGroup, d: Description, full?: FullPart | null): Fingerprint {
  const bytes: Record<string, number> = {};
  for (const f of [group.main, ...group.companions]) if (SIZED.test(f.path)) bytes[`.${endingOf(f.path)}`] = f.bytes;
  return {
    v: 1,
    format: group.format,
    geometryType: d.geometryType,
    count: d.featureCount,
    vertices: full?.vertices ?? null,
    fields: d.fields && d.fields.map((f) => [f.name, f.type] as const),
    extent: d.bbox,
    crs: crsPart(d.crs),
    raster: d.raster && { ...d.raster },
    bytes,
    modified: modifiedText(group),
    grid: full?.grid ?? null,
    hash: full?.hash ?? null,
  };
}

function modifiedText(group: FileGroup): string | null {
  const ms = group.main.modifiedMs;
  return Number.isFinite(ms) && Math.abs(ms) < 8.64e15 ? new Date(Math.floor(ms / 1000) * 1000).toISOString().replace('.000Z', 'Z') : null;
}

const isNumber = (v: unknown): v is number => typeof v === 'number' && Number.isFinite(v);
const numberOr = (v: unknown): number | null => (isNumber(v) ? v : null);
const textOr = (v: unknown): string | null => (typeof v === 'string' ? v : null);

/** Reads a fingerprint from a map file; what is malformed there counts as unknown. Null: there is none. */
export function parseFingerprint(value: unknown): Fingerprint | null {
  if (typeof value !== 'object' || value === null) return null;
  const v = value as Record<string, unknown>;
  if (v['v'] !== 1 || typeof v['format'] !== 'string') return null;
  const extent = v['extent'];
  const fields = v['fields'];
  const crs = v['crs'];
  const raster = v['raster'] as Record<string, unknown> | null;
  const bytes = v['bytes'];
  return {
    v: 1,
    format: v['format'] as Format,
    geometryType: textOr(v['geometryType']),
    count: numberOr(v['count']),
    vertices: numberOr(v['vertices']),
    fields: Array.isArray(fields)
      ? fields.filter((f): f is [string, string] => Array.isArray(f) && typeof f[0] === 'string' && typeof f[1] === 'string')
      : null,
    extent: Array.isArray(extent) && extent.length === 4 && extent.every(isNumber) ? (extent as unknown as Extent) : null,
    crs:
      typeof crs === 'string'
        ? crs
        : typeof crs === 'object' && crs && typeof (crs as { wkt?: unknown }).wkt === 'string'
          ? { wkt: (crs as { wkt: string }).wkt }
          : null,
    raster: raster && isNumber(raster['width']) && isNumber(raster['height']) ? (raster as unknown as Fingerprint['raster']) : null,
    bytes: typeof bytes === 'object' && bytes ? (bytes as Record<string, number>) : {},
    modified: textOr(v['modified']),
    grid: textOr(v['grid']),
    hash: textOr(v['hash']),
  };
}
