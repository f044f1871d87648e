import { memorySource, readTiffTags, TiffImage, type Inflate, type Transform } from '@rootmap/core';
import { quoteName } from '../geopackage/describe-geopackage.js';
import { openGeopackage, type OpenedGeopackage } from '../geopackage/open-geopackage.js';
import type { PixelSource, Rgba } from './pixel-source.js';
import { loadSharp } from './load-sharp.js';

interface Level {
  readonly zoom: bigint;
  readonly across: number;
  readonly down: number;
  readonly tileWidth: number;
  readonly tileHeight: number;
}

const MOST_TILES = 64;

/** Pixels of a tiles table of a GeoPackage (OGC 12-128r17, clause 2.2): the zoom that fits is read, tile by tile. */
export function tableTilePixels(path: string, table: string, inflate: Inflate): PixelSource | null {
  const opened = openGeopackage(path);
  const levels = opened.db
    .prepare<[string], { zoom: bigint; across: bigint; down: bigint; w: bigint; h: bigint }>(
      'SELECT zoom_level AS zoom, matrix_width AS across, matrix_height AS down, tile_width AS w, tile_height AS h FROM gpkg_tile_matrix WHERE table_name = ? ORDER BY zoom_level DESC',
    )
    .all(table)
    .map((r) => ({ zoom: r.zoom, across: Number(r.across), down: Number(r.down), tileWidth: Number(r.w), tileHeight: Number(r.h) }));
  if (levels.length === 0) {
    opened.close();
    return null;
  }
  return new TableTilePixels(opened, table, levels, inflate, coverageOf(opened, table));
}

/** How the numbers of a gridded coverage stand in its tiles. OGC 17-066r1, table 2. */
interface Coverage {
  /** Tiles are pictures of 16 bits a pixel, whose numbers each tile scales; else TIFFs of 32 bits. */
  readonly isInteger: boolean;
  readonly nodata: number | null;
  readonly scale: number;
  readonly offset: number;
}

/** Null: the table holds pictures. */
function coverageOf({ db }: OpenedGeopackage, table: string): Coverage | null {
  if (!db.prepare("SELECT 1 FROM sqlite_master WHERE name = 'gpkg_2d_gridded_coverage_ancillary'").get()) return null;
  const row = db
    .prepare<[string], { datatype: string; scale: number | null; offset: number | null; none: number | bigint | null }>(
      'SELECT datatype, scale, offset, data_null AS none FROM gpkg_2d_gridded_coverage_ancillary WHERE tile_matrix_set_name = ?',
    )
    .get(table);
  if (!row) return null;
  return {
    isInteger: row.datatype === 'integer',
    nodata: row.none === null ? null : Number(row.none),
    scale: Number(row.scale ?? 1),
    offset: Number(row.offset ?? 0),
  };
}

/** Where the pixels of all tiles lie: the matrix may reach beyond the extent that is told of its content. */
export function placeOfTiles(
  path: string,
  table: string,
  { width, height }: { readonly width: number; readonly height: number },
): Transform | null {
  const opened = openGeopackage(path);
  try {
    const set = opened.db
      .prepare<[string], { minx: number; miny: number; maxx: number; maxy: number }>(
        'SELECT min_x AS minx, min_y AS miny, max_x AS maxx, max_y AS maxy FROM gpkg_tile_matrix_set WHERE table_name = ?',
      )
      .get(table);
    return set ? [Number(set.minx), (set.maxx - set.minx) / width, 0, Number(set.maxy), 0, -(set.maxy - set.miny) / height] : null;
  } finally {
    opened.close();
  }
}

interface Tile {
  readonly data: Buffer;
  /** Of a tile of whole numbers. */
  readonly scale: number;
  readonly offset: number;
}

class TableTilePixels implements PixelSource {
  readonly width: number;
  readonly height: number;
  private readonly tiles = new Map<string, Buffer | Float64Array | null>();

  constructor(
    private readonly opened: OpenedGeopackage,
    private readonly table: string,
    private readonly levels: readonly Level[],
    private readonly inflate: Inflate,
    /** Tiles hold numbers; null: they hold pictures. */
    private readonly coverage: Coverage | null,
  ) {
    this.width = levels[0]!.across * levels[0]!.tileWidth;
    this.height = levels[0]!.down * levels[0]!.tileHeight;
  }

  get bands(): number {
    return this.coverage ? 1 : 0;
  }

  /** Of gridded coverages (OGC 17-066r1); other tiles are pictures. */
  async values(cols: Int32Array, rows: Int32Array, step: number, band = 0): Promise<Float64Array | null> {
    const { coverage } = this;
    if (!coverage || band > 0) return null;
    const out = new Float64Array(cols.length).fill(NaN);
    await this.each(
      cols,
      rows,
      step,
      (tile, level) => (coverage.isInteger ? scaled(tile, level, coverage) : floatsOf(tile.data, level, coverage.nodata, this.inflate)),
      (tile, at, i) => (out[i] = tile[at]!),
    );
    return out;
  }

