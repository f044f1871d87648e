import { ForwardReader } from '../../bytes/forward-reader.js';
import type { FileGroup } from '../../dataset/dataset.js';
import type { Feature, FeatureStream, Wanted } from '../../feature/feature.js';
import { kindOfWkb } from '../../geometry/read-wkb.js';
import { WkbWriter } from '../../geometry/wkb-writer.js';
import { companion, readTableForRows, type Open } from './describe-shapefile.js';
import { dbfRows, UNMET } from './dbf-rows.js';
import { SHP_HEADER_BYTES } from './read-shp-header.js';
import { shapeToWkb } from './shape-to-wkb.js';

const RECORD_HEADER_BYTES = 8;

/** Records of a shapefile, shape and row side by side as they stand in their files. Deleted rows are passed over. */
export function shapefileFeatures(group: FileGroup, open: Open, wanted: Wanted): FeatureStream {
  const dbf = companion(group, 'dbf');
  const header = dbf === null ? null : (readTableForRows(dbf, group, open)?.header ?? null);
  return { fields: header?.fields.map(({ name, type }) => ({ name, type })) ?? [], features: records() };

  function* records(): Generator<Feature> {
    const rows = dbf !== null && header ? dbfRows(open(dbf), header, wanted.values, wanted.range, wanted.hint) : null;
    let isWanted = true;
    const shapes = wanted.geometry || !rows ? shapesOf(open, group.path, wanted.range, () => isWanted) : null;
    for (let id = wanted.range?.from ?? 0; ; id++) {
      const row = rows?.next();
      const values = row?.done === false ? row.value : [];
      isWanted = values !== null && values !== UNMET;
      const shape = shapes?.next();
      if (shape ? shape.done : row?.done !== false) return;
      if (values !== null && values !== UNMET) yield { id, geometry: shape?.done === false ? shape.value : null, values };
    }
  }
}

/** A `.dbf` that stands alone. */
export function dbfFeatures(group: FileGroup, open: Open, wanted: Wanted): FeatureStream {
  const header = readTableForRows(group.path, group, open)?.header;
  return { fields: header?.fields.map(({ name, type }) => ({ name, type })) ?? [], features: records() };

  function* records(): Generator<Feature> {
    if (!header) return;
    let id = 0;
    for (const values of dbfRows(open(group.path), header, wanted.values, undefined, wanted.hint)) {
      if (values !== null && values !== UNMET) yield { id, geometry: null, values };
      id++;
    }
  }
}

/** @param isWanted whether the shape that comes next is read; null stands for one that is not */
function* shapesOf(open: Open, path: string, range: Wanted['range'], isWanted: () => boolean): Generator<Uint8Array | null> {
  const reader = new ForwardReader(open(path));
  const writer = new WkbWriter();
  if (!reader.skip(SHP_HEADER_BYTES)) return;
  for (let n = 0; n < (range?.to ?? Infinity) && reader.holds(RECORD_HEADER_BYTES); n++) {
    const length = reader.view.getInt32(reader.offset + 4, false) * 2;
    if (length < 4) return; // no record is shorter than its shape type: the rest cannot be told apart
    reader.pass(RECORD_HEADER_BYTES);
    const isWhole = reader.holds(length);
    if (n >= (range?.from ?? 0)) yield isWhole && isWanted() ? shapeToWkb(reader.view, reader.offset, length, writer) : null;
    if (!isWhole) return;
    reader.pass(length);
  }
}

/**
 * Kinds of the shapes of a shapefile. Where a shape has one part, its header tells; only those of several parts are read whole, since the
 * turns of their rings tell how many areas they are.
 */
export function shapefileKinds(group: FileGroup, open: Open): Set<string> {
  const kinds = new Set<string>();
  const reader = new ForwardReader(open(group.path));
  const writer = new WkbWriter();
  if (!reader.skip(SHP_HEADER_BYTES)) return kinds;
  while (reader.holds(RECORD_HEADER_BYTES)) {
    const length = reader.view.getInt32(reader.offset + 4, false) * 2;
    if (length < 4) break;
    reader.pass(RECORD_HEADER_BYTES);
    if (!reader.holds(length)) break;
    const { view, offset } = reader;
    const type = view.getInt32(offset, true);
    const simple = length < 44 ? undefined : SIMPLE[type];
    if (type === POINT && length >= POINT_BYTES) kinds.add('Point');
    else if (simple !== undefined && view.getInt32(offset + 36, true) === 1) kinds.add(simple);
    else {
      const wkb = shapeToWkb(view, offset, length, writer);
      if (wkb) kinds.add(kindOfWkb(wkb) ?? 'Geometry');
    }
    reader.pass(length);
  }
  return kinds;
}
const POINT = 1;
const POINT_BYTES = 20;
/** Shape types without Z and M that have parts. */
const SIMPLE: Readonly<Record<number, string>> = { 3: 'LineString', 5: 'Polygon' };
