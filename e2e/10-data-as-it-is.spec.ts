import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { desk, expect, expectAccessible, openStop, STUDY, test, useDemo } from './demo.js';

useDemo('mended');

test.describe.configure({ mode: 'serial' });
const root = (...parts: string[]): string => desk('ellisande_seagrass', ...parts);
// Outside references: ogr2ogr, gdal_translate, gdallocationinfo of Debian's gdal-bin.
const gdal = (command: string, args: readonly string[], input?: string): string =>
  execFileSync(command, args, {
    stdio: ['pipe', 'pipe', 'ignore'],
    maxBuffer: 64 << 20,
    ...(input === undefined ? {} : { input }),
  }).toString();
const CSV = [
  'plz;Ort;Wert;Tag;Rechtswert;Hochwert',
  '01067;Nordkai;12,5;31.12.2025;500010,25;6100020,5',
  '80331;Südkai;1.234,75;01.02.2026;500020;6100030,25',
]
  .map((line) => `${line}\r\n`)
  .join('');

test('a table of codes with decimal commas and a model packed with Lerc come in as they are, seen before, judged after', async ({
  page,
}) => {
  writeFileSync(root('derived', 'orte.csv'), CSV);
  gdal('gdal_translate', [
    '-q',
    '-ot',
    'Float32',
    '-scale',
    '-40',
    '110',
    '-47.25',
    '2.5',
    '-co',
    'COMPRESS=LERC',
    root('received', 'hydro_office', 'depth_model.tif'),
    root('derived', 'model.tif'),
  ]);
  gdal('gdal_translate', [
    '-q',
    '-co',
    'COMPRESS=LZMA',
    root('received', 'hydro_office', 'depth_model.tif'),
    root('derived', 'packed.tif'),
  ]);
  gdal('gdal_translate', [
    '-q',
    '-co',
    'COMPRESS=DEFLATE',
    root('received', 'hydro_office', 'depth_model.tif'),
    root('derived', 'damaged.tif'),
  ]);
  const bytes = readFileSync(root('derived', 'damaged.tif'));
  writeFileSync(root('derived', 'damaged.tif'), bytes.fill(0x5a, bytes.length >> 1, (bytes.length >> 1) + 200));
  await openStop(page, STUDY, 'geodatabases');
  await page.getByRole('button', { name: 'Make a geodatabase' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Name').fill('as_it_is');
  await dialog.getByRole('button', { name: 'Make it' }).click();
  const card = page.getByRole('region', { name: 'as_it_is.gpkg' });
  await card.getByRole('button', { name: 'Bring data in' }).click();
  for (const name of ['orte.csv', 'model.tif', 'packed.tif', 'damaged.tif'])
    await dialog.getByRole('checkbox', { name, exact: true }).first().check();
  const item = dialog.getByRole('group', { name: 'orte.csv' });
  await expect(item).toContainText('6 columns apart by semicolons');
  await item.getByRole('button', { name: 'Show its columns' }).click();
  const columns = item.getByRole('table', { name: 'Columns of orte.csv' });
  await expect(columns.getByRole('row', { name: /^plz text 01067/ })).toBeVisible();
  await expect(columns.getByRole('row', { name: /^Wert number, with a decimal comma 12,5/ })).toBeVisible();
  await expect(columns.getByRole('row', { name: /^Tag day, day first 31\.12\.2025/ })).toBeVisible();
  await expectAccessible(page);
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/reading.png` });
  await expect(dialog.getByText('Left out: its pixels are packed in a way that is not read here.')).toBeVisible();
  await dialog.getByRole('button', { name: 'Bring in 3 datasets' }).click();
  await expect(
    dialog.getByText(/damaged\.tif: nothing of it was brought in, since \d+ blocks? of its pixels (is|are) damaged/),
  ).toBeVisible();
  await expect(dialog.getByText(/orte: 2 records read, 2 written.*every value and shape is the same/)).toBeVisible();
  await expect(dialog.getByText(/model: .*Read back by the reader that read it first.*all pixels are the same/)).toBeVisible();
  await expectAccessible(page);
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/receipts.png` });
});

