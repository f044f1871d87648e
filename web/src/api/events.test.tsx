/** @jest-environment jsdom */
import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { QueryObserver } from '@tanstack/react-query';
import { cleanup, waitFor } from '@testing-library/react';
import type { JobView, ServerEvent } from '@rootmap/core/contract';
import { show } from '../../test/render.js';
import { keys } from './queries.js';

// What is told on the screen is not the matter here.
jest.unstable_mockModule('../journal/tell-done.js', () => ({ tellDone: jest.fn() }));
jest.unstable_mockModule('notistack', () => ({ enqueueSnackbar: jest.fn() }));
const { useServerEvents } = await import('./events.js');

class Stream {
  static last: Stream;
  onopen: () => void = () => undefined;
  onmessage: (message: { data: string }) => void = () => undefined;
  isClosed = false;
  constructor(readonly address: string) {
    Stream.last = this;
  }
  close(): void {
    this.isClosed = true;
  }
  tell(event: ServerEvent): void {
    this.onmessage({ data: JSON.stringify(event) });
  }
}
beforeEach(() => void Object.assign(globalThis, { EventSource: Stream }));
afterEach(cleanup);

const Listens = () => (useServerEvents(), null);
function listening() {
  const shown = show(<Listens />);
  for (const key of [keys.project('a'), keys.project('b'), keys.folders('a'), keys.projects, keys.places, keys.journal, keys.status])
    shown.client.setQueryData(key, 'known');
  shown.client.setQueryData(keys.jobs, []);
  const stale = (): string[] =>
    shown.client
      .getQueryCache()
      .getAll()
      .filter((q) => q.state.isInvalidated)
      .map((q) => q.queryKey.join('/'))
      .sort();
  return { ...shown, stale, stream: Stream.last };
}

test('an event makes stale what it is about, and no more', () => {
  const { stream, stale } = listening();
  expect(stream.address).toBe('/api/events');
  stream.tell({ type: 'project', key: 'a' });
  expect(stale()).toEqual(['project/a', 'project/a/folders', 'projects']);
  stream.tell({ type: 'journal' });
  stream.tell({ type: 'places' });
  expect(stale()).toEqual(['journal', 'places', 'project/a', 'project/a/folders', 'projects', 'status']);
});

test('a first answer that is under way when something happens is asked for again', async () => {
  const { stream, client } = listening();
  let answer: (value: string) => void = () => undefined;
  let asked = 0;
  const queryFn = (): Promise<string> => (asked++, new Promise((resolve) => (answer = resolve)));
  const watched = new QueryObserver(client, { queryKey: keys.project('c'), queryFn });
  const unwatch = watched.subscribe(() => undefined);
  await waitFor(() => expect(asked).toBe(1));
  stream.tell({ type: 'project', key: 'c' });
  answer('half before, half after');
  await waitFor(() => expect(asked).toBe(2));
  answer('after');
  await waitFor(() => expect(watched.getCurrentResult().data).toBe('after'));
  unwatch();
});

test('a job takes its place among the jobs; what a search is on is kept for whoever shows it', () => {
  const { stream, client } = listening();
  const job = (item: string): JobView => ({ id: 'j', kind: 'pack', state: 'running', item }) as JobView;
  stream.tell({ type: 'job', job: job('first') });
  stream.tell({ type: 'job', job: job('second') });
  expect(client.getQueryData(keys.jobs)).toEqual([job('second')]);
  stream.tell({ type: 'search', key: 'a', item: 'desk/old' });
  expect(client.getQueryData(keys.searching('a'))).toBe('desk/old');
});

test('when a lost connection comes back, everything is asked again; at first, jobs alone; a page that goes stops listening', () => {
  const { stream, stale, unmount } = listening();
  stream.onopen();
  expect(stale()).toEqual(['jobs']);
  stream.onopen();
  expect(stale()).toHaveLength(8);
  unmount();
  expect(stream.isClosed).toBe(true);
});
