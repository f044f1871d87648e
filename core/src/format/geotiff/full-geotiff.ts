import type { NewHasher } from '../../bytes/byte-source.js';
import type { Extent, FileGroup } from '../../dataset/dataset.js';
import type { FullPart } from '../../dataset/fingerprint.js';
import { OccupancyGrid } from '../../dataset/grid.js';
import { apply } from '../../raster/georeference.js';
import { hashRaster } from '../../raster/hash-raster.js';
import type { Open } from '../../raster/side-files.js';
import type { Inflate } from './decode-block.js';
import { transformOf } from './describe-geotiff.js';
import { readTiffTags, type TiffTags } from './read-tiff-tags.js';
import { TiffImage } from './tiff-image.js';

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
  const transform = transformOf(group, open, tags);
  const image = TiffImage.of(tags, open(group.path), inflate);
  if (!transform || !image) return false;
  for (let block = 0; block < image.blocks; block++) {
    const read = image.block(block);
    if (!read) return false;
    const { firstCol, firstRow, cols, rows } = read;
    for (let row = 0; row < rows; row++)
      for (let col = 0; col < cols; col++) {
        const value = read.value(col, row, 0);
        if (Number.isNaN(value) || value === image.nodata) continue;
        const [x, y] = apply(transform, firstCol + col + 0.5, firstRow + row + 0.5);
        grid.add(x, y);
      }
  }
  return true;
}
