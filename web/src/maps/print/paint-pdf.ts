import { PDFDocument, rgb, StandardFonts, type PDFFont, type PDFPage } from 'pdf-lib';
import type { Mark } from './page-marks.js';

/** Points of a millimetre: 72 to the inch (ISO 32000-1, 8.3.2.3). */
const POINTS = 72 / 25.4;

const colour = (hex: string) => {
  const n = parseInt(hex.slice(1), 16);
  return rgb((n >> 16) / 255, ((n >> 8) & 255) / 255, (n & 255) / 255);
};

/** A page as PDF: the map as a picture, everything else as lines and text. @param map PNG */
export async function paintPdf(
  size: { width: number; height: number },
  marks: readonly Mark[],
  map: Uint8Array,
  title: string,
): Promise<Uint8Array> {
  const pdf = await PDFDocument.create();
  pdf.setTitle(title);
  pdf.setProducer('Root Map');
  const page = pdf.addPage([size.width * POINTS, size.height * POINTS]);
  const fonts = { plain: await pdf.embedFont(StandardFonts.Helvetica), bold: await pdf.embedFont(StandardFonts.HelveticaBold) };
  const top = size.height;
  for (const m of marks) {
    if (m.kind === 'map')
      page.drawImage(await pdf.embedPng(map), {
        x: m.x * POINTS,
        y: (top - m.y - m.h) * POINTS,
        width: m.w * POINTS,
        height: m.h * POINTS,
      });
    else if (m.kind === 'rect')
      page.drawRectangle({
        x: m.x * POINTS,
        y: (top - m.y - m.h) * POINTS,
        width: m.w * POINTS,
        height: m.h * POINTS,
        ...(m.fill ? { color: colour(m.fill), opacity: m.opacity } : { opacity: 0 }),
        ...(m.stroke ? { borderColor: colour(m.stroke), borderWidth: m.width * POINTS } : {}),
      });
    else if (m.kind === 'path')
      page.drawSvgPath(m.d, {
        x: 0,
        y: top * POINTS,
        scale: POINTS,
        ...(m.fill ? { color: colour(m.fill), opacity: m.opacity } : {}),
        ...(m.stroke ? { borderColor: colour(m.stroke), borderWidth: m.width } : {}),
      });
    else await drawText(pdf, page, m, m.isBold ? fonts.bold : fonts.plain, top);
  }
  return pdf.save();
}

/** Letters that the standard fonts do not have are drawn as a picture, so that none is lost. */
async function drawText(pdf: PDFDocument, page: PDFPage, m: Extract<Mark, { kind: 'text' }>, font: PDFFont, top: number): Promise<void> {
  const text = m.text.replaceAll('\u202f', '\u00a0');
  const size = m.size * POINTS;
  const shift = (width: number): number => (m.align === 'right' ? width : m.align === 'center' ? width / 2 : 0);
  if (isWritable(font, text)) {
    page.drawText(text, {
      x: m.x * POINTS - shift(font.widthOfTextAtSize(text, size)),
      y: (top - m.y) * POINTS,
      size,
      font,
      color: colour('#1c2a27'),
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

function isWritable(font: PDFFont, text: string): boolean {
  try {
    font.encodeText(text);
    return true;
  } catch {
    return false; // a letter that the font has not: it is drawn as a picture
  }
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
  c.fillStyle = '#1c2a27';
  c.fillText(text, 2, em);
  return { png: canvas.toDataURL('image/png'), width, height, below: height - em, em };
}
