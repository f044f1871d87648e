import { ProblemError, type Dataset, type Loss, type OnProgress, type Resampling } from '@rootmap/core';
import { crsKey } from '../crs/definitions.js';
import { transformer } from '../crs/transformer.js';
import { GeoTiffFile, geoTiffCrs, type Samples } from '../export/geotiff-file.js';
import { GeoTiffLevels, levelsBelow } from '../export/geotiff-levels.js';
import { arePixelsRead, isHeldSmaller } from '../pixels/open-pixels.js';
import type { PixelSource } from '../pixels/pixel-source.js';
import { tiffPixels } from '../pixels/tiff-pixels.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { platformBelow } from '../survey/platform.js';
import { gridIn, type RasterGrid } from './raster-grid.js';
import { isFoundByTwo, warpedRows } from './raster-rows.js';
import { NodataIsTaken, samplesOf, wider } from './raster-samples.js';
import { RasterThread } from './raster-thread.js';
import { openRaster, placeOf, TOO_LARGE, type WarpOrder } from './raster-warp.js';

/** How a raster is wanted in another CRS. */
export interface RasterWish {
  /** Null: what suits its pixels. */
  readonly resampling: Resampling | null;
  /** Side of a pixel in the units of the CRS; null: as its own come to lie. */
  readonly pixel: number | null;
}
export interface RasterCopyPlan {
  readonly grid: RasterGrid;
  readonly resampling: Resampling;
  /** Why it is that one. */
  readonly because: string;
  /** Smaller pictures of it that are written along. */
  readonly reduced: number;
  readonly losses: readonly Loss[];
}

/** A picture of more pixels is not meant. */
const MOST_PIXELS = 4e9;

/** What would be written of a raster, or why it stays as it is. */
export function planRasterCopy(found: FoundDataset, crs: string, wish: RasterWish): RasterCopyPlan | string {
  const { dataset } = found;
  const platform = platformBelow(found.folder);
  try {
    const own = crsKey(dataset.crs);
    const to = own === null ? null : transformer(own, crs);
    if (dataset.state === 'unreadable') return 'it cannot be read';
    if (!dataset.bbox || !dataset.raster) return 'it does not say where on Earth it lies';
    if (!to) return `how its CRS and ${crs} are computed is not known here`;
    if (geoTiffCrs(crs) === null) return `${crs} has no code that a GeoTIFF can say`;
    if (!arePixelsRead(dataset.group, platform)) return 'its pixels are packed in a way that is not read here';
    const { width, height } = dataset.raster;
    if (isHeldSmaller(dataset.group, dataset.raster)) return TOO_LARGE;
    const grid = gridIn(to, { transform: placeOf(found, platform)!, width, height }, wish.pixel);
    if (!grid) return `it has no place in ${crs}`;
    if (grid.width * grid.height > MOST_PIXELS)
      return `it would have ${grid.width} × ${grid.height} pixels, more than a file of this kind holds. Choose larger pixels`;
    const tiff = dataset.group.format === 'geotiff' ? tiffPixels(dataset.group, platform) : null;
    const reduced = levelsBelow(grid.width, grid.height);
    return { grid, ...suited(dataset, tiff, wish.resampling), reduced, losses: lossesOf(tiff) };
  } finally {
    platform.close();
  }
}

/** A picture keeps red, green and blue; whole numbers of 64 bits become floating ones. */
const lossesOf = (tiff: PixelSource | null): readonly Loss[] =>
  (tiff?.leftOut ?? []).filter(({ code }) => (code === 'bands' ? tiff?.isColour : code === 'digits' && tiff?.stored?.type === 'f64'));

/** Between classes and the colours of a palette there is nothing: theirs is the nearest. */
function suited({ group }: Dataset, tiff: PixelSource | null, wished: Resampling | null): Pick<RasterCopyPlan, 'resampling' | 'because'> {
  if (tiff?.stored?.palette)
    return { resampling: 'nearest', because: 'its numbers stand for the colours of a palette, and nothing lies between them' };
  if (wished !== null) return { resampling: wished, because: 'as chosen' };
  if (group.format === 'image' || tiff?.isColour) return { resampling: 'cubic', because: 'it is a picture' };
  if (tiff?.isBytes) return { resampling: 'nearest', because: 'whole numbers of one byte are classes as a rule' };
  return { resampling: 'bilinear', because: 'its numbers are measured, as a rule' };
}

