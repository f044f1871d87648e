import {
  attributionText,
  boxOfFrame,
  drawingOf,
  explain,
  gridMarks,
  isInScale,
  labelMarks,
  legendRows,
  lookFor,
  mapFrame,
  northAt,
  pageMarks,
  paperOf,
  PAPERS,
  PIXEL_METRES,
  ProblemError,
  rangeOf,
  rulesOfLook,
  shapeMarks,
  svgPage,
  type DraftLayer,
  type Grid,
  type LabelMark,
  type LegendEntry,
  type OnProgress,
  type PageSpec,
  type Paper,
  type PictureMark,
  type Plane,
  type ShapesMark,
} from '@rootmap/core';
import type { LayerPictureView, MapLayerView, PageLabel } from '@rootmap/core/contract';
import { crsNamed } from '../crs/search-crs.js';
import { readMapDoc, viewMapDoc } from '../maps/view-map-doc.js';
import { Previews } from '../preview/preview.js';
import { keeperOf, Origins } from '../folders/origins.js';
import { dataAt, findAnyDataset, type FoundDataset } from '../project/find-dataset.js';
import type { RootedScope } from '../project/scope.js';
import { pageAsPdf, textWidth } from './page-pdf.js';
import { planeOf } from './plane-of.js';

/** How a map is wanted on paper. */
export interface PrintWish {
  readonly format: 'pdf' | 'svg';
  readonly paper: keyof typeof PAPERS;
  readonly isWide: boolean;
  /** Null: the map's. */
  readonly crs: string | null;
  readonly title: string | null;
  /** 1:n; null: that of the view, or what shows all of its layers. */
  readonly scale: number | null;
  /** Degrees, longitude first; null: the middle of the view. */
  readonly at: readonly [number, number] | null;
  /** Name of one of the map's views; null: as it opens. */
  readonly view: string | null;
  readonly dpi: number;
  readonly note: string;
  readonly grid: Grid;
  readonly has: Readonly<Record<'legend' | 'bar' | 'north', boolean>>;
  /** Null: what the data that is drawn asks for. */
  readonly attribution: string | null;
  /** ISO 8601 day that stands on it. */
  readonly date: string;
}

export interface Printed {
  readonly bytes: Uint8Array;
  readonly scale: number;
  readonly crs: string;
  /** Layers that are on it, the upper first. */
  readonly drawn: readonly string[];
  /** Layers that are not, each with the reason. */
  readonly left: readonly { readonly title: string; readonly why: string }[];
  /** Labels that found no room, and rows of the legend. */
  readonly labelsLeft: number;
  readonly legendLeft: number;
}

interface Ready {
  readonly layer: DraftLayer;
  readonly kind: MapLayerView['kind'];
  readonly found: FoundDataset;
  readonly picture: LayerPictureView;
}
interface Spot {
  readonly center: readonly [number, number];
  readonly scale: number;
}

/**
 * A map of a project as a page: shapes as lines, labels as text, rasters as pictures.
 * @param map path of the map from the root
 */
export async function printMap(
  scope: RootedScope,
  map: string,
  wish: PrintWish,
  dataFolder: string,
  onProgress: OnProgress,
): Promise<Printed> {
  const doc = await readMapDoc(scope, map);
  const { draft } = doc;
  const crs = wish.crs ?? draft.crs;
  const plane = crs === null ? null : planeOf(crs);
  if (crs === null || !plane)
    throw wrongUse(
      crs === null ? 'The map has no CRS yet: say in which it is to be printed.' : `How ${crs} is computed is not known here.`,
    );
  const views = new Map(viewMapDoc(scope, map, doc).layers.map((l) => [l.id, l]));
  const [short, long] = PAPERS[wish.paper];
  const [width, height] = wish.isWide ? [long, short] : [short, long];
  const spot = spotOf(draft, [...views.values()], plane, wish, mapFrame({ width, height }));
  const paper = paperOf({ width, height }, plane, spot.center, spot.scale);
  const previews = new Previews(dataFolder);
  const left: { title: string; why: string }[] = [];
  const ready: Ready[] = [];
  const shown = draft.layers.filter((l) => l.active && isInScale(l, spot.scale));
  for (const [i, layer] of shown.entries()) {
    onProgress({ done: i, of: shown.length, unit: 'layers', item: layer.title });
    const view = views.get(layer.id);
    const why = view ? whyNot(layer, view) : 'it is not in the file';
    if (!view || why !== null) left.push({ title: layer.title, why: why ?? '' });
    else
      try {
        const found = findAnyDataset(scope, view.dataset!);
        const picture = await previews.prepareLayer(found, crs, drawingOf(layer, view.kind), () => undefined);
        ready.push({ layer, kind: view.kind, found, picture });
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        left.push({ title: layer.title, why: explain(error.problem) });
      }
  }
  const { marks, labels, tooMuch } = await marksOf(ready, previews, paper, spot.scale, wish.dpi);
  left.push(...tooMuch.map(({ title }) => ({ title, why: 'it has more positions here than a page holds: zoom in, or filter it' })));
  const drawn = ready.filter((r) => !tooMuch.includes(r.layer));
  const placed = labelMarks(labels, paper, await textWidth());
  const spec: PageSpec = {
    width,
    height,
    title: wish.title ?? draft.title,
    scale: spot.scale,
    crs: `${crsNamed(crs)?.name ?? ''} (${crs})`,
    legend: drawn.map(legendOf),
    attribution: wish.attribution ?? attributionOf(scope, drawn),
    date: wish.date,
    note: wish.note,
    grid: gridMarks(wish.grid, plane, paper),
    picture: null,
    locator: [],
    legendColumns: 1,
    hasLegend: wish.has.legend,
    hasBar: wish.has.bar,
    hasNorth: wish.has.north,
    north: northAt(plane, spot.center),
  };
  const page = pageMarks(spec, [...marks, ...placed.marks]);
  const bytes =
    wish.format === 'svg' ? new TextEncoder().encode(svgPage(spec, page, null, spec.title)) : await pageAsPdf(spec, page, spec.title);
  return {
    bytes,
    scale: spot.scale,
    crs,
    drawn: drawn.map((r) => r.layer.title),
    left,
    labelsLeft: placed.left,
    legendLeft: spec.hasLegend ? legendRows(spec, mapFrame(spec)).left : 0,
  };
}

