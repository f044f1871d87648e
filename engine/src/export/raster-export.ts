import { extentOf, ProblemError, type Loss, type OnProgress, type ThreeBands } from '@rootmap/core';
import type { ExportDone, RasterCheck } from '@rootmap/core/contract';
import { ownEyes } from '../geodatabase/compare-raster.js';
import { eyesOfComposite, eyesOfTiff, secondEyes, type SecondEyes } from '../geodatabase/second-eyes.js';
import { northUp } from '../pixels/north-up.js';
import { compositeLosses, compositeOf, type Level } from '../pixels/composite.js';
import { maskLost } from '../pixels/masked.js';
import { oneBand } from '../pixels/one-band.js';
import { arePixelsRead, openPixels } from '../pixels/open-pixels.js';
import { readColours, readWindow, type PixelSource } from '../pixels/pixel-source.js';
import { contentIn, movedTo } from '../pixels/content-window.js';
import { windowOf } from '../pixels/window-of.js';
import { tiffPixels } from '../pixels/tiff-pixels.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { isTurned } from '../project/is-turned.js';
import { placedBy } from '../project/placed-by.js';
import { platformBelow, type NodePlatform } from '../survey/platform.js';
import { dirname } from '../disk/native-path.js';
import { COLOURS, GeoTiffFile, geoTiffCrs, rowsOfStrip, type GeoTiffSpec, type Samples } from './geotiff-file.js';

/** What can be said of a raster before it is written. */
export interface RasterPlan {
  /** Bands of numbers that there are to choose from; 0: it has colours only. */
  readonly bands: number;
  readonly crs: string | null;
  readonly losses: readonly Loss[];
  readonly why: string | null;
}

/** What of a raster is wanted. */
export interface RasterChoice {
  /** From 1; empty: all of them, or the colours where it shows colours. */
  readonly bands: readonly number[];
  /** Bands that become a picture. */
  readonly composite: ThreeBands | null;
}

export function planRaster(found: FoundDataset, { bands: chosen, composite }: RasterChoice): RasterPlan {
  const platform = platformBelow(found.folder);
  try {
    const { dataset } = found;
    const tiff = dataset.group.format === 'geotiff' ? tiffPixels(dataset.group, platform) : null;
    const bands = tiff?.bands ?? (dataset.group.format === 'image' ? 0 : 1);
    const wrong = (composite ?? chosen).find((b) => b > bands);
    const code = geoTiffCrs(found.dataset.crs?.code ?? null);
    const why =
      dataset.state === 'unreadable'
        ? 'it cannot be read'
        : !dataset.bbox || !dataset.raster
          ? 'it does not say where on Earth it lies'
          : !arePixelsRead(dataset.group, platform)
            ? 'its pixels are packed in a way that is not read here'
            : wrong !== undefined
              ? `it has ${bands} bands of numbers, and no ${wrong}`
              : dataset.crs !== null && code === null
                ? 'its CRS has no registered code, and codes are what a GeoTIFF is written with here'
                : isTurned(dataset)
                  ? 'it is turned: what is written here has north up'
                  : null;
    const losses: Loss[] =
      dataset.crs === null ? [{ code: 'position', what: 'nobody knows its CRS, and the file says none', count: null }] : [];
    const left = composite
      ? compositeLosses(bands, composite, tiff?.isBytes ?? false, null)
      : chosen.length > 0
        ? []
        : (tiff?.leftOut ?? maskLost(dataset.group, dataset.raster, platform));
    return { bands, crs: dataset.crs?.code ?? null, losses: [...losses, ...left], why };
  } finally {
    platform.close();
  }
}

/** A number that 32 bits do not hold was met. */
class NeedsMoreBits extends Error {}

/**
 * Writes the pixels of a raster as a GeoTIFF, and holds what another reader finds in it against what another reader finds in the
 * source, pixel by pixel. Numbers have 32 bits where those hold each of them, else 64.
 */
