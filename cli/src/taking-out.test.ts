import { execFileSync, spawnSync } from 'node:child_process';
import { copyFileSync, existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { useExample } from '../test/use-example.js';

const { at, rootmap } = useExample();
const columbus = 'testdata/open/spdata/shapes/columbus.shp';

/** Outside reference: what ogrinfo finds, as JSON of ogr2ogr. */
const records = (path: string, ...args: string[]): Record<string, unknown>[] =>
  (
    JSON.parse(
      execFileSync('ogr2ogr', ['-f', 'GeoJSON', '/vsistdout/', path, ...args], { stdio: ['ignore', 'pipe', 'ignore'] }).toString(),
    ) as {
      features: { properties: Record<string, unknown> }[];
    }
  ).features.map((f) => f.properties);

describe('a part of a dataset', () => {
  test('by a filter and a box, as a new file: the records that ogr2ogr takes; undone, it is gone', () => {
    const file = at('p/exports/part.gpkg');
    const r = rootmap('export', columbus, file, '--where', 'CRIME > 30', '--box=7,11,9,13', '--json');
    // -spat of ogr2ogr takes what meets the box, as GEOS has it.
    const theirs = records(columbus, '-where', 'CRIME > 30', '-spat', '7', '11', '9', '13').map((p) => p['POLYID']);
    expect([r.status, r.json()]).toMatchObject([
      0,
      { files: [file], format: 'geopackage', of: 49, read: theirs.length, written: theirs.length },
    ]);
    expect(records(file).map((p) => p['POLYID'])).toEqual(theirs);
    expect(readFileSync(at('p/exports/datapackage.json'), 'utf8')).toContain(
      'Made from columbus.shp: where CRIME > 30, in the box 7 11 to 9 13.',
    );
    expect(rootmap('export', columbus, file)).toMatchObject({ status: 2, err: expect.stringContaining('is there already') });
    const [change] = (rootmap('journal', at('p'), '--json').json() as { changes: { id: string }[] }).changes;
    rootmap('undo', change!.id, '--apply');
    expect(existsSync(file)).toBe(false);
  });

  test('as a table of a geodatabase', () => {
    const file = at('p/work.gpkg');
    const r = rootmap('geodatabase', 'import', file, columbus, '--where', 'CRIME > 30', '--json');
    const theirs = records(columbus, '-where', 'CRIME > 30');
    expect([r.status, r.json()]).toMatchObject([0, { imported: [{ table: 'columbus_part', read: theirs.length, equal: true }] }]);
    expect(records(file, 'columbus_part').map((p) => p['POLYID'])).toEqual(theirs.map((p) => p['POLYID']));
  });

  test.each([
    [['--where', 'CRIME > 1000'], /no record is like that/],
    [['--where', 'CRYME > 1'], /"CRYME", which is no field of columbus.shp. Its fields are AREA/],
    [['--box=1,2,3'], /--box takes four numbers/],
    [['--box-crs', 'EPSG:4326'], /name a --box/],
    [['--to-crs', '4326'], /--to-crs takes a code/],
  ])('%j is a sentence, and nothing is written', (flags, sentence) => {
    const r = rootmap('export', columbus, at('p/out.gpkg'), ...flags);
    expect([r.status, r.err]).toEqual([2, expect.stringMatching(sentence)]);
    expect(existsSync(at('p/out.gpkg'))).toBe(false);
  });
});

test('copies in another CRS are told before, written with --apply, and stand where ogr2ogr puts them', () => {
  const source = at('p/originals/field/2025/light_007.shp');
  const args = ['copies', at('p/working'), source, '--to-crs', 'EPSG:25832'];
  const told = rootmap(...args, '--json');
  expect(told.json()).toMatchObject({ applied: false, copies: [{ written: null, skipped: [] }], left: [] });
  expect(existsSync(told.json().copies[0].file as string)).toBe(false);
  const made = rootmap(...args, '--apply', '--json').json() as { copies: { file: string; records: number; written: number }[] };
  expect(made.copies[0]!.written).toBe(made.copies[0]!.records);
  const extent = (path: string, ...more: string[]): number[] => {
    const told = execFileSync('ogrinfo', ['-so', '-al', path, ...more], { stdio: ['ignore', 'pipe', 'ignore'] }).toString();
    return /Extent: \(([-\d.]+), ([-\d.]+)\) - \(([-\d.]+), ([-\d.]+)\)/.exec(told)!.slice(1).map(Number);
  };
  execFileSync('ogr2ogr', ['-q', '-t_srs', 'EPSG:25832', at('theirs.gpkg'), source], { stdio: 'ignore' });
  extent(made.copies[0]!.file).forEach((side, i) => expect(side).toBeCloseTo(extent(at('theirs.gpkg'))[i]!, 3));
  expect(rootmap('copies', at('p/working'), source)).toMatchObject({ status: 2, err: expect.stringContaining('--to-crs') });
});

test('a raster in another CRS: told before, its pixels counted, as gdalwarp places it; undone, it is gone', () => {
  const source = at('p/originals/geomatrix.tif');
  copyFileSync('testdata/open/sf/tif/geomatrix.tif', source);
  const args = ['copies', at('p/working'), source, '--to-crs', 'EPSG:4326', '--resampling', 'bilinear'];
  const told = rootmap(...args);
  expect(told.err).toBe('');
  expect(told.out).toMatch(/geomatrix_4326\.tif: \d+ × \d+ pixels of 0\.\d+, bilinear \(as chosen\), from EPSG:/);
  const made = rootmap(...args, '--apply');
  const [, pixels] = /each of its (\d+) pixels is as computed/.exec(made.out)!;
  const file = at('p/working/geomatrix_4326.tif');
  // Outside references: gdalinfo and gdalwarp of Debian's gdal-bin.
  const info = (path: string) =>
    JSON.parse(execFileSync('gdalinfo', ['-json', path], { stdio: ['ignore', 'pipe', 'ignore'] }).toString()) as {
      size: [number, number];
      cornerCoordinates: Record<'upperLeft' | 'lowerRight', [number, number]>;
    };
  const mine = info(file);
  expect(mine.size[0] * mine.size[1]).toBe(Number(pixels));
  execFileSync('gdalwarp', ['-q', '-t_srs', 'EPSG:4326', source, at('theirs.tif')], { stdio: 'ignore' });
  const theirs = info(at('theirs.tif'));
  const side = (mine.cornerCoordinates.lowerRight[0] - mine.cornerCoordinates.upperLeft[0]) / mine.size[0];
  for (const corner of ['upperLeft', 'lowerRight'] as const)
    for (const k of [0, 1]) expect(Math.abs(mine.cornerCoordinates[corner][k]! - theirs.cornerCoordinates[corner][k]!)).toBeLessThan(side);
  const [change] = (rootmap('journal', at('p'), '--json').json() as { changes: { id: string }[] }).changes;
  rootmap('undo', change!.id, '--apply');
  expect(existsSync(file)).toBe(false);
  expect(rootmap(...args, '--pixel', 'wide')).toMatchObject({ status: 2, err: expect.stringContaining('--pixel takes') });
  expect(rootmap('copies', at('p/working'), source, '--to-crs', 'EPSG:4326', '--resampling', 'fine').err).toContain(
    'nearest, bilinear, cubic',
  );
});

test('a large raster, which two threads compute, is that of gdalwarp: numbers, colours, and a kind whose value for "none" is taken', () => {
  // Outside reference: GDAL, by its Python package of Debian (python3-gdal).
  const python = (code: string, ...args: string[]): string =>
    execFileSync('/usr/bin/python3', ['-c', code, ...args], { stdio: ['ignore', 'pipe', 'ignore'] }).toString();
  python(
    `
import sys, numpy as np
from osgeo import gdal, osr
srs = osr.SpatialReference(); srs.ImportFromEPSG(32632)
y, x = np.mgrid[0:1300, 0:1500].astype('f4')
z = 80 * np.sin(x / 210) + 60 * np.cos(y / 170) + 3 * np.sin(x / 7) * np.cos(y / 9)
low = z.round(); low[-40:, 700:720] = -32768
kinds = (('ground', gdal.GDT_Float32, [z]), ('air', gdal.GDT_Byte, [(z + 145) * k / 3 * 0.85 for k in (1, 2, 3)]), ('low', gdal.GDT_Int16, [low]))
for name, kind, bands in kinds:
    d = gdal.GetDriverByName('GTiff').Create(sys.argv[1] + '/' + name + '.tif', 1500, 1300, len(bands), kind, ['PHOTOMETRIC=RGB'] if len(bands) == 3 else [])
    d.SetGeoTransform((400000, 10, 0, 5900000, 0, -10)); d.SetProjection(srs.ExportToWkt())
    for b, band in enumerate(bands): d.GetRasterBand(b + 1).WriteArray(band)
`,
    at('p/originals'),
  );
  for (const [name, most, kind] of [
    ['ground', 0.06, 'Float32'],
    ['air', 1, 'Byte'],
    ['low', 1, 'Int32'],
  ] as const) {
    const source = at(`p/originals/${name}.tif`);
    const made = rootmap('copies', at('p/working'), source, '--to-crs', 'EPSG:3857', '--resampling', 'cubic', '--apply');
    expect(made.out).toMatch(/read back by another reader: each of its \d{7} pixels is as computed/);
    const [worst, same, pixels, held] = JSON.parse(
      python(
        `
import sys, json, numpy as np
from osgeo import gdal
mine = gdal.Open(sys.argv[1]); g = mine.GetGeoTransform(); w, h = mine.RasterXSize, mine.RasterYSize
box = (g[0], g[3] + h * g[5], g[0] + w * g[1], g[3])
theirs = gdal.Warp('', sys.argv[2], format='MEM', dstSRS='EPSG:3857', resampleAlg='cubic', outputBounds=box, width=w, height=h, errorThreshold=0, dstAlpha=True)
a, b = mine.ReadAsArray().astype('f8'), theirs.ReadAsArray().astype('f8')
shown = b[-1] > 0
mask = a != mine.GetRasterBand(1).GetNoDataValue() if a.ndim == 2 else a[-1] > 0
if a.ndim == 2: mask &= ~np.isnan(a)
n = 1 if a.ndim == 2 else 3
a = a.reshape(-1, h, w)[:n]
d = np.abs(a - b[:n])[:, shown & mask]
print(json.dumps([float(np.percentile(d, 99.99)), int((shown == mask).sum()), w * h, gdal.GetDataTypeName(mine.GetRasterBand(1).DataType)]))
`,
        at(`p/working/${name}_3857.tif`),
        source,
      ),
    ) as [number, number, number, string];
    expect(held).toBe(kind);
    expect(worst).toBeLessThanOrEqual(most);
    expect(same).toBe(pixels);
    expect(pixels).toBeGreaterThan(1_000_000);
  }
});

test('an archive is looked into, and unpacked with --apply; the trash is listed with what undo takes, and emptied', () => {
  const zip = at('beds.zip');
  execFileSync('python3', [
    '-c',
    `import zipfile,sys\nz=zipfile.ZipFile(sys.argv[1],'w')\nfor e in ('shp','shx','dbf'): z.write(sys.argv[2]+'.'+e, 'beds/sea beds.'+e)\nz.writestr('beds/readme.txt','Publisher: Harbour Office')`,
    zip,
    columbus.replace('.shp', ''),
  ]);
  const told = rootmap('bring-in', zip, at('p/originals/beds'), '--json').json();
  expect(told).toMatchObject({ applied: false, refused: [] });
  expect(told.things.find((t: { format: string }) => t.format === 'shapefile')).toMatchObject({ kind: 'vector', count: 49 });
  expect(existsSync(at('p/originals/beds'))).toBe(false);
  const done = rootmap('bring-in', zip, at('p/originals/beds'), '--apply');
  expect([done.status, done.err]).toEqual([0, '']);
  // Outside reference: Python's zipfile.
  const bytes = execFileSync('python3', [
    '-c',
    "import zipfile,sys; sys.stdout.buffer.write(zipfile.ZipFile(sys.argv[1]).read('beds/sea beds.dbf'))",
    zip,
  ]);
  const there = readdirSync(at('p/originals/beds')).find((n) => n.endsWith('.dbf'))!;
  expect(readFileSync(at('p/originals/beds', there)).equals(bytes)).toBe(true);
  expect(rootmap('bring-in', zip, at('p/originals/more'), '--only', 'none.shp')).toMatchObject({
    status: 2,
    err: expect.stringContaining('There is no none.shp in beds.zip'),
  });
  writeFileSync(at('p/copy.zip'), readFileSync(zip));
  rootmap('bring-in', at('p/copy.zip'), at('p/working/beds'), '--trash-archive', '--apply');
  expect(existsSync(at('p/copy.zip'))).toBe(false);
  const listed = rootmap('trash', at('p'), '--json').json();
  expect(listed).toMatchObject({ emptied: false, trash: [{ title: 'Bring in copy.zip', paths: [expect.stringContaining('copy.zip')] }] });
  expect(rootmap('trash', at('p'), '--apply')).toMatchObject({ status: 2 });
  expect(rootmap('trash', at('p'), '--empty', '--apply', '--json').json()).toMatchObject({
    emptied: true,
    bytes: readFileSync(zip).length,
  });
  expect(rootmap('trash', at('p'), '--json').json()).toMatchObject({ trash: [], bytes: 0 });
});

test('a note on the project is told before, written with --apply, listed, and undone', () => {
  const file = at('p/working/fairway_006.shp');
  const args = ['note', at('p'), '--write', 'The fairway was dredged.', '--about', file];
  expect(rootmap(...args)).toMatchObject({ status: 0, out: expect.stringContaining('0 notes; --apply writes one more') });
  expect(existsSync(at('p/project_notes.md'))).toBe(false);
  expect(rootmap(...args, '--apply', '--json').json()).toMatchObject({
    applied: true,
    notes: [{ text: 'The fairway was dredged.', about: { kind: 'path', path: 'working/fairway_006.shp' } }],
  });
  expect(readFileSync(at('p/project_notes.md'), 'utf8')).toContain('About: [working/fairway_006.shp](working/fairway_006.shp)');
  expect(rootmap('note', at('p'), '--write', 'x', '--about', at('elsewhere'))).toMatchObject({
    status: 2,
    err: expect.stringContaining('is not in the project'),
  });
  expect(rootmap('note', at('p'), '--apply')).toMatchObject({ status: 2 });
  const [change] = (rootmap('journal', at('p'), '--json').json() as { changes: { id: string }[] }).changes;
  rootmap('undo', change!.id, '--apply');
  expect(rootmap('note', at('p'), '--json').json()).toMatchObject({ notes: [] });
});

describe('help', () => {
  const commandsOf = (): string[] => [...rootmap('help').out.matchAll(/^ {2}rootmap ([a-z-]+)/gm)].map((m) => m[1]!);

  test('every command has a page with examples, of flags that it has', () => {
    const commands = commandsOf();
    expect(commands.length).toBeGreaterThan(25);
    const script = rootmap('completion', 'bash').out;
    const pages = rootmap('help', 'all').out.split(/^(?=rootmap )/m);
    expect(pages.map((p) => /^rootmap ([a-z-]+)/.exec(p)![1])).toEqual(commands);
    expect([rootmap('help', 'trash').out, rootmap('trash', '--help').out]).toEqual(
      Array(2).fill(pages[commands.indexOf('trash')]!.trimEnd() + '\n'),
    );
    for (const [i, name] of commands.entries()) {
      const page = pages[i]!;
      const examples = [...page.matchAll(/^ {2}rootmap (.*)$/gm)].map((m) => m[1]!);
      expect([name, examples.length]).not.toEqual([name, 0]);
      const flags = new RegExp(`^    ${name}\\) flags="(.*)" ;;$`, 'm').exec(script)![1]!.split(' ');
      for (const example of examples) {
        expect([name, example.split(' ')[0]]).toEqual([name, name]);
        for (const [flag] of example.matchAll(/--[a-z-]+/g)) expect([name, flags]).toEqual([name, expect.arrayContaining([flag])]);
      }
    }
    expect(rootmap('help', 'nothing')).toMatchObject({ status: 2 });
    expect(rootmap('completion', 'fish')).toMatchObject({ status: 2, err: expect.stringContaining('bash, zsh and powershell') });
  });

  test('whoever reads what is printed may stop reading', () => {
    const r = spawnSync('bash', ['-c', 'set -o pipefail; "$0" cli/bin/rootmap.js help all | true', process.execPath], { encoding: 'utf8' });
    expect([r.status, r.stderr]).toEqual([0, '']);
  });

  test('bash completes commands, flags and paths', () => {
    writeFileSync(at('complete.sh'), rootmap('completion', 'bash').out);
    const complete = (...words: string[]): string[] =>
      execFileSync(
        'bash',
        [
          '-c',
          `. ${at('complete.sh')}; COMP_WORDS=(rootmap "$@"); COMP_CWORD=$#; _rootmap; printf '%s\\n' "\${COMPREPLY[@]}"`,
          'x',
          ...words,
        ],
        { cwd: at('p') },
      )
        .toString()
        .trim()
        .split('\n');
    expect(complete('rece')).toEqual(['receive']);
    expect(complete('export', 'a', '--bo')).toEqual(['--box', '--box-crs']);
    expect(complete('datasets', 'orig')).toEqual(['originals']);
    for (const shell of ['zsh', 'powershell']) {
      const { out } = rootmap('completion', shell);
      for (const name of commandsOf()) expect([shell, out]).toEqual([shell, expect.stringContaining(name)]);
    }
  });
});
