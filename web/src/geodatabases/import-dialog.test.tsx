/** @jest-environment jsdom */
import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor, within } from '@testing-library/react';
import type { ImportDone, ImportPlanItem, ImportReceipt } from '@rootmap/core/contract';
import { told } from '../../test/notistack.js';
import { datasetView, projectView } from '../../test/project-view.js';
import { answerWith, show, type Asked } from '../../test/render.js';
import { ImportDialog } from './import-dialog.js';
import { ImportReceipts } from './import-receipts.js';
import { NewGeodatabaseDialog } from './new-geodatabase-dialog.js';

const before = globalThis.fetch;
afterEach(() => {
  cleanup();
  globalThis.fetch = before;
});
const nothing = (): void => undefined;
const bodies = (asked: readonly Asked[], what: string): unknown[] => asked.filter((a) => a.what === what).map((a) => a.body);
const PLAN = 'POST /api/projects/k/geodatabases/import/plan';
const START = 'POST /api/projects/k/geodatabases/import';

const project = projectView({
  crs: 'EPSG:32624',
  datasets: [
    datasetView('a/beds.shp'),
    datasetView('b/scene.tif', { kind: 'raster', geometry: null }),
    datasetView('odd.bin', { kind: 'opaque' }),
  ],
});
const item = (over: Partial<ImportPlanItem>): ImportPlanItem => ({
  dataset: '/r/a/beds.shp',
  part: null,
  selection: null,
  parts: [],
  bands: 0,
  band: null,
  composite: null,
  table: 'beds',
  replaces: false,
  kind: 'features',
  geometry: 'Polygon',
  records: 12,
  crs: 'EPSG:32624',
  notes: [],
  losses: [],
  reading: null,
  why: null,
  ...over,
});
const plan = (...items: ImportPlanItem[]) => ({ body: { isNew: false, named: 0, items } });
const planned = (asked: readonly Asked[]) => bodies(asked, PLAN).at(-1) as { items: object[]; makesValid: boolean; crs: string | null };

