import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { expect, test } from '@jest/globals';
import { identifyCrs } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { tellAgreement } from '../../../core/test/agreement.js';
import { crsTable } from '../disk/crs-table.js';
import { datasetsOfFile } from '../project/find-dataset.js';

// Outside reference: PROJ (the osr module of Debian's python3-gdal) writes the text of every registered code in the common dialect of
// `.prj` files (scripts/crs-dialect.py). Whether two codes mean the same is judged by the texts themselves, without their names.

type Text = readonly [number, string, string, boolean];
const codes = (JSON.parse(readFileSync('engine/data/crs.json', 'utf8')) as [number][]).map(([code]) => code);
const texts = JSON.parse(
  execFileSync('/usr/bin/python3', ['scripts/crs-dialect.py'], { input: JSON.stringify(codes), maxBuffer: 1 << 28 }).toString(),
) as Text[];
const meaning = (text: string): string =>
  text
    .replace(/^([A-Z]+\[)"[^"]*"/, '$1')
    .replace(/GEOGCS\["[^"]*"/, 'GEOGCS[')
    .replace(/,VERTCS\[.*$/, '');

test('the text of every registered CRS in the common dialect is known again, and none is taken for another', () => {
  const meanings = new Map(texts.map(([code, , text]) => [`EPSG:${code}`, meaning(text)]));
  const told = { same: 0, alike: 0, unknown: [] as number[], wrong: [] as string[] };
  for (const [code, , text] of texts) {
    const found = identifyCrs(text, crsTable)?.code ?? null;
    // Of a CRS with heights, the one that positions are in.
    if (found === (crsTable.flatOf!(`EPSG:${code}`) ?? `EPSG:${code}`)) told.same++;
    else if (found === null) told.unknown.push(code);
    else if (meanings.get(found) === meaning(text)) told.alike++;
    else told.wrong.push(`${code} as ${found}`);
  }
  const known = told.same + told.alike;
  tellAgreement('CRSs: the text of every registered code in the common dialect of .prj, by PROJ', known, told.unknown.length, texts.length);
  expect(told.wrong).toEqual([]);
  expect(texts.length).toBeGreaterThan(5500);
  expect(told.unknown.length / texts.length).toBeLessThan(0.01);
}, 60_000);

test('another name makes no difference; another number does: then nobody claims to know it', () => {
  const [, , utm] = texts.find(([code]) => code === 32624)!;
  expect(identifyCrs(utm.replace('WGS_1984_UTM_Zone_24N', 'Our_own_grid'), crsTable)).toMatchObject({
    code: 'EPSG:32624',
    otherName: 'Our_own_grid',
  });
  for (const [from, to] of [
    ['500000.0', '500001.0'],
    ['6378137.0', '6378138.0'],
    ['D_WGS_1984', 'D_Ours'],
  ] as const) {
    expect(utm).toContain(from);
    expect([from, identifyCrs(utm.replace(from, to), crsTable)!.code]).toEqual([from, null]);
  }
});

// Outside reference: gdal_translate, which writes the text of the CRS into the citations of a GeoTIFF where it is asked to.
test('the text in the citations of a GeoTIFF counts, and not the geographic CRS that it is based on', () => {
  const folder = mkdtempSync(join(tmpdir(), 'rootmap-pe-'));
  for (const code of ['EPSG:3857', 'EPSG:5070', 'EPSG:32624', 'EPSG:27700', 'EPSG:4326', 'EPSG:2154']) {
    const path = join(folder, `${code.slice(5)}.tif`);
    const options = ['-q', '-co', 'GEOTIFF_KEYS_FLAVOR=ESRI_PE', '-a_srs', code, '-a_ullr', '0', '100', '100', '0'];
    execFileSync('gdal_translate', [...options, 'testdata/open/spdata/raster/elev.tif', path], { stdio: 'ignore' });
    expect([code, datasetsOfFile(path)[0]!.dataset.crs?.code]).toEqual([code, code]);
  }
  rmSync(folder, { recursive: true });
});
