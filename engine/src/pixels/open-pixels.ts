import { gridValues, readGridHeader, readTiffTags, type FileGroup, type Format, type Platform } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { withFile } from '../disk/open.js';
import { tableTilePixels } from './table-tile-pixels.js';
import { masked } from './masked.js';
import { MemoryPixels } from './memory-pixels.js';
import type { PixelSource } from './pixel-source.js';
import { tiffPixels } from './tiff-pixels.js';
import { loadSharp } from './load-sharp.js';

/** Pixels that are held of a picture that cannot be read in parts. */
const MOST_HELD = 16_000_000;
/** Whether a raster of that size is held smaller than it is: enough for a picture, not for a copy. */
export const isHeldSmaller = (group: FileGroup, { width, height }: { readonly width: number; readonly height: number }): boolean =>
  (group.format === 'image' || group.format === 'ascii-grid') && width * height > MOST_HELD;

const READ: ReadonlySet<Format> = new Set(['image', 'ascii-grid', 'geopackage']);

/** Whether the pixels of a raster are read here, as far as its format and, of a TIFF, its head tell. */
export const arePixelsRead = (group: FileGroup, platform: Platform): boolean =>
  group.format === 'geotiff' ? tiffPixels(group, platform) !== null || isBlackAndWhite(group, platform) : READ.has(group.format);

/** The pixels of a raster; null: its format, or its packing, is not read here. */
export async function openPixels(folder: string, group: FileGroup, table: string | null, platform: Platform): Promise<PixelSource | null> {
  const path = join(folder, group.path);
  switch (group.format) {
    case 'geotiff':
      return tiffPixels(group, platform) ?? (isBlackAndWhite(group, platform) ? heldPicture(path) : null);
    case 'image': {
      const picture = await heldPicture(path);
      return picture && masked(picture, group, platform);
    }
    case 'ascii-grid':
      return heldGrid(group, platform);
    case 'geopackage':
      return table === null ? null : tableTilePixels(path, table, platform.inflate);
    default:
      return null;
  }
}

/** A scan packed as a fax (TIFF 6.0, sections 10 and 11): a picture of one bit a pixel, which the picture library reads right. */
function isBlackAndWhite(group: FileGroup, platform: Platform): boolean {
  const tags = readTiffTags(group.path, platform.open(group.path));
  if (!tags.ok) return false;
  const [bits, packing, photometric] = [258, 259, 262].map((tag) => tags.value.numbers.get(tag)?.[0] ?? 1);
  return bits === 1 && [2, 3, 4].includes(packing!) && photometric! < 2;
}

/** A picture that is decoded whole, smaller where it is large. */
async function heldPicture(path: string): Promise<PixelSource | null> {
  try {
    return await withFile(path, pictureIn);
  } catch {
    return null; // damaged or of a kind that is not decoded: the extent is drawn
  }
}

async function pictureIn(path: string): Promise<PixelSource> {
  const picture = (await loadSharp())(path, { limitInputPixels: false, failOn: 'none' });
  const { width, height } = await picture.metadata();
  const scale = Math.min(1, Math.sqrt(MOST_HELD / (width * height)));
  const { data, info } = await picture
    .resize(Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale)), { kernel: 'nearest', fit: 'fill' })
    .toColourspace('srgb')
    .ensureAlpha()
    .raw({ depth: 'uchar' })
    .toBuffer({ resolveWithObject: true });
  return new MemoryPixels(width, height, [info.width, info.height], { colours: data });
}

/** Every n-th value of a grid, in both directions. */
function heldGrid(group: FileGroup, platform: Platform): PixelSource | null {
  const source = platform.open(group.path);
  const header = readGridHeader(group.path, source);
  if (!header.ok) return null;
  const { width, height, nodata } = header.value;
  const n = Math.max(1, Math.ceil(Math.sqrt((width * height) / MOST_HELD)));
  const [w, h] = [Math.ceil(width / n), Math.ceil(height / n)];
  const values = new Float32Array(w * h).fill(NaN);
  let index = 0;
  for (const value of gridValues(source, header.value)) {
    const [col, row] = [index % width, Math.floor(index / width)];
    if (col % n === 0 && row % n === 0 && value !== nodata) values[(row / n) * w + col / n] = value;
    index++;
  }
  return new MemoryPixels(width, height, [w, h], { values });
}
