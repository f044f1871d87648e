/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import type { NewerDataset } from '@rootmap/core/contract';
import { answerWith, show } from '../../test/render.js';
import { CopyAnewDialog } from './copy-anew-dialog.js';

const before = globalThis.fetch;
afterEach(() => {
  cleanup();
  globalThis.fetch = before;
});

const facts = (records: number) => ({ records, bytes: null, bbox: null, crs: 'EPSG:4326' });
const newer: NewerDataset = {
  id: '/p/d.gpkg#beds',
  name: 'beds',
  before: facts(28),
  now: facts(35),
  fields: { added: [], gone: ['depth'], changed: [] },
  usedBy: 2,
  isSame: false,
};
const job = (receipts: readonly object[] | null) => ({
  status: 202,
  body: {
    id: receipts ? 'take' : 'look',
    kind: 'service-copy',
    title: 'Copy Beds of Library',
    project: 'k',
    startedMs: 0,
    done: 35,
    of: 35,
    unit: 'records',
    item: 'beds',
    state: 'done',
    message: null,
    result: { told: 35, came: 35, resumedAt: 0, newer, import: receipts && { geodatabase: '/p/d.gpkg', receipts, failed: [] } },
  },
});

async function taken(receipts: readonly object[]) {
  let asks = 0;
  const asked = answerWith({
    'POST /api/projects/k/services/copy-anew': () => Promise.resolve(job(asks++ === 0 ? null : receipts)),
    'GET /api/jobs': { body: [] },
  });
  show(<CopyAnewDialog projectKey="k" dataset="/p/d.gpkg#beds" onClose={() => undefined} />);
  await screen.findByText(/28 records, now 35/);
  expect(asked.filter((a) => a.what.startsWith('POST')).map((a) => a.body)).toEqual([{ dataset: '/p/d.gpkg#beds', takes: false }]);
  fireEvent.click(screen.getByRole('button', { name: 'Let it take the place of the table' }));
  await screen.findByText(/It stands where the old table stood/);
  return asked;
}

test('it is compared first, with what goes; it takes the place only when that is wanted', async () => {
  const asked = await taken([{ isEqual: true }]);
  expect(screen.getByText(/fields that went: depth.*2 layers will draw the new one/)).not.toBeNull();
  await waitFor(() =>
    expect(asked.filter((a) => a.what.startsWith('POST')).at(-1)!.body).toEqual({ dataset: '/p/d.gpkg#beds', takes: true }),
  );
  expect(screen.getByText(/Read back, every value and shape is the same as what came/)).not.toBeNull();
});

test('where reading back finds another value, the same is not said', async () => {
  await taken([{ isEqual: true }, { isEqual: false }]);
  expect(screen.getByText(/Read back, not every value is as it came/)).not.toBeNull();
  expect(screen.queryByText(/every value and shape is the same/)).toBeNull();
});
