/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import type { JobView } from '@rootmap/core/contract';
import { answerWith, show } from '../../test/render.js';
import { JobRow } from './running-work.js';

afterEach(cleanup);

const job = (over: object): JobView => ({
  id: 'j',
  kind: 'import',
  title: 'Bring 2 datasets in',
  project: 'k',
  done: 0,
  of: 0,
  unit: 'records',
  item: 'depths.csv',
  startedMs: Date.now() - 2000,
  state: 'running',
  message: null,
  result: null,
  ...over,
});
const said = (over: object): string => {
  cleanup();
  return show(<JobRow job={job(over)} />).container.textContent ?? '';
};

test('how far it is, in what is counted', () => {
  expect(said({})).toMatch(/running\s*depths\.csv/);
  expect(said({ done: 4096, of: 200_000 })).toContain('4\u202f096 of 200\u202f000 records · depths.csv');
  expect(said({ done: 12, unit: 'tiles' })).toContain('12 tiles · ');
  expect(said({ done: 3 << 20, of: 6 << 20, unit: 'bytes' })).toMatch(/3\.00 MiB of 6\.00 MiB, 1\.\d\d MiB a second · /);
});

test('it can be cancelled while it runs; afterwards it says what became of it', async () => {
  const asked = answerWith({ 'POST /api/jobs/j/cancel': { status: 204 } });
  show(<JobRow job={job({ done: 1, of: 2 })} />);
  expect(screen.getByRole('progressbar', { name: 'Bring 2 datasets in: 50 %' }).getAttribute('aria-valuenow')).toBe('50');
  fireEvent.click(screen.getByRole('button', { name: 'Cancel' }));
  await waitFor(() => expect(asked.map((a) => a.what)).toEqual(['POST /api/jobs/j/cancel']));
  expect(said({ state: 'failed', message: 'The disk is full.' })).toContain('The disk is full.');
  expect(screen.queryByRole('button', { name: 'Cancel' })).toBeNull();
  expect(said({ kind: 'tables', state: 'done', result: { change: null, notes: ['a: 3 records read'] } })).toContain('a: 3 records read');
});

test('how long it will take still, once that means something', () => {
  const bytes = { unit: 'bytes', done: 1_000_000, of: 5_000_000 };
  expect(said({ ...bytes, startedMs: Date.now() - 1000 })).not.toContain('left');
  expect(said({ ...bytes, startedMs: Date.now() - 10_000 })).toContain('about 40 s left');
  expect(said({ ...bytes, startedMs: Date.now() - 100_000 })).toContain('about 7 min left');
});
