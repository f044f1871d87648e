import type { Plane, Point } from './plane.js';

/** Angle of true north at a point from the top of the map, degrees clockwise. */
export function northAt(plane: Plane, at: Point): number {
  const spot = plane.toDegrees(at);
  const north = spot && plane.toPlane([spot[0], spot[1] + 0.01]);
  return north ? (Math.atan2(north[0] - at[0], north[1] - at[1]) * 180) / Math.PI : 0;
}
