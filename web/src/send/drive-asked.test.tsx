/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import { answerWith, show } from '../../test/render.js';
import { DriveAsked } from './drive-asked.js';

const before = globalThis.fetch;
afterEach(() => {
  cleanup();
  globalThis.fetch = before;
});

const place = (name: string, driveNames: readonly string[]) => ({
  name,
  folder: `/srv/${name}`,
  driveNames,
  present: true,
  readOnly: false,
  absentSince: null,
  formerly: null,
});

test('a drive that a place bears is told as that place, however it is written', async () => {
  answerWith({ 'GET /api/places': { body: [place('share', ['\\\\harbour\\gis'])] } });
  show(<DriveAsked drive={{ name: '//HARBOUR/gis/', layers: 3 }} />);
  expect(await screen.findByText(/is the place share here/)).not.toBeNull();
  expect(screen.queryByRole('button', { name: 'Say so' })).toBeNull();
});

test('one that no place bears is asked for, and said once', async () => {
  const asked = answerWith({
    'GET /api/places': { body: [place('desk', ['D:']), place('stick', [])] },
    'POST /api/places/stick/drive-names': { body: { isKept: false } },
  });
  show(<DriveAsked drive={{ name: 'P:/', layers: 1 }} />);
  const say = await screen.findByRole('button', { name: 'Say so' });
  expect((say as HTMLButtonElement).disabled).toBe(true);
  fireEvent.mouseDown(screen.getByRole('combobox', { name: 'P:/ is here' }));
  fireEvent.click(await screen.findByRole('option', { name: 'stick' }));
  fireEvent.click(say);
  await waitFor(() => expect(asked.find((a) => a.what.startsWith('POST'))!.body).toEqual({ driveName: 'P:/' }));
  expect(await screen.findByText(/Until the next start/)).not.toBeNull();
});
