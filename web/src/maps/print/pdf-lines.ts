import { type Box, type ShapesMark } from '@rootmap/core';
import { PDFOperator, type PDFOperatorNames, type PDFPage } from 'pdf-lib';

/** Points of a millimetre: 72 to the inch (ISO 32000-1, 8.3.2.3). */
export const POINTS = 72 / 25.4;

const number = (n: number): string => String(Math.round(n * 1000) / 1000);

/** Operators as text (ISO 32000-1, 8.4 and 8.5): a page has hundreds of thousands of positions, and an object for each is too many. */
export class PdfLines {
  private readonly text: string[] = [];
  private readonly states = new Map<string, string>();
  private clip: Box | null = null;

  constructor(
    private readonly page: PDFPage,
    /** Height of the page in millimetres: PDF counts from below. */
    private readonly top: number,
  ) {}

  /** Adds a mark; those that are cut at the same edge stand in one group. */
  add(m: ShapesMark): void {
    this.clipTo(m.clip);
    const { fill, stroke } = m;
    const head = [
      `/${this.state(m.fillOpacity, m.strokeOpacity)} gs 1 J 1 j`,
      ...(fill ? [`${rgbText(fill)} rg`] : []),
      ...(stroke ? [`${rgbText(stroke)} RG ${number(m.width * POINTS)} w`] : []),
      `[${(m.dash ?? []).map((d) => number(d * POINTS)).join(' ')}] 0 d`,
    ];
    const lines = m.runs.map((run) => this.run(run, m.isArea));
    // Holes are holes whichever way they turn: f* and B*.
    this.text.push(head.join(' '), ...lines, m.isArea && fill !== null ? (stroke ? 'B*' : 'f*') : 'S');
  }

  /** Ends the group, and hands all of it to the page. */
  end(): void {
    if (this.clip) this.text.push('Q');
    this.clip = null;
    if (this.text.length === 0) return;
    this.page.pushOperators(PDFOperator.of(this.text.join('\n') as PDFOperatorNames));
    this.text.length = 0;
  }

  private clipTo(box: Box): void {
    if (this.clip === box) return;
    if (this.clip) this.text.push('Q');
    this.clip = box;
    this.text.push(
      `q ${number(box.x * POINTS)} ${number((this.top - box.y - box.h) * POINTS)} ${number(box.w * POINTS)} ${number(box.h * POINTS)} re W n`,
    );
  }

  private run(run: readonly number[], isClosed: boolean): string {
    let text = '';
    for (let i = 0; i + 1 < run.length; i += 2)
      text += `${number(run[i]! * POINTS)} ${number((this.top - run[i + 1]!) * POINTS)} ${i === 0 ? 'm' : 'l'}\n`;
    return isClosed ? `${text}h` : text;
  }

  /** Name of the state of the page with these opacities; each stands in it once. */
  private state(fill: number, stroke: number): string {
    const key = `${fill} ${stroke}`;
    let name = this.states.get(key);
    if (name === undefined) {
      const state = this.page.doc.context.obj({ Type: 'ExtGState', ca: fill, CA: stroke });
      name = this.page.node.newExtGState('GS', state).decodeText();
      this.states.set(key, name);
    }
    return name;
  }
}

function rgbText(hex: string): string {
  const n = parseInt(hex.slice(1), 16);
  return [n >> 16, (n >> 8) & 255, n & 255].map((v) => number(v / 255)).join(' ');
}
