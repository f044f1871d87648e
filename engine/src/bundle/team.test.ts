import { expect, test } from '@jest/globals';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { Team } from './team.js';

/** Tells the input of an order; at 'fall' it falls over. */
const SCRIPT = `
import { parentPort } from 'node:worker_threads';
parentPort.on('message', ({ input }) => {
  if (input === 'fall') throw new Error('no floor');
  parentPort.postMessage({ value: input });
});
`;

test('threads that fall over fail what they were at, and the others go on with all that waits', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'rootmap-team-'));
  const path = join(folder, 'script.mjs');
  writeFileSync(path, SCRIPT);
  const team = new Team(pathToFileURL(path));
  const run = (input: string) => team.run('check', input as never) as Promise<unknown>;
  const falls = Array.from({ length: team.size + 1 }, () => 'fall');
  const all = await Promise.allSettled([...falls, 'a', 'b'].map(run));
  expect(all.map((a) => (a.status === 'fulfilled' ? a.value : (a.reason as Error).message))).toEqual([
    ...falls.map(() => 'no floor'),
    'a',
    'b',
  ]);
  await team.close();
  rmSync(folder, { recursive: true });
});
