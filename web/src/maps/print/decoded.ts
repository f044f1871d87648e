import type { PageSpec } from '@rootmap/core';
import type { Pictures } from './paint-canvas.js';

/** The pictures of a page, decoded for a canvas. */
export async function decodedPictures({ picture }: Pick<PageSpec, 'picture'>): Promise<Pictures> {
  if (!picture) return new Map();
  const image = new Image();
  image.src = picture.data;
  await image.decode();
  return new Map([[picture.data, image]]);
}
