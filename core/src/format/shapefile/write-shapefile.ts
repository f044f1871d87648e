import { viewOf } from '../../bytes/byte-source.js';

export interface ShapeFieldSpec {
  readonly name: string;
  readonly code: 'C' | 'N' | 'L' | 'D';
  readonly lengthBytes: number;
  readonly decimals?: number;
}
export interface ShapefileInput {
  readonly shapeType: 1 | 3 | 5;
  /** Point: one position. Line and polygon: parts (rings; outer rings clockwise). Null: a null shape. */
  readonly shapes: readonly (readonly (readonly (readonly [number, number])[])[] | null)[];
  readonly fields: readonly ShapeFieldSpec[];
  readonly rows: readonly (readonly (string | number | boolean | null)[])[];
  /** Stands in the table's header. */
  readonly date: { readonly year: number; readonly month: number; readonly day: number };
}

/** A two-dimensional shapefile with a UTF-8 table: `.shp`, `.shx`, `.dbf`, `.cpg`. ESRI (1998). */
export function writeShapefile(input: ShapefileInput): Record<'shp' | 'shx' | 'dbf' | 'cpg', Uint8Array> {
  const contents = input.shapes.map((s) =>
    s === null ? nullShape() : input.shapeType === 1 ? point(s[0]![0]!) : parts(input.shapeType, s),
  );
  const shpBytes = 100 + contents.reduce((sum, c) => sum + 8 + c.length, 0);
  const shp = new Uint8Array(shpBytes);
  const shx = new Uint8Array(100 + contents.length * 8);
  const box = boxOf(input.shapes);
  header(shp, input.shapeType, box);
  header(shx, input.shapeType, box);
  let at = 100;
  contents.forEach((content, i) => {
    viewOf(shx).setInt32(100 + i * 8, at / 2);
    viewOf(shx).setInt32(104 + i * 8, content.length / 2);
    viewOf(shp).setInt32(at, i + 1);
    viewOf(shp).setInt32(at + 4, content.length / 2);
    shp.set(content, at + 8);
    at += 8 + content.length;
  });
  return { shp, shx, dbf: writeDbf(input), cpg: new TextEncoder().encode('UTF-8') };
}

type Shapes = ShapefileInput['shapes'];
function boxOf(shapes: Shapes): [number, number, number, number] {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const shape of shapes) for (const part of shape ?? []) for (const [x, y] of part) grow(box, x, y);
  return Number.isFinite(box[0]) ? box : [0, 0, 0, 0];
}
function grow(box: [number, number, number, number], x: number, y: number): void {
  box[0] = Math.min(box[0], x);
  box[1] = Math.min(box[1], y);
  box[2] = Math.max(box[2], x);
  box[3] = Math.max(box[3], y);
}

function header(bytes: Uint8Array, shapeType: number, box: readonly number[]): void {
  const view = viewOf(bytes);
  view.setInt32(0, 9994);
  view.setInt32(24, bytes.length / 2);
  view.setInt32(28, 1000, true);
  view.setInt32(32, shapeType, true);
  box.forEach((v, i) => view.setFloat64(36 + i * 8, v, true));
}

const nullShape = (): Uint8Array => new Uint8Array(4);
function point([x, y]: readonly [number, number]): Uint8Array {
  const out = new Uint8Array(20);
  viewOf(out).setInt32(0, 1, true);
  viewOf(out).setFloat64(4, x, true);
  viewOf(out).setFloat64(12, y, true);
  return out;
}
function parts(shapeType: number, shape: readonly (readonly (readonly [number, number])[])[]): Uint8Array {
  const points = shape.flat();
  const out = new Uint8Array(44 + shape.length * 4 + points.length * 16);
  const view = viewOf(out);
  view.setInt32(0, shapeType, true);
  boxOf([shape]).forEach((v, i) => view.setFloat64(4 + i * 8, v, true));
  view.setInt32(36, shape.length, true);
  view.setInt32(40, points.length, true);
  let first = 0;
  shape.forEach((part, i) => {
    view.setInt32(44 + i * 4, first, true);
    first += part.length;
  });
  points.forEach(([x, y], i) => {
    view.setFloat64(44 + shape.length * 4 + i * 16, x, true);
    view.setFloat64(52 + shape.length * 4 + i * 16, y, true);
  });
  return out;
}

/** A dBASE III table, values in UTF-8. */
function writeDbf(input: Pick<ShapefileInput, 'fields' | 'rows' | 'date'>): Uint8Array {
  const headerBytes = 32 + input.fields.length * 32 + 1;
  const recordBytes = 1 + input.fields.reduce((sum, f) => sum + f.lengthBytes, 0);
  const out = new Uint8Array(headerBytes + input.rows.length * recordBytes + 1).fill(0x20, headerBytes);
  const view = viewOf(out);
  out[0] = 0x03;
  out[1] = input.date.year - 1900;
  out[2] = input.date.month;
  out[3] = input.date.day;
  view.setUint32(4, input.rows.length, true);
  view.setUint16(8, headerBytes, true);
  view.setUint16(10, recordBytes, true);
  const encoder = new TextEncoder();
  input.fields.forEach((f, i) => {
    const at = 32 + i * 32;
    out.set(encoder.encode(f.name).subarray(0, 10), at);
    out[at + 11] = f.code.charCodeAt(0);
    out[at + 16] = f.lengthBytes;
    out[at + 17] = f.decimals ?? 0;
  });
  out[headerBytes - 1] = 0x0d;
  input.rows.forEach((row, r) => {
    let at = headerBytes + r * recordBytes + 1;
    input.fields.forEach((f, i) => {
      const text = encoder.encode(cell(row[i] ?? null, f)).subarray(0, f.lengthBytes);
      out.set(text, f.code === 'N' ? at + f.lengthBytes - text.length : at);
      at += f.lengthBytes;
    });
  });
  out[out.length - 1] = 0x1a;
  return out;
}

function cell(value: string | number | boolean | null, field: ShapeFieldSpec): string {
  if (value === null) return '';
  if (typeof value === 'number') return value.toFixed(field.decimals ?? 0);
  if (typeof value === 'boolean') return value ? 'T' : 'F';
  return field.code === 'D' ? value.replaceAll('-', '') : value;
}
