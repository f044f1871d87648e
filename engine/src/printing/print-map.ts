import {
  attributionText,
  degreesOfPage,
  FINEST_LAND,
  gridMarks,
  labelMarks,
  landMark,
  landOfRegion,
  landRings,
  legendRows,
  locatorMarks,
  lookFor,
  mapFrame,
  northAt,
  pageMarks,
  paperOf,
  PAPERS,
  ProblemError,
  rangeOf,
  roundScale,
  scaleShowing,
  svgPage,
  type Grid,
  type LegendEntry,
  type OnProgress,
  type PageNote,
  type PageSpec,
  type Plane,
} from '@rootmap/core';
import type { MapLayerView } from '@rootmap/core/contract';
import { crsNamed } from '../crs/search-crs.js';
import { readMapDoc, viewMapDoc } from '../maps/view-map-doc.js';
import { Previews } from '../preview/preview.js';
import { keeperOf, Origins } from '../folders/origins.js';
import { dataAt } from '../project/find-dataset.js';
import type { RootedScope } from '../project/scope.js';
import { loadLand } from './land.js';
import { marksOf, readyLayers, type ReadyLayer } from './map-marks.js';
import { pageAsPdf, textWidth } from './page-pdf.js';
import { planeOf } from './plane-of.js';
import { boxOfLayers, middleOf, type Spot } from './spot.js';

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
  readonly notes: readonly PageNote[];
  readonly grid: Grid;
  readonly has: Readonly<Record<'legend' | 'bar' | 'north' | 'locator', boolean>>;
  readonly legendColumns: 1 | 2 | 3;
  /** The outline of the land is drawn below the map, where the scale is not finer than it is. */
  readonly hasLand: boolean;
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
  const { ready, left } = await readyLayers(scope, draft.layers, views, { map, crs, scale: spot.scale }, previews, onProgress);
  const { marks, labels, tooMuch } = await marksOf(ready, previews, paper, spot.scale, wish.dpi);
  left.push(...tooMuch.map(({ title }) => ({ title, why: 'it has more positions here than a page holds: zoom in, or filter it' })));
  const drawn = ready.filter((r) => !tooMuch.includes(r.layer));
  const land = wish.hasLand || wish.has.locator ? await loadLand() : [];
  const degrees = degreesOfPage(plane, paper);
  const bounds = crsNamed(crs)?.bounds ?? WHOLE_EARTH;
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
    notes: wish.notes,
    grid: gridMarks(wish.grid, plane, paper),
    picture: null,
    locator: degrees && wish.has.locator ? locatorMarks(landOfRegion(land), degrees) : [],
    legendColumns: wish.legendColumns,
    hasLegend: wish.has.legend,
    hasBar: wish.has.bar,
    hasNorth: wish.has.north,
    north: northAt(plane, spot.center),
  };
  const below = wish.hasLand && spot.scale >= FINEST_LAND ? [landMark(landRings(land, plane, bounds), paper)] : [];
  const page = pageMarks(spec, [...below, ...marks, ...placed.marks]);
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

const WHOLE_EARTH = [-180, -90, 180, 90] as const;

const wrongUse = (message: string): ProblemError => new ProblemError({ code: 'wrong-use', message });

const legendOf = ({ layer, kind, picture }: ReadyLayer): LegendEntry => {
  const look = lookFor(layer, kind);
  return { title: layer.title, kind: kind === 'table' || kind === null ? 'mixed' : kind, look, range: rangeOf(look, picture) };
};

/** What the data that is drawn asks to be told of it, as far as somebody wrote it down. */
function attributionOf(scope: RootedScope, drawn: readonly ReadyLayer[]): string {
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
  const box = boxOfLayers(layers, plane);
  const middle = center ?? (box && middleOf(box));
  if (!middle || (!box && scale === null))
    throw wrongUse('Nothing in the map says where it is: name a place with --at LONGITUDE,LATITUDE.');
  return { center: middle, scale: scale ?? roundScale(scaleShowing(box!, frame, plane, middle)) };
}
