import {
  svgPage,
  boxOfFrame,
  type LabelMark,
  labelMarks,
  landMark,
  landRings,
  type LineLayer,
  pageMarks,
  type PageSpec,
  type Paper,
  shapeMarks,
  type ShapesMark,
} from '@rootmap/core';
import type { MapCrsView, PageShapes } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { MapPlane } from '../edit/map-plane.js';
import { loadLand } from '../edit/land-outline.js';
import { dataAddress } from './data-address.js';

/** What the worker is told, one after the other: which layers may be lines; then the page, with the picture below them. */
export type PageOrder =
  | { readonly kind: 'lines'; readonly layers: readonly LineLayer[]; readonly paper: Paper; readonly scale: number }
  | {
      readonly kind: 'write';
      readonly spec: PageSpec;
      readonly format: 'pdf' | 'svg';
      readonly title: string;
      readonly map: Blob | null;
      /** The CRS of a map whose outline of the land is drawn below; null: none is. */
      readonly land: MapCrsView | null;
    };

export type PageAnswer =
  /** How many of the layers, from the first on, are lines. */
  | { readonly kind: 'lines'; readonly taken: number }
  | { readonly kind: 'written'; readonly file: Blob; readonly labelsLeft: number }
  | { readonly kind: 'failed'; readonly message: string };

/** Positions that fall together at this many millimetres are one. */
const FINE_MM = 0.02;
/** Symbols and labels of what stands beyond the edge may reach into the map. */
const BEYOND_MM = 10;

let ofMap: readonly (ShapesMark | LabelMark)[] = [];
let labelsLeft = 0;
let onPage: Paper | null = null;

const scope = self as unknown as Worker;
const answer = (told: PageAnswer): void => scope.postMessage(told);

scope.onmessage = ({ data }: MessageEvent<PageOrder>) => {
  const done = data.kind === 'lines' ? lines(data) : write(data);
  done.catch((error: unknown) => answer({ kind: 'failed', message: error instanceof Error ? error.message : String(error) }));
};

/** Layers from the highest down, until one has too much: what lies below a picture is in the picture. */
async function lines({ layers, paper, scale }: Extract<PageOrder, { kind: 'lines' }>): Promise<void> {
  onPage = paper;
  const upper: { layer: LineLayer; shapes: PageShapes }[] = [];
  const never = new AbortController().signal; // whoever gives up ends the worker
  for (const layer of layers) {
    const { version, drawing } = layer.picture;
    const request = { version, drawing, box: boxOfFrame(paper, BEYOND_MM), tolerance: FINE_MM * paper.unitsOfMm };
    const shapes = await api.pageShapes(request, never);
    if (!shapes) break;
    upper.push({ layer, shapes });
  }
  const labelled = upper.flatMap(({ layer, shapes }) => (layer.label ? [{ label: layer.label, labels: shapes.labels }] : []));
  const labels = labelMarks(labelled, paper, textWidth());
  ofMap = [...[...upper].reverse().flatMap(({ layer, shapes }) => shapeMarks(layer, shapes, paper, scale)), ...labels.marks];
  labelsLeft = labels.left;
  answer({ kind: 'lines', taken: upper.length });
}

async function write({ spec, format, title, map, land }: Extract<PageOrder, { kind: 'write' }>): Promise<void> {
  const outline = land?.proj4 && onPage && landMark(landRings(await loadLand(), new MapPlane(land), land.bounds), onPage);
  const marks = pageMarks(spec, outline ? [outline, ...ofMap] : ofMap);
  let bytes: Uint8Array<ArrayBuffer>;
  if (format === 'svg') {
    bytes = new TextEncoder().encode(svgPage(spec, marks, map && (await dataAddress(map)), title));
  } else {
    const { paintPdf } = await import('./paint-pdf.js');
    bytes = (await paintPdf(spec, marks, map, title)) as Uint8Array<ArrayBuffer>;
  }
  answer({ kind: 'written', file: new Blob([bytes]), labelsLeft });
}

/** Width of a text in millimetres, as this browser has a plain font. */
function textWidth(): (text: string, sizeMm: number) => number {
  const context = new OffscreenCanvas(1, 1).getContext('2d')!;
  context.font = '100px "DejaVu Sans", Verdana, sans-serif';
  return (text, size) => (context.measureText(text).width * size) / 100;
}
