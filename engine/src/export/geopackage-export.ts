import { arcsLost, columnNames, noNumbersLost } from '@rootmap/core';
import type { ExportDone } from '@rootmap/core/contract';
import { newGeopackage } from '../geopackage-write/new-geopackage.js';
import { writeTable } from '../geopackage-write/write-features.js';
import type { FoundDataset } from '../project/find-dataset.js';
import type { ExportSource } from './export-source.js';

/** Writes a GeoPackage of one table, with its spatial index. @param table its name */
export function writeGeopackageExport(
  { records, crs, kind, arcs }: ExportSource,
  { dataset }: FoundDataset,
  path: string,
  table: string,
  onProgress: (done: number) => void,
): Omit<ExportDone, 'path'> {
  const { fields, features } = records();
  const spec = { name: table, fields: columnNames(fields), crs: crs ?? dataset.crs?.wkt ?? null, geometryType: kind };
  const { read, written, skipped, noNumbers } = newGeopackage(path, (db) => writeTable(db, spec, features, onProgress));
  return { unit: 'records', check: null, read, written, skipped, losses: [...arcsLost(arcs), ...noNumbersLost(noNumbers)] };
}
