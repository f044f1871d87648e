import { PIXEL_METRES } from '@rootmap/core';
import type { MapPlane, Point } from '../edit/map-plane.js';
import { MapScene, type SceneLayer } from '../edit/map-scene.js';

const LONGEST_WAIT_MS = 60_000;
const COLOURS = { land: '#efe9da', shore: '#b8ab8a', outline: '#5d6864' };

export interface MapPicture {
  readonly canvas: HTMLCanvasElement;
  /** Tiles were still missing when the longest wait was over. */
  readonly isWhole: boolean;
}

/**
 * The map as a picture of a frame on paper: a pixel of its symbols is 0.28 mm, so that widths and sizes come out as on a
 * screen of that pixel.
 * @param frame millimetres
 */
export async function renderMap(
  plane: MapPlane,
  layers: readonly SceneLayer[],
  { center, scale }: { center: Point; scale: number },
  frame: { readonly w: number; readonly h: number },
  dpi: number,
  pictureUrl: (layer: string, href: string) => string | null,
  hasLand: boolean,
): Promise<MapPicture> {
  const px = PIXEL_METRES * 1000;
  const element = document.createElement('div');
  const [width, height] = [Math.round(frame.w / px), Math.round(frame.h / px)];
  Object.assign(element.style, { position: 'fixed', left: '-20000px', top: '0', width: `${width}px`, height: `${height}px` });
  document.body.append(element);
  const scene = new MapScene(element, plane, pictureUrl, { isStill: true, pixelRatio: (px * dpi) / 25.4 });
  try {
    scene.show(layers, COLOURS);
    await scene.showLand(hasLand);
    const done = new Promise<boolean>((resolve) => {
      const timer = setTimeout(() => resolve(false), LONGEST_WAIT_MS);
      scene.map.once('rendercomplete', () => (clearTimeout(timer), resolve(true)));
    });
    scene.goTo(center, scale);
    scene.map.updateSize();
    const isWhole = await done;
    const canvas = scene.snapshot(Math.round((frame.w * dpi) / 25.4), Math.round((frame.h * dpi) / 25.4), '#e6ecf4');
    return { canvas, isWhole };
  } finally {
    scene.dispose();
    element.remove();
  }
}
