import type { Field, FieldType } from '../../dataset/dataset.js';
import { EMPTY_TEXT_LOST, lossOf, noNumbersLost, type Loss } from '../../dataset/loss.js';
import type { Value } from '../../feature/feature.js';

/** Limits of dBASE III and of common practice: ten letters of a name, 254 bytes of text, 255 fields. */
const NAME_BYTES = 10;
const TEXT_BYTES = 254;
const MOST_FIELDS = 255;
/** The longest shortest text of a double: `-1.2345678901234567e-100`. */
const REAL_BYTES = 24;

/** A field as a dBASE table has it. */
export interface DbfColumn {
  readonly name: string;
  readonly code: 'C' | 'N' | 'L' | 'D';
  readonly lengthBytes: number;
  readonly decimals: number;
  /** Which of the dataset's fields it holds. */
  readonly from: number;
  readonly type: FieldType;
}
export interface DbfLayout {
  readonly columns: readonly DbfColumn[];
  /** What the format cannot hold. */
  readonly losses: readonly Loss[];
  readonly recordBytes: number;
}

/** Looks at every value before the table is made, since its columns have fixed widths. */
export class DbfSurvey {
  private readonly widest: number[];
  private readonly cut: number[];
  private readonly wrong: number[];
  private noNumbers = 0;

  constructor(private readonly fields: readonly Field[]) {
    this.widest = fields.map(() => 1);
    this.cut = fields.map(() => 0);
    this.wrong = fields.map(() => 0);
  }

  add(values: readonly Value[]): void {
    for (let i = 0; i < this.fields.length; i++) {
      const value = values[i] ?? null;
      if (value === null) continue;
      if (typeof value === 'number' && !Number.isFinite(value)) this.noNumbers++;
      const { type } = this.fields[i]!;
      if (type === 'date') {
        if (!IS_DATE.test(String(value))) this.wrong[i]!++;
      } else if (type === 'boolean' || type === 'binary') continue;
      else {
        const bytes = utf8Bytes(textOf(value));
        if (bytes > TEXT_BYTES) this.cut[i]!++;
        if (bytes > this.widest[i]!) this.widest[i] = bytes;
      }
    }
  }

  layout(): DbfLayout {
    const used = new Set<string>();
    const losses: Loss[] = [];
    const tell = (code: Loss['code'], field: string, what: string): void => void losses.push({ code, what, count: null, field });
    const columns: DbfColumn[] = [];
    this.fields.forEach((field, i) => {
      if (field.type === 'binary') {
        tell('field', field.name, 'it holds bytes, and is left out');
        return;
      }
      if (columns.length === MOST_FIELDS) {
        tell('field', field.name, `it is left out, since a shapefile has ${MOST_FIELDS} fields at most`);
        return;
      }
      const name = freeName(field.name, used);
      if (name !== field.name) tell('name', field.name, `it is called ${name}`);
      losses.push(...lossOf('cut', this.cut[i]!, `text is cut to ${TEXT_BYTES} bytes`, `texts are cut to ${TEXT_BYTES} bytes`, field.name));
      if (field.type === 'datetime') tell('type', field.name, 'times become text');
      if (field.type === 'json') tell('type', field.name, 'lists and objects become text');
      losses.push(
        ...lossOf('no-date', this.wrong[i]!, 'value that is no date is left out', 'values that are no dates are left out', field.name),
      );
      columns.push({ name, from: i, type: field.type, ...this.shape(field.type, this.widest[i]!) });
    });
    losses.push(...noNumbersLost(this.noNumbers));
    if (columns.some((c) => c.code === 'C')) losses.push(EMPTY_TEXT_LOST);
    return { columns, losses, recordBytes: 1 + columns.reduce((sum, c) => sum + c.lengthBytes, 0) };
  }

