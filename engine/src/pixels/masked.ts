import { behindOf, type FileGroup, type Loss, type Platform } from '@rootmap/core';
import type { PixelSource } from './pixel-source.js';
import { tiffPixels } from './tiff-pixels.js';

/** The mask that stands beside a picture: a TIFF of one band (`.msk`, common practice of several programs); null: none that can be read. */
function maskBeside(group: FileGroup, platform: Pick<Platform, 'open' | 'inflate'>): PixelSource | null {
  const main = behindOf(group, 'msk');
  return main && tiffPixels({ ...group, format: 'geotiff', path: main.path, main, companions: [], borrowed: [] }, platform);
}

/** A picture without what the mask beside it hides. */
export function masked(picture: PixelSource, group: FileGroup, platform: Pick<Platform, 'open' | 'inflate'>): PixelSource {
  const mask = maskBeside(group, platform);
  if (!mask || mask.width !== picture.width || mask.height !== picture.height) return picture;
  return {
    width: picture.width,
    height: picture.height,
    bands: picture.bands,
    isReduced: picture.isReduced ?? false,
    get damaged() {
      return (picture.damaged ?? 0) + (mask.damaged ?? 0);
    },
    values: (cols, rows, step, band) => picture.values(cols, rows, step, band),
    async colours(cols, rows, step) {
      const [colours, shown] = await Promise.all([picture.colours(cols, rows, step), mask.values(cols, rows, 1)]);
      if (colours && shown) for (let i = 0; i < cols.length; i++) if (shown[i] === 0) colours.fill(0, i * 4, i * 4 + 4);
      return colours;
    },
    close() {
      picture.close();
      mask.close();
    },
  };
}

/** A mask that stands beside a picture and cannot be read, or is of another size: what it hides comes along. */
export function maskLost(group: FileGroup, size: { readonly width: number; readonly height: number } | null, platform: Platform): Loss[] {
  if (group.format !== 'image' || !behindOf(group, 'msk')) return [];
  const mask = maskBeside(group, platform);
  const isRead = mask !== null && mask.width === size?.width && mask.height === size.height;
  mask?.close();
  return isRead ? [] : [{ code: 'mask', what: 'its mask, which cannot be read: what it hides is shown', count: null }];
}
