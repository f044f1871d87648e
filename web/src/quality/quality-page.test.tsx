/** @jest-environment jsdom */
import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import { Outlet, Route, Routes } from 'react-router';
import type { QualityView } from '@rootmap/core/contract';
import { datasetView, projectView } from '../../test/project-view.js';
import { qualityRow } from '../../test/quality-row.js';
import { answerWith, show } from '../../test/render.js';
import { QualityPage } from './quality-page.js';

const before = globalThis.fetch;
afterEach(() => {
  cleanup();
  globalThis.fetch = before;
});

const project = projectView({ datasets: [datasetView('beds.shp'), datasetView('reefs.shp')] });
const view: QualityView = {
  rows: [qualityRow('beds.shp', { id: '/r/beds.shp', state: 'none' }), qualityRow('reefs.shp', { id: '/r/reefs.shp', state: 'none' })],
  asks: { area: null, sheets: 'none', problem: null },
};
const QUALITY = 'GET /api/projects/k/quality';

const open = (at: string, body: QualityView = view) => {
  const asked = answerWith({ [QUALITY]: { body }, 'POST /api/projects/k/quality/check': { status: 500 } });
  show(
    <Routes>
      <Route element={<Outlet context={project} />}>
        <Route path="*" element={<QualityPage />} />
      </Route>
    </Routes>,
    at,
  );
  return asked;
};

describe('the page of what is known of the data', () => {
  test('an address that names no such choice shows all datasets, by name', async () => {
    open('/?only=nonsense&order=toString');
    expect(await screen.findByRole('combobox', { name: 'Which datasets' })).toHaveProperty('textContent', 'All datasets');
    expect(screen.getByRole('combobox', { name: 'Order' }).textContent).toBe('by name');
  });

  test('what is shown is what is checked', async () => {
    const asked = open('/?find=reef');
    fireEvent.click(await screen.findByRole('button', { name: /^Check/ }));
    await waitFor(() => expect(asked.at(-1)?.body).toMatchObject({ datasets: ['/r/reefs.shp'] }));
  });

  test('words that no dataset has say so; a project without data says how to get some', async () => {
    open('/?find=zzz');
    expect(await screen.findByText('No dataset is so.')).toBeTruthy();
    cleanup();
    open('/', { ...view, rows: [] });
    expect(await screen.findByText('There is no data to check')).toBeTruthy();
  });
});
