import { buffer } from 'node:stream/consumers';
import {
  CHECKS,
  ELEMENTS,
  FITNESS_WORD,
  manyOf,
  PASSAGE_WORD,
  RESULT_WORD,
  STATE_SENTENCE,
  type CheckResult,
  type Element,
  type QualityCheck,
  type ReportedSheet,
} from '@rootmap/core';
import { BOLD, PLAIN } from '../disk/fonts.js';
import type { SheetPicture } from './sheet-picture.js';

const INK = '#1c2a27';
const SOFT = '#56625e';
const RULE = '#dcd7c9';
const TONE: Readonly<Record<CheckResult, string>> = { pass: '#1f6f5c', note: '#8f5d08', fail: '#8e2a62' };
const LAND = '#1f6f5c';
const MARGIN = 50;

export interface PdfSheet extends ReportedSheet {
  /** Null: it has no shape. */
  readonly picture: SheetPicture | null;
}

/** Sheets as pages of A4 with text that can be found and copied; a map shows where things were found. */
export async function sheetsAsPdf(sheets: readonly PdfSheet[], title: string, nowMs: number): Promise<Buffer> {
  const { default: Document } = await import('pdfkit');
  const document = new Document({
    size: 'A4',
    margin: MARGIN,
    font: PLAIN,
    bufferPages: true,
    lang: 'en',
    info: { Title: `Quality: ${title}`, CreationDate: new Date(nowMs) },
  });
  const bytes = buffer(document);
  new Pages(document).write(sheets, title);
  document.end();
  return bytes;
}

/** The words of sheets on pages, one under the other. */
class Pages {
  private readonly missing = new Set<string>();

  constructor(private readonly to: PDFKit.PDFDocument) {}

  write(sheets: readonly PdfSheet[], title: string): void {
    this.line(`Quality: ${title}`, { size: 18, bold: true });
    this.line(`${manyOf(sheets.length, 'dataset')}, by the elements of ISO 19157.`, { colour: SOFT });
    sheets.forEach((s, i) => {
      if (i > 0) this.to.addPage();
      this.sheet(s);
    });
    if (this.missing.size > 0)
      this.line(
        `${manyOf(this.missing.size, 'letter')} of the texts above ${this.missing.size === 1 ? 'is' : 'are'} not in the font, and stand${this.missing.size === 1 ? 's' : ''} as a box.`,
        { colour: SOFT, above: 12 },
      );
    this.foot(title);
  }

  private sheet({ name, state, at, stated, review, checks, picture }: PdfSheet): void {
    this.line(name, { size: 14, bold: true, above: 10 });
    this.line(`${STATE_SENTENCE[state]}${at === null ? '' : `; computed ${at.slice(0, 10)}`}`, { colour: SOFT });
    if (picture) this.picture(picture);
    if (stated.length > 0) this.line('Stated by its publisher', { bold: true, above: 8 });
    for (const fact of stated) this.line(`${PASSAGE_WORD[fact.about]}: ${fact.words}${fact.note === null ? '' : ` (${fact.note})`}`, {});
    if (review) {
      this.line(`Reviewed by ${review.name}, ${review.date}`, { bold: true, above: 8 });
      if (review.fitFor !== '') this.line(`Fit for: ${review.fitFor}`, {});
      if (review.accuracy !== '') this.line(`Stated accuracy: ${review.accuracy}`, {});
      for (const [element, said] of Object.entries(review.elements))
        this.line(`${ELEMENTS[element as Element]}: ${FITNESS_WORD[said.fitness]}${said.words === '' ? '' : `. ${said.words}`}`, {});
    }
    const found = checks.filter((c) => c.result !== 'pass');
    if (checks.length > 0)
      this.line(found.length === 0 ? 'Nothing was found that is not as it should be' : 'What was found', { bold: true, above: 8 });
    for (const check of found) this.found(check);
    const fine = checks.filter((c) => c.result === 'pass');
    if (fine.length > 0) this.line(`${manyOf(fine.length, 'check')} found nothing wrong`, { bold: true, above: 8 });
    for (const check of fine) this.line(`${CHECKS[check.code].title}: ${check.detail}`, { size: 9, colour: SOFT });
  }

