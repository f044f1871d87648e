import { between, pick, type Random } from './random.js';

type Position = readonly [number, number];
type Row = readonly (string | number | boolean | null)[];
export interface Features {
  readonly kind: 'point' | 'line' | 'area';
  readonly shapes: readonly (readonly (readonly Position[])[])[];
  readonly fields: readonly { readonly name: string; readonly type: 'text' | 'integer' | 'real' }[];
  readonly rows: readonly Row[];
}

/** The bay, in metres of UTM zone 24N: open ocean, where no land contradicts it. */
export const BAY = { minx: 478_000, miny: 4_868_000, maxx: 487_000, maxy: 4_874_000 } as const;

const inBay = (random: Random): Position => [between(random, BAY.minx, BAY.maxx), between(random, BAY.miny, BAY.maxy)];
const SURVEYS = ['spring', 'summer', 'autumn'] as const;
const SPECIES = ['Zostera', 'Ruppia', 'mixed', 'bare'] as const;

/** A ring, clockwise as shapefiles want their outer rings, closed. */
function blob(random: Random, [x, y]: Position, radius: number): Position[] {
  const corners = 9 + Math.floor(random() * 8);
  const ring: Position[] = [];
  for (let i = 0; i < corners; i++) {
    const angle = -(i / corners) * 2 * Math.PI;
    const r = radius * between(random, 0.65, 1.2);
    ring.push([round(x + Math.cos(angle) * r), round(y + Math.sin(angle) * r)]);
  }
  return [...ring, ring[0]!];
}
const round = (v: number): number => Math.round(v * 100) / 100;

export function areas(random: Random, count: number, radius: number, name: string): Features {
  const shapes = Array.from({ length: count }, () => [blob(random, inBay(random), between(random, radius * 0.4, radius))]);
  return {
    kind: 'area',
    shapes,
    fields: [
      { name: 'id', type: 'integer' },
      { name: name, type: 'text' },
      { name: 'species', type: 'text' },
      { name: 'cover_pct', type: 'real' },
      { name: 'survey', type: 'text' },
    ],
    rows: shapes.map((_, i) => [
      i + 1,
      `${name.replace(/_.*/, '')} ${i + 1}`,
      pick(random, SPECIES),
      Math.round(between(random, 5, 95) * 10) / 10,
      pick(random, SURVEYS),
    ]),
  };
}

export function lines(random: Random, count: number, name: string): Features {
  const shapes = Array.from({ length: count }, () => {
    let [x, y] = inBay(random);
    const heading = between(random, 0, Math.PI * 2);
    const line: Position[] = [];
    for (let i = 0; i < 8; i++) {
      line.push([round(x), round(y)]);
      x += Math.cos(heading + between(random, -0.5, 0.5)) * 240;
      y += Math.sin(heading + between(random, -0.5, 0.5)) * 240;
    }
    return [line];
  });
  return {
    kind: 'line',
    shapes,
    fields: [
      { name: 'id', type: 'integer' },
      { name: name, type: 'text' },
      { name: 'depth_m', type: 'real' },
    ],
    rows: shapes.map((_, i) => [i + 1, `${name.replace(/_.*/, '')} ${i + 1}`, Math.round(between(random, 1, 40) * 10) / 10]),
  };
}

export function points(random: Random, count: number, name: string): Features {
  const shapes = Array.from({ length: count }, () => {
    const [x, y] = inBay(random);
    return [[[round(x), round(y)] as const]];
  });
  return {
    kind: 'point',
    shapes,
    fields: [
      { name: 'id', type: 'integer' },
      { name: name, type: 'text' },
      { name: 'depth_m', type: 'real' },
      { name: 'fixed_on', type: 'text' },
    ],
    rows: shapes.map((_, i) => [
      i + 1,
      `${name.slice(0, 1).toUpperCase()}${i + 1}`,
      Math.round(between(random, 0, 25) * 10) / 10,
      `2025-0${1 + Math.floor(random() * 9)}-1${Math.floor(random() * 9)}`,
    ]),
  };
}

/** Roughly to longitude and latitude: the demo needs the right place on Earth, not survey grade. */
export function toDegrees(f: Features): Features {
  const lat0 = 44;
  const lon0 = -39.2;
  const kx = 111_320 * Math.cos((lat0 * Math.PI) / 180);
  const convert = ([x, y]: Position): Position => [lon0 + (x - 482_500) / kx, lat0 + (y - 4_871_000) / 111_130];
  return { ...f, shapes: f.shapes.map((s) => s.map((part) => part.map(convert))) };
}
