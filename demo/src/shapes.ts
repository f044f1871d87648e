import proj4 from 'proj4';
import { along, downhill, GRASS, patch, rounded, SEA, somewhere, spread, type Band } from './ground.js';
import { between, pick, type Random } from './random.js';
import { depthAt, type Position } from './terrain.js';

type Row = readonly (string | number | boolean | null)[];
export interface Features {
  readonly kind: 'point' | 'line' | 'area';
  readonly shapes: readonly (readonly (readonly Position[])[])[];
  readonly fields: readonly { readonly name: string; readonly type: 'text' | 'integer' | 'real' }[];
  readonly rows: readonly Row[];
}

const SURVEYS = ['spring', 'summer', 'autumn'] as const;
const SPECIES = ['Zostera', 'Ruppia', 'mixed', 'bare'] as const;
const tenth = (v: number): number => Math.round(v * 10) / 10;
const middleOf = (line: readonly Position[]): Position => along(line, 1)[0]!;

/** Records of areas, each of an outer ring and its holes; `name` is the field that tells them apart. */
export function areasOf(random: Random, shapes: readonly (readonly (readonly Position[])[])[], name: string): Features {
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
      tenth(between(random, 5, 95)),
      pick(random, SURVEYS),
    ]),
  };
}

/** Records of lines, with the depth of the water at their middle. */
export function linesOf(
  lines: readonly (readonly Position[])[],
  name: string,
  depth = (line: readonly Position[]) => depthAt(middleOf(line)),
): Features {
  return {
    kind: 'line',
    shapes: lines.map((line) => [line]),
    fields: [
      { name: 'id', type: 'integer' },
      { name: name, type: 'text' },
      { name: 'depth_m', type: 'real' },
    ],
    rows: lines.map((line, i) => [i + 1, `${name.replace(/_.*/, '')} ${i + 1}`, tenth(depth(line))]),
  };
}

/** Records of points, with the depth of the water and a day on which each was fixed. */
export function pointsOf(random: Random, spots: readonly Position[], name: string, nameOf?: (i: number) => string): Features {
  return {
    kind: 'point',
    shapes: spots.map((at) => [[rounded(at)]]),
    fields: [
      { name: 'id', type: 'integer' },
      { name: name, type: 'text' },
      { name: 'depth_m', type: 'real' },
      { name: 'fixed_on', type: 'text' },
    ],
    rows: spots.map((at, i) => [
      i + 1,
      nameOf?.(i) ?? `${name.slice(0, 1).toUpperCase()}${i + 1}`,
      tenth(depthAt(at)),
      `2025-0${1 + Math.floor(random() * 9)}-1${Math.floor(random() * 9)}`,
    ]),
  };
}

/** Patches on the sea bed, apart from one another while there is room. */
export function areas(random: Random, count: number, radius: number, name: string, band: Band = GRASS): Features {
  const middles = spread(count, radius * 1.6, () => somewhere(random, band));
  const rings = middles.map((at) => [patch(random, at, between(random, radius * 0.5, radius), band)]);
  return areasOf(random, rings, name);
}
/** Lines down the sea bed. */
export function lines(random: Random, count: number, name: string): Features {
  const from = spread(count, 500, () => somewhere(random, [1, 9]));
  return linesOf(
    from.map((at) => downhill(at, 45, 8)),
    name,
  );
}
export function points(random: Random, count: number, name: string, band: Band = SEA): Features {
  return pointsOf(
    random,
    Array.from({ length: count }, () => somewhere(random, band)),
    name,
  );
}

const UTM_24N = '+proj=utm +zone=24 +datum=WGS84 +units=m';
const into = (crs: string, digits: number) => {
  const { forward } = proj4(UTM_24N, crs);
  const rounded = (v: number): number => Math.round(v * 10 ** digits) / 10 ** digits;
  return (f: Features): Features => ({
    ...f,
    shapes: f.shapes.map((shape) =>
      shape.map((part) =>
        part.map((at): Position => {
          const { x, y } = forward({ x: at[0], y: at[1] });
          return [rounded(x), rounded(y)];
        }),
      ),
    ),
  });
};
/** Longitude and latitude of WGS 84. */
export const toDegrees = into('EPSG:4326', 7);
/** World Mercator, EPSG:3395. */
export const toMercator = into('+proj=merc +datum=WGS84 +units=m', 2);
