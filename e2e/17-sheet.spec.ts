import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { desk, expect, expectAccessible, openStop, STUDY, test, useDemo } from './demo.js';

useDemo('mended');

const study = (...parts: string[]): string => desk('ellisande_seagrass', ...parts);

async function write(page: Page, format: 'PDF' | 'SVG', name: string): Promise<string> {
  await openStop(page, STUDY, `maps/edit?map=${encodeURIComponent('maps/harbour_approach.owc.json')}`);
  await expect(page.getByRole('application', { name: /^Map / })).toHaveAttribute('data-pictures', '5');
  await page.getByRole('button', { name: 'Print frame' }).click();
  const dialog = page.getByRole('dialog', { name: 'Print frame' });
  await dialog.getByLabel('Title').fill('Søndre harbour: Λιμάνι');
  await dialog.getByLabel('Lines of coordinates').click();
  await page.getByRole('option', { name: 'Of degrees' }).click();
  await dialog.getByLabel('Text on the map').fill('For the harbour board\nNot for navigation');
  await dialog.getByRole('button', { name: 'Another text' }).click();
  await dialog.getByLabel('Text 2 on the map').fill('Second draft');
  await dialog.getByLabel('Where text 2 stands').click();
  await page.getByRole('option', { name: 'upper middle' }).click();
  await dialog.getByLabel('As', { exact: true }).click();
  await page.getByRole('option', { name: format }).click();
  await dialog.getByLabel('File').fill(name);
  await expectAccessible(page);
  await expect(dialog.getByRole('img', { name: /^The page/ })).toHaveAttribute('data-drawn', 'true');
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/print-dialog.png` });
  await dialog.getByRole('button', { name: `Write the ${format}` }).click();
  await expect(page.getByText(`exports/${name}.${format.toLowerCase()} is written.`)).toBeVisible({ timeout: 60_000 });
  return study('exports', `${name}.${format.toLowerCase()}`);
}

test('a PDF has shapes as lines, labels as text, and its fonts along', async ({ page }) => {
  const file = await write(page, 'PDF', 'sheet');
  // Outside references: poppler's pdftotext, pdffonts and pdfimages.
  const text = execFileSync('pdftotext', ['-layout', file, '-']).toString();
  for (const words of ['Søndre harbour: Λιμάνι', 'For the harbour board', 'Not for navigation', 'Second draft', 'W', 'N'])
    expect(text).toContain(words);
  expect(text).toMatch(/39° \d\d′ W/);
  for (const label of ['L1', 'L4', 'L8']) expect(text).toMatch(new RegExp(`\\b${label}\\b`));
  const fonts = execFileSync('pdffonts', [file]).toString().trim().split('\n').slice(2);
  expect(fonts.length).toBeGreaterThan(0);
  for (const font of fonts) expect(font).toMatch(/^DejaVuSans\S*\s+CID TrueType\s+Identity-H\s+yes /); // it goes along
  // The raster below is the one picture; the fairway above it is lines, of its colour and its corners.
  expect(
    execFileSync('pdfimages', ['-list', file])
      .toString()
      .trim()
      .split('\n')
      .slice(2)
      .filter((l) => / image /.test(l)),
  ).toHaveLength(1);
  if (process.env['ROOTMAP_LOOK']) execFileSync('pdftoppm', ['-r', '80', '-png', file, `${process.env['ROOTMAP_LOOK']}/sheet`]);
});

test('an SVG has the positions of the data, where the scale puts them', async ({ page }) => {
  const file = await write(page, 'SVG', 'sheet');
  const svg = readFileSync(file, 'utf8');
  // Outside reference: Python's own reader of XML, and ogrinfo for the positions.
  const read = 'import xml.etree.ElementTree as E,sys,json; r=E.parse(sys.argv[1]).getroot(); print(json.dumps([r.get("viewBox"), [p.get("d") for p in r.iter("{http://www.w3.org/2000/svg}path") if p.get("stroke-linecap")], [t.text for t in r.iter("{http://www.w3.org/2000/svg}text")]]))'; // prettier-ignore
  const [viewBox, paths, texts] = JSON.parse(execFileSync('/usr/bin/python3', ['-c', read, file]).toString()) as [
    string,
    string[],
    string[],
  ];
  expect(viewBox).toBe('0 0 297 210');
  expect(texts).toEqual(expect.arrayContaining(['Søndre harbour: Λιμάνι', 'L1', 'L4']));
  const told = execFileSync('ogrinfo', ['-q', '-ro', '-al', study('received/hydro_office/fairway.shp')]).toString();
  const theirs = [...told.matchAll(/LINESTRING \(([^)]*)\)/g)].map((m) => m[1]!.split(',').map((p) => p.trim().split(' ').map(Number)));
  const scale = Number(/1:([\d\s\u202f]+) ·/.exec(texts.find((t) => t?.includes('·'))!)![1]!.replace(/\D/g, ''));
  const lines = paths.filter((d) => !d.includes('Z') && !d.includes('a')).flatMap((d) => d.split('M').slice(1).map((part) => part.split('L').map((p) => p.split(' ').map(Number)))); // prettier-ignore
  const length = (line: readonly number[][]): number =>
    line.slice(1).reduce((sum, [x, y], i) => sum + Math.hypot(x! - line[i]![0]!, y! - line[i]![1]!), 0);
  const [ours, real] = [lines.map(length), theirs.map(length)].map((all) => all.reduce((a, b) => a + b, 0));
  // Near the central meridian the plane is 0.9996 of the ground, which the scale is true on.
  expect(((ours! * scale) / 1000 / real!) * 0.9996).toBeCloseTo(1, 3);
  expect(svg).toContain('xlink:href="data:image/png;base64,');
});

test('a page of A0 is written; its layout is there for others, too', async ({ page, browser }) => {
  await openStop(page, STUDY, `maps/edit?map=${encodeURIComponent('maps/harbour_approach.owc.json')}`);
  await expect(page.getByRole('application', { name: /^Map / })).toHaveAttribute('data-pictures', '5');
  await page.getByRole('button', { name: 'Print frame' }).click();
  const dialog = page.getByRole('dialog', { name: 'Print frame' });
  await dialog.getByLabel('Paper').click();
  await page.getByRole('option', { name: 'A0' }).click();
  // The layout is kept, and taken for a page that begins anew.
  await dialog.getByLabel('Layout').fill('Wall');
  await dialog.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(dialog.getByRole('button', { name: 'Keep anew' })).toBeDisabled();
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  await page.getByRole('button', { name: 'Print frame' }).click();
  await expect(dialog.getByLabel('Paper')).toHaveText('A4');
  await dialog.getByLabel('Layout').fill('Wall');
  await dialog.getByRole('button', { name: 'Take it' }).click();
  await expect(dialog.getByLabel('Paper')).toHaveText('A0');
  // At 1:50 000 the bay is a stamp on it.
  await dialog.getByRole('button', { name: 'A scale that shows all layers' }).click();
  await expect(dialog.getByLabel('Scale', { exact: true })).toHaveValue(/^1:\d{1,2}.?\d00$/);
  await dialog.getByLabel('Scale', { exact: true }).fill('1:50000');
  await dialog.getByLabel('File').fill('wall');
  await dialog.getByRole('button', { name: 'Write the PDF' }).click();
  await expect(page.getByText('exports/wall.pdf is written.')).toBeVisible({ timeout: 120_000 });
  // Source: ISO 216, A0 is 841 × 1189 mm.
  expect(execFileSync('pdfinfo', [study('exports/wall.pdf')]).toString()).toMatch(/Page size:\s+3370\.\d+ x 2383\.\d+ pts \(A0\)/);
  // Somebody else, in a browser that kept nothing.
  const other = await (await browser.newContext({ baseURL: new URL(page.url()).origin })).newPage();
  await openStop(other, STUDY, `maps/edit?map=${encodeURIComponent('maps/harbour_approach.owc.json')}`);
  await other.getByRole('button', { name: 'Print frame' }).click();
  await expect(other.locator('#kept-layouts option')).toHaveAttribute('value', 'Wall');
  await other.context().close();
});

test('a picture, a map of the region and columns of the legend stand on the page; the map alone is a picture', async ({ page }) => {
  // Outside reference: Python's own reader and writer of PNG chunks, pdfimages and file sizes of the PNG header (PNG 1.2, 11.2.2).
  const mark = study('..', 'mark.png');
  execFileSync('/usr/bin/python3', [
    '-c',
    'import zlib,struct,sys\nc=lambda t,d: struct.pack(">I",len(d))+t+d+struct.pack(">I",zlib.crc32(t+d))\nopen(sys.argv[1],"wb").write(b"\\x89PNG\\r\\n\\x1a\\n"+c(b"IHDR",struct.pack(">IIBBBBB",40,20,8,2,0,0,0))+c(b"IDAT",zlib.compress(b"".join(b"\\0"+b"\\x8e\\x2a\\x62"*40 for _ in range(20))))+c(b"IEND",b""))',
    mark,
  ]);
  await openStop(page, STUDY, `maps/edit?map=${encodeURIComponent('maps/harbour_approach.owc.json')}`);
  await expect(page.getByRole('application', { name: /^Map / })).toHaveAttribute('data-pictures', '5');
  await page.getByRole('button', { name: 'Print frame' }).click();
  const dialog = page.getByRole('dialog', { name: 'Print frame' });
  await dialog.getByLabel('Picture on the page').setInputFiles({ name: 'note.txt', mimeType: 'text/plain', buffer: Buffer.from('x') });
  await expect(dialog.getByRole('alert')).toHaveText('note.txt is no PNG or JPEG picture. Choose another.');
  await dialog.getByLabel('Picture on the page').setInputFiles(mark);
  await dialog.getByLabel('Width, mm').fill('20');
  await dialog.getByRole('checkbox', { name: 'Map of the region' }).check();
  await dialog.getByLabel('Columns of the legend').click();
  await page.getByRole('option', { name: '2' }).click();
  await expectAccessible(page);
  await expect(dialog.getByRole('img', { name: /^The page/ })).toHaveAttribute('data-drawn', 'true');
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/print-extras.png` });
  await dialog.getByLabel('File').fill('extras');
  await dialog.getByRole('button', { name: 'Write the PDF' }).click();
  await expect(page.getByText('exports/extras.pdf is written.')).toBeVisible({ timeout: 60_000 });
  const images = execFileSync('pdfimages', ['-list', study('exports/extras.pdf')]).toString();
  // 40 pixels on 20 mm are 51 to the inch.
  expect(images).toMatch(/ image +40 +20 +rgb .* 51 +51 /);
  if (process.env['ROOTMAP_LOOK'])
    execFileSync('pdftoppm', ['-r', '80', '-png', study('exports/extras.pdf'), `${process.env['ROOTMAP_LOOK']}/extras`]);
  await page.getByRole('button', { name: 'Print frame' }).click();
  await dialog.getByLabel('As', { exact: true }).click();
  await page.getByRole('option', { name: 'PNG' }).click();
  await dialog.getByRole('checkbox', { name: 'Only the map, without the page around it' }).check();
  await dialog.getByLabel('Dots per inch').click();
  await page.getByRole('option', { name: '96' }).click();
  await dialog.getByLabel('File').fill('alone');
  await dialog.getByRole('button', { name: 'Write the PNG' }).click();
  await expect(page.getByText('exports/alone.png is written.')).toBeVisible({ timeout: 60_000 });
  const png = readFileSync(study('exports/alone.png'));
  // The frame of A4: 277 by 161 mm.
  expect([png.readUInt32BE(16), png.readUInt32BE(20)]).toEqual([Math.round((277 * 96) / 25.4), Math.round((161 * 96) / 25.4)]);
});
