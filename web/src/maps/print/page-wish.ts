import {
  DEFAULT_NAMING,
  degreesOfPage,
  type Grid,
  gridMarks,
  isInScale,
  type Land,
  landOfRegion,
  type LegendEntry,
  legendRows,
  locatorMarks,
  lookFor,
  mapFrame,
  northAt,
  type OwnPicture,
  type PageSpec,
  paperOf,
  PAPERS,
  proposeName,
  readScale,
  roundScale,
  scaleShowing,
  scaleText,
  type PageNote,
  type RESOLUTIONS,
} from '@rootmap/core';
import type { MapDraft } from '@rootmap/core/contract';
import { many } from '../../parts/format.js';
import { boxAround } from '../edit/box-around.js';
import type { SceneLayer } from '../edit/map-scene.js';
import type { StackRow } from '../edit/layer-row.js';
import type { Sight } from '../edit/map-canvas.js';
import type { MapPlane } from '../edit/map-plane.js';

export const SCALES = [1000, 2500, 5000, 10_000, 25_000, 50_000, 100_000, 250_000, 500_000, 1_000_000] as const;
const FIRST_SCALE = 25_000;

/** What a person asks of a page. */
export interface Wish {
  readonly paper: keyof typeof PAPERS;
  readonly isWide: boolean;
  readonly title: string;
  readonly typedScale: string;
  readonly dpi: (typeof RESOLUTIONS)[number];
  readonly format: 'pdf' | 'svg' | 'png';
  readonly notes: readonly PageNote[];
  readonly grid: Grid;
  readonly has: Readonly<Record<'legend' | 'bar' | 'north' | 'locator', boolean>>;
  readonly legendColumns: 1 | 2 | 3;
  /** Null: none. */
  readonly picture: OwnPicture | null;
  /** Only the map itself is written, as a picture, without the page around it. */
  readonly isBare: boolean;
  /** Null: that of the sources is taken. */
  readonly attribution: string | null;
  readonly name: string;
}

/** A round scale near the one on the screen. */
const niceScale = (scale: number): number =>
  SCALES.reduce<number>((best, s) => (Math.abs(Math.log(s / scale)) < Math.abs(Math.log(best / scale)) ? s : best), SCALES[0]);

export const firstWish = (draft: MapDraft, sight: Sight | null): Wish => ({
  paper: 'A4',
  isWide: true,
  title: draft.title,
  typedScale: scaleText(niceScale(sight?.scale ?? FIRST_SCALE)),
  dpi: 200,
  format: 'pdf',
  notes: [],
  grid: 'none',
  has: { legend: true, bar: true, north: true, locator: false },
  legendColumns: 1,
  picture: null,
  isBare: false,
  attribution: null,
  name: proposeName(draft.title || 'map', DEFAULT_NAMING),
});

/** What of the map is explained on the page, at that scale. */
const legendOf = (rows: readonly StackRow[], scale: number): LegendEntry[] =>
  rows.flatMap(({ layer, facts, range }) => {
    const kind = facts.data?.kind;
    return layer.active && kind && kind !== 'table' && isInScale(layer, scale)
      ? [{ title: layer.title, kind, look: lookFor(layer, kind), range }]
      : [];
  });

/** The page that is asked for; null: no scale can be read, or the map has no CRS or place yet. */
export function pageSpec(
  wish: Wish,
  attribution: string,
  draft: MapDraft,
  plane: MapPlane,
  rows: readonly StackRow[],
  sight: Sight | null,
  land: Land = [],
): PageSpec | null {
  const scale = readScale(wish.typedScale);
  if (scale === null || !sight || draft.crs === null) return null;
  const [short, long] = PAPERS[wish.paper];
  const [width, height] = wish.isWide ? [long, short] : [short, long];
  const paper = paperOf({ width, height }, plane, sight.center, scale);
  const page = degreesOfPage(plane, paper);
  return {
    width,
    height,
    title: wish.title,
    scale,
    crs: `${plane.crs?.name ?? ''} (${draft.crs})`,
    legend: legendOf(rows, scale),
    attribution,
    date: new Date().toISOString().slice(0, 10),
    notes: wish.notes,
    grid: gridMarks(wish.grid, plane, paper),
    picture: wish.picture,
    locator: page && wish.has.locator ? locatorMarks(landOfRegion(land), page) : [],
    legendColumns: wish.legendColumns,
    hasLegend: wish.has.legend,
    hasBar: wish.has.bar,
    hasNorth: wish.has.north,
    north: northAt(plane, sight.center),
  };
}

