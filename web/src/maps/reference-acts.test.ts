import { expect, test } from '@jest/globals';
import type { LayerView, ProjectView } from '@rootmap/core/contract';
import { editOf, folderAt, isBroken, isToBringIn, isToLink } from './reference-acts.js';

const layer = (more: Partial<LayerView>): LayerView =>
  ({ state: 'sound', reach: 'inside', layer: 'l', map: '/r/maps/a.owc.json', resolved: null, ...more }) as LayerView;

test('what is broken, what can be brought in, what can be linked', () => {
  const of = (more: Partial<LayerView>) => [isBroken, isToBringIn, isToLink].map((is) => is(layer(more)));
  expect(of({})).toEqual([false, false, false]);
  expect(of({ reach: 'outside' })).toEqual([false, true, true]);
  expect(of({ reach: 'linked' })).toEqual([false, true, false]);
  expect(of({ reach: 'outside', state: 'adrift' })).toEqual([true, false, false]);
  expect(of({ state: 'absent' })).toEqual([false, false, false]); // its stick is away: nothing is wrong with it
});

test('a request names maps from the root, and one that is in no project as it is', () => {
  const project = { maps: [{ path: '/r/maps/a.owc.json', relativePath: 'maps/a.owc.json' }] } as unknown as ProjectView;
  expect(editOf([layer({ layer: 'x' }), layer({ layer: 'y', map: '/elsewhere.owc.json' })], 'relative', project)).toEqual({
    kind: 'references',
    layers: [
      { map: 'maps/a.owc.json', layer: 'x', act: 'relative' },
      { map: '/elsewhere.owc.json', layer: 'y', act: 'relative' },
    ],
  });
});

test('the folder of the data, in the deepest place that holds it', () => {
  const places = [{ name: 'desk', folder: '/d' }, { name: 'gis', folder: '/d/gis' }, { name: 'other', folder: '/d/gi' }]; // prettier-ignore
  expect(folderAt(layer({ resolved: '/d/gis/a/b.shp' }), places)).toEqual({ place: 'gis', path: 'a' });
  expect(folderAt(layer({ resolved: '/d/gis/b.shp' }), places)).toEqual({ place: 'gis', path: '' });
  expect(folderAt(layer({ resolved: '/x/b.shp' }), places)).toBeNull();
  expect(folderAt(layer({}), places)).toBeNull();
});
