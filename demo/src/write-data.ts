import { mkdirSync, utimesSync, writeFileSync } from 'node:fs';
import { dirname } from '@rootmap/engine';
import { writeShapefile, type ShapeFieldSpec } from '@rootmap/core';
import type { Features } from './shapes.js';

/** Every file of the demo has a time of its own scenario, so that it is the same on every machine. */
export function put(path: string, bytes: Uint8Array | string, when: string): void {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, bytes);
  touch(path, when);
}
export function touch(path: string, when: string): void {
  const time = new Date(when);
  utimesSync(path, time, time);
}

const TYPE = { point: 1, line: 3, area: 5 } as const;

function spec(type: Features['fields'][number]['type'], name: string): ShapeFieldSpec {
  if (type === 'integer') return { name, code: 'N', lengthBytes: 9 };
  if (type === 'real') return { name, code: 'N', lengthBytes: 14, decimals: 3 };
  return { name, code: 'C', lengthBytes: 40 };
}

/** `path` without an ending. @param inLatin1 its texts have one byte a letter, as tools of twenty years ago wrote them */
export function putShapefile(path: string, f: Features, prj: string | null, when: string, inLatin1 = false): void {
  const day = new Date(when);
  const parts = writeShapefile({
    shapeType: TYPE[f.kind],
    shapes: f.shapes,
    fields: f.fields.map((field) => spec(field.type, field.name)),
    rows: f.rows,
    date: { year: day.getUTCFullYear(), month: day.getUTCMonth() + 1, day: day.getUTCDate() },
  });
  for (const [ending, bytes] of Object.entries(parts)) put(`${path}.${ending}`, inLatin1 ? latin1(ending, bytes) : bytes, when);
  if (prj !== null) put(`${path}.prj`, prj, when);
}

/** The same table with one byte a letter: letters that have two in UTF-8 get shorter, and blanks make up for them at the end of their field. */
function latin1(ending: string, bytes: Uint8Array): Uint8Array | string {
  if (ending === 'cpg') return 'ISO-8859-1';
  if (ending !== 'dbf') return bytes;
  const out = Buffer.from(bytes);
  const [head, row] = [out.readUInt16LE(8), out.readUInt16LE(10)];
  const widths = Array.from({ length: (head - 33) / 32 }, (_, k) => out[32 + k * 32 + 16]!);
  for (let at = head; at + row <= out.length; at += row) {
    let field = at + 1;
    for (const width of widths) {
      out.write(out.toString('utf8', field, field + width).padEnd(width), field, width, 'latin1');
      field += width;
    }
  }
  return out;
}

const GEOJSON = { point: 'Point', line: 'LineString', area: 'Polygon' } as const;

/** RFC 7946: outer rings run counter-clockwise, so the shapefile's order is turned round. */
function coordinates(kind: Features['kind'], shape: Features['shapes'][number]): unknown {
  if (kind === 'point') return shape[0]![0];
  return kind === 'line' ? shape[0] : shape.map((ring) => [...ring].reverse());
}

export function putGeoJson(path: string, f: Features, when: string): void {
  const features = f.shapes.map((shape, i) => ({
    type: 'Feature',
    properties: Object.fromEntries(f.fields.map((field, n) => [field.name, f.rows[i]![n]])),
    geometry: { type: GEOJSON[f.kind], coordinates: coordinates(f.kind, shape) },
  }));
  put(path, `${JSON.stringify({ type: 'FeatureCollection', features })}\n`, when);
}

export function putCsv(path: string, f: Features, when: string): void {
  const head = [...f.fields.map((field) => field.name), 'x', 'y'].join(',');
  const rows = f.rows.map((row, i) =>
    [
      ...row.map((v) => (typeof v === 'string' && /[",]/.test(v) ? `"${v.replaceAll('"', '""')}"` : String(v ?? ''))),
      ...f.shapes[i]![0]![0]!,
    ].join(','),
  );
  put(path, `${[head, ...rows].join('\n')}\n`, when);
}
