import { execFileSync } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { expect, test } from '@jest/globals';
import { openStore, KnownShelves } from '@rootmap/engine/store';
import { useExample } from '../test/use-example.js';

// Outside references: poppler's pdftotext, pdffonts and pdfimages, zip, ogr2ogr, PROJ's geod, and Python's zipfile.

const { at, rootmap } = useExample();
const run = (command: string, ...args: string[]): string =>
  execFileSync(command, args, { stdio: ['ignore', 'pipe', 'ignore'], maxBuffer: 1 << 26 }).toString();
const archive = (): string => {
  execFileSync('zip', ['-qr', at('delivery.zip'), 'field/2025', 'harbour_office'], { cwd: at('p/originals') });
  return at('delivery.zip');
};
/** A project with data that came in, and a map of it. */
function job(): string {
  expect(rootmap('new', at('job'), '--title', 'Lights of the bay', '--crs', 'EPSG:32632', '--geodatabase').status).toBe(0);
  expect(rootmap('bring-in', archive(), at('job/received/office'), '--apply').status).toBe(0);
  const light = at('job/received/office/field/n2025/light_007.shp');
  const made = rootmap('map', at('job'), light, at('job/received/office/harbour_office/buoy_001.shp'), '--title', 'Lights', '--apply');
  expect([made.status, made.err]).toEqual([0, '']);
  return at('job/maps/lights.owc.json');
}

test('the whole job by terminal alone: from a title to a printed page, sent whole, and taken back', () => {
  const map = job();
  const light = at('job/received/office/field/n2025/light_007.shp');
  rootmap('origins', light, '--set', 'publisher=Harbour Office', '--set', 'licence=CC-BY-4.0', '--apply');
  expect(rootmap('note', at('job'), '--write', 'The lights of 2026 come in May.', '--about', light, '--apply').status).toBe(0);
  expect(rootmap('layers', at('job')).status).toBe(0);
  // What moved outside is mended.
  execFileSync('mv', [at('job/received/office'), at('job/received/hydro')]);
  expect(rootmap('layers', at('job')).status).toBe(1);
  expect(rootmap('mend', at('job'), '--apply').status).toBe(0);
  expect(rootmap('layers', at('job')).status).toBe(0);
  const copied = rootmap(
    'copies',
    at('job/derived'),
    at('job/received/hydro/field/n2025/light_007.shp'),
    '--to-crs',
    'EPSG:32624',
    '--apply',
  );
  expect(copied.out).toContain('1 copy made');
  const page = at('job/exports/lights.pdf');
  const printed = rootmap(
    'print',
    map,
    page,
    '--scale',
    '1:50000',
    '--text',
    'For the council',
    '--text',
    'upper-middle:Draft of the plan',
    '--grid',
    'degrees',
    '--json',
  );
  expect([printed.status, printed.json()]).toMatchObject([0, { scale: 50_000, left: [], legendLeft: 0, drawn: expect.any(Array) }]);
  const text = run('pdftotext', '-layout', page, '-');
  for (const words of ['Lights', 'For the council', 'Draft of the plan', '1:50', '© Harbour Office', '°']) expect(text).toContain(words);
  const fonts = run('pdffonts', page).split('\n').slice(2).filter(Boolean);
  expect(fonts.every((line) => /yes yes yes/.test(line))).toBe(true);
  expect(run('pdfimages', '-list', page).split('\n').slice(2).filter(Boolean)).toEqual([]);
  // Nothing is written over, and undo takes it back.
  expect(rootmap('print', map, page)).toMatchObject({ status: 2, err: expect.stringContaining('lights.pdf') });
  const out = at('whole.zip');
  expect(rootmap('pack', at('job'), '--out', out).err).toBe('');
  const names = run('python3', '-c', 'import zipfile,sys; print("\\n".join(zipfile.ZipFile(sys.argv[1]).namelist()))', out);
  for (const name of ['maps/lights.owc.json', 'light_007.shp', 'exports/lights.pdf', 'project_notes.md']) expect(names).toContain(name);
  expect(rootmap('verify', out).status).toBe(0);
  const [change] = (rootmap('journal', at('job'), '--find', 'Print', '--json').json() as { changes: { id: string }[] }).changes;
  rootmap('undo', change!.id, '--apply');
  expect(existsSync(page)).toBe(false);
});

