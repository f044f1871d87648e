import Feature from 'ol/Feature.js';
import MultiPolygon from 'ol/geom/MultiPolygon.js';
import { feature } from 'topojson-client';
import type { GeometryCollection, Topology } from 'topojson-specification';
import type { MapPlane, Point } from './map-plane.js';

type Ring = readonly Point[];
/** How far beyond the area of use of its CRS a map shows land, degrees: farther away a projection tears. */
const AROUND = 15;
const STEP = 0.5;

/** The land of the Earth in a map's plane; null where its CRS cannot be computed. Its outline is good from about 1:1,000,000 outwards. */
export async function landIn(plane: MapPlane): Promise<Feature<MultiPolygon> | null> {
  if (!plane.crs?.proj4) return null;
  const land = (await import('world-atlas/land-50m.json')).default as unknown as Topology<{ land: GeometryCollection }>;
  const shapes = feature(land, land.objects.land);
  const [west, south, east, north] = plane.crs.bounds;
  const box = [
    west > east ? -180 : west - AROUND,
    Math.max(-88, south - AROUND),
    west > east ? 180 : east + AROUND,
    Math.min(88, north + AROUND),
  ] as const;
  const rings: Point[][] = [];
  for (const f of shapes.features) {
    const polygons =
      f.geometry.type === 'MultiPolygon' ? f.geometry.coordinates : f.geometry.type === 'Polygon' ? [f.geometry.coordinates] : [];
    for (const polygon of polygons)
      for (const ring of polygon) {
        const inside = clip(ring as unknown as Ring, box);
        const projected = dense(inside).map((p) => plane.toPlane(p));
        if (projected.length > 3 && projected.every((p) => p !== null)) rings.push(projected);
      }
  }
  return new Feature(new MultiPolygon(rings.map((r) => [r.map(([x, y]) => [x, y])])));
}

/** Rings of the land in a region, in degrees; it is loaded first. */
export async function loadLand(): Promise<(region: readonly [number, number, number, number]) => Point[][]> {
  const land = (await import('world-atlas/land-50m.json')).default as unknown as Topology<{ land: GeometryCollection }>;
  const polygons = feature(land, land.objects.land).features.flatMap(({ geometry: g }) =>
    g.type === 'MultiPolygon' ? g.coordinates : g.type === 'Polygon' ? [g.coordinates] : [],
  );
  const rings = polygons.map((p) => p[0] as unknown as Ring);
  return (region) => rings.map((ring) => clip(ring, region)).filter((ring) => ring.length > 2);
}

/** Sutherland and Hodgman (1974): the part of a ring inside a box. */
function clip(ring: Ring, [west, south, east, north]: readonly [number, number, number, number]): Point[] {
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
function dense(ring: readonly Point[]): Point[] {
  return ring.flatMap((p, i) => {
    const next = ring[(i + 1) % ring.length]!;
    const pieces = Math.max(1, Math.ceil(Math.max(Math.abs(next[0] - p[0]), Math.abs(next[1] - p[1])) / (STEP * 4)));
    return Array.from({ length: pieces }, (_, k) => at(p, next, k / pieces));
  });
}
