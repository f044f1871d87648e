import { ProblemError, type Dataset, type Loss, type OnProgress, type Resampling, type Transform } from '@rootmap/core';
import { crsKey } from '../crs/definitions.js';
import { transformer, type Transformer } from '../crs/transformer.js';
import { GeoTiffFile, geoTiffCrs, type GeoTiffSpec, type Samples } from '../export/geotiff-file.js';
import { GeoTiffLevels, levelsBelow, numbersFor, type Numbers } from '../export/geotiff-levels.js';
import { isFoundIn } from '../geodatabase/second-eyes.js';
import { contentIn, movedTo } from '../pixels/content-window.js';
import { arePixelsRead, isHeldSmaller, openPixels } from '../pixels/open-pixels.js';
import { readColours, readWindow, type PixelSource, type SampleType } from '../pixels/pixel-source.js';
import { interpolate, reachOf, windowFor, type Step } from '../pixels/resample.js';
import { tiffPixels } from '../pixels/tiff-pixels.js';
import type { PixelWindow } from '../pixels/pixel-window.js';
import { windowOf } from '../pixels/window-of.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { placedBy } from '../project/placed-by.js';
import { platformBelow, type NodePlatform } from '../survey/platform.js';
import { placesIn } from './places.js';
import { gridIn, type RasterGrid } from './raster-grid.js';

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

const TOO_LARGE = 'it is too large to be read whole. Turn it into a GeoTIFF first, which is read in parts';
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

/** Where its pixels lie; null: nobody knows. */
function placeOf(found: FoundDataset, platform: NodePlatform): Transform | null {
  const { bbox, raster } = found.dataset;
  if (!bbox || !raster) return null;
  const [px, py] = raster.pixel;
  return placedBy(found, platform) ?? [bbox[0], px, 0, bbox[3], 0, -py];
}

/** Pixels that are made at once: a part of some rows. */
const PART_COLS = 512;
/** Rows of those parts; and samples of all rows of parts that are held at most. */
const MOST_ROWS = 256;
const MOST_HELD = 8_000_000;

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
  const platform = platformBelow(found.folder);
  const { group, table, bbox } = found.dataset;
  const back = transformer(crs, crsKey(found.dataset.crs)!)!;
  const opened = await openPixels(found.folder, group, table, platform);
  try {
    const whole = placeOf(found, platform)!;
    if (!opened) throw failed(found, 'its pixels are packed in a way that is not read here');
    if (opened.isReduced) throw failed(found, TOO_LARGE);
    // Tiles of a geodatabase reach beyond their content.
    const content = group.format === 'geopackage' ? contentIn(whole, bbox!, opened) : null;
    const pixels = content ? windowOf(opened, content) : opened;
    const source = { pixels, transform: content ? movedTo(whole, content) : whole };
    const { width, height, west, north, pixel } = plan.grid;
    const extent = [west, north - height * pixel, west + width * pixel, north] as const;
    const write = (samples: Samples): Promise<Sums> =>
      warp(source, back, plan, { width, height, extent, crs: geoTiffCrs(crs), samples, reduced: plan.reduced }, path, (done) =>
        onProgress({ done, of: width * height, unit: 'pixels', item: group.path }),
      );
    let samples = await samplesOf(pixels);
    let sums: Sums;
    for (;;)
      try {
        sums = await write(samples);
        break;
      } catch (error) {
        if (!(error instanceof NodataIsTaken)) throw error;
        samples = wider(samples);
      }
    if (opened.damaged) throw failed(found, `${opened.damaged} of its blocks are damaged. Copy it again from where it came from`);
    if (!(await isFoundIn(path, { ...samples, width, height, strips: sums.strips })))
      throw failed(found, 'read back, its pixels were not those that were computed. Nothing of it was kept');
    return { pixels: width * height, filled: sums.filled, losses: plan.losses };
  } finally {
    opened?.close();
    platform.close();
  }
}

const failed = ({ dataset }: FoundDataset, why: string): ProblemError =>
  new ProblemError({ code: 'failed', what: `Copying ${dataset.group.path}`, why });

const RANGES: Readonly<Partial<Record<SampleType, readonly [number, number]>>> = {
  u8: [0, 0xff],
  i8: [-0x80, 0x7f],
  u16: [0, 0xffff],
  i16: [-0x8000, 0x7fff],
  u32: [0, 0xffff_ffff],
  i32: [-0x8000_0000, 0x7fff_ffff],
};
const WIDER: Readonly<Partial<Record<SampleType, SampleType>>> = { i8: 'i16', u16: 'u32', i16: 'i32', u32: 'f64', i32: 'f64' };

