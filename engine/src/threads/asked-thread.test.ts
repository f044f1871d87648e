import { expect, test } from '@jest/globals';
import { AskedThread } from './asked-thread.js';

/** Answers with what was asked; 'end' ends it, and 'fall' makes it fall over. */
const SCRIPT = new URL(
  `data:text/javascript,${encodeURIComponent(`
    import { parentPort } from 'node:worker_threads';
    import { setTimeout } from 'node:timers/promises';
    let last = Promise.resolve();
    parentPort.on('message', (ask) => {
      if (ask === 'end') process.exit();
      if (ask === 'fall') throw new Error('no floor');
      last = last.then(() => setTimeout(ask)).then(() => parentPort.postMessage(ask));
    });
  `)}`,
);
const begun = () => new AskedThread<unknown, unknown>(SCRIPT, (why) => new Error(`not answered: ${why}`));

test('two who ask at once have each the answer to their own', async () => {
  const thread = begun();
  expect(await Promise.all([thread.ask(60), thread.ask(1), thread.ask(30)])).toEqual([60, 1, 30]);
  await thread.end();
});

test.each([
  ['end', 'not answered: its thread ended'],
  ['fall', 'not answered: no floor'],
])('a thread that comes to its end at "%s" leaves nobody waiting, neither then nor later', async (order, why) => {
  const thread = begun();
  const asked = await Promise.allSettled([thread.ask(order), thread.ask(1)]);
  expect(asked.map((a) => (a as PromiseRejectedResult).reason.message)).toEqual([why, why]);
  expect(thread.isOver).toBe(true);
  await expect(thread.ask(1)).rejects.toThrow(why);
});

test('what cannot be sent is thrown, and the next answer is not taken for its own', async () => {
  const thread = begun();
  await expect(thread.ask(() => undefined)).rejects.toThrow(/could not be cloned/);
  expect(await thread.ask(2)).toBe(2);
  await thread.end();
});
