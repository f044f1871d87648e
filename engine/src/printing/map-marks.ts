import {
  boxOfFrame,
  drawingOf,
  explain,
  isInScale,
  lookFor,
  ProblemError,
  layerMarks,
  type DraftLayer,
  type LabelMark,
  type OnProgress,
  type Paper,
  type PictureMark,
  type ShapesMark,
  type SymbolPictures,
} from '@rootmap/core';
import type { LayerPictureView, MapLayerView, PageLabel } from '@rootmap/core/contract';
import type { Previews } from '../preview/preview.js';
import { findAnyDataset, type FoundDataset } from '../project/find-dataset.js';
import type { RootedScope } from '../project/scope.js';
import { symbolPictures } from './symbol-pictures.js';

/** A layer whose data is read, so that it can be drawn. */
export interface ReadyLayer {
  readonly layer: DraftLayer;
  readonly kind: MapLayerView['kind'];
  readonly found: FoundDataset;
  readonly picture: LayerPictureView;
  /** Of its symbols. */
  readonly symbols: SymbolPictures;
}

/** Layers that are drawn at a scale, the upper first, and those that are not, each with the reason. */
export async function readyLayers(
  scope: RootedScope,
  layers: readonly DraftLayer[],
  views: ReadonlyMap<string, MapLayerView>,
  at: { readonly map: string; readonly crs: string; readonly scale: number },
  previews: Previews,
  onProgress: OnProgress,
): Promise<{ ready: ReadyLayer[]; left: { title: string; why: string }[] }> {
  const left: { title: string; why: string }[] = [];
  const ready: ReadyLayer[] = [];
  const shown = layers.filter((l) => l.active && isInScale(l, at.scale));
  for (const [i, layer] of shown.entries()) {
    onProgress({ done: i, of: shown.length, unit: 'layers', item: layer.title });
    const view = views.get(layer.id);
    const why = view ? whyNot(view) : 'it is not in the file';
    if (!view || why !== null) left.push({ title: layer.title, why: why ?? '' });
    else
      try {
        const found = findAnyDataset(scope, view.dataset!);
        const picture = await previews.prepareLayer(found, at.crs, drawingOf(layer, view.kind), () => undefined);
        const symbols = await symbolPictures(scope, at.map, layer);
        if (typeof symbols === 'string') left.push({ title: layer.title, why: symbols });
        else ready.push({ layer, kind: view.kind, found, picture, symbols });
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        left.push({ title: layer.title, why: explain(error.problem) });
      }
  }
  return { ready, left };
}

/** Why a layer is not on the page; null: nothing is known against it. */
function whyNot({ reach, state, dataset, kind, isPlaced }: MapLayerView): string | null {
  if (reach === 'service') return 'what servers draw is printed from the map in the browser';
  if (!['sound', 'different', 'incomplete'].includes(state) || dataset === null) return 'its data is not there: mend it first';
  if (kind === 'table') return 'it has no shapes';
  if (!isPlaced) return 'nobody knows its CRS';
  return null;
}

export type MapMark = ShapesMark | LabelMark | PictureMark;

/** What is drawn, from the lowest layer up. @param dpi pixels to an inch of rasters */
export async function marksOf(
  ready: readonly ReadyLayer[],
  previews: Previews,
  paper: Paper,
  scale: number,
  dpi: number,
): Promise<{
  marks: MapMark[];
  labels: { label: NonNullable<DraftLayer['label']>; labels: readonly PageLabel[] }[];
  tooMuch: DraftLayer[];
}> {
  const marks: MapMark[] = [];
  const labels: { label: NonNullable<DraftLayer['label']>; labels: readonly PageLabel[] }[] = [];
  const tooMuch: DraftLayer[] = [];
  for (const { layer, kind, picture, symbols } of [...ready].reverse()) {
    if (picture.kind === 'raster') {
      marks.push(...(await rasterMarks(picture, previews, paper, dpi, layer.opacity)));
      continue;
    }
    const { version, drawing } = picture;
    const tolerance = FINE_MM * paper.unitsOfMm;
    const shapes = previews.pageShapes({ version, drawing, box: boxOfFrame(paper, BEYOND_MM), tolerance });
    if (!shapes) {
      tooMuch.push(layer);
      continue;
    }
    marks.push(...layerMarks({ ...layer, look: lookFor(layer, kind), picture }, shapes, paper, scale, symbols));
    if (layer.label) labels.unshift({ label: layer.label, labels: shapes.labels }); // the upper ones first
  }
  return { marks, labels, tooMuch };
}
/** Positions that fall together at this many millimetres are one. */
const FINE_MM = 0.02;
/** Symbols and labels of what stands beyond the edge may reach into the map. */
const BEYOND_MM = 10;

/** Pixels along a side of a picture that is made at once: a page of A0 has many of them. */
const PIECE = 1024;

/** A raster in the frame, piece by piece. */
async function rasterMarks(
  { version, drawing }: LayerPictureView,
  previews: Previews,
  paper: Paper,
  dpi: number,
  opacity: number,
): Promise<PictureMark[]> {
  const { frame, unitsOfMm } = paper;
  const [west, , , north] = boxOfFrame(paper);
  const pixelMm = 25.4 / dpi;
  const [across, down] = [Math.ceil(frame.w / pixelMm), Math.ceil(frame.h / pixelMm)];
  const marks: PictureMark[] = [];
  for (let row = 0; row < down; row += PIECE)
    for (let col = 0; col < across; col += PIECE) {
      const [w, h] = [Math.min(PIECE, across - col), Math.min(PIECE, down - row)];
      const [x, y] = [col * pixelMm, row * pixelMm];
      const box = [
        west + x * unitsOfMm,
        north - (y + h * pixelMm) * unitsOfMm,
        west + (x + w * pixelMm) * unitsOfMm,
        north - y * unitsOfMm,
      ] as const;
      const png = await previews.pictureIn(version, drawing, box, w, h);
      const data = `data:image/png;base64,${png.toString('base64')}`;
      marks.push({ kind: 'picture', x: frame.x + x, y: frame.y + y, w: w * pixelMm, h: h * pixelMm, clip: frame, data, opacity });
    }
  return marks;
}
