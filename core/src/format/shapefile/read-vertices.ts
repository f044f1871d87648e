import { ForwardReader } from '../../bytes/forward-reader.js';
import { SHP_HEADER_BYTES } from './read-shp-header.js';
import { hasParts, isMultiPointShape, isPointShape } from './shape-types.js';

const RECORD_HEADER_BYTES = 8;
const POINT_BYTES = 16;
const POINTS_AT_ONCE = 4096;
const BIG = false;
const LITTLE = true;

/**
 * Calls `onVertex` for each point of each record and gives their number and that of records with a shape. Lengths that
 * reach past the file, or counts that reach past their record, end the record. ESRI (1998), pages 5 to 20.
 */
export function readVertices(reader: ForwardReader, onVertex: (x: number, y: number) => void): { vertices: number; records: number } {
  let vertices = 0;
  let records = 0;
  if (!reader.skip(SHP_HEADER_BYTES)) return { vertices, records };
  for (;;) {
    const head = reader.take(RECORD_HEADER_BYTES);
    if (head.byteLength < RECORD_HEADER_BYTES) break;
    let left = head.getInt32(4, BIG) * 2;
    if (left < 4) break; // no record is shorter than its shape type: the rest cannot be told apart
    const take = (length: number): DataView => {
      const view = reader.take(Math.min(length, left));
      left -= view.byteLength;
      return view;
    };
    const type = take(4);
    if (type.byteLength < 4) break;
    records++;
    let points = pointCount(type.getInt32(0, LITTLE), take, () => left);
    while (points > 0) {
      const block = take(Math.min(points, POINTS_AT_ONCE) * POINT_BYTES);
      const got = Math.floor(block.byteLength / POINT_BYTES);
      if (got === 0) break;
      for (let i = 0; i < got; i++) onVertex(block.getFloat64(i * POINT_BYTES, LITTLE), block.getFloat64(i * POINT_BYTES + 8, LITTLE));
      vertices += got;
      points -= got;
    }
    if (!reader.skip(left)) break;
  }
  return { vertices, records };
}

/** Points of the record at hand; the reader stands before the first of them afterwards. */
function pointCount(type: number, take: (length: number) => DataView, left: () => number): number {
  if (isPointShape(type)) return 1;
  if (isMultiPointShape(type)) {
    const view = take(36); // box, then the number of points
    return view.byteLength < 36 ? 0 : bounded(view.getInt32(32, LITTLE), left());
  }
  if (!hasParts(type)) return 0;
  const view = take(40); // box, number of parts, number of points
  if (view.byteLength < 40) return 0;
  const parts = view.getInt32(32, LITTLE);
  const points = view.getInt32(36, LITTLE);
  const tableBytes = parts * (type === 31 ? 8 : 4);
  if (parts < 0 || tableBytes > left()) return 0;
  for (let rest = tableBytes; rest > 0;) {
    const passed = take(Math.min(rest, 65536)).byteLength;
    if (passed === 0) return 0;
    rest -= passed;
  }
  return bounded(points, left());
}

const bounded = (points: number, leftBytes: number): number => (points < 0 ? 0 : Math.min(points, Math.floor(leftBytes / POINT_BYTES)));
