import type { LayerPictureView } from '../contract/pictures.js';
import { isAsItIs, type Look } from '../look/look.js';

export interface RasterRange {
  readonly from: number;
  readonly to: number;
}

/** The values at the ends of a raster's colours; null: not known, or it shows colours of its own. */
export function rangeOf(look: Look, picture: Pick<LayerPictureView, 'stretch' | 'hasColours'> | null): RasterRange | null {
  if (look.kind !== 'raster' || look.bands) return null;
  const [first, last] = [look.ramp?.[0], look.ramp?.at(-1)];
  if (first && last) return { from: first.value, to: last.value };
  if (picture?.hasColours && isAsItIs(look)) return null;
  return look.stretch ?? picture?.stretch ?? null;
}

/** A value as the end of a ramp: three digits tell it. */
export const endText = (value: number): string => String(Number(value.toPrecision(3)));
