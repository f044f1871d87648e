import type { ByteSource } from '../../bytes/byte-source.js';
import { emptyDescription, unreadable, type Description, type Field, type FieldType, type FileGroup } from '../../dataset/dataset.js';
import { crsOfCode } from '../../crs/identify.js';
import type { CrsTable } from '../../crs/crs-table.js';
import { findCoordinates, isOnGlobe, type CoordinateColumns } from '../../dataset/coordinate-columns.js';
import { openWorkbook, sheetRows, type Cell, type Sheet, type Workbook } from './read-workbook.js';

/** Sheets of a workbook, each a table: names from its first row, types from what follows. Two columns of coordinates make points. */
export function describeXlsx(group: FileGroup, open: (path: string) => ByteSource, crs: CrsTable): Description[] {
  const workbook = openWorkbook(open(group.path));
  const tables = workbook?.sheets.flatMap((sheet): Description[] => {
    const table = describeSheet(sheet, workbook, crs);
    return table ? [{ ...emptyDescription('table'), table: sheet.name, ...table }] : [];
  });
  if (tables && tables.length > 0) return tables;
  return [unreadable('table', `${group.path} cannot be read as a workbook: it is damaged, or no workbook.`)];
}

function describeSheet(sheet: Sheet, workbook: Workbook, crs: CrsTable): Partial<Description> | null {
  const rows = sheetRows(sheet, workbook);
  let names: readonly (Cell | undefined)[] | null = null;
  const types: (FieldType | null)[] = [];
  const ranges: [number, number][] = [];
  let first: readonly (Cell | undefined)[] = [];
  let count = 0;
  for (;;) {
    const step = rows.next();
    if (step.done) {
      if (!step.value) return null;
      break;
    }
    if (names === null) {
      names = step.value;
      continue;
    }
    if (count++ === 0) first = step.value;
    step.value.forEach((cell, i) => {
      if (!cell) return;
      types[i] = widen(types[i] ?? null, typeOf(cell));
      if (cell.kind !== 'number') return;
      const [n, [least, most]] = [Number(cell.text), ranges[i] ?? [Infinity, -Infinity]];
      ranges[i] = [Math.min(least, n), Math.max(most, n)];
    });
  }
  const width = Math.max(names?.length ?? 0, types.length);
  const fields = Array.from({ length: width }, (_, i) => ({ name: names?.[i]?.text || `field_${i + 1}`, type: types[i] ?? 'text' }));
  const table = { featureCount: count, fields };
  const columns = pointColumns(fields, first);
  const [xs, ys] = [ranges[columns?.x ?? -1], ranges[columns?.y ?? -1]];
  if (!columns || !xs || !ys) return table;
  const bbox = [xs[0], ys[0], xs[1], ys[1]] as const;
  const isWgs84 = columns.isGeographic && isOnGlobe(bbox);
  return { ...table, kind: 'vector', geometryType: 'Point', bbox, crs: isWgs84 ? crsOfCode('EPSG:4326', crs) : null };
}

/** Columns of a sheet whose names and values say that they hold coordinates; null: there are none. */
export function pointColumns(fields: readonly Field[], first: readonly (Cell | undefined)[]): CoordinateColumns | null {
  const found = findCoordinates(
    fields,
    fields.map((_, i) => first[i]?.text ?? ''),
  );
  return found?.kind === 'xy' ? found : null;
}

const typeOf = ({ kind, text }: Cell): FieldType => (kind === 'number' ? (/^-?\d{1,9}$/.test(text) ? 'integer' : 'real') : kind);

function widen(before: FieldType | null, now: FieldType): FieldType {
  if (before === null || before === now) return now;
  return (before === 'integer' && now === 'real') || (before === 'real' && now === 'integer') ? 'real' : 'text';
}
