import type { DatasetKind, Format } from './dataset.js';

/** Main files by ending. Images are datasets only beside a georeference; that is decided in `groupFiles`. */
const MAIN: Readonly<Record<string, Format>> = {
  shp: 'shapefile',
  tif: 'geotiff',
  tiff: 'geotiff',
  png: 'image',
  jpg: 'image',
  jpeg: 'image',
  asc: 'ascii-grid',
  jp2: 'jp2',
  jpx: 'jp2',
  j2k: 'jp2',
  vrt: 'vrt',
  nc: 'netcdf',
  img: 'hfa',
  gpkg: 'geopackage',
  geojson: 'geojson',
  geojsonl: 'geojson-sequence',
  geojsons: 'geojson-sequence',
  geojsonseq: 'geojson-sequence',
  fgb: 'flatgeobuf',
  kml: 'kml',
  kmz: 'kml',
  gpx: 'gpx',
  csv: 'csv',
  tsv: 'csv',
  dbf: 'dbf',
  xlsx: 'xlsx',
};
const DOCUMENTS = new Set('pdf txt md rtf doc docx odt htm html zip tar gz tgz 7z rar sld'.split(' '));

export const KIND: Readonly<Record<Format, DatasetKind>> = {
  shapefile: 'vector',
  geotiff: 'raster',
  image: 'raster',
  'ascii-grid': 'raster',
  jp2: 'raster',
  vrt: 'raster',
  netcdf: 'raster',
  hfa: 'raster',
  geopackage: 'vector',
  geojson: 'vector',
  'geojson-sequence': 'vector',
  flatgeobuf: 'vector',
  kml: 'vector',
  gpx: 'vector',
  csv: 'table',
  dbf: 'table',
  xlsx: 'table',
  document: 'document',
  opaque: 'opaque',
};

/** Companions by format: `stem` endings replace the main file's, `whole` endings follow its whole name. */
export interface CompanionRule {
  readonly stem: readonly string[];
  readonly whole: readonly string[];
  /** A main format that takes every side file of its stem that is not itself a main file. */
  readonly takesAll?: true;
}

/** The quality sheet of a dataset, behind its whole name. */
const SHEET = 'quality.json';

export const COMPANIONS: Readonly<Partial<Record<Format, CompanionRule>>> = {
  shapefile: { stem: ['shx', 'dbf', 'prj', 'cpg', 'sbn', 'sbx', 'qix'], whole: ['xml', SHEET], takesAll: true },
  geotiff: {
    stem: ['tfw', 'tifw', 'tiffw', 'wld', 'prj', 'clr'],
    whole: ['aux.xml', 'ovr', 'msk', 'xml', 'vat.dbf', SHEET],
  },
  image: {
    stem: ['pgw', 'pngw', 'jgw', 'jpgw', 'wld', 'prj', 'clr'],
    whole: ['aux.xml', 'ovr', 'msk', 'xml', 'vat.dbf', SHEET],
  },
  'ascii-grid': { stem: ['prj'], whole: ['aux.xml', SHEET] },
  jp2: { stem: ['j2w', 'wld', 'prj'], whole: ['aux.xml', 'ovr', 'msk', 'xml', SHEET] },
  vrt: { stem: [], whole: ['aux.xml', 'ovr', 'msk', SHEET] },
  netcdf: { stem: [], whole: ['aux.xml', 'xml', SHEET] },
  hfa: { stem: ['ige', 'rrd', 'prj'], whole: ['aux.xml', 'ovr', 'msk', 'xml', SHEET] },
  geopackage: { stem: [], whole: ['-wal', '-shm', '-journal', SHEET] },
  geojson: { stem: [], whole: ['xml', SHEET] },
  'geojson-sequence': { stem: [], whole: ['xml', SHEET] },
  flatgeobuf: { stem: [], whole: ['xml', SHEET] },
  kml: { stem: [], whole: ['xml', SHEET] },
  gpx: { stem: [], whole: ['xml', SHEET] },
  csv: { stem: ['csvt', 'prj', 'xml'], whole: ['xml', '-metadata.json', SHEET] },
  dbf: { stem: ['cpg', 'prj', 'xml'], whole: ['xml', SHEET] },
  xlsx: { stem: [], whole: ['xml', SHEET] },
};

/** Who takes a side file that could serve two: the first of these. */
export const PRECEDENCE: readonly Format[] = [
  'shapefile',
  'geotiff',
  'image',
  'ascii-grid',
  'jp2',
  'vrt',
  'netcdf',
  'hfa',
  'geopackage',
  'geojson',
  'geojson-sequence',
  'flatgeobuf',
  'kml',
  'gpx',
  'csv',
  'dbf',
  'xlsx',
];

/** Endings that make an image a raster. */
export const GEOREFERENCE = new Set(['pgw', 'pngw', 'jgw', 'jpgw', 'wld']);

/** Files that are companions of something and mean nothing alone. */
const ORPHANS =
  /\.(shx|sbn|sbx|qix|prj|cpg|tfw|tifw|tiffw|j2w|pgw|pngw|jgw|jpgw|wld|clr|ovr|msk|csvt|aux\.xml|shp\.xml|vat\.dbf)$|\.gpkg-(wal|shm|journal)$|\.[ct]sv-metadata\.json$|\.quality\.json$/i;
export const isOrphan = (name: string): boolean => ORPHANS.test(name);

export function endingOf(name: string): string {
  const dot = name.lastIndexOf('.');
  return dot < 0 ? '' : name.slice(dot + 1).toLowerCase();
}

/** Most files do not end so: the cheap look comes first, since this is asked of every file there is. */
const endsJson = (path: string): boolean => (path.charCodeAt(path.length - 1) | 32) === 0x6e;
export const MAP_ENDING = '.owc.json';
export const isMapFile = (path: string): boolean => endsJson(path) && /[^/]\.owc\.json$/i.test(path);
export const isProjectFile = (path: string): boolean => endsJson(path) && /[^/]\.rootmap\.json$/i.test(path);

/** Names that tell that it is JSON, and not of what: its content has to be looked at (`FileEntry.content`). */
const isSheetFile = (name: string): boolean => /[^/]\.quality\.json$/i.test(name);
export const isUnclearJson = (name: string): boolean =>
  UNCLEAR_JSON.test(name) && !isMapFile(name) && !isProjectFile(name) && !isSheetFile(name);
const UNCLEAR_JSON = /.\.(json|ndjson|jsonl)$/i;

/** The format of a main file by its name alone. */
export function formatOf(name: string): Format | null {
  const ending = endingOf(name);
  if (ending === 'dbf' && /\.vat\.dbf$/i.test(name)) return null; // a raster's value table is never a table of its own
  return Object.hasOwn(MAIN, ending) ? MAIN[ending]! : DOCUMENTS.has(ending) ? 'document' : null;
}
