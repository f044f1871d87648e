/** @jest-environment jsdom */
import { afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor, within } from '@testing-library/react';
import { EMPTY_ORIGIN, type Origin, type Passage, type StatedPassage } from '@rootmap/core';
import type { IntakeGroup, IntakeView, NoteView } from '@rootmap/core/contract';
import { useState } from 'react';
import { answerWith, show } from '../../test/render.js';
import { DatasetNotes } from './dataset-notes.js';
import { PackedNotes } from './packed-notes.js';

const before = globalThis.fetch;
beforeAll(() => {
  Element.prototype.scrollIntoView = () => undefined; // the simulated browser has no room to scroll in
});
afterEach(() => {
  cleanup();
  globalThis.fetch = before;
});

const TEXT = 'Units: feet. Surveyed in 2021. Not for navigation.';
const units: Passage = { about: 'units', at: 0, words: 'Units: feet.' };
const limits: Passage = { about: 'limits', at: 31, words: 'Not for navigation.' };
const note = (over: Partial<NoteView['note']> = {}): NoteView => ({
  note: { kind: 'html', blocks: [{ kind: 'text', text: TEXT }], isCut: false, pictures: 0, ...over },
  likely: [units, limits],
});
const NOTES = 'GET /api/projects/k/notes';
const TEXT_OF = 'GET /api/projects/k/notes/text';
const TAKE = 'POST /api/projects/k/passages';
const applied = { change: { id: 'c', title: 't', canUndo: true } };
const sources = (passages: readonly StatedPassage[]) => ({
  sources: [{ id: '/r/a.shp', origin: { ...EMPTY_ORIGIN, passages } }],
  attribution: '',
  originals: [],
  workFolder: '',
  exportsFolder: '',
});

async function opened(view: NoteView, passages: readonly StatedPassage[] = [], siblings: readonly string[] = []) {
  const asked = answerWith({
    [NOTES]: { body: { notes: [{ path: 'terms.html', kind: 'html', bytes: 50 }], siblings } },
    [TEXT_OF]: { body: view },
    [TAKE]: { body: applied },
    'GET /api/projects/k/sources': { body: sources(passages) },
  });
  show(<DatasetNotes projectKey="k" dataset="/r/a.shp" />);
  fireEvent.click(await screen.findByRole('button', { name: 'terms.html' }));
  await screen.findByRole('region', { name: 'What terms.html says' });
  return asked;
}
const taken = (asked: Awaited<ReturnType<typeof opened>>) => asked.filter((a) => a.what === TAKE).map((a) => a.body);

describe('the notes beside a dataset', () => {
  test('none: that is said; many: the first, and the others when they are asked for', async () => {
    answerWith({ [NOTES]: { body: { notes: [], siblings: [] } } });
    show(<DatasetNotes projectKey="k" dataset="/r/a.shp" />);
    expect(await screen.findByText('none lie beside it')).not.toBeNull();
    cleanup();
    const many = Array.from({ length: 8 }, (_, i) => ({ path: `n${i}.txt`, kind: 'text', bytes: i }));
    answerWith({ [NOTES]: { body: { notes: many, siblings: [] } } });
    show(<DatasetNotes projectKey="k" dataset="/r/a.shp" />);
    fireEvent.click(await screen.findByRole('button', { name: '3 more notes' }));
    expect(screen.getAllByRole('button', { name: /^n\d\.txt$/ })).toHaveLength(8);
  });

  test('what looks to tell something is a guess until it is taken over', async () => {
    const asked = await opened(note());
    const list = screen.getByRole('region', { name: 'Looks as if it told something' });
    expect(list.textContent).toContain('a guess, until you take it over');
    fireEvent.click(within(list).getByRole('button', { name: 'Take it over: Units, Units: feet.' }));
    await waitFor(() =>
      expect(taken(asked)).toEqual([{ datasets: ['/r/a.shp'], passage: { ...units, note: 'terms.html' }, isTaken: true }]),
    );
  });

  test('it holds for the neighbours where that is said', async () => {
    const asked = await opened(note(), [], ['/r/b.shp', '/r/c.shp']);
    fireEvent.click(screen.getByRole('checkbox', { name: /2 other datasets/ }));
    fireEvent.click(screen.getByRole('button', { name: /^Take it over: Limits of use/ }));
    await waitFor(() => expect(taken(asked)).toMatchObject([{ datasets: ['/r/a.shp', '/r/b.shp', '/r/c.shp'] }]));
  });

  test('words are found with the keyboard, their sentence is chosen, and said what it tells', async () => {
    const asked = await opened(note());
    fireEvent.change(screen.getByLabelText('Find words in it'), { target: { value: 'surveyed' } });
    fireEvent.click(screen.getByRole('button', { name: 'Next' }));
    expect(screen.getByRole('status').textContent).toContain('“Surveyed in 2021.”');
    fireEvent.click(screen.getByRole('button', { name: 'Date' }));
    await waitFor(() =>
      expect(taken(asked)).toMatchObject([{ passage: { about: 'date', at: 13, words: 'Surveyed in 2021.', note: 'terms.html' } }]),
    );
    fireEvent.change(screen.getByLabelText('Find words in it'), { target: { value: 'nowhere' } });
    fireEvent.click(screen.getByRole('button', { name: 'Next' }));
    expect(screen.getByRole('status').textContent).toContain('Choose words');
  });

  test('what is stated can be taken back; words that are not there any more are told', async () => {
    const gone: StatedPassage = { about: 'scale', at: 4, words: '1:10 000', note: 'terms.html' };
    const stated: StatedPassage = { ...units, note: 'terms.html' };
    const asked = await opened(note(), [stated, gone, { ...gone, note: 'other.txt' }]);
    const list = await screen.findByRole('region', { name: 'Stated by the publisher' });
    expect(within(list).getAllByText('Its words are not in the note any more.')).toHaveLength(1);
    fireEvent.click(within(list).getByRole('button', { name: /^Take it back: Units/ }));
    await waitFor(() => expect(taken(asked)).toEqual([{ datasets: ['/r/a.shp'], passage: stated, isTaken: false }]));
  });

  test('what is not shown of a note is said; one that cannot be read is a sentence', async () => {
    await opened(note({ isCut: true, pictures: 2 }));
    expect(screen.getByText(/it goes on, and is not shown to its end; 2 pictures in it not shown/)).not.toBeNull();
    cleanup();
    answerWith({
      [NOTES]: { body: { notes: [{ path: 'a.pdf', kind: 'pdf', bytes: 1 }], siblings: [] } },
      [TEXT_OF]: { status: 422, body: { title: 'x', detail: 'a.pdf cannot be shown: it is encrypted.', status: 422 } },
      'GET /api/projects/k/sources': { body: sources([]) },
    });
    show(<DatasetNotes projectKey="k" dataset="/r/a.shp" />);
    fireEvent.click(await screen.findByRole('button', { name: 'a.pdf' }));
    expect(await screen.findByText(/a\.pdf cannot be shown: it is encrypted/)).not.toBeNull();
  });
});

