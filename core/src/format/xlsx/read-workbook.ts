import { memorySource, type ByteSource } from '../../bytes/byte-source.js';
import { unpackMembers } from '../../unpack/unpack-members.js';
import { readXml, xmlPieces } from '../../xml/read-xml.js';

export interface Sheet {
  readonly name: string;
  readonly xml: Uint8Array;
}
export interface Workbook {
  readonly sheets: readonly Sheet[];
  readonly shared: readonly string[];
  /** What the numbers of each cell style mean. */
  readonly styles: readonly ('number' | 'date' | 'datetime')[];
  /** Days count from 1904. */
  readonly is1904: boolean;
}

export interface Cell {
  readonly kind: 'text' | 'number' | 'boolean' | 'date' | 'datetime';
  readonly text: string;
}

const LONGEST_TEXT = 1 << 15; // what one cell may hold: 32,767 characters (ECMA-376)
const MOST_COLUMNS = 2000;

/** The sheets of a workbook (ECMA-376, part 1, SpreadsheetML); null: it is damaged, or none. */
export function openWorkbook(source: ByteSource): Workbook | null {
  const members = unpackMembers(source, (name) =>
    /^xl\/(workbook\.xml|styles\.xml|sharedStrings\.xml|_rels\/workbook\.xml\.rels|worksheets\/[^/]+\.xml)$/.test(name),
  );
  const workbook = members?.get('xl/workbook.xml');
  const relations = members?.get('xl/_rels/workbook.xml.rels');
  if (!members || !workbook || !relations) return null;
  const targets = new Map<string, string>();
  const found: { name: string; id: string }[] = [];
  let is1904 = false;
  const isRead =
    eachTag(relations, (name, a) => {
      if (name === 'Relationship' && a['Id'] && a['Target']) targets.set(a['Id'], a['Target'].replace(/^\/?(xl\/)?/, ''));
    }) &&
    eachTag(workbook, (name, a) => {
      if (name === 'workbookPr') is1904 = /^(1|true)$/.test(a['date1904'] ?? '');
      if (name === 'sheet' && a['name'] && a['id']) found.push({ name: a['name'], id: a['id'] });
    });
  if (!isRead) return null;
  const strings = members.get('xl/sharedStrings.xml');
  const sheets = found.flatMap(({ name, id }): Sheet[] => {
    const xml = members.get(`xl/${targets.get(id) ?? ''}`);
    return xml ? [{ name, xml }] : [];
  });
  const styles = members.get('xl/styles.xml');
  return { sheets, shared: strings ? sharedStrings(strings) : [], styles: styles ? readStyles(styles) : [], is1904 };
}

/** Number formats that show a date, of those that need not be written out (ECMA-376 part 1, 18.8.30). */
const DATES = new Set([14, 15, 16, 17]);
const TIMES = new Set([18, 19, 20, 21, 22, 45, 46, 47]);

function readStyles(bytes: Uint8Array): ('number' | 'date' | 'datetime')[] {
  const own = new Map<number, string>();
  const styles: ('number' | 'date' | 'datetime')[] = [];
  let isCellStyle = false;
  readXml(memorySource(bytes), {
    open: (name, a) => {
      if (name === 'numFmt') own.set(Number(a['numFmtId']), a['formatCode'] ?? '');
      if (name === 'cellXfs') isCellStyle = true;
      if (name === 'xf' && isCellStyle) {
        const id = Number(a['numFmtId'] ?? 0);
        const code = (own.get(id) ?? '').replace(/"[^"]*"|\\.|\[[^\]]*\]/g, ''); // without literal text, colours and conditions
        const hasTime = TIMES.has(id) || /[hs]/i.test(code);
        styles.push(hasTime ? 'datetime' : DATES.has(id) || /[yd]/i.test(code) ? 'date' : 'number');
      }
    },
    text: () => undefined,
    close: (name) => {
      if (name === 'cellXfs') isCellStyle = false;
    },
  });
  return styles;
}

/** Days since the start of the workbook's calendar as a date, or a date and time (ECMA-376 part 1, 18.17.4.1). */
function dateOf(days: number, is1904: boolean, withTime: boolean): string {
  // 1900 is taken for a leap year there, so that from its March on days count from 1899-12-30.
  const start = is1904 ? Date.UTC(1904, 0, 1) : Date.UTC(1899, 11, days < 60 ? 31 : 30);
  const time = new Date(start + Math.round(days * 86_400_000));
  if (Number.isNaN(time.getTime())) return '';
  return withTime ? time.toISOString().replace('.000Z', '') : time.toISOString().slice(0, 10);
}

const eachTag = (bytes: Uint8Array, open: (name: string, attributes: Readonly<Record<string, string>>) => void): boolean =>
  readXml(memorySource(bytes), { open, text: () => undefined, close: () => undefined }) === null;

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
      if (isText && text.length < LONGEST_TEXT) text += more;
    },
    close: (name) => {
      if (name === 't') isText = false;
      if (name === 'si') strings.push(text);
    },
  });
  return strings;
}

/** Rows that hold anything, cells by column; ends with false where the sheet is damaged. */
export function* sheetRows(sheet: Sheet, workbook: Workbook): Generator<readonly (Cell | undefined)[], boolean> {
  const reader = new RowReader(workbook);
  const steps = xmlPieces(memorySource(sheet.xml), reader);
  for (;;) {
    const step = steps.next();
    yield* reader.taken();
    if (step.done) return step.value === null;
  }
}

class RowReader {
  private row: (Cell | undefined)[] = [];
  private done: (Cell | undefined)[][] = [];
  private column = -1;
  private type = 'n';
  private style = 0;
  private value = '';
  private isValue = false;

  constructor(private readonly workbook: Workbook) {}

  taken(): (Cell | undefined)[][] {
    const taken = this.done;
    this.done = [];
    return taken;
  }

  open(name: string, a: Readonly<Record<string, string>>): void {
    if (name === 'row') {
      this.row = [];
      this.column = -1;
    } else if (name === 'c') {
      this.column = a['r'] ? columnOf(a['r']) : this.column + 1;
      this.type = a['t'] ?? 'n';
      this.style = Number(a['s'] ?? 0);
      this.value = '';
    } else if (name === 'v' || name === 't') this.isValue = true;
  }
  text(text: string): void {
    if (this.isValue && this.value.length < LONGEST_TEXT) this.value += text;
  }
  close(name: string): void {
    if (name === 'v' || name === 't') this.isValue = false;
    else if (name === 'c' && this.value !== '' && this.column < MOST_COLUMNS) this.row[this.column] = this.cell();
    else if (name === 'row' && this.row.length > 0) this.done.push(this.row);
  }

  private cell(): Cell {
    if (this.type === 's') return { kind: 'text', text: this.workbook.shared[Number(this.value)] ?? '' };
    if (this.type === 'b') return { kind: 'boolean', text: this.value };
    if (this.type === 'd') return { kind: 'datetime', text: this.value };
    if (this.type !== 'n') return { kind: 'text', text: this.value };
    const kind = this.workbook.styles[this.style] ?? 'number';
    const { is1904 } = this.workbook;
    return { kind, text: kind === 'number' ? this.value : dateOf(Number(this.value), is1904, kind === 'datetime') };
  }
}

/** `BC12` is the 55th column, told as 54. */
function columnOf(reference: string): number {
  let n = 0;
  for (const letter of /^[A-Z]{1,3}/.exec(reference)?.[0] ?? '') n = n * 26 + letter.charCodeAt(0) - 64;
  return n - 1;
}
