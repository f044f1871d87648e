import { readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { buffer } from 'node:stream/consumers';
import { join, ZipWriter } from '@rootmap/engine';
import PDFDocument from 'pdfkit';
import tar from 'tar-stream';
import { UTM_24N } from './crs-texts.js';
import { seeded } from './random.js';
import { areas, lines, points, toDegrees, type Features } from './shapes.js';
import { geojson, shapefile, WHEN, type Files } from './files-in-memory.js';
import { touch } from './write-data.js';

const SEED = 20_260_214;

/** Archives as they lie in a downloads folder: good ones, one whose notes say otherwise than its data, one without its .prj, one cut off, one that means harm. */
export async function makeDownloads(folder: string): Promise<void> {
  const random = seeded(SEED);
  await zip(join(folder, 'reef survey 2026.zip'), {
    ...within('reef_survey/', shapefile('reef survey', areas(random, 26, 300, 'reef_nm'), UTM_24N)),
    'reef_survey/readme.txt': 'Reef survey of the outer bay. Licence: CC BY 4.0. Name the Ellisande Reef Group.\n',
    '__MACOSX/reef_survey/._readme.txt': 'of a system only',
  });
  await tarball(join(folder, 'tide_stations.tar.gz'), {
    'tide_stations.geojson': geojson(toDegrees(points(random, 18, 'station_nm'))),
    'readme.txt': 'Tide stations. Licence: CC0-1.0.\n',
  });
  await zip(join(folder, 'sandbanks.zip'), {
    ...shapefile('sandbanks', lines(random, 12, 'bank_nm'), null),
    'readme.txt': 'Sandbanks, drawn by hand.\n',
  });
  const soundings = points(seeded(SEED + 1), 60, 'sounding');
  await zip(join(folder, 'bay soundings.zip'), {
    ...within('bay_soundings/', shapefile('bay_soundings', soundings, UTM_24N)),
    ...within('bay_soundings/', shapefile('control_marks', moved(soundings, 24), UTM_24N)),
    ...within('bay_soundings/', shapefile('sounded_areas', withBowTie(areas(seeded(SEED + 2), 12, 400, 'area_nm')), UTM_24N)),
    'bay_soundings/terms of use.html': TERMS,
    'bay_soundings/about the soundings.pdf': await aboutSoundings(),
  });
  const inner = join(folder, 'berths.zip');
  await zip(inner, shapefile('berths', points(random, 24, 'berth_no', [1, 12]), UTM_24N));
  await zip(join(folder, 'harbour plans (2).zip'), {
    'harbour plans/berths.zip': readFileSync(inner),
    'harbour plans/read me first.txt': 'The berths are in the archive inside. Depths are in fathoms. Licence: ask the harbour office.\n',
  });
  rmSync(inner);
  const cut = join(folder, 'wrecks (cut off).zip');
  await zip(cut, shapefile('wrecks', points(random, 40, 'wreck_nm'), UTM_24N));
  truncateSync(cut, 900);
  touch(cut, WHEN);
  await zip(join(folder, 'free charts.zip'), {
    'charts/notes.txt': 'All charts of the world, for nothing!\n',
    '../../escaped.txt': 'x',
    '/etc/cron.d/evil': 'x',
    'C:/Windows/evil.txt': 'x',
    'charts/NOTES.TXT': 'x',
  });
}

/** The first of them as a better survey has them: all of them some metres off, each a little otherwise. */
function moved(f: Features, count: number): Features {
  const random = seeded(SEED + 3);
  const shift = ([x, y]: readonly [number, number]) => [round(x + 3 + 2 * random()), round(y - 2 - 2 * random())] as const;
  return { ...f, shapes: f.shapes.slice(0, count).map((shape) => shape.map((run) => run.map(shift))), rows: f.rows.slice(0, count) };
}
const round = (v: number): number => Math.round(v * 100) / 100;

/** One of the areas with two corners in the wrong order, so that its outline crosses itself. */
function withBowTie(f: Features): Features {
  const [first, ...others] = f.shapes;
  const [ring] = first!;
  const turned = [...ring!];
  [turned[1], turned[5]] = [turned[5]!, turned[1]!];
  return { ...f, shapes: [[turned], ...others] };
}

const TERMS = `<!doctype html><title>Terms of use</title><h1>Terms of use</h1>
<p>The soundings are published by the Ellisande Harbour Office under CC BY 4.0.</p>
<p>They are not to be used for navigation. The office accepts no liability for what comes of their use.</p>
<table><tr><th>field</th><th>what it holds</th></tr><tr><td>sounding</td><td>name of the sounding</td></tr></table>
`;

/** A note as publishers write it: units and datum are told in words, and they are not those of the data. */
async function aboutSoundings(): Promise<Buffer> {
  const document = new PDFDocument({ size: 'A4', info: { Title: 'About the soundings', CreationDate: new Date(WHEN) } });
  document.fontSize(16).text('About the soundings').fontSize(11).moveDown();
  for (const paragraph of [
    'The outer bay was sounded along lines 200 m apart. Surveyed in June 2021.',
    'Coordinates are in feet. Horizontal datum: WGS 84.',
    'The soundings were made for charts of 1:10 000 and smaller scales.',
  ])
    document.text(paragraph).moveDown(2);
  document.end();
  return buffer(document);
}

const within = (folder: string, files: Files): Files =>
  Object.fromEntries(Object.entries(files).map(([name, bytes]) => [folder + name, bytes]));

async function zip(path: string, content: Files): Promise<void> {
  const writer = await ZipWriter.create(path);
  for (const [name, bytes] of Object.entries(content)) await writer.add(name, [Buffer.from(bytes as string)], Date.parse(WHEN), false);
  await writer.finish();
  touch(path, WHEN);
}

async function tarball(path: string, content: Files): Promise<void> {
  const pack = tar.pack();
  for (const [name, bytes] of Object.entries(content)) pack.entry({ name, mtime: new Date(WHEN) }, Buffer.from(bytes as string));
  pack.finalize();
  writeFileSync(path, gzipSync(await buffer(pack)));
  touch(path, WHEN);
}
