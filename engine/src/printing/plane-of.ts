import { distortionAt, resolutionOf, unitMetres, type Plane } from '@rootmap/core';
import { definitionOf } from '../crs/definitions.js';
import { crsNamed } from '../crs/search-crs.js';
import { transformer } from '../crs/transformer.js';

/** The plane of a CRS; null: how it is computed is not known here. */
export function planeOf(code: string): Plane | null {
  const [to, back] = [transformer('EPSG:4326', code), transformer(code, 'EPSG:4326')];
  const proj = definitionOf(code)?.proj4;
  if (!to || !back || !proj) return null;
  const unit = unitMetres(proj);
  const forward = (x: number, y: number): readonly [number, number] | null => {
    const p = to(x, y);
    return p && [p[0] * unit, p[1] * unit];
  };
  /** Scale of the projection along a bar that points east. */
  const k = ([x, y]: readonly [number, number]): number => {
    const spot = back(x, y);
    return spot && Math.abs(spot[1]) <= 89 ? (distortionAt(forward, spot[0], spot[1])?.k ?? 1) : 1;
  };
  return {
    isDegrees: crsNamed(code)?.unit === 'degree',
    toPlane: ([longitude, latitude]) => to(longitude, latitude),
    toDegrees: ([x, y]) => back(x, y),
    resolution: (scale, at) => resolutionOf(scale, unit, k(at)),
  };
}
