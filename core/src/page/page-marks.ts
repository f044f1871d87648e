import { roundLength } from '../crs/distortion.js';
import { legendMarks } from './legend-marks.js';
import { INK, rect, SOFT, text } from './mark-parts.js';
import type { Box, LabelMark, OwnPicture, PageMark, PageNote, PageSpec, PictureMark, ShapesMark } from './page-model.js';
import { lengthText, scaleText } from './scale-text.js';

const MARGIN = 10;
const TITLE = 12;
const FOOT = 17;
const MOST_BAR = 60;

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

/** Everything on the page, the map below the rest. @param ofMap what of the map is lines and text, above its picture */
export function pageMarks(p: PageSpec, ofMap: readonly (ShapesMark | LabelMark | PictureMark)[] = []): PageMark[] {
  const frame = mapFrame(p);
  const foot = frame.y + frame.h + 4;
  return [
    { kind: 'map', ...frame },
    ...ofMap,
    ...p.grid,
    rect(frame.x, frame.y, frame.w, frame.h, null, INK, 0.35),
    ...noteMarks(p.notes, frame),
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
const NOTE_EDGE = 5;
const NOTE_GAP = 2;
/** Texts of one's own; those at the bottom stand above the letters of a grid, and above one another. */
function noteMarks(notes: readonly PageNote[], frame: Box): PageMark[] {
  const taken = new Map<PageNote['place'], number>();
  return notes.flatMap(({ text: words, place }) => {
    const lines = words.trim() === '' ? [] : words.trim().split('\n');
    if (lines.length === 0) return [];
    const width = Math.min(frame.w / 2, 4 + Math.max(...lines.map((l) => l.length)) * 1.75);
    const height = lines.length * NOTE_ROW + 3;
    const used = taken.get(place) ?? 0;
    taken.set(place, used + height + NOTE_GAP);
    const x = { left: frame.x + 3, middle: frame.x + (frame.w - width) / 2, right: frame.x + frame.w - width - 3 }[sideOf(place)];
    const y = place.startsWith('upper') ? frame.y + NOTE_EDGE + used : frame.y + frame.h - height - NOTE_EDGE - used;
    return [
      rect(x, y, width, height, '#ffffff', SOFT, 0.2, 0.92),
      ...lines.map((l, i) => text('note', x + 2, y + 4.4 + i * NOTE_ROW, NOTE_SIZE, l)),
    ];
  });
}
const sideOf = (place: PageNote['place']): 'left' | 'middle' | 'right' =>
  place.endsWith('left') ? 'left' : place.endsWith('right') ? 'right' : 'middle';

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
