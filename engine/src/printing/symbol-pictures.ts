import { explain, PIXEL_METRES, ProblemError, rulesOfLook, type DraftLayer, type SymbolPicture, type SymbolPictures } from '@rootmap/core';
import { stylePicture } from '../maps/style-picture.js';
import type { RootedScope } from '../project/scope.js';
import { loadSharp } from '../pixels/load-sharp.js';

/** Dots to an inch of a symbol on paper. */
const DPI = 300;
/** A picture that has more pixels is none for a symbol. */
const MOST_PIXELS = 64_000_000;

/**
 * The pictures that symbols of a layer name.
 * @param map path of the map from the root
 * @returns a sentence where one of them cannot be had
 */
export async function symbolPictures(scope: RootedScope, map: string, { id, look }: DraftLayer): Promise<SymbolPictures | string> {
  const pictures = new Map<string, SymbolPicture>();
  if (!look || look.kind === 'raster') return pictures;
  for (const { symbol } of rulesOfLook(look)) {
    if (symbol.picture === null || pictures.has(symbol.picture)) continue;
    try {
      pictures.set(symbol.picture, await asPng(stylePicture(scope, map, id, symbol.picture).bytes, symbol.size));
    } catch (error) {
      const why = error instanceof ProblemError ? explain(error.problem) : `${symbol.picture} cannot be read as a picture.`;
      return `its symbols are pictures, and one cannot be had: ${why}`;
    }
  }
  return pictures;
}

/** @param size width in pixels of a symbol */
async function asPng(bytes: Uint8Array, size: number): Promise<SymbolPicture> {
  const width = Math.max(1, Math.ceil(((size * PIXEL_METRES * 1000) / 25.4) * DPI));
  const sharp = await loadSharp();
  const own = await sharp(bytes, { limitInputPixels: MOST_PIXELS }).metadata();
  const aspect = own.height / own.width;
  const png = await sharp(bytes, { limitInputPixels: MOST_PIXELS, density: DPI })
    .resize(width, Math.max(1, Math.round(width * aspect)), { fit: 'fill' })
    .png()
    .toBuffer();
  return { data: `data:image/png;base64,${png.toString('base64')}`, aspect };
}
