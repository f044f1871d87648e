import { memorySource, type ByteSource } from '../../bytes/byte-source.js';
import { emptyDescription, unreadable, type Description, type FieldType, type FileGroup } from '../../dataset/dataset.js';
import { unpackMembers } from '../../unpack/unpack-members.js';
import { readXml } from '../../xml/read-xml.js';

const MOST_FIELDS = 2000;

/** Sheets of a workbook, each a table: names from its first row, types from what follows (ECMA-376, part 1, SpreadsheetML). */
export function describeXlsx(group: FileGroup, open: (path: string) => ByteSource): Description[] {
  const bad = (): Description[] => [unreadable('table', `${group.path} cannot be read as a workbook: it is damaged, or no workbook.`)];
  const members = unpackMembers(open(group.path), (name) =>
    /^xl\/(workbook\.xml|sharedStrings\.xml|_rels\/workbook\.xml\.rels|worksheets\/[^/]+\.xml)$/.test(name),
  );
  const workbook = members?.get('xl/workbook.xml');
  const relations = members?.get('xl/_rels/workbook.xml.rels');
  if (!members || !workbook || !relations) return bad();
  const targets = new Map<string, string>();
  const sheets: { name: string; id: string }[] = [];
  const isRead =
    each(relations, (name, a) => {
      if (name === 'Relationship' && a['Id'] && a['Target']) targets.set(a['Id'], a['Target'].replace(/^\/?(xl\/)?/, ''));
    }) &&
    each(workbook, (name, a) => {
      if (name === 'sheet' && a['name'] && a['id']) sheets.push({ name: a['name'], id: a['id'] });
    });
  if (!isRead) return bad();
  const strings = members.get('xl/sharedStrings.xml');
  const shared = strings ? sharedStrings(strings) : [];
  const tables = sheets.flatMap(({ name, id }): Description[] => {
    const sheet = members.get(`xl/${targets.get(id) ?? ''}`);
    const table = sheet ? readSheet(sheet, shared) : null;
    return table ? [{ ...emptyDescription('table'), table: name, ...table }] : [];
  });
  return tables.length > 0 ? tables : bad();
}

const each = (bytes: Uint8Array, open: (name: string, attributes: Readonly<Record<string, string>>) => void): boolean =>
  readXml(memorySource(bytes), { open, text: () => undefined, close: () => undefined }) === null;

/** Only the first row needs them, but they stand in no order of rows: all are read, short ones kept. */
function sharedStrings(bytes: Uint8Array): string[] {
  const strings: string[] = [];
  let text = '';
  let isText = false;
  readXml(memorySource(bytes), {
    open: (name) => {
      if (name === 'si') text = '';
      isText = name === 't';
    },
    text: (more) => {
      if (isText && text.length < 256) text += more;
    },
    close: (name) => {
      if (name === 't') isText = false;
      if (name === 'si') strings.push(text);
    },
  });
  return strings;
}

function readSheet(bytes: Uint8Array, shared: readonly string[]): Pick<Description, 'featureCount' | 'fields'> | null {
  const names: string[] = [];
  const types: (FieldType | null)[] = [];
  let rows = 0;
  let hasCell = false;
  let column = -1;
  let kind = 'n';
  let value = '';
  let isValue = false;
  const fault = readXml(memorySource(bytes), {
    open: (name, a) => {
      if (name === 'row') {
        hasCell = false;
        column = -1;
      } else if (name === 'c') {
        column = a['r'] ? columnOf(a['r']) : column + 1;
        kind = a['t'] ?? 'n';
        value = '';
      } else if (name === 'v' || name === 't') isValue = true;
    },
    text: (text) => {
      if (isValue && value.length < 256) value += text;
    },
    close: (name) => {
      if (name === 'v' || name === 't') isValue = false;
      else if (name === 'c' && value !== '' && column < MOST_FIELDS) {
        hasCell = true;
        if (rows === 0) names[column] = kind === 's' ? (shared[Number(value)] ?? '') : value;
        else types[column] = widen(types[column] ?? null, typeOf(kind, value));
      } else if (name === 'row' && hasCell) rows++;
    },
  });
  if (fault !== null) return null;
  const width = Math.max(names.length, types.length);
  return {
    featureCount: Math.max(0, rows - 1),
    fields: Array.from({ length: width }, (_, i) => ({ name: names[i] || `field_${i + 1}`, type: types[i] ?? 'text' })),
  };
}

/** `BC12` is the 55th column, told as 54. */
function columnOf(reference: string): number {
  let n = 0;
  for (const letter of /^[A-Z]{1,3}/.exec(reference)?.[0] ?? '') n = n * 26 + letter.charCodeAt(0) - 64;
  return n - 1;
}

const typeOf = (kind: string, value: string): FieldType =>
  kind === 'b' ? 'boolean' : kind === 'n' ? (/^-?\d{1,9}$/.test(value) ? 'integer' : 'real') : kind === 'd' ? 'datetime' : 'text';

function widen(before: FieldType | null, now: FieldType): FieldType {
  if (before === null || before === now) return now;
  return (before === 'integer' && now === 'real') || (before === 'real' && now === 'integer') ? 'real' : 'text';
}
