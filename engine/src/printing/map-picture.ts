import { onPaper, paperIn, scaleShowing, svgPage, type Fingerprint, type PageMark, type Paper } from '@rootmap/core';
import type { MapLayerView } from '@rootmap/core/contract';
import { transformer } from '../crs/transformer.js';
import { readMapDoc, viewMapDoc } from '../maps/view-map-doc.js';
import { Previews } from '../preview/preview.js';
import type { RootedScope } from '../project/scope.js';
import { marksOf, readyLayers } from './map-marks.js';
import { planeOf } from './plane-of.js';
import { boxOfLayers, boxOfNumbers, middleOf } from './spot.js';

/** Millimetres, the shape of a card's picture; and pixels to an inch of rasters in it. */
const FRAME = { x: 0, y: 0, w: 160, h: 60 } as const;
const DPI = 72;
/** A map of another shape than the card's is cut rather than shown small, but no more of it than half. */
const MOST_CUT = 2;
/** A longer text would hold up the page that shows it. */
const MOST_CHARACTERS = 1_500_000;
const ADRIFT = '#a33a72';

/**
 * A small picture of a map as SVG, through which one sees where nothing is drawn. Layers whose data is not there are drawn as far as the
 * map remembers them: the cells of a coarse grid in which they had something.
 * @param map path of the map from the root
 * @returns null where nothing says where the map is, or there is too much to draw
 */
export async function mapPicture(scope: RootedScope, map: string, dataFolder: string): Promise<string | null> {
  const doc = await readMapDoc(scope, map);
  const { crs, layers } = doc.draft;
  const plane = crs === null ? null : planeOf(crs);
  if (crs === null || !plane) return null;
  const views = new Map(viewMapDoc(scope, map, doc).layers.map((l) => [l.id, l]));
  const active = new Set(layers.filter((l) => l.active).map((l) => l.id));
  const cells = doc.seen.layers.flatMap(({ layer: { id, fingerprint } }) =>
    active.has(id) && isGone(views.get(id)) && fingerprint ? cellsOf(fingerprint, crs) : [],
  );
  const there = boxOfLayers([...views.values()].filter((v) => active.has(v.id)), plane); // prettier-ignore
  const box = boxOfNumbers([...(there ?? []), ...cells.flat()]);
  if (!box) return null;
  const center = middleOf(box);
  const [across, down] = [
    scaleShowing(box, { w: FRAME.w, h: Infinity }, plane, center),
    scaleShowing(box, { w: Infinity, h: FRAME.h }, plane, center),
  ];
  const scale = Math.max(Math.min(across, down), Math.max(across, down) / MOST_CUT);
  const paper = paperIn(FRAME, plane, center, scale);
  const previews = new Previews(dataFolder);
  const { ready } = await readyLayers(scope, layers, views, { map, crs, scale }, previews, () => undefined);
  const { marks } = await marksOf(ready, previews, paper, scale, DPI);
  const text = svgPage({ width: FRAME.w, height: FRAME.h }, [...cellMarks(cells, paper), ...marks], null, doc.draft.title, false);
  return text.length > MOST_CHARACTERS ? null : text;
}

const isGone = (view: MapLayerView | undefined): boolean => view !== undefined && view.dataset === null && view.reach !== 'service';

/** Corners x, y, x, y … of a cell. */
type Cell = readonly number[];
const SIDE = 16;

/** Where data had something, as its grid tells (`OccupancyGrid`); without a grid its whole extent. Empty where nobody can tell. */
function cellsOf({ extent, crs, grid }: Fingerprint, to: string): Cell[] {
  const shift = typeof crs === 'string' ? transformer(crs, to) : null;
  if (!extent || !shift) return [];
  const [west, south, east, north] = extent;
  const square = (x: number, y: number, w: number, h: number): Cell[] => {
    const corners = [[x, y], [x, y + h], [x + w, y + h], [x + w, y]].flatMap(([a, b]) => shift(a!, b!) ?? []); // prettier-ignore
    return corners.length === 8 ? [corners] : [];
  };
  const bits = grid === null ? 0n : BigInt(`0x${grid}`);
  if (bits === 0n) return square(west, south, east - west, north - south);
  const [w, h] = [(east - west) / SIDE, (north - south) / SIDE];
  return Array.from({ length: SIDE * SIDE }, (_, i) => i).flatMap((i) =>
    (bits >> BigInt(i)) & 1n ? square(west + (i % SIDE) * w, south + Math.floor(i / SIDE) * h, w, h) : [],
  );
}

function cellMarks(cells: readonly Cell[], paper: Paper): PageMark[] {
  if (cells.length === 0) return [];
  const d = cells.map((c) => `M${[0, 2, 4, 6].map((i) => onPaper(paper, c[i]!, c[i + 1]!).map((v) => v.toFixed(2)).join(' ')).join('L')}Z`); // prettier-ignore
  return [{ kind: 'path', d: d.join(''), fill: ADRIFT, stroke: null, width: 0, opacity: 0.28 }];
}
