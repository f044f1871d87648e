import { GROUND, isInScale, LAND_COLOURS, PIXEL_METRES } from '@rootmap/core';
import type { MapPlane, Point } from '../edit/map-plane.js';
import { isReady, MapScene, type SceneLayer } from '../edit/map-scene.js';

const LONGEST_WAIT_MS = 60_000;

export interface MapPicture {
  readonly canvas: HTMLCanvasElement;
  /** Tiles were still missing when the longest wait for a layer was over. */
  readonly isWhole: boolean;
}
export interface FrameView {
  readonly center: Point;
  readonly scale: number;
  /** Millimetres. */
  readonly frame: { readonly w: number; readonly h: number };
  readonly dpi: number;
}
export interface MapContent {
  readonly plane: MapPlane;
  readonly layers: readonly SceneLayer[];
  readonly hasLand: boolean;
  readonly pictureUrl: (layer: string, href: string) => string | null;
}
export interface RenderFollower {
  /** Throws its reason once it is aborted. */
  readonly signal: AbortSignal;
  /** After each layer: what is drawn so far, and how many of them. */
  readonly onLayer?: (canvas: HTMLCanvasElement, done: number, of: number) => void;
}

/**
 * The map as a picture of a frame on paper: a pixel of its symbols is 0.28 mm, so that widths and sizes come out as on a
 * screen of that pixel. The layers are drawn one after the other, from the lowest up: with all of them in one scene each tile
 * that arrives would draw every layer again. Labels come last, in one scene, since they make room for one another.
 */
export async function renderMap(content: MapContent, view: FrameView, { signal, onLayer }: RenderFollower): Promise<MapPicture> {
  const { plane, layers, pictureUrl, hasLand } = content;
  const { frame, dpi } = view;
  const px = PIXEL_METRES * 1000;
  const scene = new MapScene(stage(frame.w / px, frame.h / px), plane, pictureUrl, { isStill: true, pixelRatio: (px * dpi) / 25.4 });
  const paper = document.createElement('canvas');
  paper.width = Math.round((frame.w * dpi) / 25.4);
  paper.height = Math.round((frame.h * dpi) / 25.4);
  const context = paper.getContext('2d')!;
  let isWhole = true;
  const add = async (): Promise<void> => {
    isWhole = (await settled(scene)) && isWhole;
    signal.throwIfAborted();
    context.drawImage(scene.snapshot(paper.width, paper.height, null), 0, 0);
  };
  try {
    context.fillStyle = GROUND;
    context.fillRect(0, 0, paper.width, paper.height);
    scene.goTo(view.center, view.scale);
    scene.map.updateSize();
    scene.show([], LAND_COLOURS);
    await scene.showLand(hasLand);
    await add();
    await scene.showLand(false);
    const shown = layers.filter((l) => l.active && isInScale(l, view.scale));
    const drawn = shown.filter(isReady).reverse();
    for (const [i, layer] of drawn.entries()) {
      scene.show([{ ...layer, label: null }], LAND_COLOURS);
      await add();
      onLayer?.(paper, i + 1, drawn.length);
    }
    scene.showLabels(shown, LAND_COLOURS);
    await add();
    return { canvas: paper, isWhole };
  } finally {
    scene.dispose();
  }
}

/** An element of so many pixels that nobody sees; it goes with its scene. */
function stage(width: number, height: number): HTMLElement {
  const element = document.createElement('div');
  Object.assign(element.style, {
    position: 'fixed',
    left: '-20000px',
    top: '0',
    width: `${Math.round(width)}px`,
    height: `${Math.round(height)}px`,
  });
  document.body.append(element);
  return element;
}

/** Once all that the scene shows is drawn; false: tiles were still missing after the longest wait. */
function settled({ map }: MapScene): Promise<boolean> {
  return new Promise((resolve) => {
    const timer = setTimeout(() => resolve(false), LONGEST_WAIT_MS);
    map.once('rendercomplete', () => (clearTimeout(timer), resolve(true)));
    map.render();
  });
}

/** Whether some layer of a map is drawn at that scale, or its outline is. */
export const drawsLayers = ({ layers }: MapContent, scale: number): boolean =>
  layers.some((l) => l.active && isInScale(l, scale) && (isReady(l) || l.box !== null));