/** What the copy's pixels are: as in the source, and something that says where there is none. */
async function samplesOf(pixels: PixelSource): Promise<Samples> {
  const plain = { bands: pixels.bands, shows: 'numbers', hasOpacity: false, isTogether: false } as const;
  const { type = 'f32', nodata = null, palette = null } = pixels.stored ?? {};
  const isColour = palette === null && (await pixels.colours(Int32Array.of(0), Int32Array.of(0), 1)) !== null;
  if (isColour) return { ...plain, type: 'u8', bands: 3, shows: 'red-green-blue', hasOpacity: true, nodata: null };
  const range = RANGES[type];
  if (!range) return { ...plain, type, nodata: NaN };
  const fits = nodata !== null && Number.isInteger(nodata) && nodata >= range[0] && nodata <= range[1];
  const shows = palette ? { palette } : 'numbers';
  if (fits) return { ...plain, type, shows, nodata };
  if (type === 'u8') return { ...plain, type, shows, hasOpacity: true, nodata: null };
  return { ...plain, type, nodata: unusedOf(type) };
}

/** A value that is rarely one; where it is, a wider kind of number is taken. */
const unusedOf = (type: SampleType): number => {
  const range = RANGES[type];
  return range ? (type.startsWith('i') ? range[0] : range[1]) : NaN;
};
class NodataIsTaken extends Error {}
const wider = (samples: Samples): Samples => {
  const type = WIDER[samples.type] ?? 'f64';
  return { ...samples, type, nodata: unusedOf(type) };
};

interface Source {
  readonly pixels: PixelSource;
  readonly transform: Transform;
}
interface Sums {
  /** CRC-32 of each strip of each plane. */
  readonly strips: readonly (readonly number[])[];
  readonly filled: number;
}

async function warp(
  source: Source,
  back: Transformer,
  { grid, resampling }: RasterCopyPlan,
  spec: GeoTiffSpec,
  path: string,
  onDone: (pixels: number) => void,
): Promise<Sums> {
  const { width, height } = grid;
  const { samples } = spec;
  const file = new GeoTiffFile(path, spec);
  const levels = new GeoTiffLevels(file, spec, resampling === 'nearest' ? 'first' : 'mean');
  const planes = samples.bands + (samples.hasOpacity ? 1 : 0);
  const atOnce = Math.max(SMALLEST_PART, Math.min(MOST_ROWS, Math.floor(MOST_HELD / (width * planes))));
  const isColour = samples.shows === 'red-green-blue';
  const job: Warp = {
    source,
    back,
    grid,
    resampling,
    step: stepOf(grid, back, source),
    isColour,
  };
  // The same memory for all rows: what is thrown away that often takes longer to collect than to compute.
  const room = Array.from({ length: planes }, () => new Float64Array(width * atOnce));
  const stored = room.map(() => numbersFor(samples.type, width * atOnce));
  let filled = 0;
  try {
    for (let row = 0; row < height; row += atOnce) {
      const rows = Math.min(atOnce, height - row);
      const made: Made = { row, width, planes: room.map((plane) => plane.subarray(0, width * rows).fill(NaN)) };
      for (let col = 0; col < width; col += PART_COLS) {
        const box = { col, row, width: Math.min(PART_COLS, width - col), height: rows };
        await makePart(job, box, made);
        onDone(row * width + (col + box.width) * rows);
      }
      filled += filledIn(made.planes[0]!);
      const isTaken = samples.nodata !== source.pixels.stored?.nodata ? 'refused' : 'moved';
      const held = made.planes.map((plane, k) => asStored(plane, stored[k]!.subarray(0, plane.length), samples, isTaken));
      if (samples.hasOpacity && !isColour) putOpacity(made.planes[0]!, held[samples.bands]!);
      await levels.add(held, rows);
    }
    await levels.finish();
    await file.finish();
  } catch (error) {
    await file.abandon();
    throw error;
  }
  return { strips: levels.sums, filled };
}

function filledIn(plane: Float64Array): number {
  let filled = 0;
  for (let i = 0; i < plane.length; i++) if (!Number.isNaN(plane[i])) filled++;
  return filled;
}

function putOpacity(plane: Float64Array, out: Numbers): void {
  for (let i = 0; i < plane.length; i++) out[i] = Number.isNaN(plane[i]) ? 0 : 255;
}

