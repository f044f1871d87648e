import { columnNames, mapWkb, ProblemError, readFeatures, type Feature } from '@rootmap/core';
import { transformer, type Transformer } from '../crs/transformer.js';
import { platformBelow } from '../disk/platform.js';
import { newGeopackage } from '../geopackage/write/new-geopackage.js';
import { writeTable, type Written } from '../geopackage/write/write-features.js';
import type { FoundDataset } from '../survey/find-dataset.js';

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
): Written {
  const own = dataset.crs?.code ?? null;
  const to = own === null ? null : transformer(own, crs);
  if (!to)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${dataset.group.path} cannot be computed in ${crs}: ${own === null ? 'nobody knows which CRS it is in. Find its CRS first' : `how ${own} is computed is not known here`}.`,
    });
  const platform = platformBelow(folder);
  try {
    const { fields, features } = readFeatures(dataset, platform);
    const spec = { name: table, fields: columnNames(fields), crs, geometryType: kindOf(dataset.geometryType) };
    return newGeopackage(path, (db) => writeTable(db, spec, moved(features, to), onProgress));
  } finally {
    platform.close();
  }
}

/** One of many parts may stand among single ones in a shapefile, so that a column of its kind would not hold it. */
const kindOf = (geometryType: string | null): string =>
  geometryType === null || /^Point/.test(geometryType) ? (geometryType ?? 'Geometry') : 'Geometry';

const DAMAGED = new Uint8Array(1);

function* moved(features: Iterable<Feature>, to: Transformer): Generator<Feature> {
  for (const feature of features) yield feature.geometry ? { ...feature, geometry: mapWkb(feature.geometry, to) ?? DAMAGED } : feature;
}
