import type { LayerPictureView } from '../contract/pictures.js';
import type { PageLabel, PageShape, PageShapes } from '../contract/identify.js';
import { PIXEL_METRES } from '../crs/distortion.js';
import type { Label, LayerSymbol, Look, LookRule } from '../look/look.js';
import { rulesOfLook } from '../look/rules-of-look.js';
import { isInScale } from './in-scale.js';
import { markPath } from './mark-path.js';
import type { Box, LabelMark, PictureMark, ShapesMark } from './page-model.js';

/** Millimetres of a pixel of a symbol. */
const PX = PIXEL_METRES * 1000;
/** Room that labels keep from one another. */
const GAP = 0.4;

/** From the plane of the map to millimetres on the page. */
export interface Paper {
  /** Of the map on the page. */
  readonly frame: Box;
  readonly center: readonly [number, number];
  /** Units of the map's CRS in a millimetre. */
  readonly unitsOfMm: number;
}

export const onPaper = ({ frame, center, unitsOfMm }: Paper, x: number, y: number): [number, number] => [
  frame.x + frame.w / 2 + (x - center[0]) / unitsOfMm,
  frame.y + frame.h / 2 - (y - center[1]) / unitsOfMm,
];

/** Part of the map's plane that the frame shows, with what symbols may reach over its edge. */
export function boxOfFrame({ frame, center, unitsOfMm }: Paper, beyond = 0): [number, number, number, number] {
  const [w, h] = [(frame.w / 2 + beyond) * unitsOfMm, (frame.h / 2 + beyond) * unitsOfMm];
  return [center[0] - w, center[1] - h, center[0] + w, center[1] + h];
}

/** A layer as it is drawn of lines: all of it can be told to a worker. */
export interface LineLayer {
  readonly id: string;
  readonly look: Look;
  readonly label: Label | null;
  readonly opacity: number;
  readonly picture: Pick<LayerPictureView, 'version' | 'drawing' | 'classes'>;
}

/** A picture that stands for points. */
export interface SymbolPicture {
  /** A `data:` address of a PNG or a JPEG. */
  readonly data: string;
  /** Its height by its width. */
  readonly aspect: number;
}
/** By the references in symbols; a symbol whose picture is not among them has its mark. */
export type SymbolPictures = ReadonlyMap<string, SymbolPicture>;

/** The shapes of a layer as marks, in the order of its records; each is drawn by every rule of its class. */
export const shapeMarks = (layer: LineLayer, shapes: PageShapes, paper: Paper, scale: number): ShapesMark[] =>
  layerMarks(layer, shapes, paper, scale, new Map()).filter((m) => m.kind === 'shapes');

/** The same, with pictures where symbols are some: as wide as the symbol, its middle on the point. */
export function layerMarks(
  layer: LineLayer,
  { shapes }: PageShapes,
  paper: Paper,
  scale: number,
  pictures: SymbolPictures,
): (ShapesMark | PictureMark)[] {
  const { look, picture, opacity } = layer;
  if (look.kind === 'raster') return [];
  const rules = rulesOfLook(look);
  const all = rules.map((_, i) => i);
  const marks: (ShapesMark | PictureMark)[] = [];
  for (const shape of shapes) {
    const wanted = picture.drawing === null ? all : (picture.classes[shape.c] ?? []);
    for (const i of wanted) {
      const rule = rules[i]!;
      const stands = shape.kind === 'point' && rule.symbol.picture !== null ? pictures.get(rule.symbol.picture) : undefined;
      if (stands) {
        if (isInScale(rule, scale)) marks.push(...pictureMarks(shape, rule.symbol, stands, paper, opacity));
        continue;
      }
      const mark = markOf(shape, rule, paper, scale, opacity);
      if (!mark) continue;
      const last = marks.at(-1);
      // What is drawn alike in turn is one path; areas that may lie over one another stay apart.
      if (last?.kind === 'shapes' && !last.isArea && isAlike(last, mark))
        marks[marks.length - 1] = { ...last, runs: [...last.runs, ...mark.runs] };
      else marks.push(mark);
    }
  }
  return marks;
}

function pictureMarks(
  { runs }: PageShape,
  { size }: LayerSymbol,
  { data, aspect }: SymbolPicture,
  paper: Paper,
  opacity: number,
): PictureMark[] {
  const [w, h] = [size * PX, size * PX * aspect];
  const placed = runs.map((run) => moved(run, paper));
  return placed.flatMap((run) =>
    Array.from({ length: run.length / 2 }, (_, i): PictureMark => {
      const [x, y] = [run[i * 2]!, run[i * 2 + 1]!];
      return { kind: 'picture', x: x - w / 2, y: y - h / 2, w, h, clip: paper.frame, data, opacity };
    }),
  );
}

