import GeoJSONReader from 'jsts/org/locationtech/jts/io/GeoJSONReader.js';
import GeometryFactory from 'jsts/org/locationtech/jts/geom/GeometryFactory.js';
import InteriorPointArea from 'jsts/org/locationtech/jts/algorithm/InteriorPointArea.js';
import Polygonizer from 'jsts/org/locationtech/jts/operation/polygonize/Polygonizer.js';
import UnaryUnionOp from 'jsts/org/locationtech/jts/operation/union/UnaryUnionOp.js';
import {
  checked,
  isWithin,
  kindOfWkb,
  manyOf,
  readWkb,
  type CheckExample,
  type Feature,
  type QualityCheck,
  type WkbVisitor,
} from '@rootmap/core';

/** Edges that no other area shares, of which the places between areas are made up; more of them are not put together. */
const MOST_LOOSE = 60_000;
/** Fewer shared edges than this share of all: the areas are no coverage, and gaps between them mean nothing (common practice, no source). */
const SHARED = 0.2;

interface Loose {
  readonly from: readonly [number, number];
  readonly to: readonly [number, number];
  /** Runs as it was found first, with its area on the left. */
  readonly isForward: boolean;
}

/** A place that an area leaves out, or that several cover. */
interface Face {
  readonly at: readonly [number, number];
  readonly area: number;
  cover: number;
}

/**
 * Gaps and overlaps of a coverage of areas. An edge that two areas share runs both ways, and is forgotten; what is left bounds the
 * whole, its gaps and its overlaps. The faces between those edges are counted by how many areas lie over them.
 * @param again the records once more, to see which of them lie over a face
 */
export class Coverage {
  private readonly loose = new Map<string, Loose>();
  /** Edges that run the same way twice: two areas on the same side. */
  private readonly twice: Loose[] = [];
  private edges = 0;
  private shared = 0;
  private isTooMuch = false;

  add(wkb: Uint8Array): void {
    if (this.isTooMuch) return;
    forEachRing(wkb, (ring, isShell) => this.addRing(ring, isShell));
    if (this.loose.size > MOST_LOOSE * 4) {
      this.isTooMuch = true;
      this.loose.clear();
    }
  }

  private addRing(ring: readonly number[], isShell: boolean): void {
    const isLeft = areaOf(ring) > 0 === isShell; // its area lies on the left
    for (let i = 0; i + 3 < ring.length; i += 2) {
      const [ax, ay, bx, by] = [ring[i]!, ring[i + 1]!, ring[i + 2]!, ring[i + 3]!];
      if (ax === bx && ay === by) continue;
      this.edges++;
      const isOrdered = ax < bx || (ax === bx && ay < by);
      const key = isOrdered ? `${ax} ${ay} ${bx} ${by}` : `${bx} ${by} ${ax} ${ay}`;
      const isForward = isOrdered === isLeft;
      const before = this.loose.get(key);
      if (before && before.isForward !== isForward) {
        this.loose.delete(key);
        this.shared += 2;
      } else {
        const edge: Loose = { from: [ax, ay], to: [bx, by], isForward };
        if (before) this.twice.push(edge);
        else this.loose.set(key, edge);
      }
    }
  }

  checks(again: () => Iterable<Pick<Feature, 'geometry'>>): QualityCheck[] {
    if (this.edges === 0) return [];
    const loose = [...this.loose.values(), ...this.twice];
    if (this.isTooMuch || loose.length > MOST_LOOSE) return this.notLooked('too many of its edges are not shared to be put together');
    if (this.shared < this.edges * SHARED) return this.notLooked('hardly any edges are shared, so it is no coverage');
    let faces: Face[];
    try {
      faces = facesOf(loose);
    } catch {
      return this.notLooked('its edges could not be put together');
    }
    countCover(faces, again());
    return [
      told(
        'gaps',
        faces.filter((f) => f.cover === 0),
        ['No area is left out between areas.', 'left out between areas'],
      ),
      told(
        'overlaps',
        faces.filter((f) => f.cover > 1),
        ['No two areas lie over each other.', 'covered by several areas'],
      ),
    ];
  }

