import { spawn, type ChildProcess } from 'node:child_process';
import { cpSync, mkdirSync, readdirSync, readFileSync, statSync, symlinkSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import { writeMapFile } from '@rootmap/core';
import { TestServer } from '../test/start-server.js';

// CWE-367, time of check to time of use; CWE-59, following links.
const server = new TestServer();
const SECRET = 'secret_outside';
const place = (...parts: string[]): string => join(server.folder, 'place', ...parts);
const outside = (...parts: string[]): string => join(server.folder, 'outside', ...parts);
const mapText = (title: string): string =>
  writeMapFile({ id: 'm', title, updated: '2026-01-01T00:00:00Z', crs: null, storedForm: 'relative', layers: [] });

/** Makes `in` the folder and a link to what is outside, in turn, as fast as it can. */
const SWAP = `const { renameSync } = require('node:fs');
const [at] = process.argv.slice(1);
const end = Date.now() + 60_000;
while (Date.now() < end) {
  renameSync(at + '/in', at + '/kept'); renameSync(at + '/link', at + '/in');
  renameSync(at + '/in', at + '/link'); renameSync(at + '/kept', at + '/in');
}`;
let swapper: ChildProcess;
let key = '';

beforeAll(async () => {
  cpSync('testdata/open/example_project', place('check'), { recursive: true });
  for (const folder of [place('check', 'race', 'in'), outside()]) mkdirSync(folder, { recursive: true });
  for (const [folder, title] of [
    [place('check', 'race', 'in'), 'inside'],
    [outside(), SECRET],
  ] as const) {
    writeFileSync(join(folder, 'm.owc.json'), mapText(title));
    writeFileSync(join(folder, 't.csv'), `name,x\n${title},1\n`);
    writeFileSync(join(folder, `${title}.txt`), title);
    cpSync('testdata/open/shape-types/point.shp', join(folder, 'p.shp'));
  }
  symlinkSync(outside(), place('check', 'race', 'link'));
  await server.start({ ROOTMAP_PLACES: `desk=${place()},D:` });
  key = ((await server.post('/api/projects', { place: 'desk', path: 'check' })).body as { key: string }).key;
  swapper = spawn(process.execPath, ['-e', SWAP, place('check', 'race')], { stdio: 'ignore' });
});
afterAll(async () => {
  swapper.kill('SIGKILL');
  await server.stop();
});

const desk = (path: string) => ({ place: 'desk', path });
const walk = (): string[] =>
  readdirSync(outside())
    .sort()
    .map((name) => `${name} ${statSync(outside(name)).isFile() ? readFileSync(outside(name), 'latin1') : 'folder'}`);

test('a folder that becomes a link and a folder again, in a loop: nothing outside is told, made, changed or removed', async () => {
  const before = walk();
  const inside = 'check/race/in';
  const asks: ((n: number) => Promise<{ status: number; body: unknown }>)[] = [
    () => server.get(`/api/folder?place=desk&path=${inside}`),
    () => server.get(`/api/projects/${key}/maps/doc?path=race/in/m.owc.json&editor=00000000-0000-4000-8000-000000000000`),
    () => server.post('/api/lone-maps', desk(`${inside}/m.owc.json`)),
    () => server.post(`/api/projects/${key}/rescan`),
    () => server.post(`/api/projects/${key}/rows`, { dataset: 'race/in/t.csv', from: 0, count: 10, find: '', where: [], sort: null }),
    (n) => server.post('/api/lone-maps/keep', { folder: desk(inside), name: `k${n}.owc.json`, text: mapText('kept') }),
    (n) => server.post(`/api/projects/${key}/edits`, { kind: 'folders', folders: [{ path: `race/in/f${n}`, role: 'working', note: '' }] }),
    (n) => server.post(`/api/projects/${key}/edits`, { kind: 'copy', from: desk('check/note_2.txt'), to: desk(`${inside}/c${n}.txt`) }),
    () => server.post(`/api/projects/${key}/edits`, { kind: 'trash', paths: [desk(`${inside}/${SECRET}.txt`)] }),
    (n) =>
      server.post(`/api/projects/${key}/edits`, {
        kind: 'move',
        moves: [{ from: desk(`${inside}/${SECRET}.txt`), to: desk(`check/m${n}.txt`) }],
      }),
  ];
  const answered = new Map<number, Set<number>>();
  const told: string[] = [];
  const end = Date.now() + 10_000;
  let n = 0;
  await Promise.all(
    asks.map(async (ask, i) => {
      while (Date.now() < end) {
        const { status, body } = await ask(n++);
        answered.set(i, (answered.get(i) ?? new Set<number>()).add(status));
        const said = JSON.stringify(body);
        if (status >= 500) told.push(`${i}: ${said.slice(0, 300)}`);
        if (said.includes(`"${SECRET}`) && !said.includes('"detail"')) told.push(`${i}: ${said.slice(0, 200)}`);
      }
    }),
  );
  swapper.kill('SIGKILL');
  expect([...new Set(told)].slice(0, 20)).toEqual([]);
  expect(walk()).toEqual(before);
  // The race was run: most things were answered well at times, and refused at times.
  expect([...answered.values()].filter((s) => [...s].some((x) => x < 300)).length).toBeGreaterThan(3);
  expect([...answered.values()].filter((s) => [...s].some((x) => x >= 400)).length).toBeGreaterThan(3);
}, 60_000);
