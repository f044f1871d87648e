import sharp from 'sharp';
import { toDegrees, type Features } from '../shapes.js';
import type { Collection } from './collections.js';

export type Box = readonly [number, number, number, number];

/** CRSs in which pictures are drawn, x east and y north. */
export const PICTURE_CRS = ['EPSG:3857', 'EPSG:4326', 'CRS:84', 'EPSG:32624'] as const;

const EARTH = 6_378_137;
const mercator = ([lon, lat]: readonly [number, number]): readonly [number, number] => [
  (EARTH * lon * Math.PI) / 180,
  EARTH * Math.log(Math.tan(Math.PI / 4 + (lat * Math.PI) / 360)),
];

function shapesIn(c: Collection, crs: string): Features['shapes'] {
  if (crs === 'EPSG:32624') return c.metres.shapes;
  const { shapes } = toDegrees(c.metres);
  return crs === 'EPSG:3857' ? shapes.map((s) => s.map((part) => part.map(mercator))) : shapes;
}

/** A picture of collections, the last on top, with nothing behind. @param box x before y */
export async function drawPicture(
  collections: readonly Collection[],
  crs: string,
  box: Box,
  width: number,
  height: number,
): Promise<Buffer> {
  const [w, s, e, n] = box;
  const at = ([x, y]: readonly [number, number]): string =>
    `${(((x - w) / (e - w)) * width).toFixed(1)},${(((n - y) / (n - s)) * height).toFixed(1)}`;
  const drawn = collections.map((c) => {
    const marks = shapesIn(c, crs).map((shape) => {
      if (c.metres.kind === 'point') {
        const [x, y] = at(shape[0]![0]!).split(',');
        return `<circle cx="${x}" cy="${y}" r="4.5" fill="${c.colour}" stroke="#fff" stroke-width="1.2"/>`;
      }
      const d = shape.map((part) => `M${part.map(at).join('L')}${c.metres.kind === 'area' ? 'Z' : ''}`).join('');
      return c.metres.kind === 'area'
        ? `<path d="${d}" fill="${c.colour}" fill-opacity="0.45" stroke="${c.colour}" stroke-width="1.2"/>`
        : `<path d="${d}" fill="none" stroke="${c.colour}" stroke-width="1.8"/>`;
    });
    return marks.join('');
  });
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${drawn.join('')}</svg>`;
  return sharp(Buffer.from(svg)).png().toBuffer();
}