describe('what becomes of datasets', () => {
  test('nothing is chosen: nothing is asked, and nothing can be brought in', () => {
    const asked = answerWith({});
    show(<ImportDialog project={project} into="g/work.gpkg" onClose={nothing} />);
    expect(screen.getByText(/Choose datasets on the left/)).not.toBeNull();
    expect(screen.getAllByRole('checkbox').map((c) => c.closest('label')?.textContent)).toEqual([
      'beds.shp',
      'scene.tif',
      "Compute all coordinates in the project's EPSG:32624",
      'Make areas valid whose outlines cross themselves',
    ]);
    expect(screen.getByRole('button', { name: 'Bring in 0 datasets' }).hasAttribute('disabled')).toBe(true);
    expect(bodies(asked, PLAN)).toEqual([]);
  });

  test('one that is to be repaired is chosen, and its areas are made valid', async () => {
    const asked = answerWith({ [PLAN]: plan(item({})) });
    show(<ImportDialog project={project} into="g/work.gpkg" first={['/r/a/beds.shp']} isMadeValid onClose={nothing} />);
    expect(await screen.findByRole('group', { name: 'beds.shp' })).not.toBeNull();
    expect(planned(asked)).toMatchObject({
      makesValid: true,
      crs: null,
      items: [{ dataset: '/r/a/beds.shp', part: null, band: null, table: '' }],
    });
    fireEvent.click(screen.getByRole('checkbox', { name: /^Compute all coordinates/ }));
    await waitFor(() => expect(planned(asked).crs).toBe('EPSG:32624'));
  });

  test('a name is what somebody writes; what cannot come in says why, and is not counted', async () => {
    const asked = answerWith({
      [PLAN]: plan(item({}), item({ dataset: '/r/b/scene.tif', table: 'scene', kind: 'raster', why: 'its name is taken' })),
    });
    show(<ImportDialog project={project} into="g/work.gpkg" first={['/r/a/beds.shp', '/r/b/scene.tif']} onClose={nothing} />);
    expect(await screen.findByText('Left out: its name is taken.')).not.toBeNull();
    expect(screen.getByRole('button', { name: 'Bring in 1 dataset' })).not.toBeNull();
    fireEvent.change(screen.getByLabelText('Table of beds.shp'), { target: { value: ' beds_2026 ' } });
    await waitFor(() => expect(planned(asked).items).toMatchObject([{ table: 'beds_2026' }, { table: '' }]));
  });

  test('several kinds of shapes get a table each, and go back into one', async () => {
    const parts = ['points', 'areas'] as const;
    const asked = answerWith({ [PLAN]: plan(item({ parts })) });
    show(<ImportDialog project={project} into="g/work.gpkg" first={['/r/a/beds.shp']} onClose={nothing} />);
    fireEvent.click(await screen.findByRole('button', { name: 'One table for each kind' }));
    await waitFor(() => expect(planned(asked).items).toMatchObject([{ part: 'points' }, { part: 'areas' }]));
  });

  test('bands of a raster: one, each, or three as a picture', async () => {
    const asked = answerWith({
      [PLAN]: plan(item({ dataset: '/r/b/scene.tif', table: 'scene', kind: 'raster', geometry: null, bands: 3 })),
    });
    show(<ImportDialog project={project} into="g/work.gpkg" first={['/r/b/scene.tif']} onClose={nothing} />);
    const choose = async (name: string): Promise<void> => {
      fireEvent.mouseDown(await screen.findByRole('combobox', { name: 'What of it' }));
      fireEvent.click(screen.getByRole('option', { name }));
    };
    await choose('Band 2');
    await waitFor(() => expect(planned(asked).items).toMatchObject([{ band: 2, composite: null }]));
    await choose('Each of its 3 bands, as a table');
    await waitFor(() => expect(planned(asked).items).toMatchObject([{ band: 1 }, { band: 2 }, { band: 3 }]));
    await choose('Three of its bands, as a picture');
    await waitFor(() => expect(planned(asked).items).toMatchObject([{ band: null, composite: [1, 2, 3] }]));
    await choose('Band 3');
    await waitFor(() => expect(planned(asked).items).toMatchObject([{ band: 3, composite: null }]));
  });

  test('a plan that cannot be made is a sentence; a start that fails, too', async () => {
    answerWith({ [PLAN]: { status: 422, body: { title: 'x', detail: 'work.gpkg cannot be read as a geodatabase.', status: 422 } } });
    show(<ImportDialog project={project} into="g/work.gpkg" first={['/r/a/beds.shp']} onClose={nothing} />);
    expect(await screen.findByText(/work\.gpkg cannot be read/)).not.toBeNull();
    cleanup();
    const asked = answerWith({
      [PLAN]: plan(item({})),
      [START]: { status: 409, body: { title: 'x', detail: 'It is being changed by another.', status: 409 } },
    });
    show(<ImportDialog project={project} into="g/work.gpkg" first={['/r/a/beds.shp']} onClose={nothing} />);
    const button = await screen.findByRole('button', { name: 'Bring in 1 dataset' });
    await waitFor(() => expect(button.hasAttribute('disabled')).toBe(false));
    fireEvent.click(button);
    expect(await screen.findByText(/being changed by another/)).not.toBeNull();
    expect(bodies(asked, START)).toHaveLength(1);
  });
});

