import type { Extent } from '../../dataset/dataset.js';
import { done, fail, type Result } from '../../problem.js';
import { SHAPE_TYPES } from './shape-types.js';

/** `.shp` and `.shx` share it. ESRI Shapefile Technical Description (1998), table 1. */
export const SHP_HEADER_BYTES = 100;
const FILE_CODE = 9994;
const BIG = false; // both byte orders occur in one header, so every read names its own
const LITTLE = true;

export interface ShpHeader {
  /** What the header says of the file's length; files exist that are longer. */
  readonly statedBytes: number;
  readonly shapeType: number;
  /** Units of the `.prj`; null when the file has no record or the box is no box. */
  readonly bbox: Extent | null;
}

/** `view` starts at byte 0 of the file and may be longer than the header. Never throws. */
export function readShpHeader(file: string, view: DataView): Result<ShpHeader> {
  if (view.byteLength < SHP_HEADER_BYTES)
    return fail({ code: 'truncated', file, neededBytes: SHP_HEADER_BYTES, gotBytes: view.byteLength });
  const code = view.getInt32(0, BIG);
  if (code !== FILE_CODE)
    return fail({ code: 'bad-field', file, field: 'the file code', offset: 0, expected: `${FILE_CODE}`, found: code });
  const shapeType = view.getInt32(32, LITTLE);
  if (!SHAPE_TYPES[shapeType])
    return fail({
      code: 'bad-field',
      file,
      field: 'the shape type',
      offset: 32,
      expected: 'one of the fourteen shape types',
      found: shapeType,
    });
  const words = view.getInt32(24, BIG); // counts 16-bit words
  const box = [36, 44, 52, 60].map((offset) => view.getFloat64(offset, LITTLE)) as unknown as Extent;
  const usable = words > 50 && box.every(Number.isFinite) && box[0] <= box[2] && box[1] <= box[3];
  // Without records the box is unspecified; zeros would be a real but wrong place.
  return done({ statedBytes: words * 2, shapeType, bbox: usable ? box : null });
}