function markOf({ kind, runs }: PageShape, rule: LookRule, paper: Paper, scale: number, opacity: number): ShapesMark | null {
  if (!isInScale(rule, scale)) return null;
  const { symbol } = rule;
  const placed = runs.map((run) => moved(run, paper));
  if (kind === 'point') return pointMark(symbol, placed, paper, opacity);
  const stroke = symbol.strokeWidth > 0 ? symbol.stroke : null;
  const isArea = kind === 'area';
  if (isArea && stroke === null && symbol.fill === null) return null;
  return {
    kind: 'shapes',
    clip: paper.frame,
    isArea,
    runs: placed,
    fill: isArea ? symbol.fill : null,
    fillOpacity: symbol.fillOpacity * opacity,
    // A line without a stroke is drawn in its tone, as on the screen.
    stroke: stroke ?? (isArea ? null : (symbol.fill ?? '#000000')),
    strokeOpacity: (stroke === null ? 1 : symbol.strokeOpacity) * opacity,
    width: Math.max(stroke === null ? 1 : 0, symbol.strokeWidth) * PX,
    dash: symbol.dash && stroke !== null ? symbol.dash.map((d) => d * PX) : null,
    path: null,
  };
}

function pointMark(symbol: LayerSymbol, placed: readonly (readonly number[])[], paper: Paper, opacity: number): ShapesMark {
  const isStroked = symbol.mark === 'cross' || symbol.mark === 'x';
  const paths = placed.flatMap((run) =>
    Array.from({ length: run.length / 2 }, (_, i) => markPath(symbol.mark, run[i * 2]!, run[i * 2 + 1]!, (symbol.size * PX) / 2)),
  );
  const stroke = symbol.strokeWidth > 0 ? symbol.stroke : null;
  return {
    kind: 'shapes',
    clip: paper.frame,
    isArea: true,
    runs: [],
    path: paths.join(''),
    fill: isStroked ? null : symbol.fill,
    fillOpacity: symbol.fillOpacity * opacity,
    stroke: isStroked ? (stroke ?? symbol.fill ?? '#000000') : stroke,
    strokeOpacity: symbol.strokeOpacity * opacity,
    width: Math.max(isStroked ? 1.5 : 0, symbol.strokeWidth) * PX,
    dash: null,
  };
}

function moved(run: readonly number[], paper: Paper): number[] {
  const out = new Array<number>(run.length);
  for (let i = 0; i + 1 < run.length; i += 2) [out[i], out[i + 1]] = onPaper(paper, run[i]!, run[i + 1]!);
  return out;
}

const isAlike = (a: ShapesMark, b: ShapesMark): boolean =>
  !b.isArea && a.stroke === b.stroke && a.strokeOpacity === b.strokeOpacity && a.width === b.width && String(a.dash) === String(b.dash);

/** Labels of layers as text: those of the upper layers first, and none over another. @param widthOf a text of this size in millimetres */
export function labelMarks(
  layers: readonly { readonly label: Label; readonly labels: readonly PageLabel[] }[],
  paper: Paper,
  widthOf: (text: string, sizeMm: number) => number,
): { marks: LabelMark[]; left: number } {
  const marks: LabelMark[] = [];
  const taken: Box[] = [];
  let left = 0;
  for (const { label, labels } of layers)
    for (const one of labels) {
      const mark = labelMark(label, one, paper);
      const box = boxOf(mark, widthOf(mark.text, mark.size));
      if (taken.some((t) => overlap(t, box))) left++;
      else {
        taken.push(box);
        marks.push(mark);
      }
    }
  return { marks, left };
}

/** How far a label stands from a point, in pixels of its symbol, as on the screen. */
const BESIDE = 8;
/** From the middle of letters to their base line, in parts of their size. */
const MIDDLE = 0.35;

function labelMark(label: Label, { text, at, angle }: PageLabel, paper: Paper): LabelMark {
  const [x, y] = onPaper(paper, at[0], at[1]);
  const size = label.size * PX;
  const plain = {
    kind: 'label' as const,
    clip: paper.frame,
    text,
    size,
    colour: label.colour,
    halo: label.halo && { colour: label.halo.colour, width: label.halo.width * 2 * PX },
  };
  if (label.placement === 'right') return { ...plain, x: x + BESIDE * PX, y: y + size * MIDDLE, align: 'left', angle: 0 };
  if (label.placement === 'above') return { ...plain, x, y: y - BESIDE * PX, align: 'center', angle: 0 };
  return { ...plain, x, y: y + size * MIDDLE, align: 'center', angle: label.placement === 'along' ? angle : 0 };
}

/** The upright box around a label, whichever way it is turned. */
function boxOf({ x, y, size, align, angle }: LabelMark, width: number): Box {
  const from = align === 'left' ? x : x - width / 2;
  const a = (angle * Math.PI) / 180;
  const [w, h] = [
    Math.abs(width * Math.cos(a)) + Math.abs(size * Math.sin(a)) + 2 * GAP,
    Math.abs(width * Math.sin(a)) + Math.abs(size * Math.cos(a)) + 2 * GAP,
  ];
  return { x: from + width / 2 - w / 2, y: y - size * MIDDLE - h / 2, w, h };
}

const overlap = (a: Box, b: Box): boolean => a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h;
