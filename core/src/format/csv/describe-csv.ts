import { pieces, type ByteSource } from '../../bytes/byte-source.js';
import { emptyDescription, type Description, type FileGroup, type FieldType, type Finding } from '../../dataset/dataset.js';

const DELIMITERS = [',', ';', '\t', '|'] as const;
const MOST_FIELDS = 2000;

/**
 * Field names, types and record count of a CSV or TSV (RFC 4180; the delimiter is told from the first line). One streaming
 * read in bounded memory.
 */
export function describeCsv(group: FileGroup, open: (path: string) => ByteSource): Description {
  const rows = new CsvRows();
  const decoder = new TextDecoder('utf-8');
  for (const piece of pieces(open(group.path), 1 << 18)) rows.write(decoder.decode(piece, { stream: true }));
  rows.end();
  const findings: Finding[] = [];
  if (rows.uneven > 0)
    findings.push({
      code: 'uneven-rows',
      message: `${group.path}: ${rows.uneven} of ${rows.count} rows have more or fewer values than there are field names.`,
    });
  return {
    ...emptyDescription('table'),
    featureCount: rows.count,
    fields: rows.names.map((name, i) => ({ name, type: rows.types[i] ?? 'text' })),
    findings,
  };
}

/** Splits pieces of text into rows; keeps only counts and the widest type of each column. */
class CsvRows {
  names: string[] = [];
  types: (FieldType | null)[] = [];
  count = 0;
  uneven = 0;
  private delimiter = '';
  private rest = '';
  private row: string[] = [];
  private cell = '';
  private quoted = false;
  private any = false;

  write(text: string): void {
    if (!this.delimiter) {
      this.rest += text;
      if (!/[\r\n]/.test(this.rest) && this.rest.length < 1 << 16) return;
      text = this.start();
    }
    for (let i = 0; i < text.length; i++) this.character(text[i]!);
  }

  private start(): string {
    const text = this.rest.replace(/^\uFEFF/, '');
    const line = /^[^\r\n]*/.exec(text)![0];
    this.delimiter = DELIMITERS.reduce((best, d) => (line.split(d).length > line.split(best).length ? d : best));
    this.rest = '';
    return text;
  }

  private character(ch: string): void {
    if (ch === '"') {
      this.quoted = !this.quoted; // a doubled quote closes and opens again, which keeps the state right
      this.any = true;
    } else if (this.quoted) this.add(ch);
    else if (ch === this.delimiter) this.endCell();
    else if (ch === '\n' || ch === '\r') this.endRow();
    else this.add(ch);
  }
  private add(ch: string): void {
    this.any = true;
    if (this.cell.length < 4096) this.cell += ch;
  }
  private endCell(): void {
    if (this.row.length < MOST_FIELDS) this.row.push(this.cell);
    this.cell = '';
    this.any = true;
  }
  private endRow(): void {
    if (!this.any) return; // the second half of a CR LF, or an empty line
    this.endCell();
    const row = this.row;
    this.row = [];
    this.any = false;
    if (this.names.length === 0) {
      this.names = row.map((name, i) => name.trim() || `field_${i + 1}`);
      return;
    }
    this.count++;
    if (row.length !== this.names.length) this.uneven++;
    row.forEach((value, i) => {
      if (i < this.names.length) this.types[i] = widen(this.types[i] ?? null, value.trim());
    });
  }

  end(): void {
    if (!this.delimiter && this.rest) for (const ch of this.start()) this.character(ch);
    this.endRow();
  }
}

function widen(type: FieldType | null, value: string): FieldType | null {
  if (value === '' || type === 'text') return type;
  const own: FieldType = /^[-+]?\d{1,9}$/.test(value)
    ? 'integer'
    : /^[-+]?\d{10,18}$/.test(value)
      ? 'integer64'
      : /^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?$/.test(value)
        ? 'real'
        : 'text';
  if (type === null || own === type) return own;
  if (own === 'text') return 'text';
  return own === 'real' || type === 'real' ? 'real' : 'integer64';
}