  private notLooked(why: string): QualityCheck[] {
    return [checked('gaps', 'pass', [0, 0], `Gaps and overlaps were not looked for: ${why}.`)];
  }
}

function told(code: 'gaps' | 'overlaps', faces: readonly Face[], [none, what]: readonly [string, string]): QualityCheck {
  const largest = [...faces].sort((a, b) => b.area - a.area);
  const area = faces.reduce((sum, f) => sum + f.area, 0);
  const examples = largest.map((f): CheckExample => ({ record: null, at: f.at, what: `${words(f.area)} square units` }));
  const detail =
    faces.length === 0
      ? none
      : `${manyOf(faces.length, 'place')} ${faces.length === 1 ? 'is' : 'are'} ${what}, ${words(area)} square units in all.`;
  return checked(code, faces.length === 0 ? 'pass' : 'note', [faces.length, faces.length], detail, examples);
}

const words = (area: number): string => String(Number(area.toPrecision(4)));

/** Faces that the edges bound, each with a point inside it. */
function facesOf(loose: readonly Loose[]): Face[] {
  if (loose.length === 0) return [];
  const reader = new GeoJSONReader(new GeometryFactory());
  const lines: unknown = reader.read({ type: 'MultiLineString', coordinates: loose.map((e) => [e.from, e.to]) });
  const polygonizer = new Polygonizer();
  polygonizer.add(UnaryUnionOp.union(lines));
  return (polygonizer.getPolygons().toArray() as { getArea(): number }[]).map((face) => {
    const point = new InteriorPointArea(face).getInteriorPoint() as { readonly x: number; readonly y: number };
    return { at: [point.x, point.y] as const, area: face.getArea(), cover: 0 };
  });
}

/** How many areas lie over the point of each face. */
function countCover(faces: readonly Face[], features: Iterable<Pick<Feature, 'geometry'>>): void {
  const byX = [...faces].sort((a, b) => a.at[0] - b.at[0]);
  for (const { geometry } of features) {
    if (!geometry || byX.length === 0) continue;
    const rings: (readonly number[])[] = [];
    let [least, most] = [Infinity, -Infinity];
    forEachRing(geometry, (ring) => {
      rings.push(ring);
      for (let i = 0; i < ring.length; i += 2) {
        least = Math.min(least, ring[i]!);
        most = Math.max(most, ring[i]!);
      }
    });
    for (let i = firstFrom(byX, least); i < byX.length && byX[i]!.at[0] <= most; i++) {
      const face = byX[i]!;
      if (isWithin(rings, face.at[0], face.at[1])) face.cover++;
    }
  }
}

function firstFrom(faces: readonly Face[], x: number): number {
  let [low, high] = [0, faces.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (faces[middle]!.at[0] < x) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Rings of the areas of a shape, x and y side by side, closed; the first ring of an area is its shell. */
function forEachRing(wkb: Uint8Array, use: (ring: readonly number[], isShell: boolean) => void): void {
  if (!/Polygon/.test(kindOfWkb(wkb) ?? '')) return;
  let ring: number[] = [];
  let number = 0;
  const end = (): void => {
    if (ring.length > 0) use(ring, number === 1);
    ring = [];
  };
  const visitor: WkbVisitor = {
    geometry(code) {
      end();
      if (code === 3) number = 0;
    },
    run() {
      end();
      number++;
    },
    vertex(x, y) {
      ring.push(x, y);
    },
  };
  readWkb(wkb, visitor);
  end();
}

/** Twice the area, positive where the ring runs against the clock; relative to its first corner. */
function areaOf(ring: readonly number[]): number {
  const [x0, y0] = [ring[0]!, ring[1]!];
  let sum = 0;
  for (let i = 0; i + 3 < ring.length; i += 2) sum += (ring[i]! - x0) * (ring[i + 3]! - y0) - (ring[i + 2]! - x0) * (ring[i + 1]! - y0);
  return sum;
}
