import { ProblemError, type Resampling, type Transform } from '@rootmap/core';
import { crsKey } from '../crs/definitions.js';
import { transformer, type Transformer } from '../crs/transformer.js';
import { planesOf, type Samples } from '../export/geotiff-file.js';
import { numbersFor, type Numbers } from '../export/numbers.js';
import { contentIn, movedTo } from '../pixels/content-window.js';
import { openPixels } from '../pixels/open-pixels.js';
import { readColours, readWindow, type PixelSource } from '../pixels/pixel-source.js';
import type { PixelWindow } from '../pixels/pixel-window.js';
import { interpolate, reachOf, windowFor, type Places, type Step } from '../pixels/resample.js';
import { windowOf } from '../pixels/window-of.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { placedBy } from '../project/placed-by.js';
import { platformBelow, type NodePlatform } from '../survey/platform.js';
import { newRoom, placesIn } from './places.js';
import type { RasterGrid } from './raster-grid.js';
import { NodataIsTaken, RANGES } from './raster-samples.js';
import { warpColours } from './warp-colours.js';

/** Where its pixels lie; null: nobody knows. */
export function placeOf(found: FoundDataset, platform: NodePlatform): Transform | null {
  const { bbox, raster } = found.dataset;
  if (!bbox || !raster) return null;
  const [px, py] = raster.pixel;
  return placedBy(found, platform) ?? [bbox[0], px, 0, bbox[3], 0, -py];
}

/** Pixels that are made at once: a part of some rows. */
const PART_COLS = 512;
/** Rows of those parts; and samples of all rows of parts that are held at most. */
const MOST_ROWS = 128;
const MOST_HELD = 4_000_000;

/** A raster whose pixels are read, in its own place. */
export interface OpenRaster {
  readonly pixels: PixelSource;
  readonly transform: Transform;
  /** Blocks that could not be unpacked so far. */
  readonly damaged: () => number;
  readonly close: () => void;
}

/** Opens the pixels of a raster; tiles of a geodatabase reach beyond their content. @returns why it cannot be, in words */
export async function openRaster(found: FoundDataset): Promise<OpenRaster | string> {
  const platform = platformBelow(found.folder);
  const { group, table, bbox } = found.dataset;
  const opened = await openPixels(found.folder, group, table, platform);
  const close = (): void => {
    opened?.close();
    platform.close();
  };
  const whole = placeOf(found, platform);
  if (!opened || !whole || opened.isReduced) {
    close();
    return opened?.isReduced ? TOO_LARGE : 'its pixels are packed in a way that is not read here';
  }
  const content = group.format === 'geopackage' ? contentIn(whole, bbox!, opened) : null;
  return {
    pixels: content ? windowOf(opened, content) : opened,
    transform: content ? movedTo(whole, content) : whole,
    damaged: () => opened.damaged ?? 0,
    close,
  };
}
export const TOO_LARGE = 'it is too large to be read whole. Turn it into a GeoTIFF first, which is read in parts';

/** What is to be computed; goes from thread to thread. */
export interface WarpOrder {
  readonly found: FoundDataset;
  readonly crs: string;
  readonly grid: RasterGrid;
  readonly resampling: Resampling;
  readonly samples: Samples;
}
/** Some rows of the copy as its file has them, a plane for each sample. */
export interface WarpedRows {
  readonly row: number;
  readonly rows: number;
  readonly planes: readonly Numbers[];
  /** Pixels that have a value, of the first band. */
  readonly filled: number;
  readonly damaged: number;
}

interface Job {
  readonly source: OpenRaster;
  readonly back: Transformer;
  readonly grid: RasterGrid;
  readonly resampling: Resampling;
  /** Pixels of the source that one of the copy stands for. */
  readonly step: Step;
  readonly isColour: boolean;
  /** For the places of a part. */
  readonly room: Places;
}

/** Rows that are made at once. */
export function rowsAtOnce({ grid, samples }: Pick<WarpOrder, 'grid' | 'samples'>): number {
  return Math.max(SMALLEST_PART, Math.min(MOST_ROWS, Math.floor(MOST_HELD / (grid.width * planesOf({ ...samples, isTogether: false })))));
}

/** Computes a raster in another CRS, some rows at a time. */
export class Warper {
  private readonly job: Job;
  /** The same memory for all rows: what is thrown away that often takes longer to collect than to compute. */
  private readonly numbers: readonly Float64Array[];
  private readonly atOnce: number;