test('what came in is what an independent reader finds in the sources', () => {
  const table = JSON.parse(gdal('ogr2ogr', ['-f', 'GeoJSON', '/vsistdout/', root('geodatabases', 'as_it_is.gpkg'), 'orte'])) as {
    features: { properties: Record<string, unknown>; geometry: { coordinates: number[] } }[];
  };
  expect(table.features.map((f) => [f.properties, f.geometry.coordinates])).toEqual([
    [{ plz: '01067', Ort: 'Nordkai', Wert: 12.5, Tag: '2025-12-31', Rechtswert: 500010.25, Hochwert: 6100020.5 }, [500010.25, 6100020.5]],
    [{ plz: '80331', Ort: 'Südkai', Wert: 1234.75, Tag: '2026-02-01', Rechtswert: 500020, Hochwert: 6100030.25 }, [500020, 6100030.25]],
  ]);
  const { geoTransform } = JSON.parse(gdal('gdalinfo', ['-json', root('derived', 'model.tif')])) as { geoTransform: number[] };
  const [left, px, , top, , py] = geoTransform as [number, number, number, number, number, number];
  const points = Array.from({ length: 40 }, (_, i) => `${left + ((i * 7) % 40) * px + px / 2} ${top + ((i * 11) % 30) * py + py / 2}`).join(
    '\n',
  );
  const values = (file: string): string => gdal('gdallocationinfo', ['-valonly', '-geoloc', file], points);
  const ours = values(`GPKG:${root('geodatabases', 'as_it_is.gpkg')}:model`)
    .split('\n')
    .map(Number);
  const theirs = values(root('derived', 'model.tif')).split('\n').map(Number);
  theirs.forEach((v, i) => expect([i, ours[i]]).toEqual([i, v]));
  expect(theirs.some((v) => v < -10 && !Number.isInteger(v))).toBe(true);
});

