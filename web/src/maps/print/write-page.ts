import { FINEST_LAND, isInScale, type LineLayer, mapFrame, pageMarks, type PageSpec, paperOf } from '@rootmap/core';
import { lineLayer } from './line-layer.js';
import { isReady } from '../edit/map-scene.js';
import type { PageAnswer, PageOrder } from './page-worker.js';
import { decodedPictures } from './decoded.js';
import { paintCanvas } from './paint-canvas.js';
import { type Wish } from './page-wish.js';
import { drawsLayers, renderMap, type MapContent, type RenderFollower } from './render-map.js';

async function pngOf(canvas: HTMLCanvasElement): Promise<Blob> {
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'));
  if (!blob) throw new Error('the picture is larger than this browser can make');
  return blob;
}

export interface WrittenPage {
  /** In pieces that the browser keeps: bytes would be copied while the page waits. */
  readonly file: Blob;
  /** Every tile of the map came in time. */
  readonly isWhole: boolean;
  /** Ids of layers of shapes that are a picture in it, and how many labels found no room. */
  readonly asPicture: readonly string[];
  readonly labelsLeft: number;
}

type PageWish = Pick<Wish, 'dpi' | 'format' | 'title' | 'isBare'>;

/** The page as a file: in PDF and SVG shapes are lines and labels text, above a picture of what is one. */
export async function writePage(
  spec: PageSpec,
  drawn: MapContent,
  center: readonly [number, number],
  wish: PageWish,
  follower: RenderFollower,
): Promise<WrittenPage> {
  if (wish.format !== 'png') return writeLines(spec, drawn, center, { ...wish, format: wish.format }, follower);
  const view = { center, scale: spec.scale, frame: mapFrame(spec), dpi: wish.dpi };
  const { canvas, isWhole } = await renderMap(drawn, view, follower);
  const page = wish.isBare ? canvas : document.createElement('canvas');
  if (!wish.isBare) paintCanvas(page, spec, pageMarks(spec), canvas, wish.dpi, await decodedPictures(spec));
  return { file: await pngOf(page), isWhole, asPicture: [], labelsLeft: 0 };
}

/** In a worker, so that the page stays free to use; only what is a picture is drawn here. */
async function writeLines(
  spec: PageSpec,
  drawn: MapContent,
  center: readonly [number, number],
  { dpi, format, title }: PageWish & { readonly format: 'pdf' | 'svg' },
  follower: RenderFollower,
): Promise<WrittenPage> {
  const { plane, layers } = drawn;
  const { scale } = spec;
  const shown = layers.filter((l) => l.active && isInScale(l, scale) && isReady(l));
  const candidates: LineLayer[] = [];
  for (const layer of shown) {
    const ofLines = lineLayer(layer);
    if (!ofLines) break; // what lies below a picture is in the picture
    candidates.push(ofLines);
  }
  const worker = new PageWorker(follower.signal);
  try {
    const paper = paperOf(spec, plane, center, scale);
    const { taken } = await worker.ask({ kind: 'lines', layers: candidates, paper, scale }, 'lines');
    const upper = new Set(candidates.slice(0, taken).map((l) => l.id));
    const below = { ...drawn, layers: layers.filter((l) => !upper.has(l.id)) };
    const isPicture = drawsLayers(below, scale);
    const picture = isPicture ? await renderMap(below, { center, scale, frame: mapFrame(spec), dpi }, follower) : null;
    const land = !isPicture && drawn.hasLand && scale >= FINEST_LAND ? plane.crs : null;
    const map = picture && (await pngOf(picture.canvas));
    const { file, labelsLeft } = await worker.ask({ kind: 'write', spec, format, title, map, land }, 'written');
    const asPicture = shown.filter((l) => !upper.has(l.id) && l.picture?.kind === 'vector').map((l) => l.id);
    return { file, isWhole: picture?.isWhole ?? true, asPicture, labelsLeft };
  } finally {
    worker.end();
  }
}

/** The worker that makes a page; whoever gives up ends it. */
class PageWorker {
  private readonly worker = new Worker(new URL('./page-worker.ts', import.meta.url), { type: 'module' });

  constructor(private readonly signal: AbortSignal) {}

  ask<K extends PageAnswer['kind']>(order: PageOrder, kind: K): Promise<Extract<PageAnswer, { kind: K }>> {
    const { worker, signal } = this;
    return new Promise((resolve, reject) => {
      signal.throwIfAborted();
      signal.addEventListener('abort', () => (worker.terminate(), reject(signal.reason as Error)), { once: true });
      worker.onmessage = ({ data }: MessageEvent<PageAnswer>) =>
        data.kind === kind
          ? resolve(data as Extract<PageAnswer, { kind: K }>)
          : reject(new Error(data.kind === 'failed' ? data.message : 'the page was told in another order'));
      worker.onerror = (e) => reject(new Error(e.message));
      worker.postMessage(order);
    });
  }

  end(): void {
    this.worker.terminate();
  }
}
