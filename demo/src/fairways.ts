import { BAY, depthAt, type Position } from './terrain.js';

const PIXEL = 60;
const [WIDTH, HEIGHT] = [(BAY.maxx - BAY.minx) / PIXEL, (BAY.maxy - BAY.miny) / PIXEL];
const at = (i: number): Position => [BAY.minx + ((i % WIDTH) + 0.5) * PIXEL, BAY.miny + (Math.floor(i / WIDTH) + 0.5) * PIXEL];
const cell = ([x, y]: Position): number => Math.floor((y - BAY.miny) / PIXEL) * WIDTH + Math.floor((x - BAY.minx) / PIXEL);

/** The way for a ship from one position to another that costs least, where shallow water is dear and land cannot be crossed (Dijkstra, 1959). */
export function fairway(from: Position, to: Position): Position[] {
  const cost = Float64Array.from({ length: WIDTH * HEIGHT }, (_, i) => {
    const depth = depthAt(at(i));
    return depth < 2 ? Infinity : 1 + (20 / depth) ** 3;
  });
  const best = new Float64Array(cost.length).fill(Infinity);
  const before = new Int32Array(cost.length).fill(-1);
  const open = new Set([cell(from)]);
  const end = cell(to);
  best[cell(from)] = 0;
  while (open.size > 0) {
    let i = -1;
    for (const k of open) if (i < 0 || best[k]! < best[i]!) i = k;
    open.delete(i);
    if (i === end) break;
    const [col, row] = [i % WIDTH, Math.floor(i / WIDTH)];
    for (let dy = -1; dy <= 1; dy++)
      for (let dx = -1; dx <= 1; dx++) {
        const [c, r] = [col + dx, row + dy];
        if ((dx === 0 && dy === 0) || c < 0 || r < 0 || c >= WIDTH || r >= HEIGHT) continue;
        const next = r * WIDTH + c;
        const sum = best[i]! + Math.hypot(dx, dy) * cost[next]!;
        if (sum >= best[next]!) continue;
        best[next] = sum;
        before[next] = i;
        open.add(next);
      }
  }
  const way: Position[] = [];
  for (let i = end; i >= 0; i = before[i]!) way.push(at(i));
  return smoothed(way.reverse().filter((_, i, all) => i % 4 === 0 || i === all.length - 1));
}

/** Corners cut twice (Chaikin, 1974). */
function smoothed(line: readonly Position[]): Position[] {
  let out = [...line];
  for (let k = 0; k < 2; k++)
    out = [
      out[0]!,
      ...out.slice(1).flatMap(([bx, by], i): Position[] => {
        const [ax, ay] = out[i]!;
        return [
          [ax * 0.75 + bx * 0.25, ay * 0.75 + by * 0.25],
          [ax * 0.25 + bx * 0.75, ay * 0.25 + by * 0.75],
        ];
      }),
      out.at(-1)!,
    ];
  return out.map(([x, y]) => [Math.round(x * 100) / 100, Math.round(y * 100) / 100]);
}