const wrongUse = (message: string): ProblemError => new ProblemError({ code: 'wrong-use', message });

/** Why a layer is not on the page; null: nothing is known against it. */
function whyNot({ look }: DraftLayer, { reach, state, dataset, kind, isPlaced }: MapLayerView): string | null {
  if (reach === 'service') return 'what servers draw is printed from the map in the browser';
  if (!['sound', 'different', 'incomplete'].includes(state) || dataset === null) return 'its data is not there: mend it first';
  if (kind === 'table') return 'it has no shapes';
  if (!isPlaced) return 'nobody knows its CRS';
  if (look && look.kind !== 'raster' && rulesOfLook(look).some((r) => r.symbol.picture !== null))
    return 'its symbols are pictures, which are printed from the map in the browser';
  return null;
}

const legendOf = ({ layer, kind, picture }: Ready): LegendEntry => {
  const look = lookFor(layer, kind);
  return { title: layer.title, kind: kind === 'table' || kind === null ? 'mixed' : kind, look, range: rangeOf(look, picture) };
};

/** What the data that is drawn asks to be told of it, as far as somebody wrote it down. */
function attributionOf(scope: RootedScope, drawn: readonly Ready[]): string {
  const origins = new Origins(keeperOf(scope));
  return attributionText(
    drawn.flatMap(({ found }) => {
      const { path, table } = dataAt(found);
      return origins.of(path, table) ?? [];
    }),
  );
}

/** About what the page turns, and how large: as wished, as a view of the map, or so that all of its layers are in sight. */
function spotOf(
  draft: {
    readonly view: Spot | null;
    readonly views: readonly { readonly name: string; readonly at: readonly [number, number]; readonly scale: number }[];
  },
  layers: readonly MapLayerView[],
  plane: Plane,
  wish: PrintWish,
  frame: { readonly w: number; readonly h: number },
): Spot {
  const named = wish.view === null ? null : draft.views.find((v) => v.name === wish.view);
  if (named === undefined)
    throw wrongUse(`The map has no view called ${wish.view ?? ''}. It has ${draft.views.map((v) => v.name).join(', ') || 'none'}.`);
  const at = wish.at ?? named?.at ?? null;
  // Where it opens is told in its own CRS.
  const center = at ? plane.toPlane(at) : wish.crs === null ? (draft.view?.center ?? null) : null;
  const scale = wish.scale ?? named?.scale ?? (at ? null : (draft.view?.scale ?? null));
  if (center && scale !== null) return { center, scale };
  const boxes = layers.flatMap((l) => (l.degrees ? [l.degrees] : []));
  const corners = boxes.flatMap(([w, s, e, n]) => [[w, s], [w, n], [e, s], [e, n]] as const).flatMap((p) => plane.toPlane(p) ?? []); // prettier-ignore
  const xs = corners.filter((_, i) => i % 2 === 0);
  const ys = corners.filter((_, i) => i % 2 === 1);
  if (xs.length === 0 && !center) throw wrongUse('Nothing in the map says where it is: name a place with --at LONGITUDE,LATITUDE.');
  const box = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)] as const;
  const middle = center ?? ([(box[0] + box[2]) / 2, (box[1] + box[3]) / 2] as const);
  if (scale !== null) return { center: middle, scale };
  // Of a thousandth the page shows so much: what is wanted is so many times as large.
  const unitsOfMm = plane.resolution(1000, middle) / (PIXEL_METRES * 1000);
  const times = Math.max((box[2] - box[0]) / (frame.w * unitsOfMm), (box[3] - box[1]) / (frame.h * unitsOfMm), 1e-6);
  return { center: middle, scale: roundUp(1000 * times * MARGIN) };
}
/** What is in sight does not touch the edge. */
const MARGIN = 1.05;
/** The next scale that people use. */
function roundUp(scale: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(1, scale)));
  return [1, 1.5, 2, 2.5, 3, 4, 5, 7.5, 10].map((n) => n * power).find((n) => n >= scale) ?? scale;
}

type MapMark = ShapesMark | LabelMark | PictureMark;

/** What is drawn, from the lowest layer up. */
async function marksOf(
  ready: readonly Ready[],
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
  for (const { layer, kind, picture } of [...ready].reverse()) {
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
    marks.push(...shapeMarks({ ...layer, look: lookFor(layer, kind), picture }, shapes, paper, scale));
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