describe('what is said of what came in', () => {
  const receipt = (over: Partial<ImportReceipt>): ImportReceipt => ({
    dataset: '/r/a/beds.shp',
    part: null,
    table: 'beds',
    unit: 'records',
    read: 3,
    written: 3,
    skipped: [],
    nulls: 0,
    extent: [0, 0, 1, 1],
    isExtentEqual: true,
    invalid: 0,
    fixed: 0,
    firstInvalid: [],
    isEqual: true,
    compared: null,
    losses: [],
    ...over,
  });
  const words = (over: Partial<ImportReceipt>): string => {
    const done: ImportDone = { geodatabase: '/r/g/work.gpkg', receipts: [receipt(over)], failed: [] };
    show(<ImportReceipts project={project} done={done} />);
    const { textContent } = screen.getByRole('status');
    cleanup();
    return textContent ?? '';
  };

  test('the same is said only where everything was read back and is so', () => {
    expect(words({})).toContain(
      '3 records read, 3 written, none left out. The extent is that of the source. Read back, every value and shape is the same.',
    );
    expect(words({ extent: null, isExtentEqual: null })).toContain('Read back, every value is the same.');
    expect(words({ isEqual: false })).toContain('Read back, values differ: look at it before you rely on it.');
    expect(words({ isExtentEqual: false })).toContain('The source states another extent.');
    expect(words({ losses: [{ what: 'measures', count: 2 } as never] })).toContain('but for what is named below');
  });

  test('of pixels it is said who read them, and how many', () => {
    const compared = { pixels: 100, of: 100, isByOthers: true };
    expect(words({ unit: 'pixels', compared: compared })).toContain('Read back by another reader: all pixels are the same.');
    expect(words({ unit: 'pixels', compared: { ...compared, pixels: 25 } })).toContain('25 of 100 pixels, spread over it, are the same');
    expect(words({ unit: 'pixels', compared: { ...compared, isByOthers: false } })).toContain(
      'by the reader that read it first, since no other',
    );
  });

  test('what was left out, has no shape or was made valid is counted', () => {
    const text = words({
      read: 5,
      written: 3,
      skipped: [{ record: 2, why: 'its ring is open' }],
      nulls: 1,
      invalid: 2,
      fixed: 1,
      firstInvalid: [{ record: 4, why: 'it crosses itself' }],
    });
    for (const part of [
      '5 records read, 3 written, 2 left out, 1 without a shape',
      '2 shapes break the rules, 1 made valid',
      'it crosses itself',
    ])
      expect(text).toContain(part);
  });
});

describe('a new geodatabase', () => {
  test('is called after the project, stands in its folder, and is told when it is there', async () => {
    const MAKE = 'POST /api/projects/k/geodatabases';
    const asked = answerWith({ [MAKE]: { body: { change: null } } });
    const made: string[] = [];
    show(
      <NewGeodatabaseDialog
        project={projectView({ title: 'Bay of Ellisande', crs: 'EPSG:32624' })}
        onClose={nothing}
        onMade={(path) => made.push(path)}
      />,
    );
    const dialog = screen.getByRole('dialog');
    expect(dialog.textContent).toContain('geodatabases/bay_of_ellisande.gpkg, made for EPSG:32624');
    fireEvent.change(within(dialog).getByLabelText('Name'), { target: { value: 'work.GPKG' } });
    fireEvent.change(within(dialog).getByLabelText('Folder'), { target: { value: ' ' } });
    fireEvent.click(within(dialog).getByRole('button', { name: 'Make it' }));
    await waitFor(() => expect(made).toEqual(['work.gpkg']));
    expect(bodies(asked, MAKE)).toEqual([{ at: { place: 'desk', path: 'r/work.gpkg' }, crs: 'EPSG:32624' }]);
    expect(told.at(-1)).toBe('work.gpkg is there.');
  });

  test('without a name it cannot be made; what the disk says is told', async () => {
    answerWith({
      'POST /api/projects/k/geodatabases': { status: 409, body: { title: 'x', detail: 'work.gpkg is there already.', status: 409 } },
    });
    show(<NewGeodatabaseDialog project={project} onClose={nothing} onMade={nothing} />);
    fireEvent.change(screen.getByLabelText('Name'), { target: { value: '.gpkg' } });
    expect(screen.getByRole('button', { name: 'Make it' }).hasAttribute('disabled')).toBe(true);
    fireEvent.change(screen.getByLabelText('Name'), { target: { value: 'work' } });
    fireEvent.click(screen.getByRole('button', { name: 'Make it' }));
    expect(await screen.findByText(/work\.gpkg is there already/)).not.toBeNull();
  });
});
