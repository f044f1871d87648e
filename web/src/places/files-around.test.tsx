/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import type { PathRequest, PlaceView } from '@rootmap/core/contract';
import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import { answerWith, show } from '../../test/render.js';
import { FilesAround } from './files-around.js';

afterEach(cleanup);
const place = (name: string, present = true): PlaceView =>
  ({ name, folder: `/${name}`, driveNames: [], present, readOnly: false, absentSince: null, formerly: null, hosts: { configured: [], own: [] } }); // prettier-ignore
const folder = (at: string, path: string, folders: string[], files: string[]) => ({
  place: at,
  path,
  folders: folders.map((name) => ({ name, isProject: false })),
  files: files.map((name) => ({ name, bytes: 2048, format: null })),
  isProject: false,
  isEmpty: false,
});
const around = (chosen: PathRequest[] = []) =>
  show(
    <FilesAround
      title="Archives that lie about"
      accepts={(name) => name.endsWith('.zip')}
      button="Look into it"
      onChoose={(at) => chosen.push(at)}
      empty="None lies about."
    />,
  );
const rows = (): (string | null)[] => screen.queryAllByRole('listitem').map((li) => li.textContent);

test('at the top of each place that is there, and in folders where things arrive; nowhere else', async () => {
  const chosen: PathRequest[] = [];
  const asked = answerWith({
    'GET /api/places': { body: [place('desk'), place('stick', false)] },
    'GET /api/folder': async () => {
      const { what } = asked.at(-1)!;
      const path = new URLSearchParams(what.slice(what.indexOf('?'))).get('path');
      return { body: path === '' ? folder('desk', '', ['Downloads', 'gis'], ['top.zip', 'notes.txt']) : folder('desk', 'Downloads', [], ['reef survey.zip']) }; // prettier-ignore
    },
  });
  around(chosen);
  await waitFor(() => expect(rows()).toHaveLength(2));
  expect(rows()).toEqual(['top.zip2.00 KiB, at the top of deskLook into it', 'reef survey.zip2.00 KiB, in Downloads on deskLook into it']);
  fireEvent.click(screen.getByRole('button', { name: 'Look into it: reef survey.zip' }));
  expect(chosen).toEqual([{ place: 'desk', path: 'Downloads/reef survey.zip' }]);
  expect(asked.filter((a) => /path=gis|place=stick/.test(a.what))).toEqual([]);
});

test('a folder that cannot be read holds up none; where there is nothing, that is said', async () => {
  answerWith({ 'GET /api/places': { body: [place('desk')] }, 'GET /api/folder': { status: 500, body: { detail: 'no' } } });
  around();
  await waitFor(() => expect(screen.getByText('None lies about.')).toBeTruthy());
});
