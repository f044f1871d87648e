/** @jest-environment jsdom */
import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor, within } from '@testing-library/react';
import type { QualityView, ReviewTemplate } from '@rootmap/core/contract';
import { told } from '../../test/notistack.js';
import { datasetView, projectView } from '../../test/project-view.js';
import { qualityRow } from '../../test/quality-row.js';
import { answerWith, show, type Asked } from '../../test/render.js';
import { AsksDialog } from './asks-dialog.js';
import { CheckPoints } from './check-points.js';
import { CodesDialog } from './codes-dialog.js';
import { CompareDialog } from './compare-dialog.js';
import { FindingFix } from './finding-fix.js';
import { ReviewTemplates } from './review-templates.js';

const before = globalThis.fetch;
afterEach(() => {
  cleanup();
  globalThis.fetch = before;
});

const EDITS = 'POST /api/projects/k/edits';
const applied = (title: string) => ({ body: { change: { id: 'c', title, canUndo: true }, job: null } });
const bodies = (asked: readonly Asked[], what: string): unknown[] => asked.filter((a) => a.what === what).map((a) => a.body);
const nothing = (): void => undefined;
const beds = datasetView('beds.shp');
const soundings = datasetView('soundings.csv', { geometry: 'Point', format: 'csv', crs: null });
const project = projectView({ crs: 'EPSG:25832', datasets: [beds, soundings, datasetView('shared.shp', { link: 'base' })] });
const row = (id: string) => qualityRow(id.slice(3), { id });

describe('what a project asks of its data', () => {
  const asks: QualityView['asks'] = { area: null, sheets: 'none', problem: null };
  const rows = [row('/r/beds.shp'), row('/r/soundings.csv')];

  test('only datasets of areas can be what it is about; what is asked for is one edit', async () => {
    const asked = answerWith({ [EDITS]: applied('Ask') });
    show(<AsksDialog project={project} rows={rows} asks={asks} onClose={nothing} />);
    fireEvent.mouseDown(screen.getByRole('combobox', { name: 'Area of interest' }));
    expect(screen.getAllByRole('option').map((o) => o.textContent)).toEqual(['beds.shp']);
    fireEvent.click(screen.getByRole('option', { name: 'beds.shp' }));
    fireEvent.click(screen.getByRole('radio', { name: 'That every dataset is reviewed' }));
    fireEvent.click(screen.getByRole('button', { name: 'Ask for this' }));
    await waitFor(() => expect(bodies(asked, EDITS)).toEqual([{ kind: 'quality', area: '/r/beds.shp', sheets: 'reviewed' }]));
    await waitFor(() => expect(told.at(-1)).toBe('Ask: done.'));
  });

  test('what is asked for already is shown, and can be taken off', async () => {
    const asked = answerWith({ [EDITS]: applied('Ask') });
    show(<AsksDialog project={project} rows={rows} asks={{ area: '/r/beds.shp', sheets: 'computed', problem: null }} onClose={nothing} />);
    expect(screen.getByRole<HTMLInputElement>('combobox', { name: 'Area of interest' }).value).toBe('beds.shp');
    fireEvent.click(screen.getByRole('radio', { name: /^Nothing/ }));
    fireEvent.click(screen.getByTitle('Clear'));
    fireEvent.click(screen.getByRole('button', { name: 'Ask for this' }));
    await waitFor(() => expect(bodies(asked, EDITS)).toEqual([{ kind: 'quality', area: null, sheets: 'none' }]));
  });
});

describe('codes that are expected', () => {
  const answers = {
    'GET /api/projects/k/sources': {
      body: {
        sources: [
          {
            id: '/r/beds.shp',
            fields: [
              ['kind', 'text'],
              ['n', 'integer'],
            ],
            origin: null,
          },
        ],
        attribution: '',
        originals: [],
        workFolder: '',
        exportsFolder: '',
      },
    },
    'GET /api/projects/k/quality/codes': { body: { kind: ['reef', 'sand'] } },
    'GET /api/projects/k/statistics': {
      body: {
        records: 3,
        fields: [{ name: 'kind', type: 'text', filled: 3, distinct: 2, min: null, max: null, mean: null, samples: ['mud', 'reef'] }],
        encoding: null,
      },
    },
    [EDITS]: applied('List the codes of kind'),
  };

  test('the list that is there is shown; what stands in the field is added, each once', async () => {
    const asked = answerWith(answers);
    show(<CodesDialog project={project} row={row('/r/beds.shp')} onClose={nothing} />);
    const list = (): HTMLTextAreaElement => screen.getByLabelText('Codes, one a line');
    await waitFor(() => expect(list().value).toBe('reef\nsand'));
    fireEvent.click(await screen.findByRole('button', { name: /^Take what stands in it \(mud, reef\)/ }));
    fireEvent.click(screen.getByRole('button', { name: 'Expect 3 codes' }));
    await waitFor(() =>
      expect(bodies(asked, EDITS)).toEqual([{ kind: 'codes', dataset: '/r/beds.shp', field: 'kind', codes: ['reef', 'sand', 'mud'] }]),
    );
  });

  test('an empty list expects anything', async () => {
    const asked = answerWith(answers);
    show(<CodesDialog project={project} row={row('/r/beds.shp')} onClose={nothing} />);
    await waitFor(() => expect(screen.getByLabelText<HTMLTextAreaElement>('Codes, one a line').value).not.toBe(''));
    fireEvent.change(screen.getByLabelText('Codes, one a line'), { target: { value: ' \n' } });
    fireEvent.click(screen.getByRole('button', { name: 'Expect anything' }));
    await waitFor(() => expect(bodies(asked, EDITS)).toMatchObject([{ field: 'kind', codes: [] }]));
  });
});

