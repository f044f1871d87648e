import { pieces, type ByteSource, type NewHasher } from '../../bytes/byte-source.js';
import type { CrsTable } from '../../crs/identify.js';
import { unreadable, type Description, type Extent, type FileGroup } from '../../dataset/dataset.js';
import type { FullPart } from '../../dataset/fingerprint.js';
import { OccupancyGrid } from '../../dataset/grid.js';
import { done, explain, fail, type Result } from '../../problem.js';
import { describeHead } from '../../raster/describe-head.js';
import { apply, type Transform } from '../../raster/georeference.js';
import { hashRaster } from '../../raster/hash-raster.js';
import { fromSideFiles, type Open } from '../../raster/side-files.js';

interface GridHeader {
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

export function describeAsciiGrid(group: FileGroup, open: Open, table: CrsTable): Description {
  const header = readGridHeader(group.path, open(group.path));
  if (!header.ok) return unreadable('raster', explain(header.problem));
  const { crs } = fromSideFiles(group, open, table);
  return describeHead(group, { ...header.value, bands: 1, crs });
}

/** Grid of the cells that are not nodata, and the hash. Streams. */
export function fullAsciiGrid(group: FileGroup, extent: Extent | null, open: Open, newHasher: NewHasher): FullPart {
  const grid = new OccupancyGrid(extent);
  const source = open(group.path);
  const header = readGridHeader(group.path, source);
  if (header.ok) markCells(source, header.value, grid);
  return { vertices: null, grid: header.ok ? grid.toHex() : null, hash: hashRaster(group, open, newHasher), deletedRows: 0 };
}

function markCells(source: ByteSource, h: GridHeader, grid: OccupancyGrid): void {
  const decoder = new TextDecoder('iso-8859-1');
  let rest = '';
  let index = 0;
  const mark = (word: string): void => {
    if (word === '' || index >= h.width * h.height) return;
    const value = Number(word);
    if (!Number.isNaN(value) && value !== h.nodata) {
      const [x, y] = apply(h.transform, (index % h.width) + 0.5, Math.floor(index / h.width) + 0.5);
      grid.add(x, y);
    }
    index++;
  };
  for (const piece of pieces(source, 1 << 18, h.headerBytes)) {
    const words = (rest + decoder.decode(piece)).split(/\s+/);
    rest = words.pop()!.slice(-64);
    words.forEach(mark);
  }
  mark(rest);
}
