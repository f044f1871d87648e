import InteriorPointArea from 'jsts/org/locationtech/jts/algorithm/InteriorPointArea.js';
import GeoJSONReader from 'jsts/org/locationtech/jts/io/GeoJSONReader.js';
import GeoJSONWriter from 'jsts/org/locationtech/jts/io/GeoJSONWriter.js';
import GeometryFactory from 'jsts/org/locationtech/jts/geom/GeometryFactory.js';
import Polygonizer from 'jsts/org/locationtech/jts/operation/polygonize/Polygonizer.js';
import UnaryUnionOp from 'jsts/org/locationtech/jts/operation/union/UnaryUnionOp.js';
import IsValidOp from 'jsts/org/locationtech/jts/operation/valid/IsValidOp.js';
import { geoJsonToWkb, isSuspect, kindOfWkb, wkbToGeoJson, type Fault, type Feature, type GeoJsonGeometry } from '@rootmap/core';

type Ring = readonly (readonly number[])[];

/** Shapes that break the rules of simple features (OGC 06-103r4, clause 6.1.11), and what became of them. */
export class ShapeJudge {
  invalid = 0;
  fixed = 0;
  readonly first: { record: number; why: string }[] = [];
  private record = 0;
  private readonly reader = new GeoJSONReader(new GeometryFactory());
  private readonly writer = new GeoJSONWriter();

  /** @param makesValid areas that are invalid are built anew from their lines: what an odd number of rings surround */
  constructor(private readonly makesValid: boolean) {}

  /** Counts as the features pass by. One that cannot be made valid stays as it is. */
  *judge(features: Iterable<Feature>): Generator<Feature> {
    for (const feature of features) {
      this.record++;
      const { geometry } = feature;
      const why = geometry && isSuspect(geometry) ? this.faultOf(geometry) : null;
      if (why === null) {
        yield feature;
        continue;
      }
      this.invalid++;
      const better = this.makesValid ? this.madeValid(geometry!) : null;
      if (better) this.fixed++;
      if (this.first.length < 100) this.first.push({ record: this.record, why });
      yield better ? { ...feature, geometry: better } : feature;
    }
  }

  /** Null: it is valid. */
  faultOf(wkb: Uint8Array): string | null {
    const fault = this.fault(wkb);
    return fault && `${fault.why}${fault.at ? ` at ${short(fault.at[0])} ${short(fault.at[1])}` : ''}`;
  }

  /** What is the matter, and where; null: it is valid. */
  fault(wkb: Uint8Array): Fault | null {
    const shape = wkbToGeoJson(wkb);
    if (!shape) return null; // damaged: told by the writer
    try {
      const error = new IsValidOp(this.reader.read(shape)).getValidationError();
      if (!error) return null;
      const at = error.getCoordinate() as { readonly x: number; readonly y: number } | null;
      return { why: WORDS[error.getMessage()] ?? error.getMessage(), at: at && [at.x, at.y] };
    } catch {
      return { why: 'a ring is not closed, or has too few corners', at: null };
    }
  }

  /** Null: nothing of it has an area, or it has heights or measures, which would be lost. */
  madeValid(wkb: Uint8Array): Uint8Array | null {
    if (!/^(Multi)?Polygon$/.test(kindOfWkb(wkb) ?? '')) return null;
    const shape = wkbToGeoJson(wkb)!;
    const polygons = shape.type === 'Polygon' ? [shape.coordinates as Ring[]] : (shape.coordinates as Ring[][]);
    try {
      const faces = polygons.flatMap((rings) => this.facesOf(rings.map(closed).filter((ring) => ring.length >= 4)));
      if (faces.length === 0) return null;
      const factory = new GeometryFactory();
      const whole: unknown = UnaryUnionOp.union(factory.createGeometryCollection(faces));
      const made = this.writer.write(whole) as GeoJsonGeometry;
      const better = geoJsonToWkb(made)?.slice() ?? null;
      return better && this.faultOf(better) === null ? better : null;
    } catch {
      return null; // corners too close for the computation: it stays as it is, and is counted
    }
  }

  /** Areas between the lines of some rings, of which an odd number lies around. */
  private facesOf(rings: readonly Ring[]): unknown[] {
    if (rings.length === 0) return [];
    const lines: unknown = this.reader.read({ type: 'MultiLineString', coordinates: rings });
    const polygonizer = new Polygonizer();
    polygonizer.add(UnaryUnionOp.union(lines));
    const faces = polygonizer.getPolygons().toArray() as unknown[];
    return faces.filter((face) => {
      const point = new InteriorPointArea(face).getInteriorPoint() as { readonly x: number; readonly y: number };
      return rings.filter((ring) => isAround(ring, point.x, point.y)).length % 2 === 1;
    });
  }
}

const short = (n: number): string => String(Math.round(n * 1000) / 1000);

/** What the library says, in our words. */
const WORDS: Readonly<Record<string, string>> = {
  'Self-intersection': 'its outline crosses itself',
  'Ring Self-intersection': 'a ring touches itself',
  'Hole lies outside shell': 'a hole lies outside',
  'Holes are nested': 'holes lie in each other',
  'Nested shells': 'parts lie in each other',
  'Interior is disconnected': 'its inside falls apart',
  'Duplicate Rings': 'a ring is there twice',
  'Too few distinct points in geometry component': 'it has too few corners',
  'Invalid Coordinate': 'a coordinate is no number',
};

function closed(ring: Ring): Ring {
  const [first, last] = [ring[0], ring.at(-1)];
  return first && last && (first[0] !== last[0] || first[1] !== last[1]) ? [...ring, first] : ring;
}

/** By crossings of a ray (common practice). */
function isAround(ring: Ring, x: number, y: number): boolean {
  let inside = false;
  for (let i = 1; i < ring.length; i++) {
    const [ax, ay] = ring[i - 1] as [number, number];
    const [bx, by] = ring[i] as [number, number];
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
  }
  return inside;
}
