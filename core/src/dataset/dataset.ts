/** What the survey knows of one file: `path` is relative to the surveyed root, `/` as separator. */
export interface FileEntry {
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  /** It stands in the cloud only: reading it would fetch it. */
  readonly isPlaceholder?: true;
  /** What its content is, where its name does not tell (`isUnclearJson`) and it has been looked at. */
  readonly content?: Format;
}

export type Format =
  | 'shapefile'
  | 'geotiff'
  | 'image'
  | 'ascii-grid'
  | 'jp2'
  | 'vrt'
  | 'netcdf'
  | 'hfa'
  | 'geopackage'
  | 'geojson'
  | 'geojson-sequence'
  | 'flatgeobuf'
  | 'kml'
  | 'gpx'
  | 'csv'
  | 'dbf'
  | 'xlsx'
  | 'document'
  | 'opaque';

export type DatasetKind = 'vector' | 'raster' | 'table' | 'document' | 'opaque';

/** Simple-feature names with Z, M or ZM behind them; `Geometry` where a table holds several. */
type GeometryType = string;

export type FieldType = 'text' | 'integer' | 'integer64' | 'real' | 'boolean' | 'date' | 'datetime' | 'binary' | 'json';

/**
 * How the values of a column of text are written, where a number or a date is not as programs write it: with a decimal comma
 * (`1.234,5`), the day or the month first (`31.12.2025`, `12/31/2025`), or degrees with minutes and seconds (`54°12'30"N`).
 */
export type WrittenAs = 'comma' | 'day-first' | 'month-first' | 'degrees';

export interface Field {
  readonly name: string;
  readonly type: FieldType;
  /** Of a table of text, where values are not written as programs write them. */
  readonly writtenAs?: WrittenAs;
  /** Not a property but the `id` member of each GeoJSON feature (RFC 7946, section 3.2). */
  readonly isFeatureId?: true;
}

/** minx, miny, maxx, maxy; x is east or longitude. */
export type Extent = readonly [number, number, number, number];

/** `code` is `EPSG:n` or null where the text names no registered CRS. */
export interface Crs {
  readonly code: string | null;
  readonly name: string | null;
  readonly wkt: string | null;
  /** Of one without a code that is computed from its text all the same: the geographic one below its projection, `EPSG:n`. */
  readonly base?: string;
  /** What the file calls it, where that is another name than the registry has for the same definition. */
  readonly otherName?: string;
}

export interface Finding {
  readonly code: string;
  readonly message: string;
  readonly fix?: string;
}

interface RasterShape {
  readonly width: number;
  readonly height: number;
  /** Pixel size in x and y, both positive, in the units of the CRS. */
  readonly pixel: readonly [number, number];
  readonly bands: number;
}

/** Files that are one thing, before any of them is opened. */
export interface FileGroup {
  readonly format: Format;
  readonly kind: DatasetKind;
  /** Path of the main file (of the folder for an opaque container). */
  readonly path: string;
  readonly main: FileEntry;
  readonly companions: readonly FileEntry[];
  /** Side files that serve this dataset but belong to another one beside it. */
  readonly borrowed: readonly FileEntry[];
}

/** What a dataset's headers say. */
export interface Description {
  readonly table: string | null;
  readonly kind: DatasetKind;
  readonly state: 'ok' | 'incomplete' | 'unreadable';
  readonly geometryType: GeometryType | null;
  readonly featureCount: number | null;
  readonly fields: readonly Field[] | null;
  readonly crs: Crs | null;
  readonly bbox: Extent | null;
  readonly raster: RasterShape | null;
  readonly findings: readonly Finding[];
}

export const emptyDescription = (kind: DatasetKind): Description => ({
  table: null,
  kind,
  state: 'ok',
  geometryType: null,
  featureCount: null,
  fields: null,
  crs: null,
  bbox: null,
  raster: null,
  findings: [],
});

export const unreadable = (kind: DatasetKind, message: string, table: string | null = null): Description => ({
  ...emptyDescription(kind),
  table,
  state: 'unreadable',
  findings: [{ code: 'unreadable', message }],
});

export interface Dataset extends Description {
  /** Path from the root, `#table` behind it for a table of a container. It names; it does not survive a move. */
  readonly id: string;
  readonly group: FileGroup;
}

export const datasetId = (path: string, table: string | null): string => (table === null ? path : `${path}#${table}`);
