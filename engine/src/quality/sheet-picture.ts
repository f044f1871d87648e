import type { CheckExample, QualityCheck } from '@rootmap/core';
import { drawnIn, frameOf, type Frame } from '../preview/thumbnail.js';
import type { FoundDataset } from '../project/find-dataset.js';

/** A dataset on a page, in points of `width` by `height`, from the top left, with the places where something was found. */
export interface SheetPicture {
  readonly width: number;
  readonly height: number;
  readonly kind: 'point' | 'line' | 'area' | 'raster';
  /** SVG path. */
  readonly path: string;
  /** PNG; of rasters. */
  readonly image: Buffer | null;
  readonly places: readonly (readonly [x: number, y: number])[];
}

const FRAME: Frame = { width: 480, height: 220, edge: 8, mostPath: 60_000 };
const MOST_PLACES = 200;

/** Null where it has no shape, or cannot be drawn. */
export async function sheetPicture(found: FoundDataset, checks: readonly QualityCheck[]): Promise<SheetPicture | null> {
  const { bbox } = found.dataset;
  const drawn = await drawnIn(found, FRAME);
  if (!bbox || !drawn) return null;
  const { left, top, scale } = frameOf(bbox, FRAME);
  const at = checks
    .filter((c) => c.result !== 'pass')
    .flatMap((c) => c.examples.flatMap(({ at: place }: CheckExample) => (place ? [place] : [])));
  return {
    width: FRAME.width,
    height: FRAME.height,
    kind: drawn.kind,
    path: drawn.path,
    image: drawn.image === null ? null : Buffer.from(drawn.image, 'base64'),
    places: at.slice(0, MOST_PLACES).map(([x, y]) => [left + (x - bbox[0]) * scale, top + (bbox[3] - y) * scale] as const),
  };
}
