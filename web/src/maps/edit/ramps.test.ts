import { describe, expect, test } from '@jest/globals';
import { seaAndLand, SEA_AND_LAND } from './ramps.js';

describe('a ramp for heights and depths', () => {
  test('the sea ends at 0, where the land begins, and values rise', () => {
    const stops = seaAndLand(-60, 240)!;
    const values = stops.map((s) => s.value);
    expect(values).toEqual([...values].sort((a, b) => a - b));
    expect([values[0], values.at(-1)]).toEqual([-60, 240]);
    expect(stops.filter((s) => s.value <= 0).map((s) => s.colour)).toEqual([...SEA_AND_LAND.sea]);
    expect(stops.filter((s) => s.value > 0).map((s) => s.colour)).toEqual([...SEA_AND_LAND.land]);
    const [last, first] = [stops[3]!, stops[4]!];
    expect([last.value, first.value > 0 && first.value < 0.001]).toEqual([0, true]);
  });
  test.each([
    [0, 10],
    [-10, 0],
    [3, 9],
  ])('from %d to %d there is no shore', (from, to) => expect(seaAndLand(from, to)).toBeNull());
});
