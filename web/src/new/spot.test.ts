import { expect, test } from '@jest/globals';
import { spotAt, spotWords } from './spot';

test.each([
  [-39.04, 43.96, { longitude: -39, latitude: 44 }],
  [190, 95, { longitude: -170, latitude: 90 }],
  [-185, -91, { longitude: 175, latitude: -90 }],
])('%d, %d', (longitude, latitude, spot) => expect(spotAt(longitude, latitude)).toEqual(spot));
test('words', () => expect(spotWords({ longitude: -39, latitude: -4 })).toBe('4° south, 39° west'));