test('what lies on the page lies at its scale: the ground between two points, as geod measures it', () => {
  job();
  const source = at('job/received/office/field/n2025/light_007.shp');
  rootmap('map', at('job'), source, '--title', 'Alone', '--apply');
  const page = at('job/exports/alone.svg');
  const flags = ['--crs', 'EPSG:32632', '--without', 'legend,north', '--json'];
  const printed = rootmap('print', at('job/maps/alone.owc.json'), page, ...flags).json() as { scale: number };
  const spots = (
    JSON.parse(run('ogr2ogr', '-f', 'GeoJSON', '/vsistdout/', '-lco', 'RFC7946=NO', '-t_srs', 'EPSG:4326', source)) as {
      features: { geometry: { coordinates: [number, number][][] } }[];
    }
  ).features.map((f) => f.geometry.coordinates[0]![0]!);
  // Each area begins with its first position.
  const svg = readFileSync(page, 'utf8');
  const drawn = [...svg.matchAll(/<path clip-path="url\(#map\)" d="M([-\d.]+) ([-\d.]+)L/g)].map(
    ([, x, y]) => [Number(x), Number(y)] as const,
  );
  expect(drawn).toHaveLength(spots.length);
  const of = (isBetter: (a: number, b: number) => boolean): number => spots.reduce((m, s, i) => (isBetter(s[0], spots[m]![0]) ? i : m), 0);
  const [west, east] = [of((a, b) => a < b), of((a, b) => a > b)];
  const [a, b] = [drawn[west]!, drawn[east]!];
  const metres = Number(
    execFileSync('geod', ['+ellps=WGS84', '-I', '-f', '%.3f'], {
      input: `${[...spots[west]!].reverse().join(' ')} ${[...spots[east]!].reverse().join(' ')}\n`,
    })
      .toString()
      .split('\t')[2],
  );
  const onPaper = (Math.hypot(b[0] - a[0], b[1] - a[1]) / 1000) * printed.scale;
  expect(metres).toBeGreaterThan(1000);
  expect(Math.abs(onPaper / metres - 1)).toBeLessThan(0.002);
});

test('a raster is a picture on the page, as fine as it was asked for', () => {
  job();
  copyFileSync('testdata/open/sf/tif/geomatrix.tif', at('job/derived/geomatrix.tif'));
  rootmap('map', at('job'), at('job/derived/geomatrix.tif'), '--title', 'Picture', '--apply');
  const page = at('job/exports/picture.pdf');
  const printed = rootmap('print', at('job/maps/picture.owc.json'), page, '--crs', 'EPSG:32611', '--dpi', '100', '--json');
  expect([printed.status, printed.json()]).toMatchObject([0, { left: [], drawn: ['geomatrix'] }]);
  const pictures = run('pdfimages', '-list', page).split('\n').slice(2).filter(Boolean);
  expect(pictures.length).toBeGreaterThan(0);
  expect(pictures.every((line) => /\s100\s+100\s/.test(line))).toBe(true);
});

test('land stands where it is, as cs2cs places it; the region is a small map; a layout gives what is not said', async () => {
  const map = job();
  const page = at('job/exports/sea.svg');
  const store = await openStore(at('data'));
  const layout = { name: 'Board', paper: 'A3', isWide: false, dpi: 96, format: 'pdf', grid: 'degrees', notes: [{ text: 'For the board', place: 'upper-middle' }], legendColumns: 2, has: { legend: false, bar: true, north: true, locator: true } } as const; // prettier-ignore
  await new KnownShelves(store).keep('layouts', layout);
  await store.destroy();
  const flags = ['--scale', '1:3000000', '--at=9,55', '--with', 'land', '--layout', 'Board', '--paper', 'A4'];
  expect(rootmap('print', map, page, ...flags)).toMatchObject({ err: '' });
  const svg = readFileSync(page, 'utf8');
  // Upright A4 (ISO 216: 210 × 297 mm), since the call says the paper, and the layout how it stands.
  expect(svg).toMatch(/width="210mm" height="297mm"/);
  expect(svg).toContain('For the board');
  const land = [...svg.matchAll(/ d="([^"]+)"[^>]*fill="#efe9da"/g)].map((m) => ringsOf(m[1]!));
  expect(land).toHaveLength(2); // below the map, and in the map of the region
  const [, x, y, w, h] = /<clipPath id="map"><rect x="([\d.]+)" y="([\d.]+)" width="([\d.]+)" height="([\d.]+)"/.exec(svg)!.map(Number);
  const spots = ['55 9', '53.55 10', '55 7', '56.3 9.5', '56.6 11.5']; // latitude first, as the registry has it
  const placed = execFileSync('cs2cs', ['-f', '%.3f', 'EPSG:4326', 'EPSG:32632'], {
    input: spots.join('\n'),
  });
  const [middle, ...others] = placed.toString().trim().split('\n').map((l) => l.split(/\s+/).slice(0, 2).map(Number)); // prettier-ignore
  const isLand = others.map((p) => {
    const [dx, dy] = [0, 1].map((k) => ((p[k]! - middle![k]!) / 0.9996 / 3_000_000) * 1000);
    const spot = [x! + w! / 2 + dx!, y! + h! / 2 - dy!] as const;
    return land.some((rings) => rings.reduce((inside, ring) => inside !== holds(ring, spot), false));
  });
  // From memory: Hamburg and the middle of Jutland are land; the German Bight and the Kattegat are not.
  expect(isLand).toEqual([true, false, true, false]);
});

type Spot = readonly [number, number];
const ringsOf = (d: string): Spot[][] =>
  d
    .split('M')
    .slice(1)
    .map((ring) => [...ring.matchAll(/(-?[\d.]+)[ ,](-?[\d.]+)/g)].map((m): Spot => [Number(m[1]), Number(m[2])]));
/** The even–odd rule. */
const holds = (ring: readonly Spot[], [x, y]: Spot): boolean =>
  ring.reduce((inside, [ax, ay], i) => {
    const [bx, by] = ring[(i + 1) % ring.length]!;
    return ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax ? !inside : inside;
  }, false);

test('symbols that are pictures stand on their points, once in the file; one that is missing is told', () => {
  job();
  const spots = [[8.1, 54.1], [8.2, 54.2], [8.3, 54.1]]; // prettier-ignore
  const features = spots.map((coordinates) => ({ type: 'Feature', properties: {}, geometry: { type: 'Point', coordinates } }));
  writeFileSync(at('job/derived/spots.geojson'), JSON.stringify({ type: 'FeatureCollection', features }));
  rootmap('map', at('job'), at('job/derived/spots.geojson'), '--title', 'Spots', '--apply');
  const map = at('job/maps/spots.owc.json');
  const doc = JSON.parse(readFileSync(map, 'utf8')) as { features: { properties: { offerings: { styles: unknown }[] } }[] };
  doc.features[0]!.properties.offerings[0]!.styles = [{ name: 's', content: { href: '../styles/buoy.sld' } }];
  writeFileSync(map, JSON.stringify(doc));
  // SLD 1.0 (OGC 02-070), 11.3: a picture of its own, 20 pixels of 0.28 mm wide.
  const sld = '<StyledLayerDescriptor version="1.0.0" xmlns="http://www.opengis.net/sld" xmlns:xlink="http://www.w3.org/1999/xlink"><NamedLayer><Name>x</Name><UserStyle><FeatureTypeStyle><Rule><Name>r</Name><PointSymbolizer><Graphic><ExternalGraphic><OnlineResource xlink:type="simple" xlink:href="buoy.svg"/><Format>image/svg+xml</Format></ExternalGraphic><Size>20</Size></Graphic></PointSymbolizer></Rule></FeatureTypeStyle></UserStyle></NamedLayer></StyledLayerDescriptor>'; // prettier-ignore
  mkdirSync(at('job/styles'));
  writeFileSync(at('job/styles/buoy.sld'), sld);
  const without = rootmap('print', map, at('job/exports/none.svg'), '--crs', 'EPSG:32632', '--json');
  expect([without.status, without.json()]).toMatchObject([1, { drawn: [], left: [{ why: expect.stringContaining('buoy.svg') }] }]);
  writeFileSync(at('job/styles/buoy.svg'), '<svg xmlns="http://www.w3.org/2000/svg" width="8" height="4"><rect width="8" height="4" fill="#c00"/></svg>'); // prettier-ignore
  expect(rootmap('print', map, at('job/exports/spots.svg'), '--crs', 'EPSG:32632').status).toBe(0);
  const svg = readFileSync(at('job/exports/spots.svg'), 'utf8');
  expect(svg.match(/<image id="picture1"/g)).toHaveLength(1);
  expect([...svg.matchAll(/<use xlink:href="#picture1" transform="translate\([-\d. ]+\) scale\(([\d. ]+)\)"/g)].map((m) => m[1])).toEqual(
    Array(3).fill('5.6 2.8'),
  );
  // Outside reference: poppler. One picture in the file, drawn three times.
  expect(rootmap('print', map, at('job/exports/spots.pdf'), '--crs', 'EPSG:32632').status).toBe(0);
  const drawn = run('pdfimages', '-list', at('job/exports/spots.pdf')).split('\n').slice(2).map((l) => l.trim().split(/\s+/)).filter((l) => l[2] === 'image'); // prettier-ignore
  expect([drawn.length, new Set(drawn.map((l) => l[10])).size]).toEqual([3, 1]);
});

test('what cannot be printed is a sentence, and nothing is written', () => {
  const map = job();
  const page = at('job/exports/x.pdf');
  for (const [args, sentence] of [
    [['--paper', 'A9'], /--paper takes one of A5, A4/],
    [['--scale', 'large'], /--scale takes a scale such as/],
    [['--view', 'The pier'], /no view called The pier\. It has none/],
    [['--without', 'title'], /no title: --without takes legend, bar, north/],
    [['--with', 'legend'], /no legend: --with takes region, land/],
    [['--columns', '4'], /--columns takes 1, 2 or 3/],
    [['--layout', 'Wall'], /No layout is called "Wall"\. None is kept yet/],
    [['--dpi', '9000'], /--dpi takes a number/],
    [['--at', 'here'], /--at takes degrees/],
    [['--crs', 'EPSG:99999'], /EPSG:99999/],
  ] as const)
    expect(rootmap('print', map, page, ...args)).toMatchObject({ status: 2, err: expect.stringMatching(sentence) });
  expect(rootmap('print', map, at('job/exports/x.png'))).toMatchObject({ status: 2, err: expect.stringContaining('.pdf or .svg') });
  expect(existsSync(page)).toBe(false);
  // A layer whose data is gone is named, and the rest is printed.
  execFileSync('rm', [at('job/received/office/harbour_office/buoy_001.shp')]);
  const printed = rootmap('print', map, page, '--json');
  expect([printed.status, printed.json()]).toMatchObject([1, { left: [{ why: 'its data is not there: mend it first' }] }]);
  writeFileSync(at('job/maps/none.owc.json'), '{}');
  expect(rootmap('print', at('job/maps/none.owc.json'), at('job/exports/y.pdf')).status).not.toBe(0);
  expect(rootmap('map', at('job'), at('job/received/office/field/n2025/light_007.shp'))).toMatchObject({
    status: 2,
    err: expect.stringContaining('--title'),
  });
});
