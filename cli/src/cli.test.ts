import { describe, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { useExample } from '../test/use-example.js';

const { at, rootmap } = useExample();

describe('reading', () => {
  test('datasets: the shape of the answer', () => {
    const { status, json } = rootmap('datasets', at('p'), '--json');
    const d = json();
    expect(status).toBe(0);
    expect(Object.keys(d)).toEqual(expect.arrayContaining(['root', 'projectFile', 'datasets', 'leftBehind', 'totals']));
    expect(d).toMatchObject({ root: at('p'), projectFile: at('p/check.rootmap.json'), totals: { files: 40, datasets: 8 }, leftBehind: [] });
    expect(d.datasets[0]).toMatchObject({
      id: 'originals/field/2025/light_007.shp',
      path: at('p/originals/field/2025/light_007.shp'),
      format: 'shapefile',
      kind: 'vector',
      geometryType: 'Polygon',
      featureCount: 57,
      crs: { code: 'EPSG:4326' },
      state: 'ok',
    });
    expect(d.datasets[0].files).toHaveLength(5);
    expect(d.datasets.map((x: { id: string }) => x.id)).toEqual([...d.datasets.map((x: { id: string }) => x.id)].sort());
  });
  test('1,500 folders in one another: what no path reaches is told, the rest is read', () => {
    const make = `for (let i = 1; i <= 1500; i++) { fs.mkdirSync('level' + i); process.chdir('level' + i); } fs.writeFileSync('deepest.csv', 'x');`;
    expect(spawnSync(process.execPath, ['-e', make], { cwd: at('p') }).status).toBe(0);
    const { status, out, json } = rootmap('datasets', at('p'), '--json');
    expect(status).toBe(1);
    expect(out).not.toContain('deepest.csv');
    expect(json().totals.datasets).toBe(8);
    expect(json().skipped).toHaveLength(1);
    expect(rootmap('datasets', at('p')).out).toMatch(/^not looked at: level1\/level2\/.* … .*\/level\d+$/m);
    expect(rootmap('layers', at('p')).status).toBe(0);
    spawnSync('rm', ['-rf', at('p/level1')]);
  });
  test('layers: states add up, status 1 when one is not sound; nothing is written', () => {
    rmSync(at('p/results/groyne_004.shp'));
    const before = readdirSync(at('p'), { recursive: true }).map(String).sort();
    const { status, json } = rootmap('layers', at('p'), '--json');
    expect(status).toBe(1);
    expect(json().totals).toEqual({ sound: 7, 'not-asked': 0, different: 0, incomplete: 0, adrift: 2, absent: 0, unreadable: 0 });
    expect(json().layers.find((l: { title: string }) => l.title === 'groyne_004')).toMatchObject({
      state: 'adrift',
      reason: 'no-file',
      stored: 'relative',
      reach: 'inside',
      resolved: at('p/results/groyne_004.shp'),
    });
    expect(readdirSync(at('p'), { recursive: true }).map(String).sort()).toEqual(before);
    expect(existsSync(at('data'))).toBe(false);
  });
  test('rows marked deleted: the count is that of the header, as ogrinfo 3.6.2 gives it too; the full reading tells of them', () => {
    const dbf = at('p/results/groyne_004.dbf');
    const bytes = readFileSync(dbf);
    bytes[bytes.readUInt16LE(8)] = 0x2a;
    writeFileSync(dbf, bytes);
    const of = (...flags: string[]) => rootmap('datasets', at('p/results'), '--json', ...flags).json().datasets[0];
    expect(of()).toMatchObject({ featureCount: 16, findings: [] });
    expect(of('--full').findings).toMatchObject([{ code: 'deleted-rows', message: expect.stringContaining('1 of the 16 records') }]);
    expect(of('--full').fingerprint).toMatchObject({ count: 16, vertices: 48, hash: expect.stringMatching(/^sha256:[0-9a-f]{64}$/) });
  });
  test('a lone map has no root, its data is outside', () => {
    mkdirSync(at('lone'));
    cpSync(at('p/maps/map_00.owc.json'), at('lone/m.owc.json'));
    const { json } = rootmap('layers', at('lone/m.owc.json'), '--json');
    expect(json()).toMatchObject({ root: null, projectFile: null });
    expect(json().layers[0]).toMatchObject({ reach: 'outside', state: 'adrift' });
  });
  test('places resolve the drives of other machines', () => {
    const map = at('p/maps/map_00.owc.json');
    writeFileSync(map, readFileSync(map, 'utf8').replace('../originals/survey_office/', 'file:///D:/originals/survey_office/'));
    expect(rootmap('layers', map, '--json').json().layers[0]).toMatchObject({
      state: 'adrift',
      reason: 'no-place',
      resolved: 'file:///D:/originals/survey_office/kelp_000.shp',
    });
    expect(rootmap('layers', map, '--place', `desk=${at('p')},D:`, '--json').json().layers[0]).toMatchObject({
      state: 'sound',
      stored: 'absolute',
      resolved: at('p/originals/survey_office/kelp_000.shp'),
    });
  });
});

describe('the whole line, on open data', () => {
  test('remember, move, mend, pack, verify, receive', () => {
    expect(rootmap('remember', at('p'), '--json')).toMatchObject({ status: 0 });
    renameSync(at('p/originals'), at('p/received'));
    expect(rootmap('layers', at('p')).status).toBe(1);
    const plan = rootmap('mend', at('p'), '--json');
    expect(plan.status).toBe(1);
    expect(plan.json()).toMatchObject({ applied: 0, shifts: [{ from: at('p/originals'), to: at('p/received') }] });
    expect(plan.json().layers[0]).toMatchObject({ verdict: 'certain', before: { state: 'adrift' }, after: { state: 'sound' } });
    const done = rootmap('mend', at('p'), '--apply', '--json');
    expect(done).toMatchObject({ status: 0 });
    expect(done.json().applied).toBe(4);
    expect(rootmap('layers', at('p')).status).toBe(0);
    const packed = rootmap('pack', at('p'), '--out', at('out.zip'), '--json');
    expect(packed.status).toBe(0);
    expect(packed.json()).toMatchObject({ file: at('out.zip'), payload: { files: 44 }, brought: [], leftOut: [] });
    expect(rootmap('verify', at('out.zip'), '--json').json()).toMatchObject({ valid: true, files: 44, findings: [] });
    const received = rootmap('receive', at('out.zip'), '--into', at('r'), '--json');
    expect(received.status).toBe(0);
    expect(received.json().layers.every((l: { state: string }) => l.state === 'sound')).toBe(true);
    expect(rootmap('pack', at('p'), '--out', at('out.zip')).status).toBe(2);
  });
  test('paths there and back', () => {
    const map = readFileSync(at('p/maps/map_00.owc.json'), 'utf8');
    expect(rootmap('paths', at('p'), '--store', 'absolute', '--json').json()).toMatchObject({ applied: 0 });
    expect(readFileSync(at('p/maps/map_00.owc.json'), 'utf8')).toBe(map);
    expect(rootmap('paths', at('p'), '--store', 'absolute', '--apply', '--json').json().changes).toHaveLength(9);
    expect(readFileSync(at('p/maps/map_00.owc.json'), 'utf8')).toContain('file:///');
    rootmap('paths', at('p'), '--store', 'relative', '--apply');
    expect(readFileSync(at('p/maps/map_00.owc.json'), 'utf8')).toBe(map);
  });
});

describe('projects, moves and names', () => {
  test('new: the folders of a plan and a project file, nothing else; a second time is refused', () => {
    const made = rootmap(
      'new',
      at('jobs/tern_colonies'),
      '--title',
      'Tern colonies',
      '--plan',
      'numbered',
      '--crs',
      'EPSG:32624',
      '--geodatabase',
      '--json',
    );
    expect(made.status).toBe(0);
    const { created, projectFile } = made.json();
    expect(projectFile).toBe(at('jobs/tern_colonies/tern_colonies.rootmap.json'));
    expect(created).toContain(at('jobs/tern_colonies/02_received'));
    expect(created.every((p: string) => existsSync(p))).toBe(true);
    expect(JSON.parse(readFileSync(projectFile, 'utf8'))).toMatchObject({
      title: 'Tern colonies',
      crs: 'EPSG:32624',
      workingGeodatabase: '04_geodatabases/tern_colonies.gpkg',
      folders: { '02_received': 'originals' },
    });
    expect(rootmap('new', at('jobs/tern_colonies'), '--title', 'x')).toMatchObject({
      status: 2,
      err: expect.stringContaining('is a project already'),
    });
    expect(rootmap('layers', at('jobs/tern_colonies'))).toMatchObject({ status: 0 });
  });
  test('move: shown without --apply; with it, files and references follow, and every layer is sound', () => {
    const before = readdirSync(at('p'), { recursive: true }).map(String).sort();
    const shown = rootmap('move', at('p'), '--from', at('p/working'), '--to', at('p/results'), '--json');
    expect(shown.status).toBe(0);
    expect(shown.json().references.length).toBeGreaterThan(0);
    expect(readdirSync(at('p'), { recursive: true }).map(String).sort()).toEqual(before);
    const done = rootmap('move', at('p'), '--from', at('p/working'), '--to', at('p/results'), '--apply', '--json');
    expect(done.json()).toMatchObject({ applied: true, files: shown.json().files, references: shown.json().references });
    expect(existsSync(at('p/results/working'))).toBe(true);
    expect(rootmap('layers', at('p')).status).toBe(0);
  });
  test('move: what a script mentions is told, and not rewritten', () => {
    writeFileSync(at('p/plot.py'), 'open("results/groyne_004.shp")');
    const { json } = rootmap('move', at('p'), '--from', at('p/results/groyne_004.dbf'), '--to', at('p/results/groynes.dbf'), '--json');
    expect(json().mentioned).toEqual([at('p/plot.py')]);
    expect(json().files.map((f: { to: string }) => f.to)).toContain(at('p/results/groynes.shp'));
  });
  test('names: findings with proposals; --apply renames, references follow, a second look finds nothing', () => {
    renameSync(at('p/working'), at('p/working 2025'));
    rootmap('mend', at('p'), '--apply', '--least', 'likely');
    const shown = rootmap('names', at('p'), '--json');
    expect(shown.status).toBe(1);
    expect(shown.json()).toMatchObject({ applied: false });
    expect(shown.json().findings).toContainEqual(
      expect.objectContaining({ path: 'working 2025', rule: 'space', proposed: 'working_2025' }),
    );
    expect(rootmap('names', at('p'), '--apply', '--json').json().applied).toBe(true);
    expect(rootmap('names', at('p'))).toMatchObject({ status: 0 });
    expect(rootmap('layers', at('p')).status).toBe(0);
    expect(rootmap('names', at('p'), '--rule', 'plain', '--json').json().findings.length).toBeGreaterThan(0);
  });
  test('names: what a script mentions is left until --mentioned', () => {
    renameSync(at('p/results/groyne_004.shp'), at('p/results/groyne 004.shp'));
    for (const e of ['shx', 'dbf', 'prj', 'cpg'])
      if (existsSync(at(`p/results/groyne_004.${e}`))) renameSync(at(`p/results/groyne_004.${e}`), at(`p/results/groyne 004.${e}`));
    writeFileSync(at('p/plot.py'), 'open("results/groyne 004.shp")');
    const left = rootmap('names', at('p'), '--apply', '--json');
    expect(left.status).toBe(1);
    expect(left.json().mentioned).toEqual([{ path: 'results/groyne 004.shp', files: [at('p/plot.py')] }]);
    expect(existsSync(at('p/results/groyne 004.shp'))).toBe(true);
    expect(rootmap('names', at('p'), '--apply', '--mentioned').status).toBe(0);
    expect(existsSync(at('p/results/groyne_004.shp'))).toBe(true);
  });
});

test('mend --companions: a lost index is made anew, a lost table brought back, and nothing without being told to', () => {
  const index = readFileSync(at('p/results/groyne_004.shx'));
  rmSync(at('p/results/groyne_004.shx'));
  mkdirSync(at('p/mail'));
  renameSync(at('p/working/fairway_006.dbf'), at('p/mail/fairway_006.dbf'));
  const shown = rootmap('mend', at('p'), '--json').json();
  const of = (title: string) => shown.layers.find((l: { title: string }) => l.title === title);
  expect(of('groyne_004').trouble.code).toBe('companion-lost');
  expect(of('fairway_006').tables).toMatchObject([{ path: at('p/mail/fairway_006.dbf') }]);
  rootmap('mend', at('p'), '--apply');
  expect(existsSync(at('p/results/groyne_004.shx'))).toBe(false);
  const done = rootmap('mend', at('p'), '--companions', '--apply', '--json');
  expect(done).toMatchObject({ status: 0 });
  expect(done.json().companions).toBe(2);
  expect(readFileSync(at('p/results/groyne_004.shx'))).toEqual(index);
  expect(rootmap('layers', at('p')).status).toBe(0);
});

describe('mend --replace: other data on purpose', () => {
  const layers = (): any[] => rootmap('layers', at('p'), '--json').json().layers;
  test('shown, then written for every layer that draws the same; its fields by name', () => {
    const [first] = layers();
    const target = layers().find((l) => l.resolved !== first.resolved && l.resolved.endsWith('.shp'));
    const before = readFileSync(first.map, 'utf8');
    const args = ['mend', first.map, '--replace', `${first.layer}=${target.resolved}`, '--json'];
    const shown = rootmap(...args);
    expect(shown).toMatchObject({ status: 0 });
    expect(shown.json()).toMatchObject({ applied: 0, replaced: [{ map: first.map, layer: first.layer, before: first.href }] });
    expect(readFileSync(first.map, 'utf8')).toBe(before);
    const done = rootmap(...args, '--apply').json();
    expect(done.applied).toBe(done.replaced.length);
    expect(layers().find((l) => l.map === first.map && l.layer === first.layer)).toMatchObject({
      state: 'sound',
      resolved: target.resolved,
    });
  });
  test.each([
    [['--replace', 'nobody=x.shp'], /nobody/],
    [['--replace', 'nobody'], /LAYER=DATASET/],
  ])('%j is refused in one line', (flags, told) => {
    const { status, err } = rootmap('mend', at('p'), ...flags);
    expect(status).toBe(2);
    expect(err).toMatch(told);
    expect(err.trim().split('\n')).toHaveLength(1);
  });
});

describe('wrong use and bad input: status 2, one line that says how to mend it', () => {
  test.each([
    [['nothing'], /no command "nothing"/],
    [['layers'], /Usage/],
    [['layers', 'P', '--nonsense'], /Usage/],
    [['layers', 'P/none'], /nothing at/],
    [['layers', 'P/results/groyne_004.shp'], /neither a folder nor a map/],
    [['paths', 'P', '--store', 'sideways'], /--store relative/],
    [['layers', 'P', '--place', 'x'], /NAME=FOLDER/],
    [['receive', 'P/none.zip', '--into', 'P/new'], /nothing at/],
    [['receive', 'P/check.rootmap.json', '--into', 'P/maps'], /there already/],
    [['verify', 'P/check.rootmap.json'], /bundle/],
    [['new', 'P/new'], /--title/],
    [['new', 'P/new', '--title', 'x', '--plan', 'none'], /There is no plan "none"/],
    [['new', 'P/new', '--title', 'x', '--crs', 'utm'], /EPSG:n/],
    [['move', 'P', '--from', 'P/working'], /--to PATH/],
    [['move', 'P', '--from', 'P/none', '--to', 'P/x', '--apply'], /nothing at/],
    [['move', 'P', '--from', 'P/working', '--to', 'P/working/deeper', '--apply'], /into itself/],
    [['move', 'P', '--from', 'P/check.rootmap.json', '--to', 'P/maps', '--apply'], /Move the whole folder/],
    [['names', 'P', '--rule', 'nice'], /no rule set/],
  ])('%j', (args, message) => {
    const r = rootmap(...args.map((a) => a.replace(/^P/, at('p'))));
    expect(r.status).toBe(2);
    expect(r.out).toBe('');
    expect(r.err.trim().split('\n')).toHaveLength(1);
    expect(r.err).toMatch(message);
  });
  test('two project files in one folder', () => {
    writeFileSync(at('p/other.rootmap.json'), '{}');
    expect(rootmap('layers', at('p/maps'))).toMatchObject({ status: 2, err: expect.stringContaining('more than one project file') });
  });
  test('a damaged map, named alone: line and column; in a folder the others go on', () => {
    writeFileSync(at('p/maps/map_00.owc.json'), '{\n  "type": nope\n}');
    expect(rootmap('layers', at('p/maps/map_00.owc.json'))).toMatchObject({ status: 2, err: expect.stringContaining('line 2, column 11') });
    const all = rootmap('layers', at('p'), '--json');
    expect(all.status).toBe(1);
    expect(all.json().layers).toHaveLength(7);
    expect(all.json().damaged).toHaveLength(1);
  });
  test('help lists the commands that are there', () => {
    const { status, out } = rootmap('help');
    expect(status).toBe(0);
    for (const c of ['datasets', 'layers', 'remember', 'paths', 'mend', 'pack', 'verify', 'receive', 'new', 'move', 'names', 'rehearse'])
      expect(out).toContain(`rootmap ${c}`);
  });
});

describe('rehearse', () => {
  test('nothing is lost where all is relative; absolute paths are lost elsewhere, with the fix; nothing is written', () => {
    const safe = rootmap('rehearse', at('p'), '--to', 'E:\\work\\check', '--copy', '--elsewhere', '--json');
    expect([safe.status, safe.json().broken]).toEqual([0, 0]);
    rootmap('paths', at('p'), '--store', 'absolute', '--apply');
    const before = readdirSync(at('p'), { recursive: true }).map(String).sort();
    const lost = rootmap('rehearse', at('p'), '--to', 'E:\\work\\check', '--copy', '--elsewhere', '--json');
    expect([lost.status, lost.json().broken]).toEqual([1, 9]);
    expect(lost.json().layers[0]).toMatchObject({ before: { state: 'sound' }, after: { state: 'adrift' }, fix: 'relative' });
    expect(readdirSync(at('p'), { recursive: true }).map(String).sort()).toEqual(before);
    mkdirSync(at('other'));
    const said = rootmap('rehearse', at('p'), '--to', at('other'), '--json').json();
    renameSync(at('p'), at('other/p')); // and now it is really done
    const found = rootmap('layers', at('other/p'), '--json').json();
    expect(said.layers.map((l: any) => l.after.state).sort()).toEqual(found.layers.map((l: any) => l.state).sort());
  });
  test('what is no order is said', () => {
    expect(rootmap('rehearse', at('p'), '--drive', 'nonsense')).toMatchObject({ status: 2, err: expect.stringContaining('PLACE=D:') });
  });
});

describe('geodatabase', () => {
  test('created, filled, listed and checked; what is refused is told', () => {
    const file = at('p/geodatabases/one.gpkg');
    mkdirSync(at('p/geodatabases'));
    expect(rootmap('geodatabase', 'create', file, '--crs', 'EPSG:32624').status).toBe(0);
    expect(rootmap('geodatabase', 'create', file)).toMatchObject({ status: 2, err: expect.stringContaining('already') });
    const source = at('p/originals/field/2025/light_007.shp');
    const first = rootmap('geodatabase', 'import', file, source, '--to-crs', 'EPSG:32624', '--json');
    expect(first.status).toBe(0);
    expect(first.json()).toMatchObject({
      root: at('p'),
      file,
      imported: [{ source, table: 'light_007', read: 57, written: 57, skipped: [], equal: true }],
      tables: [{ name: 'light_007', kind: 'vector', featureCount: 57, crs: 'EPSG:32624' }],
    });
    const again = rootmap('geodatabase', 'import', file, source, '--name', 'light_007', '--json');
    expect([again.status, again.json().refused]).toEqual([1, [{ source, why: 'a table of that name is there already' }]]);
    expect(rootmap('geodatabase', 'list', file, '--json').json().tables).toHaveLength(1);
    expect(rootmap('geodatabase', 'check', file, '--json').json()).toMatchObject({ valid: true, findings: [] });
    writeFileSync(at('p/bad.gpkg'), 'no database');
    expect(rootmap('geodatabase', 'check', at('p/bad.gpkg'), '--json')).toMatchObject({ status: 1 });
    for (const args of [
      ['frob', file],
      ['import', file],
      ['import', file, at('gone.shp')],
      ['list', at('gone.gpkg')],
    ])
      expect([args[0], rootmap('geodatabase', ...args).status]).toEqual([args[0], 2]);
    expect(readdirSync(at('p/geodatabases'))).toEqual(['one.gpkg']);
  });
});