/** A scale at which all layers that are drawn are on the page, about the point that it shows; null: nobody knows where they are. */
export function fittingScale(
  layers: readonly Pick<SceneLayer, 'active' | 'box'>[],
  page: Pick<PageSpec, 'width' | 'height'>,
  plane: Pick<MapPlane, 'resolution'>,
  { center }: Pick<Sight, 'center'>,
): string | null {
  const all = boxAround(layers.flatMap((l) => (l.active && l.box ? [l.box] : [])));
  return all && scaleText(roundScale(scaleShowing(all, mapFrame(page), plane, center)));
}

function unexplained(spec: PageSpec): string[] {
  const left = spec.hasLegend ? legendRows(spec, mapFrame(spec)).left : 0;
  return left > 0 ? [`The legend has no room for ${many(left, 'row')}.`] : [];
}

/** Why there is no page yet, and what makes one. */
export function whyNoPage(wish: Wish, draft: MapDraft): string {
  if (readScale(wish.typedScale) === null) return 'Type a scale like 1:25 000.';
  if (draft.crs !== null) return 'The map has no place yet: look at it first, then print.';
  return draft.layers.length === 0
    ? 'The map has no CRS yet: bring a layer into it, and one that suits it is proposed.'
    : 'The map has no CRS yet. Choose one beside the map, at Change, then print.';
}

/** Data that is shown larger than it was digitised for: what it looks like then is more than it tells. */
function tooLarge(scale: number, rows: readonly StackRow[], statedScale: (dataset: string) => string | null): string[] {
  const told = rows.flatMap(({ layer, facts }) => {
    const text = layer.active && isInScale(layer, scale) && facts.data?.dataset ? statedScale(facts.data.dataset) : null;
    const made = text === null ? null : readScale(text);
    return made !== null && scale < made ? [`${layer.title} (${scaleText(made)})`] : [];
  });
  return told.length > 0 ? [`At ${scaleText(scale)} the page is larger than what its data was made for: ${told.join(', ')}.`] : [];
}

/** What is missing on the page, in sentences. */
export function missingOf(
  spec: PageSpec | null,
  draft: MapDraft,
  rows: readonly StackRow[],
  statedScale: (dataset: string) => string | null,
): string[] {
  const lost = rows.filter((r) => r.layer.active && r.facts.file && !['sound', 'different', 'not-asked'].includes(r.facts.file.state));
  const busy = rows.filter((r) => r.isReading).length;
  return [
    ...(lost.length > 0 ? [`Not drawn, since their data is not there: ${lost.map((r) => r.layer.title).join(', ')}.`] : []),
    ...(busy > 0 ? [`${many(busy, 'layer')} ${busy === 1 ? 'is' : 'are'} still being read.`] : []),
    ...(spec?.title.trim() === '' ? ['The page has no title.'] : []),
    ...(spec?.attribution.trim() === '' ? ['Nothing says where the data comes from: write an attribution, or origins in Sources.'] : []),
    ...(spec && !spec.hasBar ? ['There is no scale bar: the scale is lost when the page is copied smaller.'] : []),
    ...(spec && !spec.hasLegend ? ['There is no legend.'] : []),
    ...(spec ? tooLarge(spec.scale, rows, statedScale) : []),
    ...(spec ? unexplained(spec) : []),
    ...(draft.layers.length === 0 ? ['The map has no layer.'] : []),
  ];
}
