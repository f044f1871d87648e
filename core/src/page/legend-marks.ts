import type { LayerSymbol, RasterLook, ShapeKind } from '../look/look.js';
import { markPath } from './mark-path.js';
import { rect, SOFT, text } from './mark-parts.js';
import type { Box, LegendEntry, PageMark, PageSpec } from './page-model.js';
import { endText } from './raster-range.js';

const ROW = 5;

type Row = { readonly label: string; readonly isHead: boolean; readonly draw: (x: number, y: number) => PageMark[] };

/** What the arrow to the north takes at the top of the frame. */
const NORTH_HEIGHT = 18;

/** The rows that a legend has room for below the arrow, and how many are left out. */
export function legendRows({ legend, hasNorth, legendColumns }: Pick<PageSpec, 'legend' | 'hasNorth' | 'legendColumns'>, frame: Box) {
  const most = legendColumns * Math.max(3, Math.floor((frame.h - 12 - (hasNorth ? NORTH_HEIGHT : 0)) / ROW));
  const all = legend.flatMap(rowsOf);
  const left = all.length <= most ? 0 : all.length - most + 1;
  return { rows: all.slice(0, all.length - left), left };
}

export function legendMarks(p: PageSpec, frame: Box): PageMark[] {
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
