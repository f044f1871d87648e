import type { ByteSource } from '../../bytes/byte-source.js';
import { emptyDescription, unreadable, type Description, type FieldType, type FileGroup } from '../../dataset/dataset.js';
import { openWorkbook, sheetRows, type Cell, type Sheet, type Workbook } from './read-workbook.js';

/** Sheets of a workbook, each a table: names from its first row, types from what follows. */
export function describeXlsx(group: FileGroup, open: (path: string) => ByteSource): Description[] {
  const workbook = openWorkbook(open(group.path));
  const tables = workbook?.sheets.flatMap((sheet): Description[] => {
    const table = describeSheet(sheet, workbook);
    return table ? [{ ...emptyDescription('table'), table: sheet.name, ...table }] : [];
  });
  if (tables && tables.length > 0) return tables;
  return [unreadable('table', `${group.path} cannot be read as a workbook: it is damaged, or no workbook.`)];
}

function describeSheet(sheet: Sheet, workbook: Workbook): Pick<Description, 'featureCount' | 'fields'> | null {
  const rows = sheetRows(sheet, workbook);
  let names: readonly (Cell | undefined)[] | null = null;
  const types: (FieldType | null)[] = [];
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
    count++;
    step.value.forEach((cell, i) => {
      if (cell) types[i] = widen(types[i] ?? null, typeOf(cell));
    });
  }
  const width = Math.max(names?.length ?? 0, types.length);
  const fields = Array.from({ length: width }, (_, i) => ({ name: names?.[i]?.text || `field_${i + 1}`, type: types[i] ?? 'text' }));
  return { featureCount: count, fields };
}

const typeOf = ({ kind, text }: Cell): FieldType => (kind === 'number' ? (/^-?\d{1,9}$/.test(text) ? 'integer' : 'real') : kind);

function widen(before: FieldType | null, now: FieldType): FieldType {
  if (before === null || before === now) return now;
  return (before === 'integer' && now === 'real') || (before === 'real' && now === 'integer') ? 'real' : 'text';
}
