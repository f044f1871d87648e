import type { Transform } from '../../raster/georeference.js';

/** Corner tags of GeoTIFF (OGC 19-008r4, annex B.6): ModelTransformation, else tiepoint with pixel scale. */
export function transformOfTags(numbers: ReadonlyMap<number, readonly number[]>, pixelIsPoint: boolean): Transform | null {
  const matrix = numbers.get(34264);
  const scale = numbers.get(33550);
  const tie = numbers.get(33922);
  let t: Transform | null = null;
  if (matrix && matrix.length >= 16) t = [matrix[3]!, matrix[0]!, matrix[1]!, matrix[7]!, matrix[4]!, matrix[5]!];
  else if (scale && scale.length >= 2 && tie && tie.length >= 6) {
    const [sx, sy] = scale as [number, number];
    t = [tie[3]! - tie[0]! * sx, sx, 0, tie[4]! + tie[1]! * sy, 0, -sy];
  }
  if (!t || !t.every(Number.isFinite)) return null;
  // PixelIsPoint: the tags speak of pixel centres.
  return pixelIsPoint ? [t[0] - t[1] / 2 - t[2] / 2, t[1], t[2], t[3] - t[4] / 2 - t[5] / 2, t[4], t[5]] : t;
}
