/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import type { PutBackRow, StayedOutView } from '@rootmap/core/contract';
import { answerWith, show } from '../../test/render.js';
import { StayedOutPanel } from './stayed-out-panel.js';

const before = globalThis.fetch;
afterEach(() => {
  cleanup();
  globalThis.fetch = before;
});

const BUOYS: StayedOutView = {
  path: 'received/buoys.shp',
  address: 'https://data.example/buoys.zip',
  title: 'Buoys',
  publisher: 'Office',
  isTold: true,
};
const LIST = 'GET /api/projects/k/editions/stayed-out';
const FETCH = 'POST /api/projects/k/editions/put-back';
const row = (over: Partial<PutBackRow>): PutBackRow => ({
  path: BUOYS.path,
  address: BUOYS.address,
  state: 'as-it-was',
  why: null,
  missing: [],
  ...over,
});
const done = (rows: readonly PutBackRow[]) => ({
  id: 'j',
  kind: 'put-back',
  title: 'Fetch what stayed out',
  project: 'k',
  startedMs: 0,
  done: 0,
  of: 0,
  unit: 'bytes',
  item: '',
  state: 'done',
  message: null,
  result: { rows, changes: [] },
});
/** The panel after everything was fetched. */
async function fetched(rows: readonly PutBackRow[]) {
  const asked = answerWith({ [LIST]: { body: [BUOYS] }, [FETCH]: { status: 202, body: done(rows) }, 'GET /api/jobs': { body: [] } });
  show(<StayedOutPanel projectKey="k" />);
  fireEvent.click(await screen.findByRole('button', { name: 'Fetch it' }));
  await screen.findByRole('status');
  return asked;
}

test('a project that has all its data shows nothing', async () => {
  const asked = answerWith({ [LIST]: { body: [] }, 'GET /api/jobs': { body: [] } });
  const { container } = show(<StayedOutPanel projectKey="k" />);
  await waitFor(() => expect(asked.some((a) => a.what === LIST)).toBe(true));
  expect(container.textContent).toBe('');
});

test('what is missing stands with its address; where nobody wrote down what it was, that is said before', async () => {
  answerWith({ [LIST]: { body: [BUOYS, { ...BUOYS, path: 'received/wrecks.csv', isTold: false }] }, 'GET /api/jobs': { body: [] } });
  show(<StayedOutPanel projectKey="k" />);
  expect(await screen.findByText('2 datasets not here: their publishers offer them')).not.toBeNull();
  expect(screen.getByRole('button', { name: 'Fetch them' })).not.toBeNull();
  expect(screen.getAllByText(/nobody wrote down its checksums/)).toHaveLength(1);
});

test('the same is said only of what every checksum says it of; what stood beside it and did not come is named', async () => {
  const asked = await fetched([row({ missing: ['buoys.qix'] })]);
  expect(asked.find((a) => a.what === FETCH)!.body).toEqual({ addresses: [], takesOther: false });
  expect(screen.getByText('as it was')).not.toBeNull();
  expect(screen.getByText(/did not come: buoys\.qix\./)).not.toBeNull();
  expect(screen.queryByRole('button', { name: /other edition/ })).toBeNull();
});

test('another edition stays away until it is asked for by a press of its own', async () => {
  const asked = await fetched([row({ state: 'left' })]);
  expect(screen.getByText('It is not what stayed out, so it was not put there.')).not.toBeNull();
  fireEvent.click(screen.getByRole('button', { name: 'Put the other edition there all the same' }));
  await waitFor(() => expect(asked.at(-1)!.body).toEqual({ addresses: [BUOYS.address], takesOther: true }));
});

test('what did not come says why', async () => {
  await fetched([row({ state: 'failed', why: 'There is nothing at this address of data.example.' })]);
  expect(screen.getByText('did not come')).not.toBeNull();
  expect(screen.getByText('There is nothing at this address of data.example.')).not.toBeNull();
});