describe('what can be done about a finding', () => {
  const label = (id: string, code: Parameters<typeof FindingFix>[0]['code']): string => {
    const { container } = show(<FindingFix project={project} row={row(id)} code={code} />);
    const words = `${container.querySelector('button') ? 'press: ' : ''}${container.textContent}`;
    cleanup();
    return words;
  };

  test('is one press where there is a way, else a sentence', () => {
    expect(label('/r/beds.shp', 'invalid-shapes')).toBe('press: Repair it into a working copy');
    expect(label('/r/beds.shp', 'crs')).toBe('press: State its CRS');
    expect(label('/r/beds.shp', 'metadata')).toBe('press: Write its origin down');
    expect(label('/r/beds.shp', 'project-crs')).toBe('press: Copy it into the CRS of the project');
    expect(label('/r/beds.shp', 'outliers')).toBe('press: Look at its records');
    expect(label('/r/beds.shp', 'slivers')).toBe('Look whether they come from lines that were drawn twice.');
  });

  test('is not offered where it cannot be done: beside data of others, and for what is no table of text', () => {
    expect(label('/r/shared.shp', 'crs')).toBe('State its CRS.');
    expect(label('/r/beds.shp', 'type-misfit')).toBe('Say what the field is before it is brought in.');
    expect(label('/r/soundings.csv', 'type-misfit')).toBe('press: Read it otherwise');
    expect(label('/r/gone.shp', 'crs')).toBe('State its CRS.');
  });
});

describe('templates of reviews', () => {
  const LIST = 'GET /api/review-templates';
  const KEEP = 'POST /api/review-templates';
  const said = { elements: { positional: { fitness: 'fit' as const, words: 'seen' } }, accuracy: '5 m', fitFor: 'charts' };

  test('what is said now is kept under a title, by Enter; the dialog around it is not meant', async () => {
    const asked = answerWith({ [LIST]: { body: [] }, [KEEP]: { body: [{ id: '1', title: 'Soundings', ...said }] } });
    show(<ReviewTemplates said={said} onTake={nothing} />);
    expect((await screen.findByRole('button', { name: 'No template is kept yet' })).hasAttribute('disabled')).toBe(true);
    fireEvent.click(screen.getByRole('button', { name: 'Keep this as a template' }));
    const title = screen.getByLabelText('Title of the template');
    expect(fireEvent.keyDown(title, { key: 'Enter' })).toBe(false); // and nothing is kept without a title
    fireEvent.change(title, { target: { value: ' Soundings ' } });
    fireEvent.keyDown(title, { key: 'Enter' });
    await waitFor(() => expect(bodies(asked, KEEP)).toEqual([{ ...said, title: 'Soundings' }]));
    expect(await screen.findByRole('button', { name: 'Begin with a template' })).not.toBeNull();
  });

  test('one is taken over, or forgotten', async () => {
    const asked = answerWith({
      [LIST]: { body: [{ id: '1', title: 'Soundings', ...said }] },
      'DELETE /api/review-templates/1': { body: [] },
    });
    let taken: ReviewTemplate | null = null;
    show(<ReviewTemplates said={{ elements: {}, accuracy: '', fitFor: '' }} onTake={(t) => void (taken = t)} />);
    fireEvent.click(await screen.findByRole('button', { name: 'Begin with a template' }));
    fireEvent.click(await screen.findByRole('menuitem', { name: 'Soundings' }));
    expect(taken).toMatchObject({ accuracy: '5 m', fitFor: 'charts' });
    await waitFor(() => expect(screen.queryByRole('menu')).toBeNull());
    fireEvent.click(screen.getByRole('button', { name: 'Begin with a template' }));
    fireEvent.click(await screen.findByRole('menuitem', { name: 'Forget Soundings' }));
    expect(await screen.findByRole('button', { name: 'No template is kept yet' })).not.toBeNull();
    expect(asked.some((a) => a.what.startsWith('DELETE'))).toBe(true);
  });
});