export async function writeRasterExport(
  found: FoundDataset,
  choice: RasterChoice,
  path: string,
  onProgress: OnProgress,
): Promise<Omit<ExportDone, 'path'>> {
  const platform = platformBelow(found.folder);
  const { group, table, bbox } = found.dataset;
  const opened = await openPixels(found.folder, group, table, platform);
  if (!opened || !bbox) throw failed(found, 'its pixels are packed in a way that is not read here');
  try {
    if (opened.isReduced) throw failed(found, 'it is too large to be read whole. Turn it into a GeoTIFF first, which is read in parts');
    const transform = placedBy(found, platform);
    const isFlipped = transform !== null && transform[5] > 0;
    // Tiles of a geodatabase reach beyond their content.
    const window = group.format === 'geopackage' && transform ? contentIn(transform, bbox, opened) : null;
    const upright = (pixels: PixelSource): PixelSource => (window ? windowOf(pixels, window) : isFlipped ? northUp(pixels) : pixels);
    const { bands: chosen } = choice;
    const composite = choice.composite && (await compositeOf(opened, choice.composite));
    const isColour = composite !== null || (chosen.length === 0 && (await opened.colours(Int32Array.of(0), Int32Array.of(0), 1)) !== null);
    const bands = isColour ? [] : chosen.length > 0 ? chosen : Array.from({ length: opened.bands }, (_, i) => i + 1);
    const sources = isColour ? [upright(composite?.pixels ?? opened)] : bands.map((b) => upright(oneBand(opened, b - 1)));
    const { width, height } = window ?? opened;
    const extent = window && transform ? extentOf(movedTo(transform, window), width, height) : bbox;
    const spec = { width, height, extent, crs: geoTiffCrs(found.dataset.crs?.code ?? null) } as const;
    const write = (samples: GeoTiffSpec['samples']) => writeAll({ ...spec, samples }, sources, path, group.path, onProgress);
    if (isColour) await write(COLOURS);
    else
      await write(numbersOf(bands.length, 'f32')).catch((error: unknown) => {
        if (!(error instanceof NeedsMoreBits)) throw error;
        return write(numbersOf(bands.length, 'f64'));
      });
    if (opened.damaged) throw failed(found, `${opened.damaged} of its blocks are damaged. Copy it again from where it came from`);
    const check = await checked(found, platform, path, {
      sources,
      bands,
      isColour,
      isFlipped,
      composite: choice.composite && composite ? { bands: choice.composite, levels: composite.levels } : null,
    });
    if (!check.isEqual) throw failed(found, 'read back, its pixels were not those of the source. Nothing of it was kept');
    const pixels = width * height * Math.max(1, bands.length);
    const planned = planRaster(found, choice).losses;
    const losses =
      choice.composite && composite
        ? [
            ...planned.filter((l) => l.code === 'position'),
            ...compositeLosses(opened.bands, choice.composite, opened.isBytes ?? false, composite.levels),
          ]
        : planned;
    return { unit: 'pixels', read: pixels, written: pixels, skipped: [], losses, check: { pixels: check.pixels, by: check.by } };
  } finally {
    opened.close();
    platform.close();
  }
}

const numbersOf = (bands: number, type: 'f32' | 'f64'): Samples => ({
  type,
  bands,
  shows: 'numbers',
  hasOpacity: false,
  isTogether: false,
  nodata: NaN,
});

const failed = ({ dataset }: FoundDataset, why: string): ProblemError =>
  new ProblemError({ code: 'failed', what: `Exporting ${dataset.group.path}`, why });

async function writeAll(
  spec: GeoTiffSpec,
  sources: readonly PixelSource[],
  path: string,
  item: string,
  onProgress: OnProgress,
): Promise<void> {
  const { width, height, samples } = spec;
  const file = new GeoTiffFile(path, spec);
  const strip = rowsOfStrip(width, samples);
  let index = 0;
  let done = 0;
  try {
    for (const pixels of sources)
      for (let row = 0; row < height; row += strip) {
        const box = { col: 0, row, width, height: Math.min(strip, height - row) };
        if (samples === COLOURS) {
          const colours = (await readColours(pixels, box))!;
          await file.put(0, index++, new Uint8Array(colours.buffer, colours.byteOffset, colours.byteLength));
        } else await file.put(0, index++, bytesOf((await readWindow(pixels, 0, box))!, samples.type === 'f64' ? 64 : 32));
        done += box.height * width;
        onProgress({ done, of: width * height * sources.length, unit: 'pixels', item });
      }
    await file.finish();
  } catch (error) {
    await file.abandon();
    throw error;
  }
}

