import { measureGround, unitMetres, type GroundMeasure, type Spheroid } from '@rootmap/core';
import proj4 from 'proj4';
import { attempt, type MapPlane, type Point } from '../edit/map-plane.js';

/** How lengths in the map's plane stand to the ground. */
export interface Measured {
  /** On the ellipsoid of the map's CRS; null: `problem` says why not. */
  readonly ground: GroundMeasure | null;
  readonly spheroid: Spheroid | null;
  /** As the plane has it, in metres and square metres; null: the plane has degrees, or its unit is not known. */
  readonly plane: { readonly length: number; readonly area: number } | null;
  readonly problem: string | null;
}

const WGS84: Spheroid = { a: 6_378_137, f: 1 / 298.257223563 };

/** What says which datum, and what leads to another one. */
const OF_DATUM = /\+(?:datum|ellps|a|b|R|rf|f|towgs84|nadgrids)=\S+/g;
/** How far a position may come back from where it was, in units of the plane: farther, and it has none. */
const BACK_WITHIN = 1e-3;

/**
 * The ellipsoid of a CRS, and its plane in degrees of its own datum: nothing is shifted. Web Mercator computes as on a sphere with
 * positions of WGS 84 (EPSG method 1024), so it is measured on the ellipsoid of that.
 */
function earthOf(text: string): { readonly spheroid: Spheroid; readonly toDegrees: (at: Point) => Point | null } {
  const { a, b } = new proj4.Proj(text) as unknown as { readonly a: number; readonly b: number };
  const spheroid = /\+nadgrids=@null\b/.test(text) ? WGS84 : { a, f: (a - b) / a };
  const axes = `+a=${a} +b=${b} +no_defs`;
  const converter = proj4(`+proj=longlat ${axes}`, `${text.replace(OF_DATUM, '')} ${axes}`);
  return {
    spheroid,
    toDegrees: ([x, y]) => {
      const spot = attempt(() => converter.inverse([x, y]));
      const back = spot && attempt(() => converter.forward([...spot]));
      return back && Math.hypot(back[0] - x, back[1] - y) <= BACK_WITHIN ? spot : null;
    },
  };
}

/** What measures lines and areas by their corners in a map's plane: made once for a plane, and asked at every move of the pointer. */
export function measurer({ crs, isDegrees }: Pick<MapPlane, 'crs' | 'isDegrees'>): (points: readonly Point[], isArea: boolean) => Measured {
  const nothing = (problem: string): Measured => ({ ground: null, spheroid: null, plane: null, problem });
  if (!crs?.proj4) return () => nothing('The map has no CRS that can be computed, so nothing can be measured: give it one first.');
  const { spheroid, toDegrees } = earthOf(crs.proj4);
  const unit = unitMetres(crs.proj4);
  // Degrees are taken as they are: east of another meridian than Greenwich or beyond 180 is as far.
  const spotOf = isDegrees ? (p: Point): Point | null => (Math.abs(p[1]) <= 90 ? p : null) : toDegrees;
  return (points, isArea) => {
    const known = points.map(spotOf).filter((p) => p !== null);
    if (known.length < points.length) return nothing(`A corner lies outside of what ${crs.code ?? 'the CRS'} reaches: take it back.`);
    const plane = isDegrees ? null : inPlane(points, isArea, unit);
    return { ground: measureGround(known, spheroid, isArea), spheroid, plane, problem: null };
  };
}

function inPlane(points: readonly Point[], isArea: boolean, unit: number): { readonly length: number; readonly area: number } {
  let [length, twice] = [0, 0];
  for (let i = 0; i < (isArea ? points.length : points.length - 1); i++) {
    const [[x1, y1], [x2, y2]] = [points[i]!, points[(i + 1) % points.length]!];
    length += Math.hypot(x2 - x1, y2 - y1);
    // From the first corner, so that large coordinates take nothing from small areas.
    const [x0, y0] = points[0]!;
    twice += (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0);
  }
  return { length: length * unit, area: isArea ? (Math.abs(twice) / 2) * unit * unit : 0 };
}
