import { copyFileSync, readFileSync, rmSync } from 'node:fs';
import { join, ZipWriter } from '@rootmap/engine';
import { UTM_24N } from './crs-texts.js';
import { drawMap } from './draw-maps.js';
import { seeded } from './random.js';
import { areas, lines, points, toDegrees, type Features } from './shapes.js';
import { put, putCsv, putGeoJson, putShapefile, touch } from './write-data.js';

const SEED = 20_240_615;
const ENDINGS = ['shp', 'shx', 'dbf', 'prj', 'cpg'];

/** A folder as jobs leave it behind: no plan, names of every sort, a copy, a download and what it was unpacked to. Its maps are sound. */
export async function makeGrownFolder(root: string): Promise<void> {
  const random = seeded(SEED);
  const data = join(root, 'Data');
  const shp = (name: string, f: Features, when: string): void => putShapefile(name, f, UTM_24N, when);
  shp(join(data, 'colonies-2024'), areas(random, 23, 260, 'colony_nm'), '2024-06-18T09:00:00Z');
  shp(join(data, '2019 nests'), points(random, 140, 'nest_no'), '2019-07-02T11:00:00Z');
  shp(join(data, 'côte sud'), lines(random, 4, 'coast_no'), '2024-06-18T09:20:00Z');
  shp(join(data, 'buffer 200m'), areas(random, 23, 460, 'colony_nm'), '2024-06-20T16:00:00Z');
  for (const ending of ENDINGS) {
    copyFileSync(join(data, `buffer 200m.${ending}`), join(data, `buffer 200m (copy).${ending}`));
    touch(join(data, `buffer 200m (copy).${ending}`), '2024-06-21T08:00:00Z');
  }
  shp(join(data, 'old zones'), areas(random, 5, 600, 'zone_name'), '2021-04-01T08:00:00Z');
  for (const ending of ['shp', 'prj']) rmSync(join(data, `old zones.${ending}`));
  putCsv(join(data, 'Nest counts (June).csv'), points(random, 60, 'nest_no'), '2024-06-19T12:00:00Z');
  await makeDownload(join(root, 'Downloads'), toDegrees(areas(random, 12, 700, 'islet_nm')));
  shp(join(root, 'Final', 'colony limits FINAL'), areas(random, 9, 900, 'limit_nm'), '2024-07-05T10:00:00Z');
  put(
    join(root, 'Notes', 'Field notes, June.txt'),
    'Second visit. Draw the 200 m zone anew from colonies-2024.shp; buffer 200m.shp has the old landing.\n',
    '2024-06-19T18:00:00Z',
  );
  put(join(root, 'Notes', 'count.py'), "read('../Data/colonies-2024.shp')\n", '2024-06-19T18:30:00Z');
  await drawMaps(root);
}

/** An archive, what it was unpacked to, and the record of where it came from. */
async function makeDownload(folder: string, islets: Features): Promise<void> {
  const when = '2024-05-30T07:00:00Z';
  const unpacked = join(folder, 'islets', 'islets.geojson');
  putGeoJson(unpacked, islets, when);
  const record = {
    name: 'islets',
    resources: [
      {
        name: 'islets',
        path: 'islets.geojson',
        sources: [{ title: 'Islets of the outer bay', path: 'https://data.harbour.example/islets.zip' }],
      },
    ],
  };
  put(join(folder, 'islets', 'datapackage.json'), `${JSON.stringify(record, null, 2)}\n`, when);
  const archive = join(folder, 'islets (1).zip');
  const zip = await ZipWriter.create(archive);
  await zip.add('islets/islets.geojson', [readFileSync(unpacked)], Date.parse(when), false);
  await zip.finish();
  touch(archive, when);
}

async function drawMaps(root: string): Promise<void> {
  const data = join(root, 'Data');
  await drawMap({
    file: join(root, 'Maps', 'Colony map v2.owc.json'),
    title: 'Tern colonies 2024',
    summary: 'Colonies, their 200 m zone and the landing places.',
    when: '2024-07-01T09:00:00Z',
    layers: [
      { title: 'Nests 2019', data: join(data, '2019 nests.shp') },
      { title: 'South coast', data: join(data, 'côte sud.shp') },
      { title: 'Colonies', data: join(data, 'colonies-2024.shp'), label: { field: 'colony_nm' } },
      { title: 'Zone of 200 m', data: join(data, 'buffer 200m.shp') },
      { title: 'Islets', data: join(root, 'Downloads', 'islets', 'islets.geojson') },
    ],
  });
  await drawMap({
    file: join(root, 'Maps', 'for the council!.owc.json'),
    title: 'Limits for the council',
    summary: 'What was handed in.',
    when: '2024-07-06T09:00:00Z',
    layers: [
      { title: 'Limits', data: join(root, 'Final', 'colony limits FINAL.shp') },
      { title: 'Colonies', data: join(data, 'colonies-2024.shp') },
    ],
  });
}
