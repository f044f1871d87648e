/** @jest-environment jsdom */
import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor, within } from '@testing-library/react';
import type { PackPreview, SendCheckView } from '@rootmap/core/contract';
import { answerWith, show, type Asked } from '../../test/render.js';
import { BundleStep } from './bundle-step.js';
import { ChecksStep } from './checks-step.js';
import { SizeMeter } from './size-meter.js';
import { SEND_EVERYTHING, type Sending } from './use-send.js';

const before = globalThis.fetch;
afterEach(() => {
  cleanup();
  globalThis.fetch = before;
});
const bodies = (asked: readonly Asked[], what: string): unknown[] => asked.filter((a) => a.what === what).map((a) => a.body);

const layer = (over: Partial<PackPreview['layers'][number]> = {}): PackPreview['layers'][number] => ({
  map: 'maps/a.owc.json',
  id: 'l',
  title: 'Beds',
  state: 'sound',
  detail: null,
  ...over,
});
const check = (over: Partial<SendCheckView>): SendCheckView => ({
  check: 'names',
  path: 'a/b.shp',
  why: 'its name',
  isNote: false,
  fix: null,
  ...over,
});
const preview = (over: Partial<PackPreview> = {}): PackPreview => ({
  suggested: { place: 'desk', path: 'bundles/p.zip' },
  files: 3,
  bytes: 3000,
  packedBytes: 2000,
  contents: [],
  outside: [],
  services: [],
  pages: [],
  toFetch: [],
  leftOut: [],
  checks: [],
  layers: [layer()],
  maps: [],
  rewritten: 0,
  carriers: [],
  ...over,
});
const sending = (over: Partial<Sending> = {}): Sending & { changes: object[] } => {
  const changes: object[] = [];
  return {
    send: SEND_EVERYTHING,
    set: (c) => void changes.push(c),
    preview: null,
    isOld: false,
    error: null,
    retry: () => undefined,
    changes,
    ...over,
  };
};

describe('what is checked before it goes', () => {
  const checks = (of: Partial<PackPreview>, state = sending()) => show(<ChecksStep sending={state} preview={preview(of)} projectKey="k" />);

  test('layers that will be sound, those that will not, and those that nobody asked', () => {
    checks({});
    expect(screen.getByText('all 1 layer sound on arrival')).not.toBeNull();
    cleanup();
    checks({ layers: [layer(), layer({ id: 'm', state: 'adrift' }), layer({ id: 'n', state: 'not-asked' })] });
    expect(screen.getByText('1 layer will not be sound on arrival')).not.toBeNull();
    expect(screen.getByText(/^1 of 3 layers sound/).textContent).toContain('1 not asked');
  });

  test('each sort stands once, the worst sort of it as its mark, the first five of it by name', () => {
    checks({
      checks: [
        ...Array.from({ length: 7 }, (_, i) => check({ check: 'sheets', path: `d${i}.shp`, why: 'nobody reviewed it', fix: 'quality' })),
        check({ check: 'origins', why: 'nobody wrote down where it came from', isNote: true, fix: 'origin' }),
        check({ check: 'secrets', path: 'key.pem', why: 'by its name it holds a key' }),
      ],
    });
    expect(screen.getAllByRole('heading', { level: 3 }).map((h) => h.textContent)).toEqual([
      'Quality sheets that the project asks for',
      'Origins',
      'Keys and passwords',
    ]);
    expect(screen.getByText('and 2 more')).not.toBeNull();
    expect(screen.getByText('1 note')).not.toBeNull();
  });

  test('each way to put it right leads there', () => {
    const state = sending();
    checks(
      {
        checks: [
          check({ check: 'layers', fix: 'along' }),
          check({ check: 'layers', path: 'c.shp', fix: 'mend' }),
          check({ check: 'names', fix: 'names' }),
          check({ check: 'licences', fix: 'origin' }),
          check({ check: 'sheets', fix: 'quality' }),
          check({ check: 'unsaved', path: 'maps/a b.owc.json', fix: 'save' }),
        ],
      },
      state,
    );
    const links = Object.fromEntries(screen.getAllByRole('link').map((l) => [l.textContent, l.getAttribute('href')]));
    expect(links).toEqual({
      'Mend first': '/p/k/mend',
      'Look at names': '/p/k/folders?view=names',
      'Write the origins': '/p/k/sources',
      'Check and review them': '/p/k/quality',
      'Open the map to save it': '/p/k/maps/edit?map=maps%2Fa%20b.owc.json',
    });
    fireEvent.click(screen.getByRole('button', { name: 'Bring the data along' }));
    expect(state.changes).toEqual([{ along: 'all' }]);
  });

  test('services are told as not carried; the length of a path stays within what a system has', () => {
    const state = sending();
    checks({ services: [{ title: 'Charts', address: 'https://charts.example/wms', map: 'a' }] }, state);
    expect(screen.getByText('https://charts.example/wms')).not.toBeNull();
    const length = screen.getByLabelText('Characters of the folder it is unpacked in');
    for (const value of ['9999', '-3', '12.4', 'x']) fireEvent.change(length, { target: { value } });
    expect(state.changes).toEqual(expect.arrayContaining([{ rootCharacters: 4000 }, { rootCharacters: 1 }, { rootCharacters: 12 }]));
  });

  test('of one layer with its look no layer is tried', () => {
    checks({}, sending({ send: { ...SEND_EVERYTHING, layer: { map: 'a', id: 'l' } } }));
    expect(screen.getByText('no map goes along, so no layer is tried')).not.toBeNull();
    expect(screen.queryByText(/layers? sound/)).toBeNull();
  });
});

