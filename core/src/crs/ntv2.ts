import { ShiftGrid, type Subgrid } from './shift-grid.js';

/*
 * Grid of shifts between two datums (NTv2, "National Transformation version 2", Geodetic Survey of Canada: records of 16 bytes with a
 * name of 8 and a value; longitudes count to the west, all angles are in seconds of arc; nodes go from east to west, rows from south
 * to north).
 */
const RECORD = 16;
const HEADER_RECORDS = 11;
const MOST_SUBGRIDS = 2000;
const SECONDS = 3600;

/** A text: why it cannot be read. */
export function parseNtv2(bytes: Uint8Array): ShiftGrid | string {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const named = (at: number, name: string): boolean => at + RECORD <= bytes.length && textAt(bytes, at).trim() === name;
  if (bytes.length < HEADER_RECORDS * RECORD || !named(0, 'NUM_OREC')) return 'it is no grid of the kind NTv2';
  const little = view.getInt32(8, true) === HEADER_RECORDS;
  if (!little && view.getInt32(8, false) !== HEADER_RECORDS) return 'its header is damaged';
  if (textAt(bytes, 3 * RECORD + 8).trim() !== 'SECONDS') return 'its shifts are not in seconds of arc';
  const count = view.getInt32(2 * RECORD + 8, little);
  if (!named(2 * RECORD, 'NUM_FILE') || count < 1 || count > MOST_SUBGRIDS) return 'its header is damaged';
  const subgrids: Subgrid[] = [];
  let at = HEADER_RECORDS * RECORD;
  for (let i = 0; i < count; i++) {
    if (!named(at, 'SUB_NAME') || at + HEADER_RECORDS * RECORD > bytes.length) return 'a grid in it is cut off';
    const number = (record: number): number => view.getFloat64(at + record * RECORD + 8, little);
    const [south, north, east, west, latStep, lonStep] = [number(4), number(5), number(6), number(7), number(8), number(9)];
    const nodes = view.getInt32(at + 10 * RECORD + 8, little);
    const [columns, rows] = [Math.round((west - east) / lonStep) + 1, Math.round((north - south) / latStep) + 1];
    at += HEADER_RECORDS * RECORD;
    if (!(columns >= 2 && rows >= 2) || columns * rows !== nodes || at + nodes * RECORD > bytes.length) return 'a grid in it is cut off';
    const nodesAt = at;
    subgrids.push({
      west: -west / SECONDS,
      south: south / SECONDS,
      lonStep: lonStep / SECONDS,
      latStep: latStep / SECONDS,
      columns,
      rows,
      value: (column, row, part) => {
        const node = nodesAt + (row * columns + columns - 1 - column) * RECORD;
        return part === 'north' ? view.getFloat32(node, little) / SECONDS : -view.getFloat32(node + 4, little) / SECONDS;
      },
    });
    at += nodes * RECORD;
  }
  return new ShiftGrid(subgrids);
}

const textAt = (bytes: Uint8Array, at: number): string => String.fromCharCode(...bytes.subarray(at, at + 8));