  private found({ code, element, result, detail, examples }: QualityCheck): void {
    const { title, fix } = CHECKS[code];
    this.line(`${title} – ${RESULT_WORD[result]}`, { bold: true, colour: TONE[result], above: 5 });
    this.line(ELEMENTS[element], { size: 9, colour: SOFT });
    this.line(detail, {});
    for (const e of examples.slice(0, 5)) {
      const where = [
        e.record === null ? '' : `record ${e.record}`,
        e.at === null ? '' : `at ${e.at.map((n) => Number(n.toPrecision(9))).join(', ')}`,
      ];
      this.line(`${where.filter(Boolean).join(' ')}: ${e.what}`, { size: 9, colour: SOFT });
    }
    this.line(fix, { size: 9, colour: SOFT });
  }

  private line(
    text: string,
    { size = 10, bold = false, colour = INK, above = 0 }: { size?: number; bold?: boolean; colour?: string; above?: number },
  ): void {
    const { to } = this;
    to.font(bold ? BOLD : PLAIN)
      .fontSize(size)
      .fillColor(colour);
    to.y += above;
    this.noteMissing(text);
    to.text(text.replace(/[\u0000-\u0009\u000b-\u001f]/g, ' '), MARGIN, to.y, { width: to.page.width - 2 * MARGIN });
  }

  /** What the font does not have is a box on the page: it is counted, and told. */
  private noteMissing(text: string): void {
    const { font } = (this.to as unknown as { readonly _font: { readonly font?: { hasGlyphForCodePoint(code: number): boolean } } })._font;
    for (const letter of new Set(text)) {
      const code = letter.codePointAt(0) ?? 0;
      if (font && code > 31 && !font.hasGlyphForCodePoint(code)) this.missing.add(letter);
    }
  }

  private picture({ width, height, path, kind, image, places }: SheetPicture): void {
    const { to } = this;
    const wide = to.page.width - 2 * MARGIN;
    const scale = Math.min(wide / width, 1);
    const top = to.y + 6;
    to.save()
      .rect(MARGIN, top, width * scale, height * scale)
      .fillAndStroke('#e6ecf4', RULE);
    to.translate(MARGIN, top)
      .scale(scale)
      .lineWidth(kind === 'point' ? 3 : 0.7)
      .lineCap('round')
      .strokeColor(LAND)
      .fillColor(LAND);
    if (image) to.image(image, 0, 0, { fit: [width, height], align: 'center', valign: 'center' });
    if (path !== '' && kind === 'area') to.path(path).fillOpacity(0.25).fillAndStroke(LAND, LAND, 'even-odd');
    else if (path !== '') to.path(path).stroke();
    to.fillOpacity(1).lineWidth(1.5).strokeColor(TONE.fail);
    for (const [x, y] of places) to.circle(x, y, 4).stroke();
    to.restore();
    to.y = top + height * scale + 4;
    if (places.length > 0) this.line(`Rings: ${manyOf(places.length, 'place')} where something was found.`, { size: 9, colour: SOFT });
  }

  private foot(title: string): void {
    const { to } = this;
    const { start, count } = to.bufferedPageRange();
    for (let page = start; page < start + count; page++) {
      to.switchToPage(page);
      const { bottom } = to.page.margins;
      to.page.margins.bottom = 0; // else writing below the margin begins a page
      to.font(PLAIN).fontSize(8).fillColor(SOFT);
      to.text(`${title}, page ${page - start + 1} of ${count}`, MARGIN, to.page.height - MARGIN / 2 - 8, { lineBreak: false });
      to.page.margins.bottom = bottom;
    }
  }
}
