import type { ByteSource } from '../bytes/byte-source.js';
import type { Dataset } from '../dataset/dataset.js';
import { EVERYTHING, type Feature, type FeatureStream, type Wanted } from '../feature/feature.js';
import { csvFeatures } from '../format/csv/csv-features.js';
import { flatgeobufFeatures } from '../format/flatgeobuf/flatgeobuf-features.js';
import { arrangementOf } from '../format/geojson/describe-geojson.js';
import { geoJsonFeatures } from '../format/geojson/geojson-features.js';
import { gpxFeatures } from '../format/gpx/gpx-features.js';
import { kmlFeatures } from '../format/kml/kml-features.js';
import { dbfFeatures, shapefileFeatures, shapefileKinds } from '../format/shapefile/shapefile-features.js';
import { xlsxFeatures } from '../format/xlsx/xlsx-features.js';
import { commonKind, kindOfWkb } from '../geometry/read-wkb.js';
import { straightWkb } from '../geometry/straight-wkb.js';
import type { Platform } from './describe-dataset.js';

const NOTHING: FeatureStream = { fields: [], features: [] };

/**
 * The records of a dataset of shapes or rows, whatever its format; none for rasters and for what cannot be read. Shapes are
 * well-known binary in the dataset's own CRS, x east or longitude.
 */
export function readFeatures(
  dataset: Dataset,
  p: Pick<Platform, 'open' | 'geodatabaseFeatures'>,
  wanted: Wanted = EVERYTHING,
): FeatureStream {
  const stream = asStored(dataset, p, wanted);
  return wanted.geometry && wanted.curves !== 'kept' && mayHaveArcs(dataset) ? straight(stream) : stream;
}

const MAY_HAVE_ARCS = /Geometry|Curve|Circular|Surface/;
/** Only these formats hold arcs, and most of their datasets say that they have none. */
const mayHaveArcs = ({ group, geometryType }: Dataset): boolean =>
  (group.format === 'geopackage' || group.format === 'flatgeobuf') && MAY_HAVE_ARCS.test(geometryType ?? '');

function straight({ fields, features }: FeatureStream): FeatureStream {
  let count = 0;
  function* records(): Generator<Feature> {
    for (const feature of features) {
      const geometry = feature.geometry && straightWkb(feature.geometry);
      if (geometry === feature.geometry) yield feature;
      else {
        count++;
        yield { ...feature, geometry };
      }
    }
  }
  return { fields, features: records(), straightened: () => count };
}

function asStored(dataset: Dataset, p: Pick<Platform, 'open' | 'geodatabaseFeatures'>, wanted: Wanted): FeatureStream {
  const { group, table } = dataset;
  const fields = dataset.fields ?? [];
  const open = (path: string): ByteSource => p.open(path);
  if (dataset.state === 'unreadable') return NOTHING;
  switch (group.format) {
    case 'shapefile':
      return shapefileFeatures(group, open, wanted);
    case 'dbf':
      return dbfFeatures(group, open, wanted);
    case 'geojson':
    case 'geojson-sequence':
      return geoJsonFeatures(open(group.path), arrangementOf(group), fields, wanted);
    case 'csv':
      return csvFeatures(group, open, fields, wanted);
    case 'kml':
      return kmlFeatures(group, table, open, fields, wanted);
    case 'gpx':
      return gpxFeatures(group, table, open, fields, wanted);
    case 'flatgeobuf':
      return flatgeobufFeatures(open(group.path), fields, wanted);
    case 'xlsx':
      return xlsxFeatures(group, table, open, fields, wanted);
    case 'geopackage':
      return table === null || dataset.kind === 'raster' ? NOTHING : p.geodatabaseFeatures(group, table, fields, wanted);
    default:
      return NOTHING;
  }
}

/** How many of its shapes have arcs. */
export function countArcs(dataset: Dataset, p: Pick<Platform, 'open' | 'geodatabaseFeatures'>): number {
  if (!mayHaveArcs(dataset)) return 0;
  const { features, straightened } = readFeatures(dataset, p, { geometry: true, values: false });
  for (const _ of features);
  return straightened!();
}

/** Records of such a dataset can be read from the middle on, so that two threads share them. */
export const takesRange = (dataset: Dataset): boolean =>
  dataset.group.format === 'shapefile' || (dataset.group.format === 'geopackage' && dataset.kind !== 'raster' && !mayHaveArcs(dataset));

/** The one kind that holds all shapes: a header may say lines where some have several parts. Null: there is no shape. */
export function kindOfShapes(
  dataset: Dataset,
  p: Pick<Platform, 'open' | 'geodatabaseFeatures'>,
  curves: Pick<Wanted, 'curves'> = {},
): string | null {
  if (dataset.group.format === 'shapefile' && dataset.state !== 'unreadable')
    return commonKind(shapefileKinds(dataset.group, (path) => p.open(path)));
  const kinds = new Set<string>();
  for (const { geometry } of readFeatures(dataset, p, { geometry: true, values: false, ...curves }).features)
    if (geometry) kinds.add(kindOfWkb(geometry) ?? 'Geometry');
  return commonKind(kinds);
}
