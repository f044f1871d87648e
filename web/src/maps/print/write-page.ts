import type { Label } from '@rootmap/core';
import type { PageShapes } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { isReady, type SceneLayer } from '../edit/map-scene.js';
import { isInScale } from '../edit/ol-symbols.js';
import { mapFrame, pageMarks, type LabelMark, type PageSpec, type ShapesMark } from './page-marks.js';
import { paintCanvas } from './paint-canvas.js';
import { paperOf, type Wish } from './page-wish.js';
import { renderMap, type MapContent, type RenderFollower } from './render-map.js';
import { boxOfFrame, isOfLines, labelMarks, shapeMarks, type Paper } from './vector-marks.js';

const pngOf = async (canvas: HTMLCanvasElement): Promise<Uint8Array> => {
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'));
  if (!blob) throw new Error('the picture is larger than this browser can make');
  return new Uint8Array(await blob.arrayBuffer());
};

export interface WrittenPage {
  readonly bytes: Uint8Array;
  /** Every tile of the map came in time. */
  readonly isWhole: boolean;
  /** Titles of layers of shapes that are a picture in it, and labels that found no room. */
  readonly asPicture: readonly string[];
  readonly labelsLeft: number;
}

/** The page as a file: in PDF and SVG shapes are lines and labels text, above a picture of what is one. */
export async function writePage(
  spec: PageSpec,
  drawn: MapContent,
  center: readonly [number, number],
  { dpi, format, title }: Pick<Wish, 'dpi' | 'format' | 'title'>,
  follower: RenderFollower,
): Promise<WrittenPage> {
  const view = { center, scale: spec.scale, frame: mapFrame(spec), dpi };
  if (format === 'png') {
    const { canvas, isWhole } = await renderMap(drawn, view, follower);
    const page = document.createElement('canvas');
    paintCanvas(page, spec, pageMarks(spec), canvas, dpi);
    return { bytes: await pngOf(page), isWhole, asPicture: [], labelsLeft: 0 };
  }
  const paper = paperOf(spec, drawn.plane, center, spec.scale);
  const { ofMap, below, asPicture, labelsLeft } = await linesOf(drawn.layers, paper, spec.scale, follower.signal);
  const { canvas, isWhole } = await renderMap({ ...drawn, layers: below }, view, follower);
  const marks = pageMarks(spec, ofMap);
  const told = { isWhole, asPicture, labelsLeft };
  if (format === 'svg') {
    const { svgPage } = await import('./svg-page.js');
    return { bytes: new TextEncoder().encode(svgPage(spec, marks, canvas.toDataURL('image/png'), title)), ...told };
  }
  const { paintPdf } = await import('./paint-pdf.js');
  return { bytes: await paintPdf(spec, marks, await pngOf(canvas), title), ...told };
}

/** Positions that fall together at this many millimetres are one. */
const FINE_MM = 0.02;
/** Symbols and labels of what stands beyond the edge may reach into the map. */
const BEYOND_MM = 10;

/** What of the map is lines and text: the layers above the highest that is a picture. The rest, and layers with too much, stay a picture. */
async function linesOf(
  layers: readonly SceneLayer[],
  paper: Paper,
  scale: number,
  signal: AbortSignal,
): Promise<{ ofMap: (ShapesMark | LabelMark)[]; below: SceneLayer[]; asPicture: string[]; labelsLeft: number }> {
  const shown = layers.filter((l) => l.active && isInScale(l, scale) && isReady(l));
  const upper: { layer: SceneLayer; shapes: PageShapes }[] = [];
  for (const layer of shown) {
    if (!isOfLines(layer)) break;
    const request = {
      version: layer.picture!.version,
      drawing: layer.picture!.drawing,
      box: boxOfFrame(paper, BEYOND_MM),
      tolerance: FINE_MM * paper.unitsOfMm,
    };
    const shapes = await api.pageShapes(request, signal);
    if (!shapes) break;
    upper.push({ layer, shapes });
  }
  const below = layers.filter((l) => !upper.some((u) => u.layer === l));
  const marks = [...upper].reverse().flatMap(({ layer, shapes }) => shapeMarks(layer, shapes, paper, scale));
  const labelled = upper.flatMap(({ layer, shapes }) => (layer.label ? [{ label: layer.label, labels: shapes.labels }] : []));
  const labels = labelMarks(labelled satisfies readonly { label: Label }[], paper, textWidth());
  return {
    ofMap: [...marks, ...labels.marks],
    below,
    asPicture: below.filter((l) => shown.includes(l) && l.picture?.kind === 'vector').map((l) => l.id),
    labelsLeft: labels.left,
  };
}

/** Width of a text in millimetres, as this browser has a plain font. */
function textWidth(): (text: string, sizeMm: number) => number {
  const context = document.createElement('canvas').getContext('2d')!;
  context.font = '100px "DejaVu Sans", Verdana, sans-serif';
  return (text, size) => (context.measureText(text).width * size) / 100;
}
