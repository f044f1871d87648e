import { roundLength } from '../crs/distortion.js';
import type { LayerSymbol, Look, RasterLook, ShapeKind } from '../look/look.js';
import { markPath } from './mark-path.js';
import { endText } from './raster-range.js';
import { lengthText, scaleText } from './scale-text.js';

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
  /** Text in a box on the map, line by line; '' is none. */
  readonly note: string;
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
const MARGIN = 10;
const TITLE = 12;
const FOOT = 17;
const INK = '#1c2a27';
const SOFT = '#56625e';
const MOST_BAR = 60;
const ROW = 5;

export const mapFrame = (p: Pick<PageSpec, 'width' | 'height'>) => ({
  x: MARGIN,
  y: MARGIN + TITLE,
  w: p.width - 2 * MARGIN,
  h: p.height - 2 * MARGIN - TITLE - FOOT,
});

/** The longest round length that fits, as metres on the ground and millimetres on paper: they agree with 1:n by their making. */
export function barOf(scale: number): { readonly metres: number; readonly mm: number } {
  const metres = roundLength((MOST_BAR * scale) / 1000);
  return { metres, mm: (metres * 1000) / scale };
}

const text = (
  what: string,
  x: number,
  y: number,
  size: number,
  content: string,
  more: Partial<Extract<PageMark, { kind: 'text' }>> = {},
): PageMark => ({ kind: 'text', what, x, y, size, text: content, isBold: false, align: 'left', ...more });
const rect = (
  x: number,
  y: number,
  w: number,
  h: number,
  fill: string | null,
  stroke: string | null,
  width = 0.2,
  opacity = 1,
): PageMark => ({
  kind: 'rect',
  x,
  y,
  w,
  h,
  fill,
  stroke,
  width,
  opacity,
});

/** Everything on the page, the map below the rest. @param ofMap what of the map is lines and text, above its picture */
export function pageMarks(p: PageSpec, ofMap: readonly (ShapesMark | LabelMark | PictureMark)[] = []): PageMark[] {
  const frame = mapFrame(p);
  const foot = frame.y + frame.h + 4;
  return [
    { kind: 'map', ...frame },
    ...ofMap,
    ...p.grid,
    rect(frame.x, frame.y, frame.w, frame.h, null, INK, 0.35),
    ...noteMarks(p.note, frame),
    ...pictureMarks(p.picture, frame),
    ...locatorIn(p, frame),
    text('title', frame.x, MARGIN + TITLE - 5, 6, p.title, { isBold: true }),
    ...(p.hasLegend && p.legend.length > 0 ? legendMarks(p, frame) : []),
    ...(p.hasBar ? barMarks(p.scale, frame.x, foot) : []),
    text('scale', frame.x, foot + 9, 3.4, `${scaleText(p.scale)} · ${p.crs}`),
    ...(p.attribution.trim() === '' ? [] : [text('attribution', frame.x + frame.w, foot + 9, 2.8, p.attribution, { align: 'right' })]),
    text('date', frame.x + frame.w, foot + 3, 2.8, p.date, { align: 'right' }),
    ...(p.hasNorth ? northMarks(frame.x + frame.w - 9, frame.y + 11, p.north) : []),
  ];
}

const NOTE_SIZE = 2.8;
const NOTE_ROW = 4;
/** A text of one's own at the lower left of the map; above the letters of a grid. */
function noteMarks(note: string, frame: Box): PageMark[] {
  const lines = note.trim() === '' ? [] : note.trim().split('\n');
  if (lines.length === 0) return [];
  const width = Math.min(frame.w / 2, 4 + Math.max(...lines.map((l) => l.length)) * 1.75);
  const height = lines.length * NOTE_ROW + 3;
  const [x, y] = [frame.x + 3, frame.y + frame.h - height - 5];
  return [
    rect(x, y, width, height, '#ffffff', SOFT, 0.2, 0.92),
    ...lines.map((l, i) => text('note', x + 2, y + 4.4 + i * NOTE_ROW, NOTE_SIZE, l)),
  ];
}

const INSET = 3;
/** Of the map's width, that a picture takes at most. */
const MOST_OF_WIDTH = 0.4;
const pictureBox = ({ aspect, width }: OwnPicture, frame: Box): Box => {
  const w = Math.min(width, frame.w * MOST_OF_WIDTH, frame.h * MOST_OF_WIDTH * aspect);
  return { x: frame.x + INSET, y: frame.y + INSET, w, h: w / aspect };
};
const pictureMarks = (picture: OwnPicture | null, frame: Box): PageMark[] =>
  picture ? [{ kind: 'picture', ...pictureBox(picture, frame), clip: null, data: picture.data, opacity: 1 }] : [];

