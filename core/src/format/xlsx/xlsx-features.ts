import type { ByteSource } from '../../bytes/byte-source.js';
import type { Field, FieldType, FileGroup } from '../../dataset/dataset.js';
import type { Feature, FeatureStream, Value, Wanted } from '../../feature/feature.js';
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
    let id = -1;
    for (const row of sheetRows(sheet, workbook)) {
      if (id >= 0) yield { id, geometry: null, values: wanted.values ? fields.map((f, i) => toValue(row[i], f.type)) : [] };
      id++;
    }
  }
}

function toValue(cell: Cell | undefined, type: FieldType): Value {
  if (!cell) return null;
  if (type === 'boolean') return cell.text === '1';
  return type === 'integer' || type === 'real' ? Number(cell.text) : cell.text;
}