describe('notes of what arrived', () => {
  const group = (path: string, over: Partial<IntakeGroup> = {}): IntakeGroup => ({
    path,
    kind: 'document',
    format: 'document',
    files: [path],
    bytes: 10,
    geometry: null,
    count: null,
    crs: null,
    datum: null,
    unit: null,
    isDescribed: true,
    findings: [],
    told: null,
    ...over,
  });
  const arrival = (groups: readonly IntakeGroup[]): IntakeView => ({
    id: 'x',
    name: 'a.zip',
    source: null,
    isLoose: false,
    files: 3,
    bytes: 3,
    wrapper: 'w/',
    litter: 0,
    groups,
    refused: [],
    problem: null,
    proposed: {},
    freeBytes: null,
    elsewhere: [],
    reference: null,
  });
  const metres = { format: 'shapefile', kind: 'vector', crs: 'EPSG:32624', datum: 'WGS 84', unit: 'metre' };
  let origin: Origin = EMPTY_ORIGIN;
  function Card({ groups }: { groups: readonly IntakeGroup[] }) {
    const [now, setNow] = useState<Origin>(EMPTY_ORIGIN);
    origin = now;
    return <PackedNotes projectKey="k" arrival={arrival(groups)} origin={now} onOrigin={setNow} />;
  }
  beforeEach(() => {
    answerWith({ 'GET /api/projects/k/arrivals/x/note': { body: note() } });
  });

  test('without notes there is nothing', () => {
    const { container } = show(<Card groups={[group('w/a.shp', metres)]} />);
    expect(container.textContent).toBe('');
  });

  test('what they tell is seen, taken over, held against what arrived, and taken back', async () => {
    show(
      <Card
        groups={[group('w/terms.html'), group('w/a.shp', metres), group('w/b.shp', metres), group('w/c.csv', { ...metres, unit: 'foot' })]}
      />,
    );
    fireEvent.click(await screen.findByRole('button', { name: /^Take it over: Units/ }));
    expect(origin).toMatchObject({ statedUnits: 'Units: feet.', passages: [{ about: 'units', note: 'w/terms.html' }] });
    // Both that are in metres are told in one line; the one in feet is as stated.
    expect(screen.getByText(/^a\.shp, b\.shp$/).parentElement!.textContent).toContain('the unit of its coordinates is metre');
    fireEvent.click(screen.getByRole('button', { name: /^Take it back: Units/ }));
    expect(origin.statedUnits).toBe('');
    expect(screen.queryByText(/the unit of its coordinates/)).toBeNull();
  });

  test('a note is read whole in a dialog', async () => {
    show(<Card groups={[group('w/terms.html'), group('w/a.shp', metres)]} />);
    fireEvent.click(screen.getByRole('button', { name: /^Read terms\.html/ }));
    const dialog = await screen.findByRole('dialog');
    expect(await within(dialog).findByRole('region', { name: 'What w/terms.html says' })).not.toBeNull();
    fireEvent.click(within(dialog).getByRole('button', { name: 'Close the note' }));
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  });
});