/** Below the picture, where there is one. */
function locatorIn({ locator, picture }: PageSpec, frame: Box): PageMark[] {
  if (locator.length === 0) return [];
  const above = picture ? pictureBox(picture, frame).h + INSET : 0;
  return locator.map((m) => movedBy(m, frame.x + INSET, frame.y + INSET + above));
}

/** A mark that stands elsewhere; paths move whole. */
function movedBy(m: PageMark, dx: number, dy: number): PageMark {
  if (m.kind === 'path')
    return {
      ...m,
      d: m.d.replace(
        /([ML])([-\d.]+) ([-\d.]+)/g,
        (_, c: string, x: string, y: string) => `${c}${(Number(x) + dx).toFixed(3)} ${(Number(y) + dy).toFixed(3)}`,
      ),
    };
  return 'x' in m ? { ...m, x: m.x + dx, y: m.y + dy } : m;
}

function barMarks(scale: number, x: number, y: number): PageMark[] {
  const { metres, mm } = barOf(scale);
  const part = mm / 4;
  return [
    ...[0, 1, 2, 3].map((i) => rect(x + i * part, y, part, 1.6, i % 2 === 0 ? INK : '#ffffff', INK, 0.2)),
    text('bar-zero', x, y + 4.6, 2.8, '0'),
    text('bar', x + mm, y + 4.6, 2.8, lengthText(metres), { align: 'center' }),
  ];
}

/** A plain arrow to true north with its letter. */
function northMarks(x: number, y: number, angle: number): PageMark[] {
  const a = (angle * Math.PI) / 180;
  const at = (dx: number, dy: number): string =>
    `${(x + dx * Math.cos(a) - dy * Math.sin(a)).toFixed(3)} ${(y + dx * Math.sin(a) + dy * Math.cos(a)).toFixed(3)}`;
  return [
    { kind: 'path', d: `M${x - 6} ${y}a6 6 0 1 0 12 0a6 6 0 1 0 -12 0Z`, fill: '#ffffff', stroke: null, width: 0, opacity: 0.8 },
    { kind: 'path', d: `M${at(0, -5)}L${at(2, 2)}L${at(0, 0.8)}L${at(-2, 2)}Z`, fill: INK, stroke: null, width: 0, opacity: 1 },
    text('north', x, y + 5.2, 2.8, 'N', { isBold: true, align: 'center' }),
  ];
}

type Row = { readonly label: string; readonly isHead: boolean; readonly draw: (x: number, y: number) => PageMark[] };

/** What the arrow to the north takes at the top of the frame. */
const NORTH_HEIGHT = 18;

/** The rows that a legend has room for below the arrow, and how many are left out. */
export function legendRows(
  { legend, hasNorth, legendColumns }: Pick<PageSpec, 'legend' | 'hasNorth' | 'legendColumns'>,
  frame: ReturnType<typeof mapFrame>,
) {
  const most = legendColumns * Math.max(3, Math.floor((frame.h - 12 - (hasNorth ? NORTH_HEIGHT : 0)) / ROW));
  const all = legend.flatMap(rowsOf);
  const left = all.length <= most ? 0 : all.length - most + 1;
  return { rows: all.slice(0, all.length - left), left };
}

function legendMarks(p: PageSpec, frame: ReturnType<typeof mapFrame>): PageMark[] {
  const { rows: shown, left } = legendRows(p, frame);
  const rows: Row[] = left === 0 ? shown : [...shown, { label: `and ${left} more`, isHead: false, draw: () => [] }];
  const perColumn = Math.ceil(rows.length / p.legendColumns);
  const columns = Array.from({ length: Math.ceil(rows.length / perColumn) }, (_, i) => rows.slice(i * perColumn, (i + 1) * perColumn));
  const most = frame.w / 2 / Math.min(1.5, columns.length);
  const widths = columns.map((column) => Math.min(most, 14 + Math.max(...column.map((r) => r.label.length)) * 1.75));
  const width = widths.reduce((sum, w) => sum + w, 0);
  const height = perColumn * ROW + 4;
  const left0 = frame.x + frame.w - width - 3;
  const y = frame.y + frame.h - height - 3;
  return [
    rect(left0, y, width, height, '#ffffff', SOFT, 0.2, 0.92),
    ...columns.flatMap((column, k) => {
      const x = left0 + widths.slice(0, k).reduce((sum, w) => sum + w, 0);
      return column.flatMap((r, i) => {
        const top = y + 2 + i * ROW;
        return [...r.draw(x + 2, top + 0.8), text('legend', x + (r.isHead ? 2 : 10.5), top + 3.6, 2.8, r.label, { isBold: r.isHead })];
      });
    }),
  ];
}

