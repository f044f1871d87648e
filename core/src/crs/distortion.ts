/** How a projection distorts at one point. All are 1 where it is true. */
export interface Distortion {
  /** Scale along the meridian and along the parallel. */
  readonly h: number;
  readonly k: number;
  /** Largest and smallest scale in any direction: the axes of Tissot's ellipse. */
  readonly most: number;
  readonly least: number;
  readonly area: number;
}

export interface Ellipsoid {
  /** Semi-major axis in the units of the projection. */
  readonly a: number;
  /** Square of the eccentricity. */
  readonly e2: number;
}
const WGS84: Ellipsoid = { a: 6_378_137, e2: 0.006_694_379_990_141_316 };

/** Degrees east and north to x and y; null: the projection has no such point. */
export type Forward = (longitude: number, latitude: number) => readonly [number, number] | null;

const STEP = 1e-5;
const RADIANS = Math.PI / 180;

/**
 * Distortion at a point, from differences of the projection itself: J. P. Snyder, Map Projections: A Working Manual, USGS
 * Professional Paper 1395 (1987), equations 4-2 to 4-13 for the ellipsoid.
 * @param longitude degrees east
 * @param latitude degrees north, not a pole
 */
export function distortionAt(forward: Forward, longitude: number, latitude: number, { a, e2 }: Ellipsoid = WGS84): Distortion | null {
  const points = [
    forward(longitude, latitude + STEP),
    forward(longitude, latitude - STEP),
    forward(longitude + STEP, latitude),
    forward(longitude - STEP, latitude),
  ];
  const [north, south, east, west] = points;
  if (!north || !south || !east || !west) return null;
  const d = 2 * STEP * RADIANS;
  const [xPhi, yPhi] = [(north[0] - south[0]) / d, (north[1] - south[1]) / d];
  const [xLambda, yLambda] = [(east[0] - west[0]) / d, (east[1] - west[1]) / d];
  const phi = latitude * RADIANS;
  const w = Math.sqrt(1 - e2 * Math.sin(phi) ** 2);
  const meridian = (a * (1 - e2)) / w ** 3;
  const parallel = (a / w) * Math.cos(phi);
  const h = Math.hypot(xPhi, yPhi) / meridian;
  const k = Math.hypot(xLambda, yLambda) / parallel;
  const area = Math.abs(yPhi * xLambda - xPhi * yLambda) / (meridian * parallel);
  const sum = Math.sqrt(Math.max(0, h * h + k * k + 2 * area));
  const difference = Math.sqrt(Math.max(0, h * h + k * k - 2 * area));
  return { h, k, most: (sum + difference) / 2, least: (sum - difference) / 2, area };
}

/** West, south, east, north in degrees. */
export type DegreeBox = readonly [number, number, number, number];
const ACROSS = 5;

/**
 * The worst over an extent, at points of a raster that takes in its edges: how far lengths and areas are from the truth, in
 * parts per thousand. Null: some of it has no place in the projection.
 */
export function worstOver(forward: Forward, [west, south, east, north]: DegreeBox): { length: number; area: number } | null {
  let [length, area] = [0, 0];
  for (let i = 0; i < ACROSS; i++)
    for (let j = 0; j < ACROSS; j++) {
      const latitude = Math.max(-89.9, Math.min(89.9, south + (j / (ACROSS - 1)) * (north - south)));
      const at = distortionAt(forward, west + (i / (ACROSS - 1)) * (east - west), latitude);
      if (!at) return null;
      length = Math.max(length, Math.abs(at.most - 1), Math.abs(at.least - 1));
      area = Math.max(area, Math.abs(at.area - 1));
    }
  return { length: length * 1000, area: area * 1000 };
}

/** Width of a pixel on a screen as scales reckon it, metres: OGC 05-077r4 (Symbology Encoding), 10.2. */
export const PIXEL_METRES = 0.00028;

/**
 * 1:n on the ground at a point of a map.
 * @param resolution units of the CRS a pixel
 * @param unitMetres metres of one unit of the CRS on the map's plane
 * @param k scale of the projection there, along the bar (east and west)
 */
export const scaleOf = (resolution: number, unitMetres: number, k: number): number => (resolution * unitMetres) / k / PIXEL_METRES;
/** The other way: units of the CRS a pixel, at 1:n. */
export const resolutionOf = (scale: number, unitMetres: number, k: number): number => (scale * PIXEL_METRES * k) / unitMetres;

/** The longest round length (1, 2 or 5 times a power of ten) that is no longer than `most`. Metres. */
export function roundLength(most: number): number {
  const power = 10 ** Math.floor(Math.log10(most));
  return [5, 2, 1].map((n) => n * power).find((n) => n <= most * (1 + 1e-9)) ?? power;
}
