import { afterEach, expect, test } from '@jest/globals';
import type { ThumbnailView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { askForThumbnail } from './thumbnail-queue.js';

const before = api.thumbnails;
afterEach(() => void Object.assign(api, { thumbnails: before }));

/** Answers each request when it is told to. */
function server() {
  const asked: { project: string; datasets: readonly string[]; answer: (of: (name: string) => unknown) => void; fail: () => void }[] = [];
  Object.assign(api, {
    thumbnails: (project: string, datasets: readonly string[]) =>
      new Promise((resolve, reject) =>
        asked.push({ project, datasets, answer: (of) => resolve(datasets.map(of)), fail: () => reject(new Error('lost')) }),
      ),
  });
  return asked;
}
const settled = (): Promise<void> => new Promise((resolve) => setTimeout(resolve));

test('one request at a time, of eight at most, of one project; what was wanted last comes first', async () => {
  const asked = server();
  const got: string[] = [];
  for (let n = 0; n < 10; n++) void askForThumbnail('p', `d${n}`).then((t) => got.push(t as unknown as string));
  void askForThumbnail('q', 'other').then((t) => got.push(t as unknown as string));
  await settled();
  expect(asked.map((a) => [a.project, a.datasets])).toEqual([['q', ['other']]]);
  asked[0]!.answer((name) => `picture of ${name}`);
  await settled();
  expect(asked[1]!.datasets).toEqual(['d9', 'd8', 'd7', 'd6', 'd5', 'd4', 'd3', 'd2']);
  asked[1]!.answer((name) => `picture of ${name}`);
  await settled();
  asked[2]!.answer((name) => `picture of ${name}`);
  await settled();
  expect(asked).toHaveLength(3);
  expect(new Set(got)).toEqual(new Set(['picture of other', ...Array.from({ length: 10 }, (_, n) => `picture of d${n}`)]));
});

test('a request that fails is told to those that wait for it, and the next goes on; none is none', async () => {
  const asked = server();
  const first = askForThumbnail('p', 'a').catch((e: unknown) => (e as Error).message);
  await settled();
  const second = askForThumbnail('p', 'b');
  asked[0]!.fail();
  expect(await first).toBe('lost');
  await settled();
  asked[1]!.answer(() => undefined);
  expect(await second).toBeNull() as unknown as ThumbnailView;
});
