import type { ByteSource } from '../../bytes/byte-source.js';
import type { Field, FieldType, FileGroup } from '../../dataset/dataset.js';
import type { Feature, FeatureStream, Value, Wanted } from '../../feature/feature.js';
import { WKB, WkbWriter } from '../../geometry/wkb-writer.js';
import { wktToWkb } from '../../geometry/wkt-to-wkb.js';
import { csvRows, layoutOf } from './csv-rows.js';
import type { ShapeColumns } from '../../dataset/coordinate-columns.js';
import { positionOf } from './position-of.js';
import { isoDate, numberOfComma } from './written-as.js';
import { isNames, shapeColumns } from './describe-csv.js';
import { statedLayout } from './csvw.js';

/** Rows of a CSV or TSV; where two columns hold coordinates, each is a point. `fields` are those that describing it found. */
export function csvFeatures(group: FileGroup, open: (path: string) => ByteSource, fields: readonly Field[], wanted: Wanted): FeatureStream {
  return { fields, features: records() };

  function* records(): Generator<Feature> {
    const source = open(group.path);
    const writer = new WkbWriter();
    const reads = fields.map(valueReader);
    let columns: ShapeColumns | null = null;
    let id = 0;
    let isFirst = true;
    const layout = layoutOf(source, statedLayout(group, open));
    for (const row of csvRows(source, layout, group.path)) {
      if (isFirst) {
        isFirst = false;
        if (isNames(row, layout, fields)) continue;
      }
      if (id === 0) columns = shapeColumns(group, open, fields, row);
      yield {
        id: id++,
        geometry: wanted.geometry && columns ? shape(writer, row, columns, fields) : null,
        values: wanted.values ? reads.map((read, i) => read(row[i] ?? '')) : [],
      };
    }
  }
}

const shape = (writer: WkbWriter, row: readonly string[], columns: ShapeColumns, fields: readonly Field[]): Uint8Array | null =>
  columns.kind === 'xy' ? point(writer, positionOf(row, columns, fields)) : wktToWkb(row[columns.column] ?? '');

function point(writer: WkbWriter, [x, y]: readonly [number, number]): Uint8Array | null {
  if (Number.isNaN(x) || Number.isNaN(y)) return null;
  writer.type(WKB.Point);
  writer.position(x, y);
  return writer.finish();
}

function valueReader({ type, writtenAs }: Field): (text: string) => Value {
  if (type === 'text') return (text) => (text === '' ? null : text);
  const read = typedReader(type, writtenAs);
  return (text) => {
    const trimmed = text.trim();
    return trimmed === '' ? null : read(trimmed);
  };
}

function typedReader(type: FieldType, writtenAs: Field['writtenAs']): (text: string) => Value {
  if (type === 'date') return writtenAs ? (text) => isoDate(text, writtenAs === 'month-first') : (text) => text;
  if (writtenAs === 'comma') return numberOfComma;
  return (text) => {
    const n = Number(text);
    return type === 'integer64' && !Number.isSafeInteger(n) ? BigInt(text) : n;
  };
}
