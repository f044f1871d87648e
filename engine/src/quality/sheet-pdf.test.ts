import { expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { checked } from '@rootmap/core';
import { sheetsAsPdf, type PdfSheet } from './sheet-pdf';

const of = { hash: 'sha256:a', bytes: 1, modifiedMs: 1 };
const sheet: PdfSheet = {
  name: 'received/Ærø straße – Ελλάδα.shp',
  state: 'reviewed',
  at: '2026-03-14T10:00:00Z',
  checks: [
    checked('invalid-shapes', 'fail', [1, 2], 'One shape breaks the rules & <more>.', [{ record: 2, at: [3, 4], what: 'crosses itself' }]),
    checked('crs', 'pass', [0, 1], 'Its coordinates are in EPSG:32632.'),
  ],
  review: {
    elements: { topological: { fitness: 'limited', words: 'for overviews' } },
    accuracy: '5 m',
    fitFor: 'planning',
    name: 'I. Lind',
    date: '2026-03-15',
    of,
  },
  stated: [{ about: 'units', words: 'Units: feet', note: 'readme.txt' }],
  picture: { width: 100, height: 50, kind: 'area', path: 'M10 10L90 10L90 40z', image: null, places: [[50, 25]] },
};

/** What Poppler reads: a reader that shares no code with the writer. */
async function read(sheets: readonly PdfSheet[]): Promise<{ text: string; fonts: string; pages: number }> {
  const folder = mkdtempSync(join(tmpdir(), 'pdf-'));
  try {
    const path = join(folder, 'a.pdf');
    writeFileSync(path, await sheetsAsPdf(sheets, 'The bay', 0));
    const run = (program: string, ...args: string[]): string =>
      execFileSync(program, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] });
    const pages = Number(/Pages:\s+(\d+)/.exec(run('pdfinfo', path))![1]);
    return { text: run('pdftotext', path, '-').replace(/\s+/g, ' '), fonts: run('pdffonts', path), pages };
  } finally {
    rmSync(folder, { recursive: true });
  }
}

test('every word of a sheet is on the page as text, in fonts that travel with it', async () => {
  const { text, fonts, pages } = await read([sheet, { ...sheet, name: 'b', review: null, stated: [], picture: null }]);
  for (const words of [
    'Quality: The bay',
    'received/Ærø straße – Ελλάδα.shp',
    'Units: Units: feet (readme.txt)',
    'Reviewed by I. Lind, 2026-03-15',
    'Fit for: planning',
    'Logical consistency: shapes: with limits. for overviews',
    'One shape breaks the rules & <more>.',
    'record 2 at 3, 4: crosses itself',
    'Rings: 1 place where something was found.',
    '1 check found nothing wrong',
    'page 2 of 2',
  ])
    expect(text).toContain(words);
  expect(pages).toBe(2);
  for (const line of fonts.trim().split('\n').slice(2)) expect(line).toMatch(/DejaVuSans.* yes yes yes /);
});

test('letters that no font of ours has are counted and told; a sheet of a thousand findings is pages, not an end', async () => {
  const many = Array.from({ length: 1000 }, () => checked('outliers', 'note', [1, 1], 'Far 漢字.'));
  const { text, pages } = await read([{ ...sheet, checks: many }]);
  expect(text).toContain('2 letters of the texts above are not in the font, and stand as a box.');
  expect(pages).toBeGreaterThan(50);
});