  private shape(type: FieldType, widest: number): Pick<DbfColumn, 'code' | 'lengthBytes' | 'decimals'> {
    switch (type) {
      case 'boolean':
        return { code: 'L', lengthBytes: 1, decimals: 0 };
      case 'date':
        return { code: 'D', lengthBytes: 8, decimals: 0 };
      case 'integer':
      case 'integer64':
        return { code: 'N', lengthBytes: Math.max(type === 'integer' ? 9 : 18, widest), decimals: 0 };
      case 'real':
        return { code: 'N', lengthBytes: REAL_BYTES, decimals: 15 };
      default:
        return { code: 'C', lengthBytes: Math.min(TEXT_BYTES, widest), decimals: 0 };
    }
  }
}

const IS_DATE = /^\d{4}-\d\d-\d\d$/;
const encoder = new TextEncoder();

/** One record: a space, then each value in its width (dBASE III: numbers to the right, text to the left). `out` is of `recordBytes`. */
export function writeDbfRecord(columns: readonly DbfColumn[], values: readonly Value[], out: Uint8Array): void {
  out.fill(0x20);
  let at = 1;
  for (const c of columns) {
    const value = values[c.from] ?? null;
    if (value !== null) {
      const text = cellOf(value, c);
      const bytes = fitted(encoder.encode(text), c.lengthBytes);
      out.set(bytes, c.code === 'N' ? at + c.lengthBytes - bytes.length : at);
    } else if (c.code === 'L') out[at] = 0x3f; // ? is unknown
    at += c.lengthBytes;
  }
}

/** No letter is cut in two: bytes that begin with 10 go on with the letter before (RFC 3629). */
function fitted(bytes: Uint8Array, room: number): Uint8Array {
  let end = Math.min(bytes.length, room);
  if (end < bytes.length) while (end > 0 && (bytes[end]! & 0xc0) === 0x80) end--;
  return bytes.subarray(0, end);
}

function cellOf(value: NonNullable<Value>, { code }: DbfColumn): string {
  if (code === 'L') return value === true || value === 1 ? 'T' : 'F';
  const text = textOf(value);
  if (code === 'D') return IS_DATE.test(text) ? text.replaceAll('-', '') : '';
  return text;
}

const textOf = (value: NonNullable<Value>): string =>
  value instanceof Uint8Array || (typeof value === 'number' && !Number.isFinite(value)) ? '' : String(value);

function utf8Bytes(text: string): number {
  let bytes = text.length;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code < 0x80) continue;
    bytes += code < 0x800 ? 1 : code >= 0xd800 && code < 0xdc00 ? 1 : 2;
    if (code >= 0xd800 && code < 0xdc00) i++; // the second half adds one of its own
  }
  return bytes;
}

/** Ten bytes of ASCII, free among the others (case does not count). */
function freeName(name: string, used: Set<string>): string {
  const plain = name.normalize('NFD').replace(/[^A-Za-z0-9_]+/g, (run) => (/^\p{M}+$/u.test(run) ? '' : '_')) || 'field';
  let short = plain.slice(0, NAME_BYTES);
  for (let n = 1; used.has(short.toLowerCase()); n++) short = `${plain.slice(0, NAME_BYTES - 1 - String(n).length)}_${n}`;
  used.add(short.toLowerCase());
  return short;
}

/** The header of a dBASE III table (level 3, no memo). */
export function dbfHeader(columns: readonly DbfColumn[], records: number, date: Date): Uint8Array {
  const bytes = 32 + columns.length * 32 + 1;
  const out = new Uint8Array(bytes);
  const view = new DataView(out.buffer);
  out[0] = 0x03;
  out[1] = date.getUTCFullYear() - 1900;
  out[2] = date.getUTCMonth() + 1;
  out[3] = date.getUTCDate();
  view.setUint32(4, records, true);
  view.setUint16(8, bytes, true);
  view.setUint16(10, 1 + columns.reduce((sum, c) => sum + c.lengthBytes, 0), true);
  columns.forEach((c, i) => {
    const at = 32 + i * 32;
    out.set(encoder.encode(c.name), at);
    out[at + 11] = c.code.charCodeAt(0);
    out[at + 16] = c.lengthBytes;
    out[at + 17] = c.decimals;
  });
  out[bytes - 1] = 0x0d;
  return out;
}
