import type { Loss } from '@rootmap/core';
import type { Written } from '../geopackage-write/write-features.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { writeRasterCopy, type RasterWish } from './raster-copy.js';
import { writeCopy } from './write-copy.js';

/** What became of the records, or the pixels, of a dataset. */
export interface Copied extends Pick<Written, 'read' | 'written' | 'skipped'> {
  readonly unit: 'records' | 'pixels';
  readonly losses: readonly Loss[];
}
interface CopyTo {
  readonly crs: string;
  readonly path: string;
  readonly table: string;
  readonly wish: RasterWish;
}

/** Writes a dataset in another CRS: a raster as a GeoTIFF, anything else as a GeoPackage of one table. */
export async function copyInto(
  found: FoundDataset,
  { crs, path, table, wish }: CopyTo,
  onProgress: (done: number, of: number, unit: Copied['unit']) => void,
): Promise<Copied> {
  if (found.dataset.kind !== 'raster') {
    const of = found.dataset.featureCount ?? 0;
    return { unit: 'records', ...writeCopy(found, crs, path, table, (done) => onProgress(done, of, 'records')) };
  }
  const { pixels, filled, losses } = await writeRasterCopy(found, crs, path, wish, ({ done, of }) => onProgress(done, of ?? 0, 'pixels'));
  return { unit: 'pixels', read: pixels, written: filled, skipped: [], losses };
}
