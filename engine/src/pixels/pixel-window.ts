/** A part of a raster, in whole pixels from its upper left corner. */
export interface PixelWindow {
  readonly col: number;
  readonly row: number;
  readonly width: number;
  readonly height: number;
}
