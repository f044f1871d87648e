/** Colours of a picture: red, green, blue, opacity, 0 to 255 each. */
export type Rgba = Uint8ClampedArray<ArrayBuffer>;

/**
 * The pixels of a raster, at any of its own positions. `cols` and `rows` are in its full resolution, whole numbers; -1 stands
 * for outside. `step` is how many of its pixels one that is asked for stands for: a reduced picture may serve.
 */
export interface PixelSource {
  readonly width: number;
  readonly height: number;
  /** A band's values; NaN where there is none. Null: colours only. */
  values(cols: Int32Array, rows: Int32Array, step: number): Promise<Float64Array | null>;
  colours(cols: Int32Array, rows: Int32Array, step: number): Promise<Rgba | null>;
  close(): void;
}
