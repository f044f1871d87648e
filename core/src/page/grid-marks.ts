import type { Plane, Point } from './plane.js';
import type { Box, PageMark } from './page-model.js';
import { boxOfFrame, onPaper, type Paper } from './vector-marks.js';

export const GRIDS = ['none', 'plane', 'degrees'] as const;
/** Lines of the map's own coordinates, or of degrees. */
export type Grid = (typeof GRIDS)[number];

/** About so many millimetres between two lines. */
const SPACING = 45;
const TONE = '#56625e';
const SIZE = 2.2;
/** Room that the words at a line take. */
const WORD = 13;
/** A line of degrees bends: so many pieces show it. */
const PIECES = 48;

/** The steps that people read a grid by: 1, 2 or 5 times a power of ten; of degrees also those of minutes. */
const DEGREE_STEPS = [30, 20, 10, 5, 2, 1, 30 / 60, 20 / 60, 10 / 60, 5 / 60, 2 / 60, 1 / 60, 30 / 3600, 10 / 3600, 5 / 3600, 1 / 3600];

export function roundStep(about: number): number {
  const power = 10 ** Math.floor(Math.log10(about));
  return [10, 5, 2, 1].map((n) => n * power).find((n) => n <= about * 1.3) ?? power;
}
const degreeStep = (about: number): number => DEGREE_STEPS.find((s) => s <= about * 1.3) ?? DEGREE_STEPS.at(-1)!;

const between = (from: number, to: number, step: number): number[] =>
  Array.from({ length: Math.max(0, Math.floor(to / step) - Math.ceil(from / step) + 1) }, (_, i) => (Math.ceil(from / step) + i) * step);

/** The lines of a grid over the map with what each stands for, where it meets the left or the lower edge. */
export function gridMarks(grid: Grid, plane: Plane, paper: Paper): PageMark[] {
  return grid === 'none' ? [] : grid === 'plane' || plane.isDegrees ? planeGrid(plane, paper) : degreeGrid(plane, paper);
}

const line = (d: string): PageMark => ({ kind: 'path', d, fill: null, stroke: TONE, width: 0.12, opacity: 1 });
const text = (x: number, y: number, content: string, align: 'left' | 'center'): PageMark => ({
  kind: 'text',
  what: 'grid',
  x,
  y,
  size: SIZE,
  text: content,
  isBold: false,
  align,
});

function planeGrid(plane: Plane, paper: Paper): PageMark[] {
  const { frame, unitsOfMm } = paper;
  const [minx, miny, maxx, maxy] = boxOfFrame(paper);
  const about = SPACING * unitsOfMm;
  const step = plane.isDegrees ? degreeStep(about) : roundStep(about);
  const [east, north] = plane.isDegrees ? [degreeText('E', 'W'), degreeText('N', 'S')] : [planeText('E'), planeText('N')];
  const { x: left, y: top, w, h } = frame;
  return [
    ...between(minx, maxx, step).flatMap((x) => {
      const [px] = onPaper(paper, x, 0);
      const words = px < left + w - WORD ? [text(px + 0.6, top + h - 0.9, east(x), 'left')] : [];
      return [line(`M${px} ${top}V${top + h}`), ...words];
    }),
    ...between(miny, maxy, step).flatMap((y) => {
      const [, py] = onPaper(paper, 0, y);
      return [line(`M${left} ${py}H${left + w}`), text(left + 0.8, py - 0.6, north(y), 'left')];
    }),
  ];
}

const planeText =
  (letter: string) =>
  (n: number): string =>
    `${letter} ${Math.round(n).toLocaleString('en-GB').replaceAll(',', '\u202f')}`;

const degreeText =
  (positive: string, negative: string) =>
  (n: number): string => {
    const seconds = Math.round(Math.abs(n) * 3600);
    const [d, m, s] = [Math.floor(seconds / 3600), Math.floor((seconds % 3600) / 60), seconds % 60];
    const two = (v: number): string => String(v).padStart(2, '0');
    return `${d}°${m > 0 || s > 0 ? ` ${two(m)}′` : ''}${s > 0 ? ` ${two(s)}″` : ''}${seconds === 0 ? '' : ` ${n > 0 ? positive : negative}`}`;
  };

