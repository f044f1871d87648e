import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { ownEyes } from '../geodatabase/compare-raster.js';
import { secondEyes, type SeenRows } from '../geodatabase/second-eyes.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import { platformBelow } from '../survey/platform.js';
import { TestFolder } from '../../test/test-project.js';
import { tellAgreement } from '../../../core/test/agreement.js';
import { openPixels } from './open-pixels.js';
import type { PixelSource } from './pixel-source.js';

// Outside reference: rasters that Debian's GDAL (python3-gdal) writes and reads, every pixel of each (engine/test/matrix/rasters.py).

interface Made {
  readonly name: string;
  readonly isColour: boolean;
  readonly isLossy: boolean;
  /** NAME.small has its reduced picture, a quarter of its size. */
  readonly isReduced: boolean;
}
const [W, H] = [150, 110];
/** Levels of 256 by which JPEG decoders may differ (common practice, no source). */
const LOSSY_LEVELS = 3;

let t: TestFolder;
let index: readonly Made[];
beforeAll(() => {
  t = new TestFolder();
  execFileSync('/usr/bin/python3', ['engine/test/matrix/rasters.py', t.at('.')], { stdio: 'ignore' });
  index = JSON.parse(readFileSync(t.at('index.json'), 'utf8')) as Made[];
});
afterAll(() => t.remove());

function theirs({ name, isColour }: Made): Float64Array | Uint8Array {
  const raw = new Uint8Array(readFileSync(t.at(name, `${name}.raw`)));
  return isColour ? raw : new Float64Array(raw.buffer);
}

/** Of numbers in 32 bits. */
const LAST_BIT = 2 ** -23;
// Globals are slow to look up in here, and this is asked for some million pixels.
const { isNaN: isNone } = Number;
const { abs: size } = Math;

/** Where a pixel differs first; null: none does. What is wholly transparent has no colour that counts. */
function difference(made: Made, seen: SeenRows, isExact: boolean): string | null {
  const expected = theirs(made);
  if ('colours' in seen !== made.isColour) return made.isColour ? 'numbers for colours' : 'colours for numbers';
  const found = 'colours' in seen ? seen.colours : seen.values;
  const most = made.isLossy ? LOSSY_LEVELS : 0;
  for (let i = 0; i < expected.length; i++) {
    const a = expected[i]!;
    const b = found[i]!;
    if (a === b) continue;
    if (made.isColour && expected[i - (i % 4) + 3] === 0 && found[i - (i % 4) + 3] === 0) continue;
    const isSame = isNone(a) || isNone(b) ? isNone(a) === isNone(b) : size(a - b) <= most;
    if (!isSame && !(!isExact && size(a - b) <= size(a) * LAST_BIT)) return `${i}: ${b} for ${a}`;
  }
  return null;
}

const cols = Int32Array.from({ length: W * H }, (_, i) => i % W);
const rows = Int32Array.from({ length: W * H }, (_, i) => Math.floor(i / W));

async function asValues(pixels: PixelSource): Promise<SeenRows> {
  const colours = await pixels.colours(cols, rows, 1);
  return colours ? { colours: Uint8Array.from(colours) } : { values: (await pixels.values(cols, rows, 1))! };
}

/** Every fourth pixel, as a picture that is drawn smaller asks for them. */
async function asReduced(pixels: PixelSource): Promise<Float64Array> {
  const [w, h] = [Math.ceil(W / 4), Math.ceil(H / 4)];
  const at = (i: number, size: number, all: number): number => Math.min(all - 1, Math.floor(((i + 0.5) * all) / size));
  const c = Int32Array.from({ length: w * h }, (_, i) => at(i % w, w, W));
  const r = Int32Array.from({ length: w * h }, (_, i) => at(Math.floor(i / w), h, H));
  return (await pixels.values(c, r, 4))!;
}

test('every pixel of every kind of TIFF is right, by three ways of reading, or the raster is refused', async () => {
  const refused: string[] = [];
  const wrong: string[] = [];
  const reduced: [string, Float64Array, Float64Array][] = [];
  const seen = { right: 0, byOthers: 0 };
  for (const made of index) {
    const folder = t.at(made.name);
    const path = t.at(made.name, `${made.name}.tif`);
    const platform = platformBelow(folder);
    const [found] = datasetsOfFile(path);
    const pixels = await openPixels(folder, found!.dataset.group, null, platform);
    if (!pixels) refused.push(made.name);
    else {
      const ways = {
        values: difference(made, await asValues(pixels), true),
        rows: difference(
          made,
          await ownEyes(pixels)
            .rows(0, H)
            .then((r) => r!),
          false,
        ),
      };
      for (const [way, why] of Object.entries(ways)) if (why !== null) wrong.push(`${made.name} by ${way}: ${why}`);
      if (!ways.values && !ways.rows) seen.right++;
      if (made.isReduced)
        reduced.push([
          made.name,
          await asReduced(pixels),
          new Float64Array(new Uint8Array(readFileSync(t.at(made.name, `${made.name}.small`))).buffer),
        ]);
      pixels.close();
    }
    const eyes = pixels && (await secondEyes(found!, platform));
    const theirRows = eyes && (await eyes.rows(0, H).catch(() => null));
    if (theirRows) {
      const why = difference(made, theirRows, true);
      if (why !== null) wrong.push(`${made.name} by others: ${why}`);
      else seen.byOthers++;
    }
    platform.close();
  }
  expect(wrong).toEqual([]);
  expect(reduced).toHaveLength(2);
  for (const [name, ours, others] of reduced) expect([name, ours]).toEqual([name, others]);
  // Lerc and the predictor of floating points with the highest byte first are written in ways that differ.
  expect(refused.filter((name) => !/_lzma_|^bits12$|_lerc.*_big$|_p3_.*_big$|^UInt32_lerc/.test(name))).toEqual([]);
  expect(seen.right).toBe(index.length - refused.length);
  expect(seen.byOthers).toBeGreaterThan(0.5 * index.length);
  tellAgreement(
    'TIFFs that GDAL writes: kinds of numbers, packings, layouts, masks, every pixel',
    seen.right,
    refused.length,
    index.length,
  );
}, 120_000);