  async colours(cols: Int32Array, rows: Int32Array, step: number): Promise<Rgba | null> {
    if (this.coverage) return null;
    const out = new Uint8ClampedArray(cols.length * 4);
    await this.each(
      cols,
      rows,
      step,
      ({ data }, level) => decoded(data, level),
      (tile, at, i) => out.set(tile.subarray(at * 4, at * 4 + 4), i * 4),
    );
    return out;
  }

  private async each<T extends Buffer | Float64Array>(
    cols: Int32Array,
    rows: Int32Array,
    step: number,
    decode: (tile: Tile, level: Level) => T | null | Promise<T | null>,
    use: (tile: T, at: number, i: number) => void,
  ): Promise<void> {
    const level = this.levels.findLast((l) => this.width / (l.across * l.tileWidth) <= Math.max(1, step)) ?? this.levels[0]!;
    const [sx, sy] = [(level.across * level.tileWidth) / this.width, (level.down * level.tileHeight) / this.height];
    for (let i = 0; i < cols.length; i++) {
      if (cols[i]! < 0) continue;
      const [col, row] = [Math.floor(cols[i]! * sx), Math.floor(rows[i]! * sy)];
      const [x, y] = [Math.floor(col / level.tileWidth), Math.floor(row / level.tileHeight)];
      const key = `${level.zoom}/${x}/${y}`;
      let tile = this.tiles.get(key) as T | null | undefined;
      if (tile === undefined) {
        const found = this.read(level, x, y);
        tile = found ? await decode(found, level) : null;
        if (this.tiles.size >= MOST_TILES) this.tiles.delete(this.tiles.keys().next().value!);
        this.tiles.set(key, tile);
      }
      if (tile) use(tile, (row - y * level.tileHeight) * level.tileWidth + (col - x * level.tileWidth), i);
    }
  }

  private read(level: Level, x: number, y: number): Tile | null {
    const row = this.opened.db
      .prepare<[bigint, number, number], { id: bigint | number; data: Buffer }>(
        `SELECT id, tile_data AS data FROM ${quoteName(this.table)} WHERE zoom_level = ? AND tile_column = ? AND tile_row = ?`,
      )
      .get(level.zoom, x, y);
    if (!row) return null;
    if (!this.coverage?.isInteger) return { data: row.data, scale: 1, offset: 0 };
    const own = this.opened.db
      .prepare<[string, bigint | number], { scale: number | null; offset: number | null }>(
        'SELECT scale, offset FROM gpkg_2d_gridded_tile_ancillary WHERE tpudt_name = ? AND tpudt_id = ?',
      )
      .get(this.table, row.id);
    return { data: row.data, scale: Number(own?.scale ?? 1), offset: Number(own?.offset ?? 0) };
  }

  close(): void {
    this.opened.close();
  }
}

/** Numbers of a tile of 16 bits a pixel: (number × scale of the tile + its offset) × scale of the coverage + its offset. OGC 17-066r1, 7.2.2. */
async function scaled({ data, scale, offset }: Tile, { tileWidth, tileHeight }: Level, coverage: Coverage): Promise<Float64Array | null> {
  try {
    const { data: bytes, info } = await (
      await loadSharp()
    )(data)
      .toColourspace('grey16')
      .raw({ depth: 'ushort' })
      .toBuffer({ resolveWithObject: true });
    if (info.width !== tileWidth || info.height !== tileHeight) return null;
    const numbers = new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.byteLength / 2);
    const each = numbers.length / (tileWidth * tileHeight);
    return Float64Array.from({ length: tileWidth * tileHeight }, (_, i) => {
      const number = numbers[i * each]!;
      return number === coverage.nodata ? NaN : (number * scale + offset) * coverage.scale + coverage.offset;
    });
  } catch {
    return null; // a damaged tile: nothing is drawn there
  }
}

/** One band of a TIFF tile; null: it is none, or packed in a way that is not read here. */
function floatsOf(data: Buffer, { tileWidth, tileHeight }: Level, nodata: number | null, inflate: Inflate): Float64Array | null {
  const source = memorySource(data);
  const tags = readTiffTags('a tile', source);
  const image = tags.ok ? TiffImage.of(tags.value, source, inflate) : null;
  if (!image || image.width !== tileWidth || image.height !== tileHeight) return null;
  const out = new Float64Array(tileWidth * tileHeight).fill(NaN);
  for (let n = 0; n < image.blocks; n++) {
    const block = image.block(n);
    if (!block) return null;
    for (let r = 0; r < block.rows; r++)
      for (let c = 0; c < block.cols; c++) {
        const value = block.value(c, r, 0);
        if (value !== nodata) out[(block.firstRow + r) * tileWidth + block.firstCol + c] = value;
      }
  }
  return out;
}

async function decoded(data: Buffer, { tileWidth, tileHeight }: Level): Promise<Buffer | null> {
  try {
    return await (
      await loadSharp()
    )(data, { failOn: 'none' })
      .resize(tileWidth, tileHeight, { fit: 'fill', kernel: 'nearest' })
      .toColourspace('srgb')
      .ensureAlpha()
      .raw({ depth: 'uchar' })
      .toBuffer();
  } catch {
    return null; // a damaged tile: nothing is drawn there
  }
}
