/** Whether something is drawn at 1:scale. */
export const isInScale = (limit: { minScale: number | null; maxScale: number | null }, scale: number): boolean =>
  (limit.minScale === null || scale >= limit.minScale) && (limit.maxScale === null || scale < limit.maxScale);
