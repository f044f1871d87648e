import type { NewHasher } from '../../bytes/byte-source.js';
import type { Extent, FileGroup } from '../../dataset/dataset.js';
import type { FullPart } from '../../dataset/fingerprint.js';
import { OccupancyGrid } from '../../dataset/grid.js';
import { apply } from '../../raster/georeference.js';
import { hashRaster } from '../../raster/hash-raster.js';
import type { Open } from '../../raster/side-files.js';
import { unpackBlock, type Inflate } from './decode-block.js';
import { transformOf } from './describe-geotiff.js';
import { readTiffTags, type TiffTags } from './read-tiff-tags.js';

const LARGEST_BLOCK_BYTES = 64 * 1024 * 1024;

/** Grid of the pixels that are not nodata, for the packings that are read here; the hash for all. */
export function fullGeoTiff(group: FileGroup, extent: Extent | null, open: Open, newHasher: NewHasher, inflate: Inflate): FullPart {
  const hash = hashRaster(group, open, newHasher);
  const tags = readTiffTags(group.path, open(group.path));
  const grid = new OccupancyGrid(extent);
  const complete = tags.ok && extent !== null && markPixels(group, tags.value, open, inflate, grid);
  return { vertices: null, grid: complete ? grid.toHex() : null, hash, deletedRows: 0 };
}

/** Marks the valid pixels of the first band; false where the image cannot be decoded whole. */
function markPixels(group: FileGroup, tags: TiffTags, open: Open, inflate: Inflate, grid: OccupancyGrid): boolean {
  const n = (tag: number, otherwise: number): number => tags.numbers.get(tag)?.[0] ?? otherwise;
  const width = n(256, 0);
  const height = n(257, 0);
  const bits = n(258, 1);
  const predictor = n(317, 1);
  const transform = transformOf(group, open, tags);
  const tiled = tags.numbers.has(322);
  const blockWidth = tiled ? n(322, 0) : width;
  const blockHeight = tiled ? n(323, 0) : Math.min(height, n(278, height));
  const samples = n(284, 1) === 1 ? n(277, 1) : 1;
  const offsets = tags.numbers.get(tiled ? 324 : 273);
  const sizes = tags.numbers.get(tiled ? 325 : 279);
  const blockBytes = blockWidth * blockHeight * samples * (bits / 8);
  if (!transform || !offsets || !sizes || ![8, 16, 32, 64].includes(bits) || predictor > 2) return false;
  if (!(blockBytes > 0) || blockBytes > LARGEST_BLOCK_BYTES) return false;
  const across = Math.ceil(width / blockWidth);
  const blocks = across * Math.ceil(height / blockHeight);
  const read = sampleReader(bits, n(339, 1), tags.littleEndian);
  const nodata = nodataOf(tags);
  const source = open(group.path);
  for (let block = 0; block < blocks; block++) {
    const size = sizes[block];
    const offset = offsets[block];
    if (size === undefined || offset === undefined || size > LARGEST_BLOCK_BYTES) return false;
    const firstCol = (block % across) * blockWidth;
    const firstRow = Math.floor(block / across) * blockHeight;
    const rows = tiled ? blockHeight : Math.min(blockHeight, height - firstRow); // only tiles are always whole
    const data = unpackBlock(source.read(offset, size), n(259, 1), rows * blockWidth * samples * (bits / 8), inflate);
    if (!data) return false;
    if (predictor === 2) undoPredictor(data, blockWidth, samples, bits, tags.littleEndian);
    const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
    for (let row = 0; row < blockHeight && firstRow + row < height; row++)
      for (let col = 0; col < blockWidth && firstCol + col < width; col++) {
        const at = (row * blockWidth + col) * samples * (bits / 8);
        if (at + bits / 8 > view.byteLength) return false;
        const value = read(view, at);
        if (Number.isNaN(value) || value === nodata) continue;
        const [x, y] = apply(transform, firstCol + col + 0.5, firstRow + row + 0.5);
        grid.add(x, y);
      }
  }
  return true;
}

function nodataOf(tags: TiffTags): number | null {
  const text = tags.texts.get(42113)?.trim();
  return text ? Number(text) : null;
}

function sampleReader(bits: number, format: number, little: boolean): (view: DataView, at: number) => number {
  if (format === 3) return bits === 64 ? (v, at) => v.getFloat64(at, little) : (v, at) => v.getFloat32(at, little);
  const signed = format === 2;
  if (bits === 8) return signed ? (v, at) => v.getInt8(at) : (v, at) => v.getUint8(at);
  if (bits === 16) return signed ? (v, at) => v.getInt16(at, little) : (v, at) => v.getUint16(at, little);
  if (bits === 32) return signed ? (v, at) => v.getInt32(at, little) : (v, at) => v.getUint32(at, little);
  return signed ? (v, at) => Number(v.getBigInt64(at, little)) : (v, at) => Number(v.getBigUint64(at, little));
}

/** Horizontal differencing, undone in place. TIFF 6.0 section 14. */
function undoPredictor(data: Uint8Array, width: number, samples: number, bits: number, little: boolean): void {
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const step = bits / 8;
  const rowBytes = width * samples * step;
  for (let row = 0; row + rowBytes <= data.length; row += rowBytes)
    for (let at = row + samples * step; at < row + rowBytes; at += step) {
      const before = at - samples * step;
      if (bits === 8) view.setUint8(at, view.getUint8(at) + view.getUint8(before));
      else if (bits === 16) view.setUint16(at, view.getUint16(at, little) + view.getUint16(before, little), little);
      else if (bits === 32) view.setUint32(at, view.getUint32(at, little) + view.getUint32(before, little), little);
    }
}