test('what keeps values apart and how letters are encoded can be said by hand, with the columns in sight', async ({ page }) => {
  // Bars, with more semicolons than bars in it; letters of Cyrillic that are too few to be told by.
  writeFileSync(root('derived', 'bars.csv'), Buffer.from([...Buffer.from('a;b;c|n\nx;y;'), 0xed, ...Buffer.from('|123\nx;y;z|7\n')]));
  await openStop(page, STUDY, 'sources');
  await page.getByRole('row', { name: /bars\.csv/ }).click();
  await page.getByRole('button', { name: 'Read it otherwise' }).click();
  const dialog = page.getByRole('dialog', { name: 'How is bars.csv read?' });
  const columns = dialog.getByRole('table', { name: 'Columns of bars.csv' });
  const choose = async (label: string, option: string): Promise<void> => {
    await dialog.getByLabel(label).click();
    await page.getByRole('option', { name: option, exact: true }).click();
  };
  await choose('Values separated by', 'bars');
  await choose('Encoding', 'windows-1251');
  await expect(columns.getByRole('row', { name: /^a;b;c text x;y;н/ })).toBeVisible();
  await dialog.getByLabel('Columns that are text').click();
  await page.getByRole('option', { name: 'n', exact: true }).click();
  await page.keyboard.press('Escape');
  await expectAccessible(page);
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/otherwise.png` });
  await dialog.getByRole('button', { name: 'Read it so' }).click();
  await expect(dialog).toBeHidden();
  const { dialect } = JSON.parse(readFileSync(root('derived', 'bars.csv-metadata.json'), 'utf8')) as { dialect: unknown };
  expect(dialect).toEqual({ delimiter: '|', encoding: 'windows-1251' });
  expect(readFileSync(root('derived', 'bars.csvt'), 'utf8')).toBe('"String","String"\n');
});

test('bands of a scene are chosen and put together, and drawn as their numbers say', async ({ page }) => {
  // Five bands of 16 bits: the first falls to the east, the fourth to the south, the others are one number each.
  const script = `
import sys, numpy as np
from osgeo import gdal
source = gdal.Open(sys.argv[1])
w, h = source.RasterXSize, source.RasterYSize
target = gdal.GetDriverByName('GTiff').Create(sys.argv[2], w, h, 5, gdal.GDT_UInt16, ['COMPRESS=DEFLATE', 'INTERLEAVE=BAND'])
target.SetProjection(source.GetProjection()); target.SetGeoTransform(source.GetGeoTransform())
x, y = np.meshgrid(np.arange(w), np.arange(h))
for band, values in enumerate([4000 - x * 4000 / w, x * 0 + 500, x * 0 + 700, 3000 - y * 3000 / h, (x // 8 + y // 8) % 2 * 2000]):
    target.GetRasterBand(band + 1).WriteArray(values.astype('u2'))
`;
  execFileSync('/usr/bin/python3', ['-c', script, root('received', 'hydro_office', 'depth_model.tif'), root('derived', 'scene.tif')], {
    stdio: 'ignore',
  });
  await openStop(page, STUDY, 'sources');
  await page.getByLabel('Find datasets').fill('scene');
  await page.getByLabel('Tick scene.tif').first().check();
  await page.getByRole('toolbar', { name: 'What is ticked' }).getByRole('button', { name: 'Bring into map' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Map', { exact: true }).click();
  await page.getByRole('option', { name: 'Start a map with it' }).click();
  await dialog.getByLabel('Its title').fill('Scene of the bay');
  await dialog.getByRole('button', { name: 'Make the map' }).click();
  await expect(page).toHaveURL(/maps\/edit\?map=maps%2Fscene_of_the_bay/);
  const isDrawn = () => expect(page.getByRole('application', { name: /^Map / })).toHaveAttribute('data-drawn', 'true');
  await isDrawn();
  await page
    .getByRole('list', { name: 'Layer stack' })
    .getByRole('button', { name: /^scene/ })
    .click();
  await page.getByRole('button', { name: 'Three bands' }).click();
  for (const [label, band] of [
    ['Red', '1'],
    ['Green', '5'],
    ['Blue', '4'],
  ] as const) {
    await page.getByLabel(label, { exact: true }).click();
    await page.getByRole('option', { name: band, exact: true }).click();
  }
  // Each band has a range of its own until one is set for all.
  await expect(page.getByLabel('From')).toHaveValue('');
  await page.getByLabel('Between pixels').click();
  await page.getByRole('option', { name: 'bilinear' }).click();
  await isDrawn();
  await expectAccessible(page);
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/bands.png` });
});

test('each band of the scene becomes a table of a geodatabase, and none is lost', async ({ page }) => {
  await openStop(page, STUDY, 'geodatabases');
  await page.getByRole('button', { name: 'Bring data in' }).first().click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Find a dataset').fill('scene');
  await dialog.getByRole('checkbox', { name: 'scene.tif', exact: true }).check();
  await expect(dialog.getByText(/bands beyond/)).toBeVisible();
  await dialog.getByLabel('What of it').click();
  await page.getByRole('option', { name: 'Each of its 5 bands, as a table' }).click();
  await expect(dialog.getByLabel('Table of scene.tif, band 5')).toHaveValue('scene_band_5');
  await expect(dialog.getByText(/bands beyond/)).toHaveCount(0);
  await expectAccessible(page);
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/each-band.png` });
  await dialog.getByRole('button', { name: 'Bring in 5 tables' }).click();
  await expect(dialog.getByText(/Read back by another reader: all pixels are the same/)).toHaveCount(5, { timeout: 60_000 });
});

test('three of its bands become a picture, in a geodatabase and as a file', async ({ page }) => {
  await openStop(page, STUDY, 'geodatabases');
  await page.getByRole('button', { name: 'Bring data in' }).first().click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Find a dataset').fill('scene');
  await dialog.getByRole('checkbox', { name: 'scene.tif', exact: true }).check();
  await dialog.getByLabel('What of it').click();
  await page.getByRole('option', { name: 'Three of its bands, as a picture' }).click();
  await dialog.getByLabel('Green', { exact: true }).click();
  await page.getByRole('option', { name: '4', exact: true }).click();
  await expect(
    dialog.getByText(/its numbers, which become 256 levels of red \(band 1\), green \(band 4\) and blue \(band 3\)/),
  ).toBeVisible();
  await dialog.getByLabel('Table of scene.tif').fill('scene_picture');
  await expect(dialog.getByRole('button', { name: 'Bring in 1 dataset' })).toBeEnabled();
  await expectAccessible(page);
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/composite.png` });
  await dialog.getByRole('button', { name: 'Bring in 1 dataset' }).click();
  await expect(dialog.getByText(/Read back by another reader: all pixels are the same/)).toBeVisible({ timeout: 60_000 });
  await expect(dialog.getByText(/green \(band 4 from \d+ to \d+\)/)).toBeVisible();
  await dialog.getByRole('button', { name: 'Close' }).click();

  await openStop(page, STUDY, 'sources?find=scene');
  await page
    .getByRole('row', { name: /scene\.tif/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Export it' }).click();
  const exporting = page.getByRole('dialog', { name: 'Export scene.tif' });
  await exporting.getByLabel('Three of its bands, as a picture').check();
  await expect(exporting.getByText(/256 levels of red \(band 1\), green \(band 2\) and blue \(band 3\)/)).toBeVisible();
  const written = root(`${await exporting.getByRole('textbox', { name: 'File' }).inputValue()}.tif`);
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/composite-export.png` });
  await exporting.getByRole('button', { name: 'Write 1 file' }).click();
  await expect(exporting.getByText(/Read back by another reader: .* pixels are as another reader finds them in the source/)).toBeVisible();
  expect(gdal('gdalinfo', [written])).toMatch(/Band 3 .*Type=Byte, ColorInterp=Blue[^]*Band 4 .*ColorInterp=Alpha/);
});

test('a raster is exported as a GeoTIFF, which GDAL finds to be the same, value by value', async ({ page }) => {
  await openStop(page, STUDY, 'sources?find=depth_model');
  await page.getByRole('row', { name: /depth_model\.tif/ }).click();
  await page.getByRole('button', { name: 'Export it' }).click();
  const dialog = page.getByRole('dialog', { name: 'Export depth_model.tif' });
  await expect(dialog.getByLabel('GeoTIFF')).toBeChecked();
  await expect(dialog.getByLabel('Shapefile')).toHaveCount(0);
  const file = dialog.getByRole('textbox', { name: 'File' });
  await expect(file).toHaveValue(/depth_model$/);
  const written = root(`${await file.inputValue()}.tif`);
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Write 1 file' }).click();
  await expect(dialog.getByText(/Read back by another reader: .* pixels are as another reader finds them in the source/)).toBeVisible();
  /** Where there is no value, each file says so in its own way: GDAL is told to leave those out. */
  const values = (path: string): string[] => {
    const nodata = /NoData Value=(\S+)/.exec(gdal('gdalinfo', [path]))?.[1];
    const lines = gdal('gdal_translate', ['-q', '-of', 'XYZ', path, '/vsistdout/']).trim().split('\n');
    return lines.filter((line) => !['nan', nodata].includes(line.split(' ')[2]));
  };
  const wanted = values(root('received', 'hydro_office', 'depth_model.tif'));
  expect(wanted.length).toBeGreaterThan(1000);
  expect(values(written)).toEqual(wanted);
});