interface Warp {
  readonly source: Source;
  readonly back: Transformer;
  readonly grid: RasterGrid;
  readonly resampling: Resampling;
  /** Pixels of the source that one of the copy stands for. */
  readonly step: Step;
  readonly isColour: boolean;
}
/** Rows of the copy from `row` on: a plane for each sample, NaN where there is nothing. */
interface Made {
  readonly row: number;
  readonly width: number;
  readonly planes: readonly Float64Array[];
}

/** Pixels of the source that are read at once: where a part is torn far apart, it is made in smaller ones. */
const MOST_READ = 6_000_000;
const SMALLEST_PART = 16;

async function makePart(job: Warp, box: PixelWindow, made: Made): Promise<void> {
  const { source, back, grid, resampling, step, isColour } = job;
  const { pixels } = source;
  const places = placesIn(grid, box, back, source.transform);
  const window = windowFor(places.box, pixels, reachOf(resampling, step));
  if (!window) return;
  if (window.width * window.height > MOST_READ && Math.max(box.width, box.height) > SMALLEST_PART) {
    for (const half of halvesOf(box)) await makePart(job, half, made);
    return;
  }
  const put = (values: Float64Array, plane: Float64Array, way = resampling): void => {
    const first = (box.row - made.row) * made.width + box.col;
    interpolate({ box: window, values }, places, way, step, { values: plane, first, width: box.width, stride: made.width });
  };
  if (!isColour) {
    for (let k = 0; k < pixels.bands; k++) put((await readWindow(pixels, k, window))!, made.planes[k]!);
    return;
  }
  const colours = (await readColours(pixels, window))!;
  const channel = new Float64Array(colours.length / 4);
  let isPartly = false;
  for (let i = 3; i < colours.length; i += 4) isPartly ||= colours[i] !== 0 && colours[i] !== 255;
  for (let k = 0; k < 4; k++) {
    for (let i = 0; i < channel.length; i++) channel[i] = colours[i * 4 + 3] === 0 ? NaN : colours[i * 4 + k]!;
    put(channel, made.planes[k]!, k === 3 && !isPartly ? 'nearest' : resampling);
  }
}

function halvesOf({ col, row, width, height }: PixelWindow): readonly PixelWindow[] {
  const [left, top] = [Math.ceil(width / 2), Math.ceil(height / 2)];
  return width >= height
    ? [
        { col, row, width: left, height },
        { col: col + left, row, width: width - left, height },
      ]
    : [
        { col, row, width, height: top },
        { col, row: row + top, width, height: height - top },
      ];
}

/** Spots along each side of a grid where the sizes of pixels are compared. */
const COMPARED = 5;

function stepOf(grid: RasterGrid, back: Transformer, { transform }: Source): Step {
  const steps: Step[] = [];
  for (let i = 0; i < COMPARED * COMPARED; i++) {
    const [x, y] = [((i % COMPARED) + 0.5) / COMPARED, (Math.floor(i / COMPARED) + 0.5) / COMPARED];
    const box = { col: Math.floor(grid.width * x), row: Math.floor(grid.height * y), width: 2, height: 2 };
    const { cols, rows } = placesIn(grid, box, back, transform);
    const along = (of: Float64Array): number => Math.hypot(of[1]! - of[0]!, of[2]! - of[0]!);
    if (!Number.isNaN(along(cols))) steps.push([along(cols), along(rows)]);
  }
  const middle = (k: 0 | 1): number => steps.map((s) => s[k]).sort((a, b) => a - b)[steps.length >> 1] ?? 1;
  return [middle(0), middle(1)];
}

/**
 * Numbers as the file has them: whole ones are rounded, and stay in the range of their kind.
 * @param isTaken what happens to a value that is the one for 'none': it is moved by one (common practice of several programs), or refused
 */
function asStored(plane: Float64Array, out: Numbers, { type, nodata }: Samples, isTaken: 'moved' | 'refused'): Numbers {
  const range = RANGES[type];
  if (!range) {
    out.set(plane);
    return out;
  }
  const [least, most] = range;
  const none = nodata ?? 0;
  for (let i = 0; i < plane.length; i++) {
    const value = plane[i]!;
    if (Number.isNaN(value)) {
      out[i] = none;
      continue;
    }
    const whole = value <= least ? least : value >= most ? most : Math.round(value);
    if (whole !== nodata) out[i] = whole;
    else if (isTaken === 'refused') throw new NodataIsTaken();
    else out[i] = whole === most ? whole - 1 : whole + 1;
  }
  return out;
}
