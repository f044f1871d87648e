import fontkit from '@pdf-lib/fontkit';
import bold from 'dejavu-fonts-ttf/ttf/DejaVuSans-Bold.ttf?url';
import plain from 'dejavu-fonts-ttf/ttf/DejaVuSans.ttf?url';
import {
  clip as clipTo,
  closePath,
  degrees,
  endPath,
  lineTo,
  moveTo,
  PDFDocument,
  PDFOperator,
  PDFOperatorNames,
  popGraphicsState,
  pushGraphicsState,
  rectangle,
  rgb,
  setDashPattern,
  setFillingColor,
  setGraphicsState,
  setLineCap,
  setLineJoin,
  setLineWidth,
  setStrokingColor,
  setTextRenderingMode,
  stroke as strokePath,
  TextRenderingMode,
  type PDFFont,
  type PDFPage,
} from 'pdf-lib';
import type { Box, LabelMark, Mark, ShapesMark } from './page-marks.js';

/** Points of a millimetre: 72 to the inch (ISO 32000-1, 8.3.2.3). */
const POINTS = 72 / 25.4;
const INK = '#1c2a27';

const colour = (hex: string) => {
  const n = parseInt(hex.slice(1), 16);
  return rgb((n >> 16) / 255, ((n >> 8) & 255) / 255, (n & 255) / 255);
};

interface Sheet {
  readonly pdf: PDFDocument;
  readonly page: PDFPage;
  readonly fonts: { readonly plain: PDFFont; readonly bold: PDFFont };
  /** Height of the page in millimetres: PDF counts from below. */
  readonly top: number;
}

const bytesOf = async (url: string): Promise<ArrayBuffer> => (await fetch(url)).arrayBuffer();

/** A page as PDF: lines as lines, text as text in a font that goes along, and a picture for what is one. @param map PNG */
export async function paintPdf(
  size: { width: number; height: number },
  marks: readonly Mark[],
  map: Uint8Array,
  title: string,
): Promise<Uint8Array> {
  const pdf = await PDFDocument.create();
  pdf.registerFontkit(fontkit);
  pdf.setTitle(title);
  pdf.setProducer('Root Map');
  const page = pdf.addPage([size.width * POINTS, size.height * POINTS]);
  const fonts = {
    plain: await pdf.embedFont(await bytesOf(plain), { subset: true }),
    bold: await pdf.embedFont(await bytesOf(bold), { subset: true }),
  };
  const sheet: Sheet = { pdf, page, fonts, top: size.height };
  for (const m of marks) await paint(sheet, m, map);
  return pdf.save();
}

async function paint(sheet: Sheet, m: Mark, map: Uint8Array): Promise<void> {
  const { pdf, page, fonts, top } = sheet;
  switch (m.kind) {
    case 'map':
      page.drawImage(await pdf.embedPng(map), at(m, top));
      return;
    case 'rect':
      page.drawRectangle({
        ...at(m, top),
        ...(m.fill ? { color: colour(m.fill), opacity: m.opacity } : { opacity: 0 }),
        ...(m.stroke ? { borderColor: colour(m.stroke), borderWidth: m.width * POINTS } : {}),
      });
      return;
    case 'path':
      page.drawSvgPath(m.d, {
        x: 0,
        y: top * POINTS,
        scale: POINTS,
        ...(m.fill ? { color: colour(m.fill), opacity: m.opacity } : {}),
        ...(m.stroke ? { borderColor: colour(m.stroke), borderWidth: m.width } : {}),
      });
      return;
    case 'shapes':
      return clipped(sheet, m.clip, () => drawShapes(sheet, m));
    case 'label':
      return clipped(sheet, m.clip, () => drawLabel(sheet, m));
    case 'text':
      return drawText(sheet, m, m.isBold ? fonts.bold : fonts.plain);
  }
}

const at = ({ x, y, w, h }: Box, top: number) => ({ x: x * POINTS, y: (top - y - h) * POINTS, width: w * POINTS, height: h * POINTS });

async function clipped({ page, top }: Sheet, box: Box, draw: () => void | Promise<void>): Promise<void> {
  const { x, y, width, height } = at(box, top);
  page.pushOperators(pushGraphicsState(), rectangle(x, y, width, height), clipTo(), endPath());
  await draw();
  page.pushOperators(popGraphicsState());
}