function degreeGrid(plane: Plane, paper: Paper): PageMark[] {
  const box = boxOfFrame(paper);
  const edge = Array.from({ length: 17 }, (_, i) => i / 16).flatMap((t): Point[] => {
    const [x, y] = [box[0] + t * (box[2] - box[0]), box[1] + t * (box[3] - box[1])];
    return [[x, box[1]], [x, box[3]], [box[0], y], [box[2], y]]; // prettier-ignore
  });
  const spots = edge.flatMap((p) => plane.toDegrees(p) ?? []);
  const numbers = { x: spots.filter((_, i) => i % 2 === 0), y: spots.filter((_, i) => i % 2 === 1) };
  if (numbers.x.length === 0) return [];
  const [west, east, south, north] = [Math.min(...numbers.x), Math.max(...numbers.x), Math.min(...numbers.y), Math.max(...numbers.y)];
  const about = SPACING * paper.unitsOfMm;
  const step = degreeStep(((north - south) * about) / (box[3] - box[1]));
  const stepEast = degreeStep(((east - west) * about) / (box[2] - box[0]));
  const { x, y, w, h } = paper.frame;
  return [
    ...between(west, east, stepEast).flatMap((lon) =>
      bent(
        (t) => [lon, south + t * (north - south)],
        plane,
        paper,
        (d, first) => [line(d), text(first[0] + 0.6, y + h - 0.9, degreeText('E', 'W')(lon), 'left')],
      ),
    ),
    ...between(south, north, step).flatMap((lat) =>
      bent(
        (t) => [west + t * (east - west), lat],
        plane,
        paper,
        (d, first) => [line(d), text(x + 0.8, first[1] - 0.6, degreeText('N', 'S')(lat), 'left')],
      ),
    ),
  ].filter((m) => m.kind !== 'text' || (m.x > x && m.x < x + w - WORD && m.y > y + SIZE && m.y < y + h));
}

/** A line in degrees as it bends on the page, cut at the frame; nothing where it is not on it. */
function bent(at: (t: number) => Point, plane: Plane, paper: Paper, marks: (d: string, first: Point) => PageMark[]): PageMark[] {
  let d = '';
  let first: Point | null = null;
  let last: Point | null = null;
  for (let i = 0; i <= PIECES; i++) {
    const p = plane.toPlane(at(i / PIECES));
    const on = p && onPaper(paper, p[0], p[1]);
    const piece = last && on && cutAt(paper.frame, last, on);
    if (piece) {
      const [from, to] = piece;
      const isNext = d !== '' && from[0] === last![0] && from[1] === last![1];
      d += `${isNext ? '' : `M${from[0].toFixed(3)} ${from[1].toFixed(3)}`}L${to[0].toFixed(3)} ${to[1].toFixed(3)}`;
      first ??= from;
    }
    last = on;
  }
  return first ? marks(d, first) : [];
}

/** The part of a straight piece that lies in a box; null: none does (Liang and Barsky, 1984). */
function cutAt({ x, y, w, h }: Box, a: Point, b: Point): readonly [Point, Point] | null {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  let [from, to] = [0, 1];
  for (const [step, room] of [[-dx, a[0] - x], [dx, x + w - a[0]], [-dy, a[1] - y], [dy, y + h - a[1]]] as const) {
    if (step === 0 && room < 0) return null;
    if (step < 0) from = Math.max(from, room / step);
    else if (step > 0) to = Math.min(to, room / step);
  } // prettier-ignore
  const at = (t: number): Point => (t === 0 ? a : t === 1 ? b : [a[0] + t * dx, a[1] + t * dy]);
  return from < to ? [at(from), at(to)] : null;
}
