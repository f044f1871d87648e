import { cpSync, lstatSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { DataSource } from 'typeorm';
import { DEFAULT_NAMING, EMPTY_ORIGIN, writeProjectFile } from '@rootmap/core';
import type { EditRequest } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { writeZip } from '../../test/small-zip.js';
import { otherFileSystem, TestFolder } from '../../test/test-project.js';
import { planTakeOver, takeOverEdition } from '../bundle/edition.js';
import { copyToPlace, pack } from '../bundle/pack.js';
import { planPack } from '../bundle/plan-pack.js';
import { receive } from '../bundle/receive.js';
import { planDigitise } from '../digitise/plan-digitise.js';
import { stageDigitised } from '../digitise/stage-digitised.js';
import { planEdit } from '../edit/plan-edit.js';
import { planExport } from '../export/plan-export.js';
import { writeExport } from '../export/write-export.js';
import { planImport } from '../geodatabase/plan-import.js';
import { stageContainer } from '../geodatabase/tables/stage-tables.js';
import { writeImport } from '../geodatabase/write-import.js';
import { planIntake } from '../intake/plan-intake.js';
import { openSource, unpackInto } from '../intake/unpack.js';
import { choicesOf } from '../mend/choose.js';
import { explainBroken, planMend } from '../mend/plan-mend.js';
import { findScope, locationOf, rooted } from '../project/scope.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { findDataset } from '../project/find-dataset.js';
import { stageEdition } from '../online/stage-edition.js';
import { planTakeEdition } from '../online/take-edition.js';
import { ChangeDisk } from './disk.js';
import { recoverChanges } from './recover.js';
import { runChange, StopHere, type RunOptions } from './run-change.js';
import { undoChange } from './undo-change.js';

let t: TestFolder;
/** On another file system, where nothing can be renamed to: what goes there is copied. */
let other: TestFolder;
let store: DataSource;
const journal = (): SqlJournal => new SqlJournal(store);
beforeEach(async () => {
  t = new TestFolder();
  other = new TestFolder(otherFileSystem());
  store = await openStore(t.at('data'));
});
afterEach(async () => {
  await store.destroy();
  other.remove();
  t.remove();
});

const p = (...parts: string[]): string => t.at('stick/p', ...parts);
const scope = () => rooted(findScope(p(), { places: t.places, root: p() }));
const find = (id: string) => findDataset(scope(), id);
const place = (path: string) => {
  const { place, segments } = locationOf(path, t.places);
  return { place, path: segments.join('/') };
};

/** A project with data, maps (one of them broken), a geodatabase, an archive and a bundle. */
async function layMaster(): Promise<void> {
  mkdirSync(t.at('stick/p/work'), { recursive: true });
  const project = {
    id: 'one',
    name: 'p',
    title: 'P',
    created: '2026-01-01T00:00:00Z',
    crs: 'EPSG:4326',
    folders: { received: 'originals' },
  };
  writeFileSync(p('p.rootmap.json'), writeProjectFile(project));
  for (const name of ['buoys', 'lights']) t.shapefile('point', `stick/p/data/${name}`);
  t.shapefile('polygon', 'stick/p/found/areas');
  for (const n of [1, 2]) t.map(`stick/p/maps/m${n}.owc.json`, ['../data/buoys.shp', '../data/lights.shp', '../lost/areas.shp']);
  writeFileSync(
    p('work/points.geojson'),
    '{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"a":1},"geometry":{"type":"Point","coordinates":[1,2]}}]}',
  );
  writeFileSync(p('table.csv'), 'a,b\n1,x\n2,y\n');
  writeFileSync(t.at('stick/in.zip'), writeZip({ 'a/one.csv': 'a\n1\n', 'a/two.csv': 'a\n2\n' }));
  await OPERATIONS.import!(new ChangeDisk(), 'one.gpkg');
  writeFileSync(p('notes.txt'), 'as it was sent\n');
  await pack(planPack(scope(), { out: t.at('stick/sent.zip') }), t.at('stick/sent.zip'), 'test', { journal: journal(), program: 'test' });
  writeFileSync(p('notes.txt'), 'changed since\n');
  cpSync(t.at('stick'), t.at('master'), { recursive: true, preserveTimestamps: true });
}

/** Everything as the master has it. */
function lay(): void {
  for (const folder of [t.at('stick'), other.path]) rmSync(folder, { recursive: true, force: true });
  cpSync(t.at('master'), t.at('stick'), { recursive: true, preserveTimestamps: true });
  mkdirSync(other.path);
}

const edit = async (request: EditRequest, disk: ChangeDisk, over: Partial<RunOptions> = {}) => {
  const { change } = await planEdit(scope(), request, {
    roots: [p()],
    who: 'test',
    isQuick: false,
    missed: [],
    resolve: t.resolve,
  });
  return runChange(change!, { journal: journal(), program: 'test', disk, ...over });
};

/** Each of what people do, carried out on a disk that a test stops. */
const OPERATIONS: Record<string, (disk: ChangeDisk, into?: string) => Promise<unknown>> = {
  move: (disk) =>
    edit({ kind: 'move', moves: [{ from: place(p('data')), to: place(p('sources/data')) }], evenOriginals: false, grown: null }, disk),
  'move to another disk': (disk) =>
    edit(
      { kind: 'move', moves: [{ from: place(p('data/buoys.shp')), to: place(other.at('buoys.shp')) }], evenOriginals: false, grown: null },
      disk,
    ),
  trash: (disk) => edit({ kind: 'trash', paths: [place(p('data/lights.shp')), place(p('table.csv'))], evenOriginals: false }, disk),
  mend: (disk) => {
    const work = explainBroken(scope());
    return runChange(planMend(work, choicesOf(work, 'likely'), 'test')!, { journal: journal(), program: 'test', disk });
  },
  import: async (disk, into = 'new.gpkg') => {
    const items = ['data/buoys.shp', 'table.csv'].map((n) => ({ dataset: p(n), part: null, table: '' }));
    const plan = planImport(scope(), find, p(into), items, null, 'test');
    const stage = async (staged: string): Promise<void> => void (await writeImport(find, plan.items, plan.path, staged, () => undefined));
    return runChange(plan.change!, { journal: journal(), program: 'test', disk, stage });
  },
  'geodatabase tables': (disk) => {
    const request = {
      kind: 'tables',
      geodatabase: place(p('one.gpkg')),
      action: 'rename',
      table: 'buoys',
      name: 'floats',
    } as unknown as EditRequest;
    return planEdit(scope(), request, { roots: [p()], who: 'test', isQuick: false, missed: [], resolve: t.resolve }).then(
      ({ change, containers }) =>
        runChange(change!, {
          journal: journal(),
          program: 'test',
          disk,
          stage: (staged, target) =>
            Promise.resolve(
              void stageContainer(
                containers!.find((c) => c.target === target)!,
                staged,
                () => undefined,
              ),
            ),
        }),
    );
  },
  intake: async (disk) => {
    const source = await openSource(t.at('stick/in.zip'), false);
    const order = {
      source: t.at('stick/in.zip'),
      name: 'in.zip',
      entries: source.entries,
      wanted: null,
      target: p('received/in'),
      origin: EMPTY_ORIGIN,
      told: {},
      naming: DEFAULT_NAMING,
      removeArchive: false,
    };
    const plan = planIntake(order, scope(), [p()], 'test');
    const stageAll = unpackInto(plan, source, () => undefined, new AbortController().signal);
    return runChange(plan.change, { journal: journal(), program: 'test', disk, stageAll }).finally(() => source.close());
  },
  receive: (disk) =>
    receive(t.at('stick/sent.zip'), t.at('stick/arrived'), 'test', t.places, { journal: journal(), program: 'test', disk }),
  pack: (disk) =>
    pack(planPack(scope(), { out: t.at('stick/out.zip') }), t.at('stick/out.zip'), 'test', { journal: journal(), program: 'test', disk }),
  'copy to a place': (disk) => copyToPlace(planPack(scope()), t.at('stick/copied'), 'test', { journal: journal(), program: 'test', disk }),
  'take over an edition': async (disk) => {
    const plan = await planTakeOver(scope(), t.at('stick/sent.zip'), null, { onConflict: 'theirs', removes: false });
    return takeOverEdition(p(), t.at('stick/sent.zip'), plan, 'test', { journal: journal(), program: 'test', disk });
  },
  'take over what was fetched again': async (disk) => {
    mkdirSync(t.at('came'), { recursive: true });
    writeFileSync(t.at('came/points.geojson'), '{"type":"FeatureCollection","features":[]}');
    const wanted = [{ id: p('work/points.geojson'), origin: EMPTY_ORIGIN, usedBy: 0 }];
    const { change, copies } = await planTakeEdition(scope(), wanted, t.at('came'), { fetched: '2026-11-30' }, 'test');
    return runChange(change!, { journal: journal(), program: 'test', disk, stageAll: stageEdition(copies) });
  },
  'link a service': (disk) => edit({ kind: 'link-service', name: 'charts', service: 'wms', url: 'https://x.example/wms' }, disk),
  'a map of services': (disk) => {
    const layer = { title: 'A', code: 'wms' as const, href: 'https://x.example/wms?LAYERS=a', rights: '' };
    return edit({ kind: 'add-services', layers: [layer], map: null, title: 'Served', crs: null }, disk);
  },
  export: (disk) => {
    const order = { format: 'shapefile' as const, crs: null };
    const found = find(p('work/points.geojson'));
    const plan = planExport(scope(), found, order, p('exports/points.shp'), 'test');
    const stageAll: RunOptions['stageAll'] = (installs) => {
      const staged = Object.fromEntries(
        Object.entries(plan.targets).map(([ending, target]) => [ending, installs.find((i) => i.target === target)!.staged]),
      );
      return writeExport(found, { ...order, name: 'points' }, staged, () => undefined).then(() => undefined);
    };
    return runChange(plan.change!, { journal: journal(), program: 'test', disk, stageAll });
  },
  digitise: (disk) => {
    const create = {
      format: 'shapefile' as const,
      at: place(p('work/drawn.shp')),
      table: '',
      kind: 'Point' as const,
      fields: [{ name: 'a', type: 'text' as const }],
    };
    const added = [{ geometry: { type: 'Point', coordinates: [1, 2] }, values: ['x'] }];
    const request = { dataset: null, create, crs: 'EPSG:4326', state: '', newFields: [], added, changed: [], removed: [] };
    const { change, order } = planDigitise(scope(), request, t.resolve, 'test');
    const stageAll: RunOptions['stageAll'] = (installs) => {
      const staged = Object.fromEntries(
        Object.entries(order.targets).map(([n, target]) => [n, installs.find((i) => i.target === target)!.staged]),
      );
      return Promise.resolve(void stageDigitised(scope(), order, staged));
    };
    return runChange(change, { journal: journal(), program: 'test', disk, stageAll });
  },
  undo: async (disk) => {
    const done = await edit({ kind: 'trash', paths: [place(p('data/lights.shp'))], evenOriginals: false }, new ChangeDisk());
    return undoChange(done.id, 'test', { journal: journal(), program: 'test', disk });
  },
};

/** Every file below a folder with its bytes, walked without any code of the product; the trash is nobody's, what is staged is litter. */
const tree = (folder: string): Record<string, string> =>
  Object.fromEntries(
    readdirSync(folder, { recursive: true, encoding: 'utf8' })
      .filter((path) => !/(^|\/)\.rootmap(\/|$)/.test(path) && lstatSync(join(folder, path)).isFile())
      .sort()
      .map((path) => [path, readFileSync(join(folder, path)).toString('base64')]),
  );
const both = () => ({ ...tree(t.at('stick')), ...Object.fromEntries(Object.entries(tree(other.path)).map(([k, v]) => [`other/${k}`, v])) });
const gone = JSON.stringify({ pid: 2 ** 22 + 1, startTime: '1', bootId: 'x', program: 'gone' });
const refusing = (code: string): ChangeDisk =>
  new ChangeDisk((_, what, path) => {
    if (!['read', 'hash'].includes(what)) throw Object.assign(new Error(code), { code, syscall: what, path });
  });
/** What can be the matter with a disk at the next start, one after the other; the last of them: nothing. */
const RESTARTS: readonly (() => Promise<string | undefined>)[] = [
  async () => {
    renameSync(t.at('stick'), t.at('pulled'));
    mkdirSync(t.at('stick'));
    const [recovered] = await recoverChanges(journal());
    rmSync(t.at('stick'), { recursive: true });
    renameSync(t.at('pulled'), t.at('stick'));
    return recovered?.outcome;
  },
  async () => (await recoverChanges(journal(), refusing('EROFS')))[0]?.outcome,
  async () => (await recoverChanges(journal(), refusing('ENOSPC')))[0]?.outcome,
  async () => (await recoverChanges(journal()))[0]?.outcome,
];

test.each(Object.keys(OPERATIONS))(
  '%s, stopped before every step, then started with the disk away, read-only, full, there',
  async (name) => {
    const operation = OPERATIONS[name]!;
    await layMaster();
    lay();
    let steps = 0;
    const before = name === 'undo' ? null : both();
    await operation(new ChangeDisk(() => void steps++));
    const after = Object.keys(both());
    expect(steps).toBeGreaterThanOrEqual(4);
    const outcomes = new Set<string>();
    for (let stop = 0; stop < steps; stop++) {
      lay();
      const disk = new ChangeDisk((n) => {
        if (n === stop) throw new StopHere();
      });
      await expect(operation(disk)).rejects.toBeInstanceOf(StopHere);
      await store.query(`UPDATE "change" SET owner = ? WHERE state IN ('preparing', 'applying', 'taking-back')`, [gone]);
      const ends: (string | undefined)[] = [];
      for (const restart of RESTARTS) ends.push(await restart());
      const ended = ends.find((e) => e !== undefined && e !== 'waiting');
      outcomes.add(ended ?? 'not begun');
      if (ended === 'finished') expect([stop, Object.keys(both())]).toEqual([stop, after]);
      else if (before) expect([stop, both()]).toEqual([stop, before]);
      else expect([stop, Object.keys(both()).filter((f) => f.includes('lights'))]).toEqual([stop, []]); // the deletion stays
      expect(await journal().unfinished()).toEqual([]);
      expect(statSync(t.at('stick')).isDirectory()).toBe(true);
    }
    expect(outcomes).toContain('finished');
  },
  120_000,
);

test.each(Object.keys(OPERATIONS))(
  '%s, with the disk of the journal full from each of its writes on, then emptied',
  async (name) => {
    const operation = OPERATIONS[name]!;
    await layMaster();
    const prototype = SqlJournal.prototype as unknown as { write: (work: () => void) => void };
    const { write } = prototype;
    const outcomes = new Set<string>();
    try {
      for (let stop = 0, isOver = false; !isOver; stop++) {
        lay();
        const before = both();
        let writes = 0;
        isOver = true;
        prototype.write = function (this: object, work) {
          if (writes++ < stop) return write.call(this, work);
          isOver = false;
          return write.call(this, () => {
            work();
            throw Object.assign(new Error('database or disk is full'), { code: 'SQLITE_FULL' });
          });
        };
        const failure = await operation(new ChangeDisk()).then(
          () => null,
          (error: { problem?: { code: string } }) => error.problem?.code ?? JSON.stringify(error),
        );
        prototype.write = write;
        if (!isOver) expect([stop, failure]).toEqual([stop, expect.stringMatching(/^(no-space|unfinished)$/)]);
        await store.query(`UPDATE "change" SET owner = ? WHERE state IN ('preparing', 'applying', 'taking-back')`, [gone]);
        const ended = (await recoverChanges(journal())).find((r) => r.outcome !== 'waiting')?.outcome;
        outcomes.add(isOver ? 'done' : (ended ?? 'not begun'));
        if (!isOver && ended !== 'finished' && name !== 'undo') expect([stop, both()]).toEqual([stop, before]);
        expect(await journal().unfinished()).toEqual([]);
      }
    } finally {
      prototype.write = write;
    }
    expect([...outcomes].sort()).toEqual(['done', 'finished', 'not begun', 'taken-back']);
  },
  120_000,
);
