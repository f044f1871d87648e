import { execFileSync } from 'node:child_process';
import {
  chmodSync,
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  statSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { DataSource } from 'typeorm';
import { DEFAULT_NAMING, EMPTY_ORIGIN, writeProjectFile } from '@rootmap/core';
import { dirname, join, toAddress } from '../disk/native-path.js';
import { ChangeDisk } from '../changes/disk.js';
import { recoverChanges } from '../changes/recover.js';
import { runChange, StopHere } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { Origins, planOrigins } from '../folders/origins.js';
import { adviseLink } from '../links/advise-link.js';
import { linkTo } from '../links/link-to.js';
import { findScope, rooted } from '../project/scope.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { writeZip } from '../../test/small-zip.js';
import { TestFolder } from '../../test/test-project.js';
import { OpenFiles } from '../disk/file-source.js';
import { surveyFolder } from '../survey/list-datasets.js';
import { findCompanions } from './find-companions.js';
import { lookInside } from './look-inside.js';
import { planIntake, type IntakeOrder } from './plan-intake.js';
import { openSource, unpackInto } from './unpack.js';

let t: TestFolder;
let store: DataSource;
beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
  mkdirSync(t.at('p/received'), { recursive: true });
  const file = { id: 'one', name: 'p', title: 'P', created: '2026-01-01T00:00:00Z', crs: null, folders: { received: 'originals' } };
  writeFileSync(t.at('p/p.rootmap.json'), writeProjectFile(file));
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});
const scope = () => rooted(findScope(t.at('p'), { places: t.places, root: t.at('p') }));
const journal = () => new SqlJournal(store);
const part = (ending: string): Buffer => readFileSync(`testdata/open/shape-types/point.${ending}`);
const shapefile = (name: string): Record<string, Buffer> => Object.fromEntries(['shp', 'shx', 'dbf'].map((e) => [`${name}.${e}`, part(e)]));
const below = (folder: string): string[] =>
  readdirSync(t.at(folder), { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile() && !e.parentPath.includes('.rootmap'))
    .map((e) => join(e.parentPath, e.name).slice(t.at(folder).length + 1))
    .sort();

const sha256sum = (path: string): string => execFileSync('sha256sum', [path], { encoding: 'utf8' }).slice(0, 64);

async function bringIn(archive: string, to: string, over: Partial<IntakeOrder> = {}, disk?: ChangeDisk) {
  const source = await openSource(t.at(archive), statSync(t.at(archive)).isDirectory());
  try {
    const order: IntakeOrder = {
      source: t.at(archive),
      name: archive,
      entries: source.entries,
      wanted: null,
      target: t.at(to),
      naming: DEFAULT_NAMING,
      origin: { ...EMPTY_ORIGIN, publisher: 'Harbour Office', licence: 'CC0-1.0' },
      told: {},
      removeArchive: false,
      ...over,
    };
    const plan = planIntake(order, scope(), [t.at('p')], 'test');
    const stageAll = unpackInto(plan, source, () => undefined, new AbortController().signal);
    return await runChange(plan.change, { journal: journal(), program: 'test', stageAll, ...(disk ? { disk } : {}) });
  } finally {
    source.close();
  }
}

describe('looking inside', () => {
  test('groups, what is missing, refused entries; nothing is written beside the archive', async () => {
    writeFileSync(
      t.at('in.zip'),
      writeZip({ ...shapefile('top/my buoys'), 'top/lone.shp': part('shp'), 'top/left.shx': part('shx'), '../x': 'x', '__MACOSX/y': 'y' }),
    );
    const before = readdirSync(t.path);
    const seen = await lookInside(t.at('in.zip'));
    expect(seen).toMatchObject({ wrapper: 'top/', litter: 1, problem: null, files: 5 });
    expect(seen.refused.map((r) => r.path)).toEqual(['../x']);
    expect(seen.groups.map((g) => [g.path, g.kind])).toEqual([
      ['top/lone.shp', 'vector'],
      ['top/my buoys.shp', 'vector'],
      ['top/left.shx', 'left-behind'],
    ]);
    expect(seen.groups[1]).toMatchObject({ geometry: 'Point', isDescribed: true });
    expect(seen.groups[0]!.findings.map((f) => f.message).join()).toMatch(/\.dbf/);
    expect(readdirSync(t.path)).toEqual(before);
  });
  test('one damaged entry is told alone; an archive that cannot be read is one sentence', async () => {
    const bytes = writeZip({ 'good.csv': 'x,y\n1,2\n', 'bad.csv': 'x,y\n3,4\n' });
    const central = bytes.lastIndexOf(Buffer.from('PK\x01\x02', 'latin1'));
    bytes.writeUInt32LE(1, central + 16);
    writeFileSync(t.at('half.zip'), bytes);
    const seen = await lookInside(t.at('half.zip'));
    expect(seen.groups.map((g) => g.path)).toEqual(['good.csv']);
    expect(seen.refused).toEqual([{ path: 'bad.csv', why: expect.stringMatching(/checksum/) }]);
    writeFileSync(t.at('no.zip'), 'no zip');
    expect((await lookInside(t.at('no.zip'))).problem).toMatch(/^no\.zip cannot be unpacked: .*\. Fetch it again/);
  });
  test('a licence that the notes name is proposed', async () => {
    writeFileSync(t.at('in.zip'), writeZip({ 'a.csv': 'a\n', 'readme.txt': 'Published under CC BY 4.0.' }));
    expect((await lookInside(t.at('in.zip'))).proposed.licence).toBe('CC-BY-4.0');
  });
});

describe('bringing in', () => {
  test('into a new folder: safe names, read-only among originals, an origin record beside; one undo', async () => {
    writeFileSync(t.at('in.zip'), writeZip({ ...shapefile('top/my buoys'), 'top/readme.txt': 'x' }));
    const before = below('p');
    const done = await bringIn('in.zip', 'p/received/harbour_office/buoys');
    expect(below('p/received/harbour_office/buoys')).toEqual([
      'datapackage.json',
      'my_buoys.dbf',
      'my_buoys.shp',
      'my_buoys.shx',
      'readme.txt',
    ]);
    expect(readFileSync(t.at('p/received/harbour_office/buoys/my_buoys.dbf'))).toEqual(part('dbf'));
    expect(statSync(t.at('p/received/harbour_office/buoys/my_buoys.shp')).mode & 0o222).toBe(0);
    expect(JSON.parse(readFileSync(t.at('p/received/harbour_office/buoys/datapackage.json'), 'utf8'))).toMatchObject({
      resources: [
        {
          path: 'my_buoys.shp',
          'rootmap:files': ['shp', 'dbf', 'shx'].map((e) => ({
            path: `my_buoys.${e}`,
            hash: `sha256:${sha256sum(`testdata/open/shape-types/point.${e}`)}`,
          })),
          licenses: [{ name: 'CC0-1.0' }],
        },
      ],
    });
    await undoChange(done.id, 'test', { journal: journal(), program: 'test' });
    expect(below('p')).toEqual(before);
  });
  test('into a folder with data: nothing is written over, its record is added to', async () => {
    mkdirSync(t.at('p/shared'));
    writeFileSync(t.at('p/shared/readme.txt'), 'old notes');
    writeFileSync(t.at('p/shared/datapackage.json'), JSON.stringify({ name: 'kept', resources: [{ path: 'old.csv' }] }));
    writeFileSync(t.at('in.zip'), writeZip({ ...shapefile('buoys'), 'README.txt': 'new notes' }));
    const done = await bringIn('in.zip', 'p/shared');
    expect(readFileSync(t.at('p/shared/readme.txt'), 'utf8')).toBe('old notes');
    expect(readFileSync(t.at('p/shared/README_in.txt'), 'utf8')).toBe('new notes');
    const record = JSON.parse(readFileSync(t.at('p/shared/datapackage.json'), 'utf8')) as { name: string; resources: { path: string }[] };
    expect([record.name, record.resources.map((r) => r.path)]).toEqual(['kept', ['old.csv', 'buoys.shp']]);
    await undoChange(done.id, 'test', { journal: journal(), program: 'test' });
    expect(below('p/shared')).toEqual(['datapackage.json', 'readme.txt']);
    expect(JSON.parse(readFileSync(t.at('p/shared/datapackage.json'), 'utf8'))).toEqual({ name: 'kept', resources: [{ path: 'old.csv' }] });
  });
  test('only what is wanted; the archive goes to the trash when asked', async () => {
    writeFileSync(t.at('p/in.zip'), writeZip({ ...shapefile('a'), ...shapefile('b'), 'notes.txt': 'n' }));
    await bringIn('p/in.zip', 'p/received/x', { wanted: ['b.shp'], removeArchive: true });
    expect(below('p/received/x')).toEqual(['b.dbf', 'b.shp', 'b.shx', 'datapackage.json']);
    expect(existsSync(t.at('p/in.zip'))).toBe(false);
  });
  test('a checksum that is wrong: a sentence, and nothing of it stays', async () => {
    const bytes = writeZip({ ...shapefile('a') });
    bytes.writeUInt32LE(1, bytes.lastIndexOf(Buffer.from('PK\x01\x02', 'latin1')) + 16);
    writeFileSync(t.at('in.zip'), bytes);
    const before = readdirSync(t.at('p'), { recursive: true }).sort();
    await expect(bringIn('in.zip', 'p/received/x')).rejects.toThrow(/checksum/);
    expect(readdirSync(t.at('p'), { recursive: true }).sort()).toEqual(before);
  });
  test('stopped before every step: start-up leaves all of it or nothing', async () => {
    writeFileSync(t.at('in.zip'), writeZip({ ...shapefile('a'), 'n.txt': 'n' }));
    const before = below('p');
    let steps = 0;
    const done = await bringIn('in.zip', 'p/received/x', {}, new ChangeDisk(() => void steps++));
    const after = below('p');
    await undoChange(done.id, 'test', { journal: journal(), program: 'test' });
    const gone = { pid: 2 ** 22 + 1, startTime: '0', bootId: 'another', program: 'gone' };
    for (let stop = 0; stop < steps; stop++) {
      const disk = new ChangeDisk((n) => {
        if (n === stop) throw new StopHere();
      });
      await expect(bringIn('in.zip', 'p/received/x', {}, disk)).rejects.toBeInstanceOf(StopHere);
      await store.query('UPDATE "change" SET owner = ? WHERE state IN (?, ?)', [JSON.stringify(gone), 'preparing', 'applying']);
      const [recovered] = await recoverChanges(journal());
      const isThere = recovered!.outcome === 'finished';
      expect([stop, below('p')]).toEqual([stop, isThere ? after : before]);
      if (isThere) await undoChange(recovered!.change.id, 'test', { journal: journal(), program: 'test' });
    }
    expect(steps).toBeGreaterThan(2);
  });
});

describe('origins', () => {
  const keeper = { root: '', links: [], readOnly: [] };
  test('of data in a linked folder that may not be written to, the project keeps them', () => {
    t.shapefile('point', 'library/base/a');
    const to = { root: t.at('p'), links: [{ name: 'base', folder: t.at('library/base') }], readOnly: [t.at('library')] };
    const path = t.at('library/base/a.shp');
    const { writes } = planOrigins([{ path, table: null }], { ...EMPTY_ORIGIN, publisher: 'P' }, to);
    expect(writes.map((w) => w.path)).toEqual([t.at('p/datapackage.json')]);
    writeFileSync(writes[0]!.path, writes[0]!.after);
    expect(new Origins(to).of(path)).toMatchObject({ publisher: 'P' });
    const again = planOrigins([{ path, table: null }], { ...EMPTY_ORIGIN, publisher: 'Q' }, to).writes[0]!;
    expect((JSON.parse(Buffer.from(again.after).toString()) as Record<string, unknown>)['rootmap:linked']).toHaveLength(1);
    expect(new Origins().of(path)).toBeNull();
  });
  test('are written into the record beside the data, and what it had stays', () => {
    t.shapefile('point', 'p/received/a');
    writeFileSync(t.at('p/received/datapackage.json'), JSON.stringify({ title: 'T', resources: [{ path: 'a.shp', 'other:x': 1 }] }));
    const { writes, damaged } = planOrigins([{ path: t.at('p/received/a.shp'), table: null }], { ...EMPTY_ORIGIN, publisher: 'P' }, keeper);
    expect(damaged).toEqual([]);
    expect(JSON.parse(Buffer.from(writes[0]!.after).toString())).toMatchObject({
      title: 'T',
      resources: [{ 'other:x': 1, sources: [{ title: 'P' }] }],
    });
  });
  test('a damaged record is told and never written over', () => {
    writeFileSync(t.at('p/received/datapackage.json'), '{ damaged');
    expect(planOrigins([{ path: t.at('p/received/a.shp'), table: null }], EMPTY_ORIGIN, keeper)).toEqual({
      writes: [],
      damaged: [t.at('p/received/datapackage.json')],
    });
  });
});

describe('what stands elsewhere', () => {
  test('a companion in a downloads folder is found by its stem, whatever its case; one of another stem is not', () => {
    mkdirSync(t.at('Downloads/march'), { recursive: true });
    writeFileSync(t.at('Downloads/march/BUOYS.DBF'), part('dbf'));
    writeFileSync(t.at('Downloads/march/lights.dbf'), part('dbf'));
    const looked = [{ path: 'buoys.shp', format: 'shapefile', files: ['buoys.shp', 'buoys.shx'] }];
    const place = { ...t.places[0]!, name: 'test', root: toAddress(t.path), present: true };
    expect(findCompanions(looked, [], [place])).toEqual([
      { missing: 'buoys.dbf', at: { place: 'test', path: 'Downloads/march/BUOYS.DBF' } },
    ]);
    expect(findCompanions([{ ...looked[0]!, files: ['buoys.shp', 'buoys.shx', 'buoys.dbf'] }], [], [place])).toEqual([]);
  });
  test('a folder with data is looked at and brought in like an archive; names that give trouble are told', async () => {
    for (const [name, bytes] of Object.entries(shapefile('in/our data/Buoys 2026'))) {
      mkdirSync(dirname(t.at(name)), { recursive: true });
      writeFileSync(t.at(name), bytes);
    }
    const inside = await lookInside(t.at('in'));
    expect(inside.groups[0]!.findings.map((f) => f.code)).toContain('name');
    await bringIn('in', 'p/received/x');
    expect(below('p/received/x').some((f) => /buoys_2026.shp$/i.test(f))).toBe(true);
  });
});

describe('files that stand in the cloud only', () => {
  const sparse = (path: string): void => {
    writeFileSync(path, '');
    truncateSync(path, 1 << 20);
  };
  test('are told and not opened; once they are fetched they are read, though size and time are the same', () => {
    t.shapefile('point', 'p/received/a');
    const bytes = readFileSync(t.at('p/received/a.shp'));
    const whole = Buffer.concat([bytes, Buffer.alloc((1 << 20) - bytes.length)]);
    sparse(t.at('p/received/a.shp'));
    const [d] = surveyFolder(t.at('p')).datasets;
    expect(d).toMatchObject({ state: 'unreadable', findings: [{ code: 'in-the-cloud' }] });
    expect(() => new OpenFiles().source(t.at('p/received/a.shp'))).toThrow('in the cloud');
    const { mtime } = statSync(t.at('p/received/a.shp'));
    writeFileSync(t.at('p/received/a.shp'), whole);
    utimesSync(t.at('p/received/a.shp'), mtime, mtime);
    expect(surveyFolder(t.at('p')).datasets[0]!.findings.map((f) => f.code)).not.toContain('in-the-cloud');
  });
});

describe('links', () => {
  const library = (...names: string[]): void =>
    names.forEach((n) => cpSync('testdata/open/shape-types', t.at('library', n), { recursive: true }));
  const link = (name: string, folder: string): void => {
    const made = linkTo(scope(), name, t.at(folder), '');
    const file = JSON.parse(readFileSync(t.at('p/p.rootmap.json'), 'utf8')) as { links: unknown[] };
    writeFileSync(t.at('p/p.rootmap.json'), JSON.stringify({ ...file, links: [...file.links, made] }));
  };
  test('by a relative path and an address; a folder inside the project is refused', () => {
    library('base');
    expect(linkTo(scope(), 'base', t.at('library/base'), 'n')).toMatchObject({
      path: '../library/base',
      address: expect.stringMatching(/^file:\/\/\//),
    });
    expect(() => linkTo(scope(), 'x', t.at('p/received'), '')).toThrow(/inside the project/);
  });
  test('a second sibling proposes the folder above; what is inside a link is told; the folder above replaces them', () => {
    library('base', 'limits');
    link('base', 'library/base');
    expect(adviseLink(scope(), t.at('library/base'))).toMatchObject({ inside: 'base' });
    expect(adviseLink(scope(), t.at('library/limits')).parent).toMatchObject({
      replaces: ['base'],
      at: { path: t.asked('library').path },
    });
    const above = adviseLink(scope(), t.at('library'));
    expect(above.parent).toMatchObject({ replaces: ['base'], at: { path: t.asked('library').path } });
    expect(above).toMatchObject({ inside: null, folders: 2, isPartial: false, files: readdirSync('testdata/open/shape-types').length * 2 });
  });
  test('a folder that may not be read is counted as far as it can be', () => {
    library('base');
    chmodSync(t.at('library'), 0o755);
    expect(adviseLink(scope(), t.at('library')).proposedName).toBe('library');
  });
});
