import type { ByteSource } from '../../bytes/byte-source.js';
import type { Field, FieldType, FileGroup } from '../../dataset/dataset.js';
import type { Feature, FeatureStream, Value, Wanted } from '../../feature/feature.js';
import { WKB, WkbWriter } from '../../geometry/wkb-writer.js';
import type { CoordinateColumns } from '../../dataset/coordinate-columns.js';
import { pointColumns } from './describe-xlsx.js';
import { openWorkbook, sheetRows, type Cell } from './read-workbook.js';

/** Rows of one sheet behind its first, which has the names. */
export function xlsxFeatures(
  group: FileGroup,
  table: string | null,
  open: (path: string) => ByteSource,
  fields: readonly Field[],
  wanted: Wanted,
): FeatureStream {
  return { fields, features: records() };

  function* records(): Generator<Feature> {
    const workbook = openWorkbook(open(group.path));
    const sheet = workbook?.sheets.find((s) => s.name === table);
    if (!workbook || !sheet) return;
    const writer = new WkbWriter();
    let columns: CoordinateColumns | null = null;
    let id = -1;
    for (const row of sheetRows(sheet, workbook)) {
      if (id === 0) columns = pointColumns(fields, row);
      if (id >= 0)
        yield {
          id,
          geometry: wanted.geometry && columns ? point(writer, row[columns.x], row[columns.y]) : null,
          values: wanted.values ? fields.map((f, i) => toValue(row[i], f.type)) : [],
        };
      id++;
    }
  }
}

function point(writer: WkbWriter, x: Cell | undefined, y: Cell | undefined): Uint8Array | null {
  if (x?.kind !== 'number' || y?.kind !== 'number') return null;
  writer.type(WKB.Point);
  writer.position(Number(x.text), Number(y.text));
  return writer.finish();
}

function toValue(cell: Cell | undefined, type: FieldType): Value {
  if (!cell) return null;
  if (type === 'boolean') return cell.text === '1';
  return type === 'integer' || type === 'real' ? Number(cell.text) : cell.text;
}
