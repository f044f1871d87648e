import { expect, jest, test } from '@jest/globals';
import { setTimeout as wait } from 'node:timers/promises';
import type { Watched } from './watch.js';

let delayMs = 0;
const stop = jest.fn(() => Promise.resolve());
jest.unstable_mockModule('./watch.js', () => ({
  watchFolders: async (): Promise<Watched> => {
    await wait(delayMs);
    return { how: 'watched', stop };
  },
}));
const { ProjectWatch } = await import('./project-watch.js');

test('a watch that stands at once is waited for, and tells of nothing by itself', async () => {
  const onChange = jest.fn();
  const watch = new ProjectWatch(onChange);
  await watch.begin(['/a']);
  expect(watch.how).toBe('watched');
  expect(onChange).not.toHaveBeenCalled();
  await watch.stop();
  expect([watch.how, stop.mock.calls.length]).toEqual([null, 1]);
});

test('one that takes long is not waited for; once it stands, all is looked at again, since nobody saw what changed before', async () => {
  delayMs = 900;
  const onChange = jest.fn();
  const watch = new ProjectWatch(onChange);
  await watch.begin(['/large']);
  expect([watch.how, onChange.mock.calls.length]).toEqual([null, 0]);
  await watch.begin(['/large']); // a second look begins no second watch
  while (watch.how === null) await wait(20);
  expect(onChange).toHaveBeenCalledTimes(1);
  await watch.stop();
});

test('stopped before it stands, it tells of nothing', async () => {
  const onChange = jest.fn();
  const watch = new ProjectWatch(onChange);
  await watch.begin(['/large']);
  await watch.stop();
  expect([watch.how, onChange.mock.calls.length]).toEqual([null, 0]);
});
