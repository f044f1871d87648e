import geographiclib from 'geographiclib-geodesic';

/** How the Earth is taken: semi-major axis in metres, and flattening (0: a sphere). */
export interface Spheroid {
  readonly a: number;
  readonly f: number;
}
export interface GroundMeasure {
  /** Metres: of the line, or all around an area. */
  readonly length: number;
  /** Square metres; of a line 0. */
  readonly area: number;
  /** Metres of each leg, in order; of an area the last one leads back. */
  readonly legs: readonly number[];
}

/**
 * Length of a line, or length around and size of an area, on an ellipsoid: corners are joined by the shortest lines on it
 * (C. F. F. Karney, Algorithms for geodesics, Journal of Geodesy 87, 2013, through the author's library). An area is taken as
 * positive whichever way round it is drawn; one that crosses itself counts the parts against one another.
 * @param points degrees east and north, latitude within 90
 */
export function measureGround(points: readonly (readonly [number, number])[], { a, f }: Spheroid, isArea: boolean): GroundMeasure {
  const earth = new geographiclib.Geodesic.Geodesic(a, f);
  const legs = points.flatMap(([longitude, latitude], i) => {
    const next = points[i + 1] ?? (isArea ? points[0] : undefined);
    return next ? [earth.Inverse(latitude, longitude, next[1], next[0]).s12 ?? NaN] : [];
  });
  if (!isArea) return { length: sum(legs), area: 0, legs };
  const polygon = earth.Polygon(false);
  for (const [longitude, latitude] of points) polygon.AddPoint(latitude, longitude);
  return { length: sum(legs), area: Math.abs(polygon.Compute(false, true).area ?? NaN), legs };
}

const sum = (numbers: readonly number[]): number => numbers.reduce((all, n) => all + n, 0);
