import { seeded, type Random } from './random.js';
import { BAY, gradientAt, heightAt, heightsOf, type Position } from './terrain.js';
import type { Image } from './write-geotiff.js';

const NONE = -9999;
const place = { epsg: 32624, left: BAY.minx, top: BAY.maxy } as const;
const hundredth = (v: number): number => Math.round(v * 100) / 100;

/** Heights above chart datum, below zero where there is water; one corner was not surveyed. */
export function depthModel(): Image {
  const [width, height, pixel] = [450, 300, 20];
  const values = heightsOf(width, height, pixel).map((v, i) => {
    const [col, row] = [i % width, Math.floor(i / width)];
    return col > width * 0.88 && row < height * 0.1 ? NONE : hundredth(v);
  });
  return { ...place, width, height, pixel, values, nodata: NONE };
}

/** How much of the bottom grass covers around each place, in per cent; nothing on land. */
export function bedDensity(beds: readonly { readonly at: Position; readonly radius: number }[]): Image {
  const [width, height, pixel] = [90, 60, 100];
  const values = heightsOf(width, height, pixel).map((ground, i) => {
    if (ground > 0) return NONE;
    const [x, y] = [BAY.minx + ((i % width) + 0.5) * pixel, BAY.maxy - (Math.floor(i / width) + 0.5) * pixel];
    const sum = beds.reduce((all, { at, radius }) => all + Math.exp(-(((x - at[0]) ** 2 + (y - at[1]) ** 2) / radius ** 2)), 0);
    return hundredth(Math.min(100, 80 * sum));
  });
  return { ...place, width, height, pixel, values, nodata: NONE };
}

/** Slope of the sea bed in degrees to a tenth, as an Esri ASCII grid; nothing on land. */
export function bottomSlope(): string {
  const [cols, rows, cell] = [90, 60, 100];
  const lines = Array.from({ length: rows }, (_, row) =>
    Array.from({ length: cols }, (__, col) => {
      const at: Position = [BAY.minx + (col + 0.5) * cell, BAY.maxy - (row + 0.5) * cell];
      if (heightAt(...at) > 0) return NONE;
      return Math.round(((Math.atan(Math.hypot(...gradientAt(at))) * 180) / Math.PI) * 10) / 10;
    }).join(' '),
  );
  const head = [`ncols ${cols}`, `nrows ${rows}`, `xllcorner ${BAY.minx}`, `yllcorner ${BAY.miny}`, `cellsize ${cell}`];
  return [...head, `NODATA_value ${NONE}`, ...lines, ''].join('\n');
}

/** Colours from the air: land by its height, sand and weed through the water, light from the north-west. */
export function pictureOf(random: Random, top: number): Image {
  const [width, height, pixel] = [640, 400, 10];
  const values = new Uint8Array(width * height * 3);
  const ground = heightsOf(width, height, pixel, BAY.minx, top);
  for (let i = 0; i < ground.length; i++) {
    const col = i % width;
    const z = ground[i]!;
    const across = ground[i + (col < width - 1 ? 1 : 0)]! - ground[i - (col > 0 ? 1 : 0)]!;
    const down = (ground[i + width] ?? z) - (ground[i - width] ?? z);
    const light = Math.max(0.55, Math.min(1.3, 1 + (across - down) / -18));
    const weed = z < -0.8 && z > -7 && Math.sin(col / 23 + Math.sin(i / width / 17) * 2) + Math.sin(i / width / 31) > 0.5 ? 26 : 0;
    const colours =
      z > 0 ? [116 + z * 0.7, 128 + z * 0.45, 92 + z * 0.5] : [78 + z * 2.1 - weed, 128 + z * 2.3 - weed * 0.7, 140 + z * 1.7 - weed];
    const grain = (random() - 0.5) * 8;
    colours.forEach((c, k) => (values[i * 3 + k] = Math.max(0, Math.min(255, c * (z > 0 ? light : 1) + grain))));
  }
  return { ...place, top, width, height, pixel, values };
}

/** Pixels along a side of the large relief. */
export const RELIEF_SIDE = 4000;
/**
 * Heights in centimetres as whole numbers, the bay and what is around it. The ground is computed at every eighth pixel and put between;
 * what a laser adds is grain.
 */
export function relief(side: number): Image {
  const pixel = 9000 / side;
  const coarse = side / 8 + 2;
  const top = (BAY.miny + BAY.maxy) / 2 + 4500;
  const ground = heightsOf(coarse, coarse, pixel * 8, BAY.minx - pixel * 8, top + pixel * 8);
  const random = seeded(20_191_120);
  const values = new Int16Array(side * side);
  for (let row = 0; row < side; row++) {
    const y = (row + 0.5) / 8 + 0.5;
    const [j, b] = [Math.floor(y), y - Math.floor(y)];
    for (let col = 0; col < side; col++) {
      const x = (col + 0.5) / 8 + 0.5;
      const i = Math.floor(x);
      const a = x - i;
      const at = j * coarse + i;
      const low = ground[at]! * (1 - a) + ground[at + 1]! * a;
      const high = ground[at + coarse]! * (1 - a) + ground[at + coarse + 1]! * a;
      values[row * side + col] = Math.round((low * (1 - b) + high * b) * 100 + random() * 12);
    }
  }
  return { ...place, top, width: side, height: side, pixel, values };
}
