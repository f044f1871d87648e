import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { pathToFileURL } from 'node:url';
import { setTimeout as wait } from 'node:timers/promises';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { join } from '../disk/native-path.js';
import { TestFolder } from '../../test/test-project.js';
import { Pool } from './pool.js';

let t: TestFolder;
let pool: Pool;
const bugs: string[] = [];
beforeEach(() => {
  t = new TestFolder();
  mkdirSync(t.at('data'));
  bugs.length = 0;
  pool = new Pool({
    script: pathToFileURL(join(process.cwd(), 'engine/dist/pool/worker.js')), // as it is built
    dataFolder: t.at('data'),
    size: 2,
    onBug: (stack) => bugs.push(stack),
  });
});
afterEach(async () => {
  await pool.close();
  t.remove();
});
const children = (): number[] =>
  readFileSync(`/proc/${process.pid}/task/${process.pid}/children`, 'utf8').split(' ').filter(Boolean).map(Number);
/** So many of its processes have a task: each makes its folder then. */
async function begun(count: number): Promise<void> {
  const folders = (): number => (existsSync(t.at('data/scratch')) ? readdirSync(t.at('data/scratch')).length : 0);
  for (let i = 0; i < 400 && folders() < count; i++) await wait(25);
  await wait(100);
}
/** What any of its processes answers: no such folder. */
const answers = async (): Promise<void> =>
  expect(pool.run('find-map', { places: [], name: 'a.owc.json', text: '{}' })).resolves.toEqual([]);

test('an order that cannot be told to another process is refused alone', async () => {
  await expect(pool.run('check-map', { name: 'a', text: (() => 'a') as never })).rejects.toThrow(/could not be cloned|ERR_/);
  await answers();
  await answers();
});

test('a process that is killed at its work: its job is answered, another takes its place', async () => {
  await Promise.all([answers(), answers()]); // both have started: the work is not done before the second one is there
  const before = children();
  const jobs = Promise.allSettled(
    [1, 2].map(() => pool.run('find-map', { places: [{ name: 'all', folder: '/usr', driveNames: [] }], name: 'none.owc.json', text: '' })),
  );
  await begun(2);
  for (const pid of children()) process.kill(pid, 'SIGKILL');
  for (const job of await jobs)
    expect(job).toMatchObject({ status: 'rejected', reason: { problem: { code: 'failed', why: expect.stringMatching(/ended/) } } });
  await answers();
  expect(children().some((pid) => before.includes(pid))).toBe(false);
});

test('a task that fails is answered, and the pool goes on', async () => {
  await expect(pool.run('rank-crs', { places: [], root: t.at('nowhere'), who: 'x', id: 'x' })).rejects.toThrow();
  await answers();
});

test('cancelled, its process ends with what it had unpacked', async () => {
  const abort = new AbortController();
  const job = pool.run(
    'find-map',
    { places: [{ name: 'all', folder: '/usr', driveNames: [] }], name: 'none.owc.json', text: '' },
    { signal: abort.signal },
  );
  job.catch(() => undefined);
  await begun(1);
  const [folder] = readdirSync(t.at('data/scratch'));
  writeFileSync(t.at('data/scratch', folder!, 'left'), 'x');
  abort.abort();
  await expect(job).rejects.toMatchObject({ problem: { code: 'cancelled' } });
  for (let i = 0; i < 50 && existsSync(t.at('data/scratch', folder!)); i++) await wait(50);
  expect(existsSync(t.at('data/scratch', folder!))).toBe(false);
  await answers();
});
