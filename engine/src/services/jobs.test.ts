import { expect, test } from '@jest/globals';
import { setTimeout as wait } from 'node:timers/promises';
import { ProblemError } from '@rootmap/core';
import type { JobView } from '@rootmap/core/contract';
import { Jobs } from './jobs.js';

const started = () => {
  const told: JobView[] = [];
  const bugs: unknown[] = [];
  return {
    told,
    bugs,
    jobs: new Jobs(
      (job) => told.push(job),
      (error) => bugs.push(error),
    ),
  };
};
const ended = async (told: readonly JobView[]): Promise<JobView> => {
  while (told.at(-1)?.state === 'running') await wait(1);
  return told.at(-1)!;
};

test('done, with its result and all of its bytes; each step is told in order', async () => {
  const { told, jobs } = started();
  const view = jobs.start('duplicates', 'Look', 'k', ({ progress }) => {
    progress({ done: 3, of: 10, unit: 'bytes', item: 'a' });
    return Promise.resolve({ groups: [] } as never);
  });
  expect(view).toMatchObject({ kind: 'duplicates', state: 'running', result: null });
  expect(await ended(told)).toMatchObject({
    id: view.id,
    state: 'done',
    result: { groups: [] },
    done: 10,
    of: 10,
    unit: 'bytes',
    item: 'a',
  });
  expect(jobs.list()).toHaveLength(1);
});

test('a refusal keeps its sentence; an error of the program goes to the log, and its insides are not shown', async () => {
  const refused = started();
  refused.jobs.start('pack', 'P', null, () => Promise.reject(new ProblemError({ code: 'not-found', what: 'job', id: 'x' })));
  const refusal = await ended(refused.told);
  expect(refusal.state).toBe('failed');
  expect(refusal.message).toMatch(/x/);
  expect(refused.bugs).toEqual([]);
  const broken = started();
  const error = new TypeError('x is undefined in /srv/secret.ts');
  broken.jobs.start('pack', 'P', null, () => Promise.reject(error));
  expect(await ended(broken.told)).toMatchObject({ state: 'failed', message: expect.not.stringContaining('secret') });
  expect(broken.bugs).toEqual([error]);
});

test('cancelled: its signal says so, and what its work throws then is no bug', async () => {
  const { told, bugs, jobs } = started();
  const { id } = jobs.start(
    'copy',
    'C',
    null,
    ({ signal }) => new Promise((_, reject) => signal.addEventListener('abort', () => reject(new Error('aborted')))),
  );
  jobs.cancel(id);
  expect(await ended(told)).toMatchObject({ state: 'cancelled', result: null });
  expect(bugs).toEqual([]);
  expect(() => jobs.cancel('nobody')).toThrow(ProblemError);
});

test('fifty are remembered; those that run are never forgotten', async () => {
  const { told, jobs } = started();
  const running = jobs.start('copy', 'runs', null, () => new Promise(() => undefined));
  for (let i = 0; i < 60; i++) {
    jobs.start('pack', `P${i}`, null, () => Promise.resolve({} as never));
    await ended(told);
  }
  expect(jobs.list().length).toBeLessThanOrEqual(51);
  expect(jobs.list().some((j) => j.id === running.id)).toBe(true);
});
