import { onPaper, boxOfFrame, type Paper } from './vector-marks.js';
import { PIXEL_METRES } from '../crs/distortion.js';
import type { ShapesMark } from './page-model.js';
import type { Plane, Point } from './plane.js';
import type { DegreeBox } from './locator.js';

type Ring = readonly Point[];
/** Areas of land, each with its outer ring first, in degrees east and north. */
export type Land = readonly (readonly Ring[])[];

/** Land from the geometries of GeoJSON (RFC 7946, section 3.1); what is no area is left out. */
export const landOf = (geometries: readonly { readonly type: string; readonly coordinates?: unknown }[]): Land =>
  geometries.flatMap(({ type, coordinates }) =>
    type === 'MultiPolygon' ? (coordinates as Land) : type === 'Polygon' ? [coordinates as Land[number]] : [],
  );

export const LAND_COLOURS = { land: '#efe9da', shore: '#b8ab8a', outline: '#5d6864' };
/** 1:n; finer than this the outline of the land would be more wrong than a screen hides. */
export const FINEST_LAND = 400_000;
/** How far beyond the area of use of its CRS a map shows land, degrees: farther away a projection tears. */
const AROUND = 15;
const STEP = 2;

/**
 * Rings of the land in the plane of a map.
 * @param bounds the area of use of its CRS: west, south, east, north; west is greater than east across the antimeridian
 */
export function landRings(land: Land, plane: Pick<Plane, 'toPlane'>, [west, south, east, north]: DegreeBox): Point[][] {
  const isAcross = west > east;
  const box = [
    isAcross ? -180 : west - AROUND,
    Math.max(-88, south - AROUND),
    isAcross ? 180 : east + AROUND,
    Math.min(88, north + AROUND),
  ] as const;
  return land.flat().flatMap((ring) => {
    const projected = dense(clip(ring, box)).map((p) => plane.toPlane(p));
    return projected.length > 3 && projected.every((p) => p !== null) ? [projected] : [];
  });
}

/** The outline of the land as a mark of a page, below everything. */
export const landMark = (rings: readonly Ring[], paper: Paper): ShapesMark => ({
  kind: 'shapes',
  clip: paper.frame,
  isArea: true,
  runs: rings.map((ring) => ring.flatMap(([x, y]) => onPaper(paper, x, y))),
  path: null,
  fill: LAND_COLOURS.land,
  fillOpacity: 1,
  stroke: LAND_COLOURS.shore,
  strokeOpacity: 1,
  width: PIXEL_METRES * 1000,
  dash: null,
});

/** Outer rings of the land in a region, in degrees. */
export const landOfRegion =
  (land: Land) =>
  (region: DegreeBox): Ring[] =>
    land.map((area) => clip(area[0] ?? [], region)).filter((ring) => ring.length > 2);

/** The box of a page in degrees; null: it has no place on Earth. */
export function degreesOfPage(plane: Pick<Plane, 'toDegrees'>, paper: Paper): DegreeBox | null {
  const [west, south, east, north] = boxOfFrame(paper);
  const corners = [[west, south], [west, north], [east, south], [east, north]] as const; // prettier-ignore
  const spots = corners.flatMap((p) => {
    const spot = plane.toDegrees(p);
    return spot ? [spot] : [];
  });
  const [xs, ys] = [spots.map((p) => p[0]), spots.map((p) => p[1])];
  return spots.length === 0 ? null : [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

/** Sutherland and Hodgman (1974): the part of a ring inside a box. */
function clip(ring: Ring, [west, south, east, north]: DegreeBox): Point[] {
  const edges: readonly (readonly [isInside: (p: Point) => boolean, cut: (a: Point, b: Point) => Point])[] = [
    [(p) => p[0] >= west, (a, b) => at(a, b, (west - a[0]) / (b[0] - a[0]))],
    [(p) => p[0] <= east, (a, b) => at(a, b, (east - a[0]) / (b[0] - a[0]))],
    [(p) => p[1] >= south, (a, b) => at(a, b, (south - a[1]) / (b[1] - a[1]))],
    [(p) => p[1] <= north, (a, b) => at(a, b, (north - a[1]) / (b[1] - a[1]))],
  ];
  return edges.reduce<Point[]>(
    (points, [isInside, cut]) =>
      points.flatMap((p, i) => {
        const before = points[(i + points.length - 1) % points.length]!;
        if (isInside(p)) return isInside(before) ? [p] : [cut(before, p), p];
        return isInside(before) ? [cut(before, p)] : [];
      }),
    [...ring],
  );
}
const at = (a: Point, b: Point, t: number): Point => [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];

/** Long edges bend in a projection. */
function dense(ring: Ring): Point[] {
  return ring.flatMap((p, i) => {
    const next = ring[(i + 1) % ring.length]!;
    const pieces = Math.max(1, Math.ceil(Math.max(Math.abs(next[0] - p[0]), Math.abs(next[1] - p[1])) / STEP));
    return Array.from({ length: pieces }, (_, k) => at(p, next, k / pieces));
  });
}
