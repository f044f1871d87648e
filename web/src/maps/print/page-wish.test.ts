import { PAPERS } from '@rootmap/core';
import { expect, test } from '@jest/globals';
import type { MapDraft } from '@rootmap/core/contract';
import { MapPlane } from '../edit/map-plane.js';
import type { StackRow } from '../edit/layer-row.js';
import { firstWish, missingOf, pageSpec, whyNoPage, fittingScale } from './page-wish.js';

const draft = { title: 'Süd: moorings', crs: 'EPSG:32624', layers: [{}] } as unknown as MapDraft;
const sight = (scale: number) => ({ scale, center: [482_000, 4_871_000] as const }) as Parameters<typeof firstWish>[1];
const plane = new MapPlane(null);
const row = (over: object): StackRow =>
  ({
    layer: { id: 'beds', title: 'beds', active: true, minScale: null, maxScale: null, look: null, filter: '', label: null },
    facts: { data: { kind: 'area' }, file: { state: 'sound' }, fresh: null },
    isReading: false,
    ...over,
  }) as unknown as StackRow;

test('a page begins at a round scale near that of the screen, with a name that every system can hold', () => {
  expect(firstWish(draft, sight(46_009))).toMatchObject({ typedScale: '1:50\u202f000', name: 'Sued_moorings', format: 'pdf', paper: 'A4' });
  expect(firstWish(draft, null).typedScale).toBe('1:25\u202f000');
});

test('ISO 216: each paper is half of the one before, in millimetres rounded down', () => {
  // Source: ISO 216, table 1: A2 420 × 594, A3 297 × 420, A4 210 × 297, A5 148 × 210.
  expect(PAPERS.A4[1]).toBe(PAPERS.A3[0]);
  expect(PAPERS.A3[1]).toBe(PAPERS.A2[0]);
  expect([Math.floor(PAPERS.A3[1] / 2), Math.floor(PAPERS.A4[1] / 2)]).toEqual([PAPERS.A4[0], PAPERS.A5[0]]);
});

test('the paper lies or stands; a scale that cannot be read, a map without CRS or before it is drawn make no page', () => {
  const wish = firstWish(draft, sight(25_000));
  const spec = (over: object, d = draft, s = sight(25_000)) => pageSpec({ ...wish, ...over }, 'Office', d, plane, [row({})], s);
  expect(spec({})).toMatchObject({
    width: 297,
    height: 210,
    scale: 25_000,
    attribution: 'Office',
    legend: [{ title: 'beds', kind: 'area' }],
  });
  expect(spec({ isWide: false })).toMatchObject({ width: 210, height: 297 });
  expect(spec({ typedScale: 'many' })).toBeNull();
  expect(spec({}, { ...draft, crs: null })).toBeNull();
  expect(spec({}, draft, null)).toBeNull();
  expect(whyNoPage({ ...wish, typedScale: 'many' }, draft)).toMatch(/^Type a scale/);
  expect(whyNoPage(wish, { ...draft, crs: null })).toMatch(/Choose one beside the map/);
  expect(whyNoPage(wish, { ...draft, crs: null, layers: [] })).toMatch(/bring a layer into it/);
});

test('what is missing is said before anything is written', () => {
  const wish = firstWish(draft, sight(25_000));
  const told = (over: object, rows: readonly StackRow[], attribution = '', stated: string | null = null): string =>
    missingOf(pageSpec({ ...wish, ...over }, attribution, draft, plane, rows, sight(25_000)), draft, rows, () => stated).join(' ');
  expect(told({}, [row({})], 'Office')).toBe('');
  expect(told({}, [row({})])).toMatch(/where the data comes from/);
  expect(told({ title: ' ' }, [row({})], 'Office')).toMatch(/no title/);
  expect(told({ has: { legend: false, bar: false, north: true } }, [row({})], 'Office')).toMatch(/no scale bar.*no legend/);
  expect(
    told(
      {},
      Array.from({ length: 60 }, () => row({})),
      'Office',
    ),
  ).toMatch(/^The legend has no room for \d+ rows\.$/);
  const lost = row({ facts: { data: { kind: 'area' }, file: { state: 'adrift' }, fresh: null } });
  expect(told({}, [lost, row({ isReading: true })], 'Office')).toBe(
    'Not drawn, since their data is not there: beds. 1 layer is still being read.',
  );
});

test('a page larger than its data was digitised for is pointed out, layer by layer', () => {
  const wish = firstWish(draft, sight(25_000));
  const beds = row({ facts: { data: { kind: 'area', dataset: '/d/beds.shp' }, file: { state: 'sound' }, fresh: null } });
  const told = (typedScale: string, stated: string | null): string =>
    missingOf(pageSpec({ ...wish, typedScale }, 'Office', draft, plane, [beds], sight(25_000)), draft, [beds], () => stated).join(' ');
  expect(told('1:5 000', '1:10 000')).toBe('At 1:5\u202f000 the page is larger than what its data was made for: beds (1:10\u202f000).');
  for (const [scale, stated] of [
    ['1:10 000', '1:10 000'],
    ['1:25 000', '10000'],
    ['1:5 000', null],
    ['1:5 000', 'of the office'],
  ] as const)
    expect(told(scale, stated)).toBe('');
});

test('a scale for all layers that are drawn: round, about the point that is shown', () => {
  const plane = { resolution: (scale: number) => scale * 0.00028 };
  const page = { width: 297, height: 210 };
  const at = { center: [0, 0] as const };
  const layer = (active: boolean, side: number | null) => ({ active, box: side === null ? null : ([-side, -side, side, side] as const) });
  expect(fittingScale([layer(true, 1000), layer(false, 90_000), layer(true, null)], page, plane, at)).toBe('1:15\u202f000');
  expect(fittingScale([layer(false, 1000), layer(true, null)], page, plane, at)).toBeNull();
});
