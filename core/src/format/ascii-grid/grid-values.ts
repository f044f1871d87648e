import { pieces, type ByteSource } from '../../bytes/byte-source.js';
import { done, fail, type Result } from '../../problem.js';
import type { Transform } from '../../raster/georeference.js';

export interface GridHeader {
  readonly width: number;
  readonly height: number;
  readonly transform: Transform;
  readonly nodata: number;
  /** Where the values begin, in characters (the header is ASCII). */
  readonly headerBytes: number;
}

const LONGEST_HEADER_BYTES = 2048;

/** Header of an ASCII grid: names and numbers, `xllcorner` or `xllcenter`. Common practice, no source. */
export function readGridHeader(file: string, source: ByteSource): Result<GridHeader> {
  const text = new TextDecoder('iso-8859-1').decode(source.read(0, LONGEST_HEADER_BYTES));
  const values = new Map<string, number>();
  const line = /[ \t]*([A-Za-z_]+)[ \t]+([-+0-9.eE]+)[ \t]*(?:\r\n|\n|\r)/y;
  let headerBytes = 0;
  for (let m = line.exec(text); m; m = line.exec(text)) {
    values.set(m[1]!.toLowerCase(), Number(m[2]));
    headerBytes = line.lastIndex;
  }
  const width = values.get('ncols');
  const height = values.get('nrows');
  const cell = values.get('cellsize') ?? values.get('dx');
  if (!width || !height || !cell || !(width > 0) || !(height > 0))
    return fail({
      code: 'bad-field',
      file,
      field: 'the header',
      offset: 0,
      expected: 'ncols, nrows and cellsize',
      found: [...values.keys()].join(', ') || 'none of them',
    });
  const dy = values.get('dy') ?? cell;
  const left = values.get('xllcorner') ?? (values.get('xllcenter') ?? 0) - cell / 2;
  const bottom = values.get('yllcorner') ?? (values.get('yllcenter') ?? 0) - dy / 2;
  return done({
    width,
    height,
    transform: [left, cell, 0, bottom + dy * height, 0, -dy],
    nodata: values.get('nodata_value') ?? -9999,
    headerBytes,
  });
}

/** The values of an ASCII grid, row by row from the north, at most as many as its header says. Streams. */
export function* gridValues(source: ByteSource, h: GridHeader): Generator<number> {
  const decoder = new TextDecoder('iso-8859-1');
  let rest = '';
  let left = h.width * h.height;
  for (const piece of pieces(source, 1 << 18, h.headerBytes)) {
    const words = (rest + decoder.decode(piece)).split(/\s+/);
    rest = words.pop()!.slice(-64);
    for (const word of words) if (word !== '' && left-- > 0) yield Number(word);
  }
  if (rest !== '' && left > 0) yield Number(rest);
}
