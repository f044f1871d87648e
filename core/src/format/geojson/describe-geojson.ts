import type { CrsTable } from '../../crs/crs-table.js';
import { crsOfCode } from '../../crs/identify.js';
import type { ByteSource, NewHasher } from '../../bytes/byte-source.js';
import { emptyDescription, unreadable, type Crs, type Description, type Extent, type FileGroup } from '../../dataset/dataset.js';
import type { FullPart } from '../../dataset/fingerprint.js';
import { OccupancyGrid } from '../../dataset/grid.js';
import { commonKind } from '../../geometry/read-wkb.js';
import { explain } from '../../problem.js';
import { hashWhole } from '../../bytes/hash-whole.js';
import { scanGeoJson, type Arrangement, type GeoJsonScan } from './scan-geojson.js';

/** GeoJSON has no header: count, fields and extent come from one streaming read. */
export function describeGeoJson(group: FileGroup, open: (path: string) => ByteSource, table: CrsTable): Description {
  const scan = scanGeoJson(group.path, open(group.path), arrangementOf(group));
  if (!scan.ok) return unreadable('vector', explain(scan.problem));
  const crs = crsOf(scan.value, table);
  return {
    ...emptyDescription('vector'),
    geometryType: geometryTypeOf(scan.value),
    featureCount: scan.value.features,
    fields: scan.value.fields,
    crs,
    bbox: scan.value.extent,
    findings: scan.value.crsName
      ? [
          {
            code: 'old-crs-member',
            message: `${group.path} names its CRS in a way that RFC 7946 has removed; some programs will read it as longitude and latitude.`,
          },
        ]
      : [],
  };
}

export const arrangementOf = ({ format }: FileGroup): Arrangement => (format === 'geojson-sequence' ? 'sequence' : 'collection');

/** `EPSG:n`, `urn:ogc:def:crs:EPSG:8.9:n`, `http://www.opengis.net/def/crs/EPSG/0/n`, `…/ref/epsg/n/proj4/` (OGC 09-048r5, and common practice). */
const OLD_NAME = /EPSG(?::{1,2}(?:[\d.]*:)?|\/(?:[\d.]+\/)?)(\d+)(?:\/\w*)*$/i;

/** RFC 7946 section 4: longitude and latitude on WGS 84, unless an older file says otherwise. */
function crsOf(scan: GeoJsonScan, table: CrsTable): Crs | null {
  if (scan.isCrsDenied) return null;
  const code = scan.crsName && OLD_NAME.exec(scan.crsName)?.[1];
  if (scan.crsName && !code && !/CRS84$/.test(scan.crsName)) return { code: null, name: scan.crsName, wkt: null };
  return crsOfCode(`EPSG:${code || '4326'}`, table);
}

const geometryTypeOf = (scan: GeoJsonScan): string | null =>
  commonKind(new Set([...scan.geometryTypes].map((t) => t + (scan.hasZ ? 'Z' : ''))));

export function fullGeoJson(group: FileGroup, extent: Extent | null, open: (path: string) => ByteSource, newHasher: NewHasher): FullPart {
  const grid = new OccupancyGrid(extent);
  const scan = scanGeoJson(group.path, open(group.path), arrangementOf(group), (x, y) => grid.add(x, y));
  const hash = hashWhole(open(group.path), newHasher);
  return { vertices: scan.ok ? scan.value.vertices : null, grid: scan.ok ? grid.toHex() : null, hash, deletedRows: 0 };
}
