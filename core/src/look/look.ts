/** How a layer is drawn. Sizes and widths in pixels of 0.28 mm (OGC 05-077r4, 11.3), colours as `#rrggbb`, opacities from 0 to 1. */

export const MARKS = ['circle', 'square', 'triangle', 'star', 'cross', 'x'] as const;
/** Well-known names of SE 1.1 (OGC 05-077r4, 11.3.2). */
export type Mark = (typeof MARKS)[number];

/** One symbol for points, lines and areas alike; a shape takes of it what it can show. */
export interface LayerSymbol {
  readonly fill: string | null;
  readonly fillOpacity: number;
  readonly stroke: string | null;
  readonly strokeWidth: number;
  readonly strokeOpacity: number;
  readonly dash: readonly number[] | null;
  readonly mark: Mark;
  /** Diameter of a point. */
  readonly size: number;
  /** Reference to a picture that is drawn instead of the mark; null: none. */
  readonly picture: string | null;
}

interface LookEntry {
  readonly title: string;
  readonly symbol: LayerSymbol;
}
export type KeyValue = string | number | boolean | null;

/** `given`: breaks that a person or another program set. */
export const CLASS_METHODS = ['equal', 'quantile', 'natural', 'given'] as const;
export type ClassMethod = (typeof CLASS_METHODS)[number];

export type VectorLook =
  | { readonly kind: 'one'; readonly symbol: LayerSymbol }
  | {
      readonly kind: 'by-value';
      readonly field: string;
      readonly entries: readonly (LookEntry & { readonly value: KeyValue })[];
      /** All others; null: they are not drawn. */
      readonly other: LayerSymbol | null;
    }
  | {
      readonly kind: 'by-class';
      readonly field: string;
      readonly method: ClassMethod;
      /** One more than there are classes; a class holds its lower break, the last one its upper one too. */
      readonly breaks: readonly number[];
      readonly entries: readonly LookEntry[];
    }
  /** As a style of another program has them: each record is drawn by every rule that it meets. */
  | { readonly kind: 'rules'; readonly rules: readonly LookRule[] };

interface RampStop {
  readonly value: number;
  readonly colour: string;
  readonly opacity: number;
}
/** How a pixel of the screen takes its value from those of the raster around it. */
export const RESAMPLINGS = ['nearest', 'bilinear', 'cubic'] as const;
export type Resampling = (typeof RESAMPLINGS)[number];

/** Bands of a raster, from 1, that are red, green and blue. */
export type ThreeBands = readonly [red: number, green: number, blue: number];

export interface RasterLook {
  readonly kind: 'raster';
  /** From 1. The first as grey without a stretch: the raster's own colours, where it has any. */
  readonly band: number;
  /** Bands, from 1, that are drawn as red, green and blue together; null: one band is drawn. */
  readonly bands: ThreeBands | null;
  /** Grey, or each of red, green and blue, is stretched between them; null: what the data has. Left out where there is a ramp. */
  readonly stretch: { readonly from: number; readonly to: number } | null;
  /** Colours between stops are mixed; null: grey. */
  readonly ramp: readonly RampStop[] | null;
  /** Drawn in the colour of its interval instead of between two. */
  readonly isStepped: boolean;
  /** A value that is not drawn, beside what the file says; null: none. */
  readonly nodata: number | null;
  readonly resampling: Resampling;
}
export type Look = VectorLook | RasterLook;

export interface LookRule {
  readonly title: string;
  /** CQL2 text; null: every record. */
  readonly filter: string | null;
  /** For records that no other rule draws. */
  readonly isElse: boolean;
  readonly minScale: number | null;
  readonly maxScale: number | null;
  readonly symbol: LayerSymbol;
}

export const PLACEMENTS = ['over', 'right', 'above', 'along'] as const;
export interface Label {
  /** Text with names of fields between braces. */
  readonly template: string;
  readonly size: number;
  readonly colour: string;
  readonly halo: { readonly colour: string; readonly width: number } | null;
  readonly placement: (typeof PLACEMENTS)[number];
}

export type ShapeKind = 'point' | 'line' | 'area' | 'mixed';

/** Muted tones that stand apart for colour-blind readers too, in the order in which layers get them. */
const TONES = ['#1f6f5c', '#b9770e', '#3e5f8a', '#8e2a62', '#5c7a29', '#8a5a3c', '#2b7f8c', '#6e5a8f'];

export function plainSymbol(kind: ShapeKind, nth = 0): LayerSymbol {
  const tone = TONES[nth % TONES.length]!;
  const isArea = kind === 'area' || kind === 'mixed';
  return {
    fill: kind === 'line' ? null : tone,
    fillOpacity: isArea ? 0.35 : 1,
    stroke: kind === 'point' ? '#fffefa' : tone,
    strokeWidth: kind === 'line' ? 1.8 : 1.2,
    strokeOpacity: 1,
    dash: null,
    mark: 'circle',
    size: 8,
    picture: null,
  };
}
export const PLAIN_RASTER: RasterLook = {
  kind: 'raster',
  band: 1,
  bands: null,
  stretch: null,
  ramp: null,
  isStepped: false,
  nodata: null,
  resampling: 'nearest',
};
/** The raster is drawn in its own colours, where it has any. */
export const isAsItIs = ({ band, bands, stretch, ramp }: RasterLook): boolean =>
  band === 1 && bands === null && stretch === null && ramp === null;
export const plainLook = (kind: ShapeKind | 'raster', nth = 0): Look =>
  kind === 'raster' ? PLAIN_RASTER : { kind: 'one', symbol: plainSymbol(kind, nth) };
export const PLAIN_LABEL: Omit<Label, 'template'> = {
  size: 12,
  colour: '#1c2a27',
  halo: { colour: '#fffefa', width: 1.6 },
  placement: 'over',
};
