import type { ExportFormat } from '@rootmap/core/contract';

export interface FormatWords {
  readonly label: string;
  readonly ending: string;
  readonly hint: string;
}

/** Formats that data is written in. */
export const EXPORT_FORMATS: Readonly<Record<ExportFormat, FormatWords>> = {
  geopackage: { label: 'GeoPackage', ending: 'gpkg', hint: 'One table with its index; keeps names, widths and kinds of shapes.' },
  shapefile: { label: 'Shapefile', ending: 'shp', hint: 'Read by nearly every tool; short field names, 2 GiB at most.' },
  geojson: { label: 'GeoJSON', ending: 'geojson', hint: 'Text for the web, always in degrees of WGS 84.' },
  csv: { label: 'CSV', ending: 'csv', hint: 'For spreadsheets; points as two columns, other shapes as text.' },
  geotiff: { label: 'GeoTIFF', ending: 'tif', hint: 'Pixels with their place, packed with Deflate; read back by another reader.' },
};

export const EXPORT_FORMATS_OF_RECORDS = (Object.entries(EXPORT_FORMATS) as [ExportFormat, FormatWords][]).filter(([f]) => f !== 'geotiff');
