import { type Box, GROUND, type LabelMark, type PageMark, type PictureMark, type ShapesMark } from '@rootmap/core';
import fontkit from '@pdf-lib/fontkit';
import bold from 'dejavu-fonts-ttf/ttf/DejaVuSans-Bold.ttf?url';
import plain from 'dejavu-fonts-ttf/ttf/DejaVuSans.ttf?url';
import {
  clip as clipTo,
  degrees,
  drawObject,
  endPath,
  PDFDocument,
  popGraphicsState,
  pushGraphicsState,
  rectangle,
  rgb,
  concatTransformationMatrix,
  setLineJoin,
  setLineWidth,
  setStrokingColor,
  setTextRenderingMode,
  TextRenderingMode,
  type PDFFont,
  type PDFPage,
} from 'pdf-lib';
import { PdfLines, POINTS } from './pdf-lines.js';
import { embedPicture } from './pdf-picture.js';

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
  /** Of the map: they are put on the page in one piece. */
  readonly lines: PdfLines;
}

const bytesOf = async (url: string): Promise<ArrayBuffer> => (await fetch(url)).arrayBuffer();

/** A page as PDF: lines as lines, text as text in a font that goes along, and a picture for what is one. @param map PNG; null: there is none */
export async function paintPdf(
  size: { width: number; height: number },
  marks: readonly PageMark[],
  map: Blob | null,
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
  const sheet: Sheet = { pdf, page, fonts, top: size.height, lines: new PdfLines(page, size.height) };
  for (const m of marks) await paint(sheet, m, map);
  sheet.lines.end();
  return pdf.save();
}

async function paint(sheet: Sheet, m: PageMark, map: Blob | null): Promise<void> {
  const { page, fonts, top, lines } = sheet;
  if (m.kind === 'shapes' && m.path === null) return lines.add(m);
  lines.end(); // what comes now stands above them
  switch (m.kind) {
    case 'map':
      return drawMap(sheet, m, map);
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
    case 'picture':
      return drawPicture(sheet, m);
    case 'shapes':
      return clipped(sheet, m.clip, () => drawPoints(sheet, m));
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

async function drawMap({ pdf, page, top }: Sheet, m: Box, map: Blob | null): Promise<void> {
  const { x, y, width, height } = at(m, top);
  if (map === null) {
    page.drawRectangle({ x, y, width, height, color: colour(GROUND) });
    return;
  }
  const name = page.node.newXObject('Map', await embedPicture(pdf, map));
  page.pushOperators(pushGraphicsState(), concatTransformationMatrix(width, 0, 0, height, x, y), drawObject(name), popGraphicsState());
}

async function drawPicture({ pdf, page, top }: Sheet, { data, opacity, ...box }: PictureMark): Promise<void> {
  const image = data.startsWith('data:image/png') ? await pdf.embedPng(data) : await pdf.embedJpg(data);
  page.drawImage(image, { ...at(box, top), opacity });
}

function drawPoints({ page, top }: Sheet, m: ShapesMark): void {
  page.drawSvgPath(m.path!, {
    x: 0,
    y: top * POINTS,
    scale: POINTS,
    ...(m.fill ? { color: colour(m.fill), opacity: m.fillOpacity } : {}),
    ...(m.stroke ? { borderColor: colour(m.stroke), borderWidth: m.width, borderOpacity: m.strokeOpacity } : {}),
  });
}

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
async function drawText({ pdf, page, top }: Sheet, m: Extract<PageMark, { kind: 'text' }>, font: PDFFont): Promise<void> {
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
  const picture = await textPicture(text, m.isBold);
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

interface TextPicture {
  readonly png: ArrayBuffer;
  readonly width: number;
  readonly height: number;
  readonly below: number;
  readonly em: number;
}

async function textPicture(text: string, isBold: boolean): Promise<TextPicture> {
  const em = 64;
  const font = `${isBold ? 700 : 400} ${em}px sans-serif`;
  const measure = new OffscreenCanvas(1, 1).getContext('2d')!;
  measure.font = font;
  const width = Math.ceil(measure.measureText(text).width) + 4;
  const height = Math.ceil(em * 1.4);
  const canvas = new OffscreenCanvas(width, height);
  const c = canvas.getContext('2d')!;
  c.font = font;
  c.fillStyle = INK;
  c.fillText(text, 2, em);
  return { png: await (await canvas.convertToBlob()).arrayBuffer(), width, height, below: height - em, em };
}
