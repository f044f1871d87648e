import { PIXEL_METRES } from '../crs/distortion.js';
import { mapFrame } from './page-marks.js';
import type { PageSpec } from './page-model.js';
import type { Plane, Point } from './plane.js';
import type { Paper } from './vector-marks.js';

/** Paper sizes of ISO 216, and letter of ANSI/ASME Y14.1 (8.5 × 11 inches); millimetres, upright. */
export const PAPERS = {
  A5: [148, 210],
  A4: [210, 297],
  Letter: [215.9, 279.4],
  A3: [297, 420],
  A2: [420, 594],
  A1: [594, 841],
  A0: [841, 1189],
} as const;

/** Millimetres of a pixel, for which a plane tells its resolution. */
const PIXEL_MM = PIXEL_METRES * 1000;
/** How a plane lies in a frame. @param frame millimetres */
export const paperIn = (frame: Paper['frame'], plane: Plane, center: Point, scale: number): Paper => ({
  frame,
  center,
  unitsOfMm: plane.resolution(scale, center) / PIXEL_MM,
});
/** How the map's plane lies on a page. */
export const paperOf = (size: Pick<PageSpec, 'width' | 'height'>, plane: Plane, center: Point, scale: number): Paper =>
  paperIn(mapFrame(size), plane, center, scale);