/** Pieces that a ramp is printed in. */
const PIECES = 28;
const GREYS = ['#000000', '#ffffff'] as const;
/** Of three bands that are drawn together. */
const CHANNELS = ['#b23a3a', '#3f8f4f', '#3a63b2'];

/** A ramp as tones side by side; each stop stands where its value is between the ends, and between two they mix as in the map. */
function tonesOf(look: RasterLook): readonly string[] {
  if (look.bands) return CHANNELS;
  const { ramp } = look;
  const [from, to] = [ramp?.[0]?.value ?? 0, ramp?.at(-1)?.value ?? 0];
  return Array.from({ length: PIECES }, (_, i) => {
    const t = (i + 0.5) / PIECES;
    if (!ramp || !(to > from)) return ramp?.[0]?.colour ?? mixed(...GREYS, t);
    const next = Math.max(
      1,
      ramp.findIndex((s) => s.value >= from + t * (to - from)),
    );
    const [a, b] = [ramp[next - 1]!, ramp[next]!];
    if (look.isStepped || b.value <= a.value) return b.colour;
    return mixed(a.colour, b.colour, (from + t * (to - from) - a.value) / (b.value - a.value));
  });
}

/** @param t 0: the first, 1: the second; `#rrggbb` each */
function mixed(first: string, second: string, t: number): string {
  const part = (hex: string, k: number): number => parseInt(hex.slice(1 + 2 * k, 3 + 2 * k), 16);
  const both = [0, 1, 2].map((k) => Math.round(part(first, k) + t * (part(second, k) - part(first, k))));
  return `#${both.map((v) => v.toString(16).padStart(2, '0')).join('')}`;
}

function rowsOf({ title, kind, look, range }: LegendEntry): Row[] {
  if (look.kind === 'raster') {
    const tones = tonesOf(look);
    const ramp = (x: number, y: number): PageMark[] =>
      tones.map((c, i) => rect(x + (i * 7) / tones.length, y, 7 / tones.length, 3.4, c, null));
    if (!range || look.bands) return [{ label: title, isHead: false, draw: ramp }];
    return [
      { label: title, isHead: true, draw: () => [] },
      { label: `${endText(range.from)} to ${endText(range.to)}`, isHead: false, draw: ramp },
    ];
  }
  const shape = kind === 'raster' ? 'mixed' : kind;
  if (look.kind === 'one') return [{ label: title, isHead: false, draw: (x, y) => symbolMarks(look.symbol, shape, x, y) }];
  const entries = look.kind === 'rules' ? look.rules.map((r) => ({ title: r.title, symbol: r.symbol })) : look.entries;
  const other = look.kind === 'by-value' && look.other ? [{ title: 'all others', symbol: look.other }] : [];
  return [
    { label: title, isHead: true, draw: () => [] },
    ...[...entries, ...other].map((e) => ({
      label: e.title,
      isHead: false,
      draw: (x: number, y: number) => symbolMarks(e.symbol, shape, x, y),
    })),
  ];
}

/** Millimetres of a pixel of 0.28 mm. */
const PX = 0.28;

function symbolMarks(s: LayerSymbol, kind: ShapeKind, x: number, y: number): PageMark[] {
  const stroke = { stroke: s.stroke, width: Math.max(0.15, s.strokeWidth * PX), opacity: 1 };
  if (kind === 'line')
    return [
      {
        kind: 'path',
        d: `M${x} ${y + 2.6}L${x + 2.5} ${y + 0.8}L${x + 4.5} ${y + 2.4}L${x + 7} ${y + 0.8}`,
        fill: null,
        ...stroke,
        stroke: s.stroke ?? s.fill,
      },
    ];
  if (kind === 'point') {
    const isStroked = s.mark === 'cross' || s.mark === 'x';
    return [
      {
        kind: 'path',
        d: markPath(s.mark, x + 3.5, y + 1.7, Math.min(1.7, (s.size * PX) / 2)),
        fill: isStroked ? null : s.fill,
        ...stroke,
        stroke: isStroked ? (s.stroke ?? s.fill) : s.stroke,
      },
    ];
  }
  return [rect(x, y, 7, 3.4, s.fill, null, 0, s.fillOpacity), rect(x, y, 7, 3.4, null, s.stroke, stroke.width)];
}
