import Papa from 'papaparse';
import { pieces, type ByteSource } from '../../bytes/byte-source.js';
import { guessEncoding } from '../../bytes/guess-encoding.js';
import { ProblemError } from '../../problem.js';

const DELIMITERS = [',', ';', '\t', '|'] as const;
type Delimiter = (typeof DELIMITERS)[number];

export interface CsvLayout {
  readonly delimiter: Delimiter;
  /** A label of the WHATWG Encoding Standard. */
  readonly encoding: string;
  /** 0 to 1: below 1 it is guessed from the letters. */
  readonly confidence: number;
}

const HEAD_BYTES = 1 << 16;

/** Delimiter and encoding, from the first 64 KiB. */
export function layoutOf(source: ByteSource): CsvLayout {
  const head = source.read(0, HEAD_BYTES);
  const { encoding, confidence } = encodingOf(head);
  const line = /^[^\r\n]*/.exec(new TextDecoder(encoding).decode(head))![0].replace(/"[^"]*"/g, '');
  const delimiter = DELIMITERS.reduce((best, d) => (line.split(d).length > line.split(best).length ? d : best));
  return { delimiter, encoding, confidence };
}

function encodingOf(head: Uint8Array): Pick<CsvLayout, 'encoding' | 'confidence'> {
  if (head[0] === 0xff && head[1] === 0xfe) return { encoding: 'utf-16le', confidence: 1 };
  if (head[0] === 0xfe && head[1] === 0xff) return { encoding: 'utf-16be', confidence: 1 };
  const guessed = guessEncoding(head);
  return { encoding: guessed?.label ?? 'utf-8', confidence: guessed?.confidence ?? 1 };
}

/** Shapes as text, the longest records there are, stay below; other readers stop at 10 MB (common practice, no source). In UTF-16 code units. */
const LONGEST_RECORD = 10 << 20;
const PIECE_BYTES = 1 << 18;

/**
 * Rows of a CSV or TSV (RFC 4180), the names first. Empty lines are passed over. One streaming read in bounded memory: what is left of a
 * piece is parsed again only when it has doubled, so that a long record costs no more than twice its length. Throws `endless-record`.
 */
export function* csvRows(source: ByteSource, layout: CsvLayout, file = 'The table'): Generator<string[]> {
  const decoder = new TextDecoder(layout.encoding);
  const parser = new Papa.Parser({ delimiter: layout.delimiter });
  const filled = (row: readonly string[]): boolean => row.length > 1 || row[0] !== '';
  let rest = '';
  let enough = 0;
  let rows = 0;
  for (const piece of pieces(source, PIECE_BYTES)) {
    rest += decoder.decode(piece, { stream: true });
    if (rest.length > LONGEST_RECORD) throw new ProblemError({ code: 'endless-record', file, row: rows + 1 });
    if (rest.length < enough) continue;
    const { data, meta } = parser.parse(rest, 0, true) as Papa.ParseResult<string[]>;
    rest = rest.slice(meta.cursor);
    rows += data.length;
    enough = data.length > 0 ? 0 : rest.length * 2;
    for (const row of data) if (filled(row)) yield row;
  }
  const last = parser.parse(rest + decoder.decode(), 0, false) as Papa.ParseResult<string[]>;
  for (const row of last.data) if (filled(row)) yield row;
}
