import { expect, test } from '@jest/globals';
import type { DatasetView, LayerView } from '@rootmap/core/contract';
import { hostOf, placeOf } from './place-of.js';

const layer = (more: Partial<LayerView>): LayerView =>
  ({ reach: 'inside', link: null, dataset: null, href: '../a.shp', resolved: null, recordedFolder: 'derived', ...more }) as LayerView;
const known = new Map([['/r/a.shp', { id: '/r/a.shp', folder: 'received' } as DatasetView]]);

test.each([
  ['inside, known', layer({ dataset: '/r/a.shp' }), ['root', 'received', '/r/a.shp']],
  [
    'inside, gone: the folder that it was recorded in',
    layer({ resolved: '/r/derived/a.shp' }),
    ['root', 'derived', 'elsewhere:/r/derived/a.shp'],
  ],
  ['through a link', layer({ link: 'base', reach: 'linked', dataset: '/r/a.shp' }), ['link:base', 'received', '/r/a.shp']],
  ['outside, and nobody knows the folder', layer({ reach: 'outside', recordedFolder: null }), ['outside', '', 'elsewhere:../a.shp']],
  [
    'on a server',
    layer({ reach: 'service', href: 'https://maps.example:8080/wms?x=1' }),
    ['service', 'maps.example:8080', 'service:maps.example:8080'],
  ],
] as const)('%s', (_, l, where) => {
  const { box, folder, row } = placeOf(l, known);
  expect([box, folder, row]).toEqual(where);
});

test('two layers of one server share its row; what is no address is its own name', () => {
  const [a, b] = ['https://maps.example/wms', 'HTTPS://maps.example/tiles#x'].map(
    (href) => placeOf(layer({ reach: 'service', href }), known).row,
  );
  expect(a).toBe(b);
  expect(hostOf('maps')).toBe('maps');
});
