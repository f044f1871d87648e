import type { Format } from '../dataset/dataset.js';

/** Offering codes of OGC 12-084r2 where the standard has one, else our own URN. */
const STANDARD: Readonly<Partial<Record<Format, string>>> = {
  geotiff: 'http://www.opengis.net/spec/owc-geojson/1.0/req/geotiff',
  kml: 'http://www.opengis.net/spec/owc-geojson/1.0/req/kml',
};
export const offeringCode = (format: Format): string => STANDARD[format] ?? `urn:x-rootmap:offering:${format}`;

const MEDIA: Readonly<Record<Format, string>> = {
  shapefile: 'application/x-shapefile',
  geotiff: 'image/tiff',
  image: 'image/png',
  'ascii-grid': 'text/plain',
  jp2: 'image/jp2',
  vrt: 'application/xml',
  netcdf: 'application/netcdf',
  hfa: 'application/octet-stream',
  geopackage: 'application/geopackage+sqlite3',
  geojson: 'application/geo+json',
  'geojson-sequence': 'application/geo+json-seq',
  flatgeobuf: 'application/flatgeobuf',
  kml: 'application/vnd.google-earth.kml+xml',
  gpx: 'application/gpx+xml',
  csv: 'text/csv',
  dbf: 'application/dbf',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  document: 'application/octet-stream',
  opaque: 'application/octet-stream',
};
/** Registered media types where IANA has them (geopackage, geo+json, kml, csv, xlsx, tiff). */
export const mediaType = (format: Format): string => MEDIA[format];
