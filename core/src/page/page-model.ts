import type { Look, ShapeKind } from '../look/look.js';

/** Dots per inch that are offered, and what a page is written as. */
export const RESOLUTIONS = [96, 150, 200, 300] as const;
export const PAGE_FORMATS = ['pdf', 'svg', 'png'] as const;

export interface Box {
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
}
/** Shapes of a layer, cut at the edge of the map. */
export interface ShapesMark {
  readonly kind: 'shapes';
  readonly clip: Box;
  /** Rings that are filled, by the even–odd rule; otherwise lines. */
  readonly isArea: boolean;
  /** Positions x, y, x, y … of each. */
  readonly runs: readonly (readonly number[])[];
  /** Instead of runs: an SVG path, of points. */
  readonly path: string | null;
  readonly fill: string | null;
  readonly fillOpacity: number;
  readonly stroke: string | null;
  readonly strokeOpacity: number;
  readonly width: number;
  readonly dash: readonly number[] | null;
}
/** A label of the map; x and y are where its base line begins, or has its middle. */
export interface LabelMark {
  readonly kind: 'label';
  readonly clip: Box;
  readonly x: number;
  readonly y: number;
  readonly size: number;
  readonly text: string;
  readonly colour: string;
  readonly halo: { readonly colour: string; readonly width: number } | null;
  readonly align: 'left' | 'center';
  /** Degrees counter-clockwise. */
  readonly angle: number;
}

/** A picture in a box. */
export interface PictureMark extends Box {
  readonly kind: 'picture';
  /** The map, at whose edge it is cut; null: it is not. */
  readonly clip: Box | null;
  /** A `data:` address of a PNG or a JPEG. */
  readonly data: string;
  readonly opacity: number;
}

/** What stands on a page. All lengths in millimetres from its upper left corner. */
export type PageMark =
  | ShapesMark
  | LabelMark
  | PictureMark
  | { readonly kind: 'map'; readonly x: number; readonly y: number; readonly w: number; readonly h: number }
  | {
      readonly kind: 'rect';
      readonly x: number;
      readonly y: number;
      readonly w: number;
      readonly h: number;
      readonly fill: string | null;
      readonly stroke: string | null;
      readonly width: number;
      readonly opacity: number;
    }
  | {
      readonly kind: 'path';
      readonly d: string;
      readonly fill: string | null;
      readonly stroke: string | null;
      readonly width: number;
      readonly opacity: number;
    }
  | {
      readonly kind: 'text';
      readonly x: number;
      readonly y: number;
      readonly size: number;
      readonly text: string;
      readonly isBold: boolean;
      readonly align: 'left' | 'right' | 'center';
      readonly what: string;
    };

export interface LegendEntry {
  readonly title: string;
  readonly kind: ShapeKind | 'raster';
  readonly look: Look;
  /** Of a raster, the values at the ends of its colours; null: not known, or it shows colours of its own. */
  readonly range: { readonly from: number; readonly to: number } | null;
}
export interface PageSpec {
  /** Of the paper, landscape or upright. */
  readonly width: number;
  readonly height: number;
  readonly title: string;
  /** 1:n in the middle of the map. */
  readonly scale: number;
  readonly crs: string;
  readonly legend: readonly LegendEntry[];
  readonly attribution: string;
  readonly date: string;
  /** Texts in boxes on the map; several at one place stand one beside the other, away from its edge. */
  readonly notes: readonly PageNote[];
  /** Lines of coordinates over the map. */
  readonly grid: readonly PageMark[];
  /** A picture of one's own at the upper left of the map; null: none. */
  readonly picture: OwnPicture | null;
  /** A small map of the region, where the page is marked; empty: none. From its upper left corner, as wide and high as LOCATOR. */
  readonly locator: readonly PageMark[];
  readonly hasLegend: boolean;
  /** Side by side. */
  readonly legendColumns: number;
  readonly hasBar: boolean;
  readonly hasNorth: boolean;
  /** Angle of true north from the top of the page, degrees clockwise. */
  readonly north: number;
}

/** Where a text of one's own may stand on the map. */
export const NOTE_PLACES = ['lower-left', 'lower-middle', 'upper-middle', 'lower-right'] as const;
export interface PageNote {
  /** Line by line. */
  readonly text: string;
  readonly place: (typeof NOTE_PLACES)[number];
}

/** A picture that stands on a page. */
export interface OwnPicture {
  /** A `data:` address of a PNG or a JPEG. */
  readonly data: string;
  /** Width by height. */
  readonly aspect: number;
  /** Millimetres. */
  readonly width: number;
}
/** The small map of the region, in millimetres. */
export const LOCATOR = { w: 38, h: 30 } as const;

/** Of a map where nothing is drawn. */
export const GROUND = '#e6ecf4';
