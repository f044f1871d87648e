import type { Dataset } from '@rootmap/core';

/** Pixels that are turned fill less of the extent than its sides tell. */
export function isTurned({ bbox, raster, group }: Dataset): boolean {
  if (!bbox || !raster || group.format === 'geopackage') return false; // tiles have north up, and reach beyond their content
  const [px, py] = raster.pixel;
  const near = (a: number, b: number): boolean => Math.abs(a - b) <= 1e-6 * Math.abs(b);
  return !near(raster.width * px, bbox[2] - bbox[0]) || !near(raster.height * py, bbox[3] - bbox[1]);
}
