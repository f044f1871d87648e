import { contours } from 'd3-contour';
import { BAY, heightsOf, type Position } from './terrain.js';

const PIXEL = 30;
const [WIDTH, HEIGHT] = [(BAY.maxx - BAY.minx) / PIXEL, (BAY.maxy - BAY.miny) / PIXEL];
const round = (v: number): number => Math.round(v * 100) / 100;
const onGround = ([col, row]: readonly number[]): Position => [round(BAY.minx + col! * PIXEL), round(BAY.maxy - row! * PIXEL)];

let ground: number[] | null = null;
/** Rings around the ground above a height, in pixels of the raster that they are drawn from. */
function ringsAbove(height: number): number[][][][] {
  ground ??= [...heightsOf(WIDTH, HEIGHT, PIXEL)];
  return contours().size([WIDTH, HEIGHT]).contour(ground, height).coordinates;
}

/** Outlines of the land: the mainland and each island, outer ring first, clockwise as shapefiles want it. The largest come first. */
export function land(): Position[][][] {
  return ringsAbove(0)
    .map((rings) => rings.map((ring) => [...ring.map(onGround)].reverse()))
    .sort((a, b) => b[0]!.length - a[0]!.length);
}

/** Lines of one height, cut where the bay ends. The longest come first. */
export function isolines(height: number): Position[][] {
  const isEdge = ([col, row]: readonly number[]): boolean => col! <= 0.5 || row! <= 0.5 || col! >= WIDTH - 0.5 || row! >= HEIGHT - 0.5;
  const lines: Position[][] = [];
  for (const ring of ringsAbove(height).flat()) {
    const from = ring.findIndex(isEdge);
    const turned = from < 0 ? ring : [...ring.slice(from, -1), ...ring.slice(0, from + 1)];
    let line: Position[] = [];
    for (const spot of turned) {
      if (!isEdge(spot)) line.push(onGround(spot));
      else if (line.length > 0) {
        lines.push(line);
        line = [];
      }
    }
    if (line.length > 0) lines.push(line);
  }
  return lines.filter((line) => line.length > 3).sort((a, b) => b.length - a.length);
}