describe('check points', () => {
  const others = [row('/r/better.shp')];
  const points = (state: { words: string }) => (
    <CheckPoints
      project={project}
      row={row('/r/soundings.csv')}
      others={others}
      crs={null}
      unit="m"
      onState={(words) => (state.words = words)}
    />
  );
  const open = (): void => void fireEvent.click(screen.getByText('Measure it with check points'));

  test('pasted: what is no point is told, and the rest is measured and stated', () => {
    const state = { words: '' };
    show(points(state));
    open();
    fireEvent.change(screen.getByLabelText(/^x, y, and both/), { target: { value: 'x y rx ry\n2 -2 0 0\n3 -1 1 1\nnothing here 4\n' } });
    expect(screen.getByText(/No four numbers in line 4: left out\./)).not.toBeNull();
    fireEvent.click(screen.getByRole('button', { name: 'State it' }));
    expect(state.words).toMatch(/^4\.9 m at 95 % \(NSSDA\), RMSE 2\.83 m;.*2 check points, fewer than the 20/);
  });

  test('matched in two datasets: what was found, and what had no like', async () => {
    const MATCH = 'POST /api/projects/k/quality/match-points';
    const pairs = [{ x: 1, y: 1, referenceX: 0, referenceY: 0 }];
    const asked = answerWith({ [MATCH]: { body: { pairs, unmatched: 3, ambiguous: 1, left: 0 } } });
    show(points({ words: '' }));
    open();
    fireEvent.mouseDown(screen.getByRole('combobox', { name: 'Better source' }));
    fireEvent.click(screen.getByRole('option', { name: 'better.shp' }));
    fireEvent.change(screen.getByLabelText('Within, m'), { target: { value: '0' } });
    expect(screen.getByRole('button', { name: 'Match' }).hasAttribute('disabled')).toBe(true);
    fireEvent.change(screen.getByLabelText('Within, m'), { target: { value: '7' } });
    fireEvent.click(screen.getByRole('button', { name: 'Match' }));
    expect(await screen.findByText('1 pair found; 3 without a like, 1 with several.')).not.toBeNull();
    expect(bodies(asked, MATCH)).toEqual([{ dataset: '/r/soundings.csv', better: '/r/better.shp', key: null, within: 7 }]);
    expect(screen.getByLabelText<HTMLTextAreaElement>(/^x, y, and both/).value).toBe('1 1 0 0');
  });

  test('picked on maps: first the better source is chosen', () => {
    show(points({ words: '' }));
    open();
    fireEvent.click(screen.getByRole('button', { name: 'Pick on maps' }));
    expect(screen.getByText('Choose the better source first.')).not.toBeNull();
  });
});

test('two editions: what became of records, fields, corners and extents, also where nothing is a key', async () => {
  const side = (records: number) => ({
    records,
    vertices: 2 * records,
    spacing: records === 3 ? 12.34 : null,
    scale: records === 3 ? 24_680 : null,
    extent: [0, 1, 2, 3],
  });
  const found = {
    key: null,
    same: 1,
    added: 2,
    removed: 1,
    changed: 0,
    fields: { added: ['depth'], gone: ['old'] },
    before: side(2),
    after: side(3),
    examples: [{ record: 2, at: null, what: 'added' }],
    places: { added: [], removed: [], changed: [] },
  };
  const COMPARE = 'POST /api/projects/k/quality/compare';
  const asked = answerWith({ [COMPARE]: { body: found } });
  const table = qualityRow('a.csv', { id: '/r/a.csv', kind: 'table' });
  show(<CompareDialog project={project} row={table} others={[qualityRow('b.csv', { id: '/r/b.csv', kind: 'table' })]} onClose={nothing} />);
  const dialog = screen.getByRole('dialog');
  expect(within(dialog).getByRole('button', { name: 'Compare' }).hasAttribute('disabled')).toBe(true);
  fireEvent.mouseDown(within(dialog).getByRole('combobox', { name: 'Before' }));
  fireEvent.click(screen.getByRole('option', { name: 'b.csv' }));
  fireEvent.change(within(dialog).getByLabelText('Key'), { target: { value: ' id ' } });
  fireEvent.click(within(dialog).getByRole('button', { name: 'Compare' }));
  const status = await within(dialog).findByRole('status');
  expect(bodies(asked, COMPARE)).toEqual([{ dataset: '/r/a.csv', against: '/r/b.csv', key: 'id' }]);
  for (const words of [
    '1 the same, 2 added, 1 removed, 0 changed',
    'Told by shape and content',
    '12.3 m',
    '1:25 000',
    'not told',
    '0, 1, 2, 3',
    'New fields: depth. Gone fields: old.',
    '1 example: record 2 added',
  ])
    expect(status.textContent).toContain(words);
  expect(within(dialog).queryByRole('region', { name: 'Both on the map' })).toBeNull(); // tables have no map
});
