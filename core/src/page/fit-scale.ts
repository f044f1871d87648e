import { PIXEL_METRES } from '../crs/distortion.js';
import type { Plane, Point } from './plane.js';

/** What is in sight does not touch the edge. */
const MARGIN = 1.05;
/** Scales that people use: these, by powers of ten (common practice, no source). */
const ROUND = [1, 1.5, 2, 2.5, 3, 4, 5, 7.5, 10] as const;

/**
 * 1:n at which all of a box is in sight in a frame, and a little more.
 * @param box west, south, east, north in the plane
 * @param frame in millimetres
 * @param center the point of the plane that is in the middle of the frame
 */
export function scaleShowing(
  [west, south, east, north]: readonly [number, number, number, number],
  frame: { readonly w: number; readonly h: number },
  plane: Pick<Plane, 'resolution'>,
  center: Point,
): number {
  // Of a thousandth the page shows so much: what is wanted is so many times as large.
  const unitsOfMm = plane.resolution(1000, center) / (PIXEL_METRES * 1000);
  const across = 2 * Math.max(east - center[0], center[0] - west);
  const down = 2 * Math.max(north - center[1], center[1] - south);
  return 1000 * Math.max(across / (frame.w * unitsOfMm), down / (frame.h * unitsOfMm), 1e-6) * MARGIN;
}

/** The next scale that people use, 1:n or coarser. */
export function roundScale(n: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(1, n)));
  return ROUND.map((r) => r * power).find((r) => r >= n) ?? n;
}
