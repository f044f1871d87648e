import { beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { useFolder } from '../test/use-example.js';

/*
 * The whole way of a project: made, mended, sent, and received where nothing of this machine is. What arrives is judged by
 * a plain walk: each address in each map is resolved as WHATWG URLs are, and opened by GDAL.
 */
const { at, rootmap } = useFolder();
let places: string;
const study = (...parts: string[]): string => at('demo/places/desk/gis/ellisande_seagrass', ...parts);
const here = (...args: string[]) => rootmap(...args, ...places.split(';').flatMap((p) => ['--place', p]));

beforeAll(() => {
  places = execFileSync(process.execPath, ['demo/dist/main.js', at('demo')], { encoding: 'utf8' }).trim();
  here('mend', study(), '--apply');
  const record = (title: string, publisher: string, licence: string, path: string) => ({
    name: title,
    path,
    title,
    sources: [{ title: publisher, path: `https://data.example/${path}` }],
    licenses: [{ name: licence }],
    'rootmap:attribution': `Contains ${title}, ${publisher}`,
  });
  writeFileSync(
    at('demo/places/share/base_library/datapackage.json'),
    JSON.stringify({ resources: [record('harbour-limits', 'Office of Harbours', 'CC-BY-4.0', 'harbour_limits.shp')] }),
  );
  writeFileSync(
    study('received/hydro_office/datapackage.json'),
    JSON.stringify({ resources: [record('buoys', 'Hydrographic Office', 'CC-BY-4.0', 'buoys.shp')] }),
  );
});

/** One layer draws on a service, which nobody asks on the way. */
const ALL_SOUND = { sound: 35, 'not-asked': 1 };
function statesOf(answer: { json(): { layers: readonly { state: string }[] } }): Record<string, number> {
  const counts: Record<string, number> = {};
  for (const { state } of answer.json().layers) counts[state] = (counts[state] ?? 0) + 1;
  return counts;
}

interface Walked {
  readonly layers: number;
  readonly broken: string[];
  readonly absolute: string[];
}

/** Every reference of every map below a folder, by a plain reading; `opened`: GDAL opens each, too. */
function walk(root: string, { opened = false } = {}): Walked {
  const maps = readdirSync(root, { recursive: true, encoding: 'utf8' }).filter((f) => f.endsWith('.owc.json'));
  let layers = 0;
  const broken: string[] = [];
  const absolute: string[] = [];
  for (const map of maps) {
    const { features } = JSON.parse(readFileSync(join(root, map), 'utf8'));
    for (const feature of features) {
      layers++;
      const href: string = feature.properties.offerings[0].contents?.[0]?.href ?? '';
      if (href === '') continue; // a service
      if (/^[a-z]+:/i.test(href)) absolute.push(href);
      const url = new URL(href, pathToFileURL(join(root, map)));
      const table = decodeURIComponent(url.hash.slice(1));
      url.hash = '';
      const file = fileURLToPath(url);
      const isThere = existsSync(file) && file.startsWith(root);
      if (!isThere || (opened && !opens(file, table))) broken.push(`${map}: ${href}`);
    }
  }
  return { layers, broken, absolute };
}

const opens = (file: string, table: string): boolean =>
  (/\.(tif|asc)$/.test(file) ? spawnSync('gdalinfo', [file]) : spawnSync('ogrinfo', ['-ro', '-so', file, ...(table ? [table] : [])]))
    .status === 0;

const sums = (root: string): Map<string, string> =>
  new Map(
    readdirSync(root, { recursive: true, encoding: 'utf8' })
      .filter((f) => statSync(join(root, f)).isFile())
      .map((f) => [
        f,
        createHash('sha256')
          .update(readFileSync(join(root, f)))
          .digest('hex'),
      ]),
  );

describe('the demo is sent and received where its share and stick are not', () => {
  test('in full: what stands outside comes along, arranged by a plan; every layer sound, attributions in the read-me', () => {
    const before = sums(at('demo/places'));
    const sent = here('pack', study(), '--along', '--arrange', 'delivery', '--out', at('full.zip'), '--json');
    expect(statesOf(sent)).toEqual(ALL_SOUND);
    expect(sent.status).toBe(0);
    expect(sent.json().leftOut).toEqual([]);
    expect(sent.json().brought).toHaveLength(17);
    expect(sums(at('demo/places'))).toEqual(before); // what stands here is untouched
    renameSync(at('demo'), at('away'));
    const received = rootmap('receive', at('full.zip'), '--into', at('elsewhere'), '--json');
    expect(statesOf(received)).toEqual(ALL_SOUND);
    expect(received.status).toBe(0);
    expect(walk(at('elsewhere'), { opened: true })).toEqual({ layers: 36, broken: [], absolute: [] });
    renameSync(at('away'), at('demo'));
    expect(readdirSync(at('elsewhere')).sort()).toEqual(['1_maps', '2_data', '3_report', '4_origins', 'ellisande_seagrass.rootmap.json']);
    const readMe = execFileSync('unzip', ['-p', at('full.zip'), '*/READ_ME.txt'], { encoding: 'utf8' });
    expect(readMe).toContain('Contains buoys, Hydrographic Office');
    expect(readMe).toContain('Contains harbour-limits, Office of Harbours');
    expect(readMe).toContain('Creative Commons Attribution 4.0');
    expect(readMe).toContain('Sea chart backdrop'); // not carried, and said
    const origins = JSON.parse(readFileSync(at('elsewhere/4_origins/base_library/datapackage.json'), 'utf8'));
    expect(origins.resources[1]).toMatchObject({
      path: 'harbour_limits.shp',
      'rootmap:broughtFrom': '//harbour/gis/base_library/harbour_limits.shp',
    });
  });

  test('light: only what maps use, without pictures from the air; what stays out is told with its reason', () => {
    const sent = here(
      'pack',
      study(),
      '--used',
      '--without',
      'aerial_*',
      '--without',
      'documents',
      '--out',
      at('light.zip'),
      '--json',
    ).json();
    expect(
      sent.layers.filter((l: { state: string }) => !['sound', 'not-asked'].includes(l.state)).map((l: { title: string }) => l.title),
    ).toEqual(['Dive points', 'Survey tracks', 'Wind stations', 'Harbour limits', 'Coastline']);
    const why = new Map(sent.leftOut.map((l: { path: string; why: string }) => [l.path, l.why]));
    expect(why.get('documents/method.md')).toBe('documents stay out');
    expect(why.get('derived/bottom_slope.asc')).toBe('no map uses it');
    expect(why.get(at('demo/places/share/base_library/coastline.gpkg'))).toBe('the data of "Coastline" is outside the root');
    const names = execFileSync('unzip', ['-Z1', at('light.zip')], { encoding: 'utf8' });
    expect(names).toContain('data/received/hydro_office/buoys.dbf');
    expect(names).not.toContain('bottom_slope');
  });

  test('one map, with what it uses from outside', () => {
    const sent = here('pack', study(), '--used', '--along', '--map', 'maps/regional_overview.owc.json', '--out', at('one.zip'), '--json');
    expect(sent.status).toBe(0);
    rootmap('receive', at('one.zip'), '--into', at('one'));
    expect(walk(at('one'))).toEqual({ layers: 7, broken: [], absolute: [] });
  });

  test('what can be fetched again stays out, with address, size and hash in the read-me', () => {
    const sent = here('pack', study(), '--leave-fetchable', '--out', at('fetch.zip'), '--json').json();
    expect(sent.leftOut).toContainEqual({
      path: 'received/hydro_office/buoys.shp',
      why: 'it can be fetched again from https://data.example/buoys.shp',
    });
    const hash = createHash('sha256')
      .update(readFileSync(study('received/hydro_office/buoys.shp')))
      .digest('hex');
    expect(execFileSync('unzip', ['-p', at('fetch.zip'), '*/READ_ME.txt'], { encoding: 'utf8' })).toContain(hash);
  });

  test('a copy to a place, without a zip: verified file by file, and read by sha256sum', () => {
    mkdirSync(at('usb'));
    const sent = here('pack', study(), '--along', '--to', at('usb'), '--json');
    expect(sent.json()).toMatchObject({ file: at('usb/ellisande_seagrass'), receipt: null });
    execFileSync('sha256sum', ['--strict', '--quiet', '-c', 'manifest-sha256.txt'], { cwd: at('usb/ellisande_seagrass') });
    expect(rootmap('verify', at('usb/ellisande_seagrass'), '--json').json()).toMatchObject({ valid: true, findings: [] });
    rootmap('receive', at('usb/ellisande_seagrass'), '--into', at('from_usb'));
    expect(walk(at('from_usb'))).toEqual({ layers: 36, broken: [], absolute: [] });
  });

  test('the same project gives the same bytes; its receipt has their hash', () => {
    for (const name of ['a', 'b']) here('pack', study(), '--along', '--out', at(`${name}.zip`));
    const bytes = readFileSync(at('a.zip'));
    expect(bytes.equals(readFileSync(at('b.zip')))).toBe(true);
    const receipt = JSON.parse(readFileSync(at('a.receipt.json'), 'utf8'));
    expect(receipt).toMatchObject({
      file: 'a.zip',
      sha256: createHash('sha256').update(bytes).digest('hex'),
      layersOnArrival: ALL_SOUND,
    });
  });

  test('a letter from another place goes along; files whose names say that they hold keys do not', () => {
    writeFileSync(at('demo/places/desk/letter to the council.txt'), 'Dear council\n');
    writeFileSync(study('server.pem'), 'x');
    const sent = here(
      'pack',
      study(),
      '--add',
      at('demo/places/desk/letter to the council.txt'),
      '--out',
      at('letter.zip'),
      '--json',
    ).json();
    expect(execFileSync('unzip', ['-Z1', at('letter.zip')], { encoding: 'utf8' })).toContain('data/added/letter to the council.txt');
    expect(sent.leftOut).toContainEqual({ path: 'server.pem', why: 'by its name it holds a key or a password' });
  });

  test('a plan that is none, and one that is a file', () => {
    expect(here('pack', study(), '--arrange', 'nonsense', '--out', at('x.zip')).err).toMatch(/No plan is called nonsense/);
    writeFileSync(
      at('own.plan.json'),
      JSON.stringify({
        format: 'rootmap-folder-plan/1',
        title: 'Own',
        folders: [
          { path: 'A_maps', role: 'maps' },
          { path: 'B_rest', role: 'results' },
        ],
      }),
    );
    here('pack', study(), '--along', '--arrange', at('own.plan.json'), '--out', at('own.zip'));
    rootmap('receive', at('own.zip'), '--into', at('own'));
    expect(readdirSync(at('own')).sort()).toEqual(['A_maps', 'B_rest', 'ellisande_seagrass.rootmap.json']);
    expect(walk(at('own'))).toEqual({ layers: 36, broken: [], absolute: [] });
  });
});

describe('looks', () => {
  test('one layer alone, with its look as a file beside its data, read by another reader of XML', () => {
    const map = study('maps/bed_survey.owc.json');
    const text = JSON.parse(readFileSync(map, 'utf8'));
    const [first] = text.features;
    const picture = '<OnlineResource xmlns:xlink="http://www.w3.org/1999/xlink" xlink:href="../documents/still.svg"/>';
    const look = `<StyledLayerDescriptor version="1.0.0"><NamedLayer>${picture}</NamedLayer></StyledLayerDescriptor>`;
    first.properties.offerings[0].styles = [{ name: 'look', content: { type: 'application/vnd.ogc.sld+xml', content: look } }];
    writeFileSync(map, JSON.stringify(text));
    writeFileSync(study('documents/still.svg'), '<svg xmlns="http://www.w3.org/2000/svg"/>');
    const sent = here('pack', study(), '--layer', `maps/bed_survey.owc.json#${first.id}`, '--out', at('layer.zip'), '--json');
    expect(sent.status).toBe(0);
    const names = execFileSync('unzip', ['-Z1', at('layer.zip')], { encoding: 'utf8' })
      .split('\n')
      .filter((n) => n.includes('/data/'));
    expect(names.map((n) => n.replace(/^.*\/data\//, '')).sort()).toEqual([
      'documents/still.svg',
      ...['cpg', 'dbf', 'prj', 'shp', 'shx', 'sld'].map((e) => `received/field_2025/drop_camera.${e}`),
    ]);
    const sld = execFileSync('unzip', ['-p', at('layer.zip'), '*/drop_camera.sld'], { encoding: 'utf8' });
    execFileSync('python3', ['-c', 'import sys, xml.dom.minidom as m; m.parseString(sys.stdin.buffer.read())'], { input: sld });
    expect(sld).toContain('xlink:href="../../documents/still.svg"');
  });
});

test('of a geodatabase only the tables in use: the others are told, and GDAL finds every record of those that go along', () => {
  const tables = (file: string): string[] => {
    const said = execFileSync('ogrinfo', ['-ro', '-so', '-al', file], { encoding: 'utf8' });
    return [...said.matchAll(/^Layer name: (.*)\n(?:.*\n)*?Feature Count: (\d+)/gm)].map(([, name, count]) => `${name} ${count}`).sort();
  };
  const sent = here('pack', study(), '--along', '--used-tables', '--out', at('tables.zip'), '--json').json();
  const out: string[] = sent.leftOut
    .filter((l: { why: string }) => l.why === 'no layer uses this table')
    .map((l: { path: string }) => l.path);
  expect(out.length).toBeGreaterThan(0);
  const received = rootmap('receive', at('tables.zip'), '--into', at('tables'), '--json');
  expect(received.status).toBe(0);
  const gone = out.filter((p) => p.startsWith(study('geodatabases/ellisande.gpkg#'))).map((p) => p.split('#')[1]);
  const before = tables(study('geodatabases/ellisande.gpkg'));
  expect(tables(at('tables/geodatabases/ellisande.gpkg'))).toEqual(before.filter((t) => !gone.some((g) => t.startsWith(`${g} `))));
  expect(walk(at('tables'))).toEqual({ layers: 36, broken: [], absolute: [] });
  here('pack', study(), '--along', '--used-tables', '--out', at('tables_again.zip'));
  expect(readFileSync(at('tables.zip')).equals(readFileSync(at('tables_again.zip')))).toBe(true);
});

test('a newer edition in the terminal: theirs are taken over, what was changed here stays', () => {
  here('pack', study(), '--out', at('first.zip'));
  rootmap('receive', at('first.zip'), '--into', at('colleague'));
  writeFileSync(at('colleague/documents/method.md'), 'theirs');
  rootmap('pack', at('colleague'), '--out', at('second.zip'));
  writeFileSync(study('received/read_me.txt'), 'ours');
  const taken = here('receive', at('second.zip'), '--over', study(), '--json').json();
  expect(taken).toMatchObject({ root: study(), files: 1, removed: [], findings: [] });
  expect([study('documents/method.md'), study('received/read_me.txt')].map((f) => readFileSync(f, 'utf8'))).toEqual(['theirs', 'ours']);
  expect(rootmap('receive', at('second.zip'), '--look').out).toMatch(/7 maps with 36 layers/);
});

test('tables and shapes from outside in one geodatabase: every layer sound, every record there for GDAL, the same bytes again', () => {
  const sent = here('pack', study(), '--into-geodatabase', '--out', at('gathered.zip'), '--json').json();
  expect(sent.brought.map((b: { to: string }) => b.to).sort()).toEqual(
    ['dive_points', 'harbour_limits', 'land', 'survey_tracks', 'wind_stations'].map((t) => `along/gathered.gpkg#${t}`),
  );
  const received = rootmap('receive', at('gathered.zip'), '--into', at('gathered'), '--json');
  expect(statesOf(received)).toEqual(ALL_SOUND);
  expect(walk(at('gathered'))).toEqual({ layers: 36, broken: [], absolute: [] });
  const counts = (file: string, table: string): string =>
    /Feature Count: (\d+)/.exec(execFileSync('ogrinfo', ['-ro', '-so', file, table], { encoding: 'utf8' }))![1]!;
  for (const [source, table, made] of [
    ['stick/june_dives/dive_points.geojson', 'dive_points', 'dive_points'],
    ['stick/june_dives/survey_tracks.shp', 'survey_tracks', 'survey_tracks'],
    ['share/base_library/coastline.gpkg', 'land', 'land'],
  ] as const)
    expect(counts(at('gathered/along/gathered.gpkg'), made)).toBe(counts(at('demo/places', source), table));
  expect(rootmap('geodatabase', 'check', at('gathered/along/gathered.gpkg'), '--json').json()).toMatchObject({ valid: true });
  expect(execFileSync('unzip', ['-p', at('gathered.zip'), '*/READ_ME.txt'], { encoding: 'utf8' })).toContain(
    'Came along from E:/june_dives/survey_tracks.shp',
  );
  here('pack', study(), '--into-geodatabase', '--out', at('gathered_again.zip'));
  expect(readFileSync(at('gathered.zip')).equals(readFileSync(at('gathered_again.zip')))).toBe(true);
});