  private constructor(
    private readonly order: WarpOrder,
    source: OpenRaster,
  ) {
    const { grid, samples, found, crs, resampling } = order;
    const back = transformer(crs, crsKey(found.dataset.crs)!)!;
    const isColour = samples.shows === 'red-green-blue';
    this.atOnce = rowsAtOnce(order);
    const room = newRoom({ width: PART_COLS, height: this.atOnce });
    this.job = { source, back, grid, resampling, step: stepOf(grid, back, source), isColour, room };
    this.numbers = isColour ? [] : Array.from({ length: this.planes }, () => new Float64Array(grid.width * this.atOnce));
  }
  static async open(order: WarpOrder): Promise<Warper> {
    const source = await openRaster(order.found);
    if (typeof source === 'string')
      throw new ProblemError({ code: 'failed', what: `Copying ${order.found.dataset.group.path}`, why: source });
    return new Warper(order, source);
  }

  private get planes(): number {
    const { bands, hasOpacity } = this.order.samples;
    return bands + (hasOpacity ? 1 : 0);
  }

  /** The rows from one on. Throws `NodataIsTaken`. @param room planes of rows that nobody needs any more */
  async rows(row: number, room: readonly Numbers[] = []): Promise<WarpedRows> {
    const { grid, samples } = this.order;
    const { source, isColour } = this.job;
    const { width } = grid;
    const rows = Math.min(this.atOnce, grid.height - row);
    const stored = Array.from({ length: this.planes }, (_, k) => room[k] ?? numbersFor(samples.type, width * this.atOnce));
    const made: Made = {
      row,
      width,
      numbers: this.numbers.map((plane) => plane.subarray(0, width * rows).fill(NaN)),
      colours: isColour ? stored.map((plane) => new Uint8ClampedArray(plane.buffer, 0, width * rows).fill(0)) : [],
    };
    for (let col = 0; col < width; col += PART_COLS)
      await makePart(this.job, { col, row, width: Math.min(PART_COLS, width - col), height: rows }, made);
    const isTaken = samples.nodata !== source.pixels.stored?.nodata ? 'refused' : 'moved';
    const held = stored.map((plane) => plane.subarray(0, width * rows));
    made.numbers.forEach((plane, k) => asStored(plane, held[k]!, samples, isTaken));
    if (samples.hasOpacity && !isColour) putOpacity(made.numbers[0]!, held[samples.bands]!);
    const filled = isColour ? shownIn(made.colours[3]!) : filledIn(made.numbers[0]!);
    return { row, rows, planes: held, filled, damaged: source.damaged() };
  }

  close(): void {
    this.job.source.close();
  }
}

function filledIn(plane: Float64Array): number {
  let filled = 0;
  for (let i = 0; i < plane.length; i++) if (!Number.isNaN(plane[i])) filled++;
  return filled;
}

/** Of opacities, those that are more than none. */
function shownIn(opacity: Uint8ClampedArray): number {
  let shown = 0;
  for (let i = 0; i < opacity.length; i++) if (opacity[i] !== 0) shown++;
  return shown;
}

function putOpacity(plane: Float64Array, out: Numbers): void {
  for (let i = 0; i < plane.length; i++) out[i] = Number.isNaN(plane[i]) ? 0 : 255;
}

/** Rows of the copy from `row` on: a plane for each band of numbers, NaN where there is nothing; or colours and opacity. */
interface Made {
  readonly row: number;
  readonly width: number;
  readonly numbers: readonly Float64Array[];
  readonly colours: readonly Uint8ClampedArray[];
}

/** Pixels of the source that are read at once: where a part is torn far apart, it is made in smaller ones. */
const MOST_READ = 6_000_000;
const SMALLEST_PART = 16;

/** What tells its inner loops where to put things is written out each time: an object that is spread has a shape of its own, and code that was made quick for another is thrown away. */
async function makePart(job: Job, box: PixelWindow, made: Made): Promise<void> {
  const { source, back, grid, resampling, step, isColour } = job;
  const { pixels } = source;
  const places = placesIn(grid, box, back, source.transform, job.room);
  const window = windowFor(places.box, pixels, reachOf(resampling, step));
  if (!window) return;
  if (window.width * window.height > MOST_READ && Math.max(box.width, box.height) > SMALLEST_PART) {
    for (const half of halvesOf(box)) await makePart(job, half, made);
    return;
  }
  const first = (box.row - made.row) * made.width + box.col;
  const { width } = box;
  const stride = made.width;
  if (isColour) {
    warpColours(window, (await readColours(pixels, window))!, places, resampling, step, { planes: made.colours, first, width, stride });
    return;
  }
  for (let k = 0; k < pixels.bands; k++) {
    const values = (await readWindow(pixels, k, window))!;
    interpolate({ box: window, values }, places, resampling, step, { values: made.numbers[k]!, first, width, stride });
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

function stepOf(grid: RasterGrid, back: Transformer, { transform }: OpenRaster): Step {
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
