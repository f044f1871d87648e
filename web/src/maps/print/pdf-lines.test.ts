import { execFileSync } from 'node:child_process';
import { expect, test } from '@jest/globals';
import type { ShapesMark } from '@rootmap/core';
import { PDFDocument } from 'pdf-lib';
import { PdfLines } from './pdf-lines.js';

const frame = { x: 10, y: 10, w: 80, h: 30 };
const mark = (more: Partial<ShapesMark>): ShapesMark => ({
  kind: 'shapes',
  clip: frame,
  isArea: false,
  runs: [],
  path: null,
  fill: null,
  fillOpacity: 1,
  stroke: '#ff0000',
  strokeOpacity: 1,
  width: 1,
  dash: null,
  ...more,
});

/** Outside reference: poppler's pdftocairo turns the page into SVG. */
async function drawn(marks: readonly ShapesMark[]): Promise<{ svg: string; text: string }> {
  const pdf = await PDFDocument.create();
  const page = pdf.addPage([(100 * 72) / 25.4, (50 * 72) / 25.4]);
  const lines = new PdfLines(page, 50);
  for (const m of marks) lines.add(m);
  lines.end();
  const bytes = await pdf.save({ useObjectStreams: false });
  const svg = execFileSync('pdftocairo', ['-svg', '-', '-'], { input: bytes, maxBuffer: 1 << 24 }).toString();
  return { svg, text: Buffer.from(bytes).toString('latin1') };
}
const mm = (points: number): number => (points * 25.4) / 72;

test('a line lies where its millimetres say, counted from above, as wide and dashed as it is', async () => {
  const { svg } = await drawn([mark({ runs: [[20, 15, 60, 35]], dash: [2, 1] })]); // prettier-ignore
  // Its own numbers count from below: the matrix turns them over.
  const found =
    /stroke-width:([\d.]+);.*stroke-dasharray:([\d.]+),([\d.]+);.* d="M ([\d.]+) ([\d.]+) L ([\d.]+) ([\d.]+) " transform="matrix\(([\d.]+),0,0,-[\d.]+,[^,]+,([\d.]+)\)"/.exec(
      svg,
    )!;
  const [width, dash, gap, x1, y1, x2, y2, scale, shift] = found.slice(1).map(Number) as [number, number, number, number, number, number, number, number, number]; // prettier-ignore
  const top = shift / scale;
  expect([x1, top - y1, x2, top - y2, width, dash, gap].map((n) => Math.round(mm(n) * 100) / 100)).toEqual([20, 15, 60, 35, 1, 2, 1]);
});

test('a hole is a hole, whichever way it turns; marks of one frame are cut once, each opacity is declared once', async () => {
  const area = mark({ isArea: true, stroke: null, fill: '#00ff00', fillOpacity: 0.5, runs: [[20, 15, 60, 15, 60, 35, 20, 35], [30, 20, 40, 20, 40, 30, 30, 30]] }); // prettier-ignore
  const { svg, text } = await drawn([area, area, mark({ runs: [[0, 0, 1, 1]] })]); // prettier-ignore
  expect(svg.match(/fill-rule:evenodd;fill:rgb\(0%,100%,0%\);fill-opacity:0\.5;/g)).toHaveLength(2);
  expect(text.match(/\/Type \/ExtGState/g)).toHaveLength(2);
});

test('nothing is written where there is nothing', async () => {
  const { svg } = await drawn([]);
  expect(svg).not.toContain('<path');
});