function drawShapes(sheet: Sheet, m: ShapesMark): void {
  const { page, top } = sheet;
  if (m.path !== null) {
    page.drawSvgPath(m.path, {
      x: 0,
      y: top * POINTS,
      scale: POINTS,
      ...(m.fill ? { color: colour(m.fill), opacity: m.fillOpacity } : {}),
      ...(m.stroke ? { borderColor: colour(m.stroke), borderWidth: m.width, borderOpacity: m.strokeOpacity } : {}),
    });
    return;
  }
  const [fill, stroke] = [m.fill, m.stroke];
  const state = page.node.newExtGState('GS', page.doc.context.obj({ Type: 'ExtGState', ca: m.fillOpacity, CA: m.strokeOpacity }));
  const operators: PDFOperator[] = [
    setGraphicsState(state),
    setLineCap(1),
    setLineJoin(1),
    ...(fill ? [setFillingColor(colour(fill))] : []),
    ...(stroke ? [setStrokingColor(colour(stroke)), setLineWidth(m.width * POINTS)] : []),
    ...(m.dash ? [setDashPattern(m.dash.map((d) => d * POINTS), 0)] : []),
  ]; // prettier-ignore
  for (const run of m.runs) {
    for (let i = 0; i + 1 < run.length; i += 2) operators.push((i === 0 ? moveTo : lineTo)(run[i]! * POINTS, (top - run[i + 1]!) * POINTS));
    if (m.isArea) operators.push(closePath());
  }
  const isFilled = m.isArea && fill !== null;
  operators.push(isFilled ? (stroke ? EVEN_ODD_BOTH : EVEN_ODD) : strokePath());
  page.pushOperators(...operators);
}

/** Holes are holes whichever way they turn: f* and B* (ISO 32000-1, 8.5.3). */
const EVEN_ODD = PDFOperator.of(PDFOperatorNames.FillEvenOdd);
const EVEN_ODD_BOTH = PDFOperator.of(PDFOperatorNames.FillEvenOddAndStroke);

async function drawLabel(sheet: Sheet, m: LabelMark): Promise<void> {
  const { page, fonts, top } = sheet;
  const size = m.size * POINTS;
  if (!isWritable(fonts.plain, m.text))
    return drawText(sheet, { ...m, kind: 'text', isBold: false, align: m.align, what: 'label' }, fonts.plain);
  const back = m.align === 'center' ? fonts.plain.widthOfTextAtSize(m.text, size) / 2 : 0;
  const turn = (m.angle * Math.PI) / 180;
  const options = {
    x: m.x * POINTS - back * Math.cos(turn),
    y: (top - m.y) * POINTS - back * Math.sin(turn),
    size,
    font: fonts.plain,
    rotate: degrees(m.angle),
  };
  if (m.halo) {
    page.pushOperators(
      pushGraphicsState(),
      setTextRenderingMode(TextRenderingMode.Outline),
      setStrokingColor(colour(m.halo.colour)),
      setLineWidth(m.halo.width * POINTS),
      setLineJoin(1),
    );
    page.drawText(m.text, { ...options, color: colour(m.halo.colour) });
    page.pushOperators(popGraphicsState());
  }
  page.drawText(m.text, { ...options, color: colour(m.colour) });
}

/** Letters that the font has not are drawn as a picture, so that none is lost. */
async function drawText({ pdf, page, top }: Sheet, m: Extract<Mark, { kind: 'text' }>, font: PDFFont): Promise<void> {
  const text = m.text.replaceAll('\u202f', '\u00a0');
  const size = m.size * POINTS;
  const shift = (width: number): number => (m.align === 'right' ? width : m.align === 'center' ? width / 2 : 0);
  if (isWritable(font, text)) {
    page.drawText(text, {
      x: m.x * POINTS - shift(font.widthOfTextAtSize(text, size)),
      y: (top - m.y) * POINTS,
      size,
      font,
      color: colour(INK),
    });
    return;
  }
  const picture = textPicture(text, m.isBold);
  const image = await pdf.embedPng(picture.png);
  const k = size / picture.em;
  page.drawImage(image, {
    x: m.x * POINTS - shift(picture.width * k),
    y: (top - m.y) * POINTS - picture.below * k,
    width: picture.width * k,
    height: picture.height * k,
  });
}

const known = new WeakMap<PDFFont, ReadonlySet<number>>();
function isWritable(font: PDFFont, text: string): boolean {
  let letters = known.get(font);
  if (!letters) known.set(font, (letters = new Set(font.getCharacterSet())));
  return [...text].every((c) => letters.has(c.codePointAt(0)!));
}

function textPicture(text: string, isBold: boolean): { png: string; width: number; height: number; below: number; em: number } {
  const em = 64;
  const canvas = document.createElement('canvas');
  const font = `${isBold ? 700 : 400} ${em}px "Commissioner Variable", sans-serif`;
  const measure = canvas.getContext('2d')!;
  measure.font = font;
  const width = Math.ceil(measure.measureText(text).width) + 4;
  const height = Math.ceil(em * 1.4);
  canvas.width = width;
  canvas.height = height;
  const c = canvas.getContext('2d')!;
  c.font = font;
  c.fillStyle = INK;
  c.fillText(text, 2, em);
  return { png: canvas.toDataURL('image/png'), width, height, below: height - em, em };
}