function bytesOf(values: Float64Array, bits: 32 | 64): Uint8Array {
  if (bits === 64) return new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
  const short = Float32Array.from(values);
  for (let i = 0; i < values.length; i++) if (short[i] !== values[i] && !Number.isNaN(values[i])) throw new NeedsMoreBits();
  return new Uint8Array(short.buffer);
}

/** Pixels that are held against each other at once. */
const CHECKED_AT_ONCE = 1 << 18;
/** Numbers that a scale computes may differ in the last of their 53 bits, since one reader adds in another order. */
const LAST_BIT = 2 ** -50;

interface Written {
  readonly sources: readonly PixelSource[];
  readonly bands: readonly number[];
  readonly isColour: boolean;
  readonly isFlipped: boolean;
  readonly composite: { readonly bands: ThreeBands; readonly levels: readonly Level[] } | null;
}

async function checked(
  found: FoundDataset,
  platform: NodePlatform,
  path: string,
  of: Written,
): Promise<RasterCheck & { readonly isEqual: boolean }> {
  const written = platformBelow(dirname(path));
  try {
    let by: RasterCheck['by'] = 'another';
    let isEqual = true;
    let pixels = 0;
    for (const [i, source] of of.sources.entries()) {
      const band = of.isColour ? null : (of.bands[i] ?? null);
      const others = of.composite
        ? await eyesOfComposite(found, platform, of.composite.bands, of.composite.levels)
        : await secondEyes(found, platform, band);
      if (!others) by = 'own';
      const before: SecondEyes = others ?? ownEyes(source);
      const after = await eyesOfTiff(path, written, of.isColour ? null : i + 1);
      const { width, height } = before;
      const rows = Math.max(1, Math.floor(CHECKED_AT_ONCE / width));
      for (let row = 0; isEqual && row < height; row += rows) {
        const count = Math.min(rows, height - row);
        const isSouthFirst = others !== null && of.isFlipped;
        const was = await before.rows(isSouthFirst ? height - row - count : row, count);
        const is = await after.rows(row, count);
        isEqual = was !== null && is !== null && areAlike(was, is, width, isSouthFirst);
        pixels += width * count;
      }
    }
    return { pixels, isEqual, by };
  } finally {
    written.close();
  }
}

type Rows = NonNullable<Awaited<ReturnType<SecondEyes['rows']>>>;

/** @param isSouthFirst the rows of `was` begin in the south, those of `is` in the north */
export function areAlike(was: Rows, is: Rows, width: number, isSouthFirst: boolean): boolean {
  if ('values' in was !== 'values' in is) return false;
  const [a, b] =
    'values' in was && 'values' in is ? [was.values, is.values] : 'colours' in was && 'colours' in is ? [was.colours, is.colours] : [];
  if (!a || !b || a.length !== b.length) return false;
  const line = 'values' in was ? width : width * 4;
  const lines = a.length / line;
  for (let i = 0; i < b.length; i++) {
    const at = isSouthFirst ? (lines - 1 - Math.floor(i / line)) * line + (i % line) : i;
    const [x, y] = [a[at]!, b[i]!];
    if (x === y || (Number.isNaN(x) && Number.isNaN(y))) continue;
    if ('colours' in was && b[i - (i % 4) + 3] === 0 && a[at - (at % 4) + 3] === 0) continue; // nobody sees its colour
    if ('colours' in was || !(Math.abs(x - y) <= LAST_BIT * Math.abs(x))) return false;
  }
  return true;
}