describe('the bundle itself', () => {
  const PACK = 'POST /api/projects/k/bundle';
  const step = (of: Partial<PackPreview> = {}, state: Partial<Sending> = {}) =>
    show(<BundleStep sending={sending(state)} preview={preview(of)} projectKey="k" />);
  const button = (name = 'Make the bundle'): HTMLButtonElement => screen.getByRole('button', { name });

  test('is not made while what is shown is old, or of nothing, or without the sheets that the project asks for', () => {
    answerWith({ 'GET /api/jobs': { body: [] } });
    step();
    expect(button().disabled).toBe(false);
    cleanup();
    step({}, { isOld: true });
    expect(button().disabled).toBe(true);
    cleanup();
    step({ files: 0 });
    expect(button().disabled).toBe(true);
    cleanup();
    step({ checks: [check({ check: 'sheets' }), check({ check: 'sheets' }), check({ check: 'names' })] });
    expect(button().disabled).toBe(true);
    expect(screen.getByText(/^The project asks for a sheet of every dataset before it is sent, and 2 lack it/)).not.toBeNull();
  });

  test('a zip goes where it is proposed; a copy without a zip beside it', async () => {
    const job = {
      id: 'j',
      kind: 'pack',
      title: 'Bundle p.zip',
      project: 'k',
      startedMs: 0,
      done: 0,
      of: 0,
      unit: 'bytes',
      item: '',
      state: 'running',
      message: null,
    };
    const asked = answerWith({ 'GET /api/jobs': { body: [] }, [PACK]: { status: 202, body: job } });
    step();
    fireEvent.click(button());
    await waitFor(() => expect(bodies(asked, PACK)).toMatchObject([{ out: { place: 'desk', path: 'bundles/p.zip' }, asFolder: false }]));
    fireEvent.click(screen.getByRole('radio', { name: 'A copy at a place, without a zip' }));
    await waitFor(() => expect(button('Copy it there').disabled).toBe(false));
    fireEvent.click(button('Copy it there'));
    await waitFor(() => expect(bodies(asked, PACK)[1]).toMatchObject({ out: { place: 'desk', path: 'bundles/p_copy' }, asFolder: true }));
  });

  test('what the server refuses is told, and nothing is said to be made', async () => {
    answerWith({
      'GET /api/jobs': { body: [] },
      [PACK]: { status: 409, body: { title: 'x', detail: 'p.zip is there already.', status: 409 } },
    });
    step();
    fireEvent.click(button());
    expect(await screen.findByText(/p\.zip is there already/)).not.toBeNull();
    expect(screen.queryByText(/is made and was read back/)).toBeNull();
  });

  test('what was made says how large it is, exactly, and that it was read back', async () => {
    const result = { out: { place: 'desk', path: 'bundles/p.zip' }, bytes: 1234, payload: { files: 3, bytes: 3000 }, carriers: [] };
    const job = {
      id: 'j',
      kind: 'pack',
      title: 'Bundle p.zip',
      project: 'k',
      startedMs: 0,
      done: 1,
      of: 1,
      unit: 'bytes',
      item: '',
      state: 'done',
      message: null,
      result,
    };
    answerWith({ 'GET /api/jobs': { body: [job] }, [PACK]: { status: 202, body: job } });
    step();
    const told = await screen.findByText('The bundle is made and was read back.');
    const card = within(told.parentElement!);
    expect(card.getByText(/3 files, every checksum right\./)).not.toBeNull();
    expect(card.getByRole('link').getAttribute('href')).toBe('/receive?place=desk&path=bundles%2Fp.zip');
  });
});

test('a size against what carries it: a guess is called one, and what is too large says why', () => {
  const carriers = [
    { name: 'mail', fits: false, why: 'most take 20 MB', limitBytes: 20e6 },
    { name: 'cloud', fits: true, why: '', limitBytes: null },
  ];
  const { container } = show(<SizeMeter size={50e6} isExact={false} carriers={carriers} />);
  expect(container.textContent).toContain('about 47.7 MiB packed, estimated');
  expect(container.textContent).toContain('too large: most take 20 MB');
  expect(container.textContent).toContain('cloudcarries it');
  cleanup();
  show(<SizeMeter size={50e6} isExact carriers={carriers} />);
  expect(screen.getByRole('img').getAttribute('aria-label')).toBe('47.7 MiB');
});
