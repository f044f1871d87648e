export type Point = readonly [number, number];

/** The plane that a map is drawn on: its CRS, as far as a page asks for it. */
export interface Plane {
  readonly isDegrees: boolean;
  /** Degrees east and north to the plane; null: there is no such point. */
  toPlane(degrees: Point): Point | null;
  toDegrees(at: Point): Point | null;
  /** Units of the plane in a pixel of 0.28 mm where a map is drawn at 1:scale, at a point of it. */
  resolution(scale: number, at: Point): number;
}
