import { buffer } from 'node:stream/consumers';
import { GROUND, type Box, type LabelMark, type PageMark, type ShapesMark } from '@rootmap/core';
import { BOLD, PLAIN } from '../disk/fonts.js';

/** Points of a millimetre: 72 to the inch (ISO 32000-1, 8.3.2.3). */
const POINTS = 72 / 25.4;
const INK = '#1c2a27';

/** Width of a text in millimetres, in the font of a page. */
export async function textWidth(): Promise<(text: string, sizeMm: number) => number> {
  const { default: Document } = await import('pdfkit');
  const document = new Document({ font: PLAIN });
  return (text, size) => document.fontSize(size * POINTS).widthOfString(text) / POINTS;
}

/** A page as PDF: lines as lines, text as text in a font that goes along, pictures as such. */
export async function pageAsPdf(
  size: { readonly width: number; readonly height: number },
  marks: readonly PageMark[],
  title: string,
): Promise<Uint8Array> {
  const { default: Document } = await import('pdfkit');
  const page = new Document({
    size: [size.width * POINTS, size.height * POINTS],
    margin: 0,
    font: PLAIN,
    lang: 'en',
    info: { Title: title, Producer: 'Root Map', Creator: 'Root Map' },
  });
  const bytes = buffer(page);
  page.scale(POINTS); // a unit is a millimetre from here on
  for (const mark of marks) paint(page, mark);
  page.end();
  return bytes;
}

function paint(page: PDFKit.PDFDocument, m: PageMark): void {
  page.save();
  switch (m.kind) {
    case 'map':
      page.rect(m.x, m.y, m.w, m.h).fill(GROUND);
      break;
    case 'rect':
      page.rect(m.x, m.y, m.w, m.h);
      fillAndStroke(page, { ...m, fillOpacity: m.opacity, strokeOpacity: 1, dash: null });
      break;
    case 'path':
      page.path(m.d);
      fillAndStroke(page, { ...m, fillOpacity: m.opacity, strokeOpacity: m.opacity, dash: null });
      break;
    case 'shapes':
      clip(page, m.clip);
      if (m.path !== null) page.path(m.path);
      else trace(page, m);
      if (m.path !== '' && (m.path !== null || m.runs.length > 0)) fillAndStroke(page, { ...m, fill: m.isArea ? m.fill : null });
      break;
    case 'picture':
      if (m.clip) clip(page, m.clip);
      page.fillOpacity(m.opacity).image(m.data, m.x, m.y, { width: m.w, height: m.h });
      break;
    case 'label':
      clip(page, m.clip);
      label(page, m);
      break;
    case 'text':
      page.font(m.isBold ? BOLD : PLAIN).fillColor(INK);
      words(page, m.text, m.x, m.y, m.size, m.align);
      break;
  }
  page.restore();
}

const clip = (page: PDFKit.PDFDocument, { x, y, w, h }: Box): PDFKit.PDFDocument => page.rect(x, y, w, h).clip();

function trace(page: PDFKit.PDFDocument, { runs, isArea }: ShapesMark): void {
  for (const run of runs) {
    for (let i = 0; i + 1 < run.length; i += 2)
      if (i === 0) page.moveTo(run[i]!, run[i + 1]!);
      else page.lineTo(run[i]!, run[i + 1]!);
    if (isArea) page.closePath();
  }
}

type Paint = Pick<ShapesMark, 'fill' | 'fillOpacity' | 'stroke' | 'strokeOpacity' | 'width' | 'dash'>;

/** Holes are holes whichever way they turn: by the even–odd rule. */
function fillAndStroke(page: PDFKit.PDFDocument, { fill, fillOpacity, stroke, strokeOpacity, width, dash }: Paint): void {
  if (fill !== null) page.fillColor(fill).fillOpacity(fillOpacity);
  if (stroke !== null) {
    page.strokeColor(stroke).strokeOpacity(strokeOpacity).lineWidth(width).lineCap('round').lineJoin('round');
    if (dash) page.dash(dash[0] ?? 1, { space: dash[1] ?? dash[0] ?? 1 });
  }
  if (fill !== null && stroke !== null) page.fillAndStroke(fill, stroke, 'even-odd');
  else if (fill !== null) page.fill('even-odd');
  else if (stroke !== null) page.stroke();
}

function label(page: PDFKit.PDFDocument, m: LabelMark): void {
  page.font(PLAIN);
  page.translate(m.x, m.y).rotate(-m.angle);
  if (m.halo) {
    page.lineWidth(m.halo.width).lineJoin('round').strokeColor(m.halo.colour).fillColor(m.halo.colour);
    words(page, m.text, 0, 0, m.size, m.align, true);
  }
  page.fillColor(m.colour);
  words(page, m.text, 0, 0, m.size, m.align);
}

/** A text on its base line. */
function words(
  page: PDFKit.PDFDocument,
  text: string,
  x: number,
  y: number,
  size: number,
  align: 'left' | 'center' | 'right',
  isOutline = false,
): void {
  page.fontSize(size);
  const width = page.widthOfString(text);
  const from = align === 'left' ? x : align === 'right' ? x - width : x - width / 2;
  page.text(text, from, y, { lineBreak: false, baseline: 'alphabetic', ...(isOutline && { stroke: true, fill: true }) });
}