export interface RasterCopied {
  readonly pixels: number;
  /** Those that have a value, of the first band. */
  readonly filled: number;
  readonly losses: readonly Loss[];
}

/**
 * Writes a raster in another CRS as a GeoTIFF with smaller pictures of itself, and reads it back with another reader: what that finds is
 * held against what was computed, pixel by pixel. Numbers keep the kind that they have in the source.
 */
export async function writeRasterCopy(
  found: FoundDataset,
  crs: string,
  path: string,
  wish: RasterWish,
  onProgress: OnProgress,
): Promise<RasterCopied> {
  const plan = planRasterCopy(found, crs, wish);
  if (typeof plan === 'string') throw failed(found, plan);
  const { group } = found.dataset;
  const source = await openRaster(found);
  if (typeof source === 'string') throw failed(found, source);
  const kept = await samplesOf(source.pixels).finally(() => source.close());
  const thread = RasterThread.for(plan.grid, group.path);
  try {
    const { samples, sums } = await writeKept({ found, crs, grid: plan.grid, resampling: plan.resampling, samples: kept }, path, {
      reduced: plan.reduced,
      thread,
      onDone: (done, of) => onProgress({ done, of, unit: 'pixels', item: group.path }),
    });
    const { width, height } = plan.grid;
    if (sums.damaged > 0) throw failed(found, `${sums.damaged} or more of its blocks are damaged. Copy it again from where it came from`);
    if (!(await isFoundByTwo(path, { ...samples, width, height, strips: sums.strips }, thread)))
      throw failed(found, 'read back, its pixels were not those that were computed. Nothing of it was kept');
    return { pixels: width * height, filled: sums.filled, losses: plan.losses };
  } finally {
    await thread?.end();
  }
}

const failed = ({ dataset }: FoundDataset, why: string): ProblemError =>
  new ProblemError({ code: 'failed', what: `Copying ${dataset.group.path}`, why });

interface Sums {
  /** CRC-32 of each strip of each plane. */
  readonly strips: readonly (readonly number[])[];
  readonly filled: number;
  readonly damaged: number;
}

interface Writing {
  readonly reduced: number;
  readonly thread: RasterThread | null;
  readonly onDone: (pixels: number, of: number) => void;
}

/** As the source keeps its numbers; in a wider kind where none of theirs is left to stand for 'none'. */
async function writeKept(order: WarpOrder, path: string, writing: Writing): Promise<{ readonly samples: Samples; readonly sums: Sums }> {
  try {
    return { samples: order.samples, sums: await writeWarped(order, path, writing) };
  } catch (error) {
    if (!(error instanceof NodataIsTaken)) throw error;
    const samples = wider(order.samples);
    return { samples, sums: await writeWarped({ ...order, samples }, path, writing) };
  }
}

async function writeWarped(order: WarpOrder, path: string, { reduced, thread, onDone }: Writing): Promise<Sums> {
  const { width, height, west, north, pixel } = order.grid;
  const extent = [west, north - height * pixel, west + width * pixel, north] as const;
  const spec = { width, height, extent, crs: geoTiffCrs(order.crs), reduced, samples: order.samples };
  const file = new GeoTiffFile(path, spec);
  const levels = new GeoTiffLevels(file, spec, order.resampling === 'nearest' ? 'first' : 'mean');
  let [filled, damaged] = [0, 0];
  try {
    for await (const part of warpedRows(order, thread)) {
      filled += part.filled;
      damaged = Math.max(damaged, part.damaged);
      await levels.add(part.planes, part.rows);
      onDone((part.row + part.rows) * width, width * height);
    }
    await levels.finish();
    await file.finish();
  } catch (error) {
    await file.abandon();
    throw error;
  }
  return { strips: levels.sums, filled, damaged };
}
