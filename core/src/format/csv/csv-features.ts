import type { ByteSource } from '../../bytes/byte-source.js';
import type { Field, FieldType, FileGroup } from '../../dataset/dataset.js';
import type { Feature, FeatureStream, Value, Wanted } from '../../feature/feature.js';
import { WKB, WkbWriter } from '../../geometry/wkb-writer.js';
import { wktToWkb } from '../../geometry/wkt-to-wkb.js';
import { csvRows, layoutOf } from './csv-rows.js';
import type { ShapeColumns } from './coordinate-columns.js';
import { shapeColumns } from './describe-csv.js';

/** Rows of a CSV or TSV; where two columns hold coordinates, each is a point. `fields` are those that describing it found. */
export function csvFeatures(group: FileGroup, open: (path: string) => ByteSource, fields: readonly Field[], wanted: Wanted): FeatureStream {
  return { fields, features: records() };

  function* records(): Generator<Feature> {
    const source = open(group.path);
    const writer = new WkbWriter();
    let columns: ShapeColumns | null = null;
    let id = -1;
    for (const row of csvRows(source, layoutOf(source), group.path)) {
      if (id++ < 0) continue; // the names
      if (id === 1) columns = shapeColumns(group, open, fields, row);
      yield {
        id: id - 1,
        geometry: wanted.geometry && columns ? shape(writer, row, columns) : null,
        values: wanted.values ? fields.map((f, i) => toValue(row[i] ?? '', f.type)) : [],
      };
    }
  }
}

const shape = (writer: WkbWriter, row: readonly string[], columns: ShapeColumns): Uint8Array | null =>
  columns.kind === 'xy' ? point(writer, row[columns.x], row[columns.y]) : wktToWkb(row[columns.column] ?? '');

function point(writer: WkbWriter, xText: string | undefined, yText: string | undefined): Uint8Array | null {
  const [x, y] = [Number(xText?.trim() || NaN), Number(yText?.trim() || NaN)];
  if (Number.isNaN(x) || Number.isNaN(y)) return null;
  writer.type(WKB.Point);
  writer.position(x, y);
  return writer.finish();
}

function toValue(text: string, type: FieldType): Value {
  const trimmed = text.trim();
  if (type === 'text') return text === '' ? null : text;
  if (trimmed === '') return null;
  const n = Number(trimmed);
  return type === 'integer64' && !Number.isSafeInteger(n) ? BigInt(trimmed) : n;
}
