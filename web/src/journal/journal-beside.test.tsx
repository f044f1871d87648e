/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor, within } from '@testing-library/react';
import { answerWith, show } from '../../test/render.js';
import { JournalBeside } from './journal-beside.js';

afterEach(cleanup);

const projects = [
  { key: 'k', title: 'Moorings', present: true },
  { key: 'o', title: 'Old survey', present: true },
  { key: 'g', title: 'On the stick', present: false },
];
const changes = ['mend', 'move', 'mend'].map((kind, n) => ({ id: `c${n}`, kind, title: `Change ${n}` }));
const answers = {
  'GET /api/projects': { body: projects },
  'GET /api/journal': { body: changes },
  'GET /api/projects/k/trash': {
    body: [
      { count: 3, bytes: 2048 },
      { count: 1, bytes: 1024 },
    ],
  },
  'GET /api/projects/o/trash': { body: [] },
};
const lines = (list: string): (string | null)[] =>
  within(screen.getByRole('list', { name: list }))
    .getAllByRole('listitem')
    .map((l) => l.textContent);

test('sorts of change by their number, and one of them is asked for, or no longer', async () => {
  answerWith(answers);
  const asked: (string | null)[] = [];
  show(<JournalBeside project={undefined} kind="move" onKind={(kind) => asked.push(kind)} />);
  await waitFor(() => expect(lines('Changes by sort')).toEqual(['Layers mended2', 'Moves and renames1']));
  fireEvent.click(screen.getByRole('button', { name: 'Layers mended' }));
  expect(screen.getByRole('button', { name: 'Moves and renames' }).getAttribute('aria-pressed')).toBe('true');
  fireEvent.click(screen.getByRole('button', { name: 'Moves and renames' }));
  expect(asked).toEqual(['mend', null]);
});

test('what lies in the trash of each project that is there, with the way to it', async () => {
  answerWith(answers);
  show(<JournalBeside project={undefined} kind={undefined} onKind={() => undefined} />);
  await waitFor(() => expect(lines('Trash of the projects')).toEqual(['Moorings4 files and folders, 3.00 KiB', 'Old surveyempty']));
  expect(screen.getByRole('link', { name: 'Moorings' }).getAttribute('href')).toBe('/p/k/folders?view=space');
});

test('of one project, only its own; trash that cannot be read is told', async () => {
  const asked = answerWith({ ...answers, 'GET /api/projects/o/trash': { status: 500, body: {} } });
  show(<JournalBeside project="o" kind={undefined} onKind={() => undefined} />);
  await waitFor(() => expect(lines('Trash of the projects')).toEqual(['Old surveynot known']));
  expect(asked.map((a) => a.what)).toContain('GET /api/journal?project=o');
});
