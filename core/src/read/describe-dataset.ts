import { memorySource, type ByteSource, type NewHasher } from '../bytes/byte-source.js';
import type { CrsTable } from '../crs/crs-table.js';
import {
  emptyDescription,
  unreadable,
  type Dataset,
  type Description,
  type Field,
  type FileGroup,
  type Finding,
  datasetId,
} from '../dataset/dataset.js';
import type { FullPart } from '../dataset/fingerprint.js';
import type { FeatureStream, Wanted } from '../feature/feature.js';
import { describeAsciiGrid, fullAsciiGrid } from '../format/ascii-grid/ascii-grid.js';
import { describeCsv } from '../format/csv/describe-csv.js';
import { describeFlatGeobuf } from '../format/flatgeobuf/describe-flatgeobuf.js';
import { describeGeoJson, fullGeoJson } from '../format/geojson/describe-geojson.js';
import type { Inflate } from '../format/geotiff/decode-block.js';
import { describeGeoTiff, placeOfTiff } from '../format/geotiff/describe-geotiff.js';
import { fullGeoTiff } from '../format/geotiff/full-geotiff.js';
import { describeGpx } from '../format/gpx/describe-gpx.js';
import { describeHfa } from '../format/hfa/describe-hfa.js';
import { describeImage } from '../format/image/describe-image.js';
import { describeJp2 } from '../format/jp2/describe-jp2.js';
import { describeKml } from '../format/kml/describe-kml.js';
import { describeDbfTable, describeShapefile } from '../format/shapefile/describe-shapefile.js';
import { fullShapefile } from '../format/shapefile/full-shapefile.js';
import type { NetcdfHeader } from '../format/netcdf/netcdf-header.js';
import { describeNetcdf } from '../format/netcdf/describe-netcdf.js';
import { describeVrt } from '../format/vrt/describe-vrt.js';
import { describeXlsx } from '../format/xlsx/describe-xlsx.js';
import { hashWhole } from '../bytes/hash-whole.js';
import { hashRaster } from '../raster/hash-raster.js';

/** What reading needs of the platform it runs on. Paths are those of the file entries. */
export interface Platform {
  open(path: string): ByteSource;
  readonly crs: CrsTable;
  readonly newHasher: NewHasher;
  readonly inflate: Inflate;
  /** Tables of a geodatabase; one unreadable description where it cannot be opened. */
  describeGeodatabase(group: FileGroup): readonly Description[];
  /** Rows of a table of a geodatabase. */
  geodatabaseFeatures(group: FileGroup, table: string, fields: readonly Field[], wanted: Wanted): FeatureStream;
  /** What a NetCDF of version 4 says of itself; null: it cannot be read. */
  readNetcdf4(group: FileGroup): NetcdfHeader | null;
  fullGeodatabaseTable(group: FileGroup, table: string, description: Description): FullPart;
}

/** A failure of the disk while reading: `permission` and the like. Only these are caught here. */
export type DiskFailure = (error: unknown) => string | null;

/** The datasets in a group of files, from headers alone. Damage makes an `unreadable` one, never a throw. */
export function describeGroup(group: FileGroup, platform: Platform, diskFailure: DiskFailure): Dataset[] {
  let descriptions: readonly Description[];
  try {
    descriptions = group.format === 'geopackage' ? platform.describeGeodatabase(group) : describeFiles(group, platform);
  } catch (error) {
    const sentence = diskFailure(error);
    if (sentence === null) throw error;
    descriptions = [unreadable(group.kind, sentence)];
  }
  return descriptions.map((d) => ({ ...d, findings: [...d.findings, ...unknownCrs(group, d)], id: datasetId(group.path, d.table), group }));
}

/** A text that names a CRS, but none that is registered as far as it tells: others cannot be drawn in their places with it. */
function unknownCrs({ path }: FileGroup, { crs }: Description): Finding[] {
  if (crs?.code !== null || crs === null) return [];
  if (crs.base !== undefined) return [];
  const called = crs.name === null ? 'The text of its CRS' : `Its CRS, "${crs.name}",`;
  return [
    {
      code: 'unknown-crs',
      message: `${path}: ${called} is none that is registered, as far as its parameters tell. It is not drawn together with other data.`,
      fix: 'State the CRS, if you know which registered one it is.',
    },
  ];
}

/** Some formats hold several datasets in one file. */
function describeFiles(group: FileGroup, p: Platform): Description[] {
  const open = (path: string): ByteSource => p.open(path);
  if (group.format === 'gpx') return describeGpx(group, open, p.crs);
  if (group.format === 'kml') return describeKml(group, open, p.crs);
  if (group.format === 'netcdf') return describeNetcdf(group, p);
  if (group.format === 'xlsx') return describeXlsx(group, open, p.crs);
  return [describeFile(group, p)];
}

function describeFile(group: FileGroup, p: Platform): Description {
  const open = (path: string): ByteSource => p.open(path);
  switch (group.format) {
    case 'shapefile':
      return describeShapefile(group, open, p.crs);
    case 'geotiff':
      return describeGeoTiff(group, open, p.crs);
    case 'image':
      return describeImage(group, open, p.crs);
    case 'ascii-grid':
      return describeAsciiGrid(group, open, p.crs);
    case 'geojson':
    case 'geojson-sequence':
      return describeGeoJson(group, open, p.crs);
    case 'jp2':
      return describeJp2(group, open, p.crs, (tiff) => placeOfTiff(group.path, memorySource(tiff), p.crs));
    case 'hfa':
      return describeHfa(group, open, p.crs);
    case 'vrt':
      return describeVrt(group, open, p.crs);
    case 'csv':
      return describeCsv(group, open, p.crs);
    case 'dbf':
      return describeDbfTable(group, open);
    case 'flatgeobuf':
      return describeFlatGeobuf(group, open, p.crs);
    default:
      return emptyDescription(group.kind);
  }
}

/** Vertices, grid and hash: one streaming read of the data. */
export function readFullPart(dataset: Dataset, p: Platform): FullPart {
  const { group, bbox } = dataset;
  const open = (path: string): ByteSource => p.open(path);
  switch (group.format) {
    case 'shapefile':
      return fullShapefile(group, bbox, open, p.newHasher);
    case 'geojson':
    case 'geojson-sequence':
      return fullGeoJson(group, bbox, open, p.newHasher);
    case 'geotiff':
      return fullGeoTiff(group, bbox, open, p.newHasher, p.inflate);
    case 'ascii-grid':
      return fullAsciiGrid(group, bbox, open, p.newHasher);
    case 'image':
      return { vertices: null, grid: null, hash: hashRaster(group, open, p.newHasher), deletedRows: 0 };
    case 'geopackage':
      return dataset.table === null ? nothing : p.fullGeodatabaseTable(group, dataset.table, dataset);
    case 'opaque':
      return nothing;
    default:
      return { vertices: null, grid: null, hash: hashWhole(open(group.path), p.newHasher), deletedRows: 0 };
  }
}

const nothing: FullPart = { vertices: null, grid: null, hash: null, deletedRows: 0 };
