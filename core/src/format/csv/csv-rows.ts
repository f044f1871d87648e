import { pieces, type ByteSource } from '../../bytes/byte-source.js';
import { encodingOf } from '../../bytes/guess-encoding.js';
import { ProblemError } from '../../problem.js';
import type { StatedDialect } from './csvw.js';

const DELIMITERS = [',', ';', '\t', '|'] as const;

export interface CsvLayout {
  readonly delimiter: string;
  /** A label of the WHATWG Encoding Standard. */
  readonly encoding: string;
  /** 0 to 1: below 1 it is guessed from the letters. */
  readonly confidence: number;
  /** The first line only says which delimiter there is: `sep=;` (common practice of spreadsheets, no source). */
  readonly hasDelimiterLine: boolean;
  /** Whether its first row names the columns, where that is stated; null: the rows tell. */
  readonly hasNames: boolean | null;
}

const HEAD_BYTES = 1 << 16;
/** Rows that a delimiter is judged by. */
const JUDGED_ROWS = 50;

/**
 * Delimiter and encoding, from the first 64 KiB. The delimiter is the one that gives the rows the same number of values.
 * @param stated what is said of it counts
 */
export function layoutOf(source: ByteSource, stated?: StatedDialect): CsvLayout {
  const head = source.read(0, HEAD_BYTES);
  const encoded = {
    ...(stated?.encoding ? { encoding: stated.encoding, confidence: 1 } : encodingOf(head)),
    hasNames: stated?.hasNames ?? null,
  };
  const text = new TextDecoder(encoded.encoding).decode(head);
  const said = /^sep=(.)\r?\n/i.exec(text)?.[1];
  const told = stated?.delimiter ?? said;
  if (told !== undefined) return { ...encoded, delimiter: told, hasDelimiterLine: said !== undefined };
  let best: { delimiter: string; score: number } = { delimiter: ',', score: 0 };
  for (const delimiter of DELIMITERS) {
    const rows = parse(text, delimiter, head.length < HEAD_BYTES)
      .rows.filter(isFilled)
      .slice(0, JUDGED_ROWS);
    const values = rows[0]?.length ?? 1;
    const alike = rows.filter((row) => row.length === values).length / rows.length;
    const score = values > 1 ? alike + values / 10_000 : 0;
    if (score > best.score) best = { delimiter, score };
  }
  return { ...encoded, delimiter: best.delimiter, hasDelimiterLine: false };
}

/** Shapes as text, the longest records there are, stay below; other readers stop at 10 MB (common practice, no source). In UTF-16 code units. */
const LONGEST_RECORD = 10 << 20;
const PIECE_BYTES = 1 << 18;

const isFilled = (row: readonly string[]): boolean => row.length > 1 || row[0] !== '';

/**
 * Rows of a CSV or TSV (RFC 4180), the names first, if there are any. Lines end in CRLF, LF or CR, also mixed; empty lines are passed
 * over. One streaming read in bounded memory: what is left of a piece is parsed again only when it has doubled, so that a long record
 * costs no more than twice its length. Throws `endless-record`.
 */
export function* csvRows(source: ByteSource, layout: CsvLayout, file = 'The table'): Generator<string[]> {
  const decoder = new TextDecoder(layout.encoding);
  const { delimiter } = layout;
  let rest = '';
  let enough = 0;
  let rows = 0;
  let isFirst = layout.hasDelimiterLine;
  for (const piece of pieces(source, PIECE_BYTES)) {
    rest += decoder.decode(piece, { stream: true });
    if (rest.length > LONGEST_RECORD) throw new ProblemError({ code: 'endless-record', file, row: rows + 1 });
    if (rest.length < enough) continue;
    const parsed = parse(rest, delimiter, false);
    rest = rest.slice(parsed.used);
    rows += parsed.rows.length;
    enough = parsed.rows.length > 0 ? 0 : rest.length * 2;
    for (const row of parsed.rows)
      if (isFirst) isFirst = false;
      else if (isFilled(row)) yield row;
  }
  for (const row of parse(rest + decoder.decode(), delimiter, true).rows)
    if (isFirst) isFirst = false;
    else if (isFilled(row)) yield row;
}

interface Parsed {
  readonly rows: string[][];
  /** Characters of whole records. */
  readonly used: number;
}

const [QUOTE, CR, LF] = [34, 13, 10];

/**
 * A line feed that comes apart from its carriage return gives an empty line, as may be.
 * @param isWhole nothing follows the text
 */
function parse(text: string, delimiter: string, isWhole: boolean): Parsed {
  if (!text.includes('"')) return parsePlain(text, delimiter, isWhole);
  const rows: string[][] = [];
  const separator = delimiter.charCodeAt(0);
  let row: string[] = [];
  let used = 0;
  for (let at = 0; at < text.length || row.length > 0;) {
    let value = '';
    let from = at;
    if (text.charCodeAt(at) === QUOTE) {
      const end = closingQuote(text, at + 1);
      if (end < 0) {
        if (!isWhole) return { rows, used };
        value = unquoted(text.slice(at + 1));
        from = at = text.length;
      } else {
        value = unquoted(text.slice(at + 1, end));
        from = at = end + 1;
      }
    }
    while (at < text.length) {
      const c = text.charCodeAt(at);
      if (c === separator || c === LF || c === CR) break;
      at++;
    }
    row.push(from === at ? value : value + text.slice(from, at));
    if (at === text.length) {
      if (!isWhole) return { rows, used };
      rows.push(row);
      return { rows, used: at };
    }
    const c = text.charCodeAt(at++);
    if (c === separator) {
      if (at === text.length && isWhole) {
        row.push('');
        rows.push(row);
        return { rows, used: at };
      }
      continue;
    }
    if (c === CR && text.charCodeAt(at) === LF) at++;
    rows.push(row);
    row = [];
    used = at;
  }
  return { rows, used };
}

function closingQuote(text: string, from: number): number {
  let at = text.indexOf('"', from);
  while (at >= 0) {
    while (text.charCodeAt(at) === QUOTE && text.charCodeAt(at + 1) === QUOTE) at += 2; // quotes in a row are doubled ones
    if (text.charCodeAt(at) === QUOTE) return at;
    at = text.indexOf('"', at);
  }
  return -1;
}

const unquoted = (text: string): string => (text.includes('"') ? text.split('""').join('"') : text);

/** Without a quote, every line is a record; those without anything are left out at once. */
function parsePlain(text: string, delimiter: string, isWhole: boolean): Parsed {
  const lines = (text.includes('\r') ? text.replaceAll('\r\n', '\n').replaceAll('\r', '\n') : text).split('\n');
  const last = lines.pop()!;
  if (isWhole && last !== '') lines.push(last);
  const rows = lines.flatMap((line) => (line === '' ? [] : [line.split(delimiter)]));
  return { rows, used: isWhole ? text.length : text.length - last.length };
}
