import { arcsLost, columnNames, noNumbersLost, ProblemError, kindOfShapes, readFeatures, type Loss } from '@rootmap/core';
import { crsKey } from '../crs/definitions.js';
import { transformer } from '../crs/transformer.js';
import { platformBelow } from '../survey/platform.js';
import { newGeopackage } from '../geopackage-write/new-geopackage.js';
import { moved } from '../geopackage-write/records.js';
import { writeTable, type Written } from '../geopackage-write/write-features.js';
import type { FoundDataset } from '../project/find-dataset.js';

/**
 * Writes a dataset in another CRS, as a GeoPackage of one table: no value is lost to a format that holds less. Shapes with no
 * place in the new CRS are skipped and told.
 * @param table name of the table
 */
export function writeCopy(
  { folder, dataset }: FoundDataset,
  crs: string,
  path: string,
  table: string,
  onProgress: (done: number) => void,
): Written & { readonly losses: readonly Loss[] } {
  const own = crsKey(dataset.crs);
  const to = own === null ? null : transformer(own, crs);
  if (!to)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${dataset.group.path} cannot be computed in ${crs}: ${own === null ? 'nobody knows which CRS it is in. Find its CRS first' : `how ${own} is computed is not known here`}.`,
    });
  const platform = platformBelow(folder);
  try {
    const { fields, features, straightened } = readFeatures(dataset, platform);
    const geometryType = kindOfShapes(dataset, platform) ?? 'Geometry';
    const spec = { name: table, fields: columnNames(fields), crs, geometryType };
    const written = newGeopackage(path, (db) => writeTable(db, spec, moved(features, to), onProgress));
    return { ...written, losses: [...arcsLost(straightened?.() ?? 0), ...noNumbersLost(written.noNumbers)] };
  } finally {
    platform.close();
  }
}
