import { expect, test } from '@jest/globals';
import { EVERY_PLACE, parseHostList } from './hosts-of-places.js';

test('a list of hosts, for every place or for one', () => {
  expect(parseHostList(' Maps.Office:8080, Harbour share=gis.lan ,,=x')).toEqual([
    { place: EVERY_PLACE, host: 'maps.office:8080' },
    { place: 'Harbour share', host: 'gis.lan' },
    { place: EVERY_PLACE, host: 'x' },
  ]);
  expect(parseHostList(undefined)).toEqual([]);
});
