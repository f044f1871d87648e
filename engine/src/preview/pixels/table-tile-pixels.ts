import sharp from 'sharp';
import { quoteName } from '../../geopackage/describe-geopackage.js';
import { openGeopackage, type OpenedGeopackage } from '../../geopackage/open-geopackage.js';
import type { PixelSource, Rgba } from './pixel-source.js';

interface Level {
  readonly zoom: bigint;
  readonly across: number;
  readonly down: number;
  readonly tileWidth: number;
  readonly tileHeight: number;
}

const MOST_TILES = 64;

/** Pixels of a tiles table of a GeoPackage (OGC 12-128r17, clause 2.2): the zoom that fits is read, tile by tile. */
export function tableTilePixels(path: string, table: string): PixelSource | null {
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
  return new TableTilePixels(opened, table, levels);
}

class TableTilePixels implements PixelSource {
  readonly width: number;
  readonly height: number;
  private readonly tiles = new Map<string, Buffer | null>();

  constructor(
    private readonly opened: OpenedGeopackage,
    private readonly table: string,
    private readonly levels: readonly Level[],
  ) {
    this.width = levels[0]!.across * levels[0]!.tileWidth;
    this.height = levels[0]!.down * levels[0]!.tileHeight;
  }

  values(): Promise<Float64Array | null> {
    return Promise.resolve(null);
  }

  async colours(cols: Int32Array, rows: Int32Array, step: number): Promise<Rgba | null> {
    const level = this.levels.findLast((l) => this.width / (l.across * l.tileWidth) <= Math.max(1, step)) ?? this.levels[0]!;
    const [sx, sy] = [(level.across * level.tileWidth) / this.width, (level.down * level.tileHeight) / this.height];
    const out = new Uint8ClampedArray(cols.length * 4);
    for (let i = 0; i < cols.length; i++) {
      if (cols[i]! < 0) continue;
      const [col, row] = [Math.floor(cols[i]! * sx), Math.floor(rows[i]! * sy)];
      const [x, y] = [Math.floor(col / level.tileWidth), Math.floor(row / level.tileHeight)];
      const key = `${level.zoom}/${x}/${y}`;
      const tile = this.tiles.has(key) ? this.tiles.get(key)! : await this.read(level, x, y, key);
      if (!tile) continue;
      const at = ((row - y * level.tileHeight) * level.tileWidth + (col - x * level.tileWidth)) * 4;
      out.set(tile.subarray(at, at + 4), i * 4);
    }
    return out;
  }

  private async read(level: Level, x: number, y: number, key: string): Promise<Buffer | null> {
    const row = this.opened.db
      .prepare<[bigint, number, number], { data: Buffer }>(
        `SELECT tile_data AS data FROM ${quoteName(this.table)} WHERE zoom_level = ? AND tile_column = ? AND tile_row = ?`,
      )
      .get(level.zoom, x, y);
    const tile = row ? await decoded(row.data, level) : null;
    if (this.tiles.size >= MOST_TILES) this.tiles.delete(this.tiles.keys().next().value!);
    this.tiles.set(key, tile);
    return tile;
  }

  close(): void {
    this.opened.close();
  }
}

async function decoded(data: Buffer, { tileWidth, tileHeight }: Level): Promise<Buffer | null> {
  try {
    return await sharp(data, { failOn: 'none' })
      .resize(tileWidth, tileHeight, { fit: 'fill', kernel: 'nearest' })
      .toColourspace('srgb')
      .ensureAlpha()
      .raw({ depth: 'uchar' })
      .toBuffer();
  } catch {
    return null; // a damaged tile: nothing is drawn there
  }
}
