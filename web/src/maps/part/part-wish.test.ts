import { describe, expect, test } from '@jest/globals';
import { canBe, selectionOf, type PartKnown, type PartWish } from './part-wish.js';

const known: PartKnown = {
  layer: { filter: ' depth > 5 OR kind = 1 ' },
  chosen: [3, 9],
  crs: 'EPSG:32624',
  inSight: [0, 1, 10, 11],
  measured: [[0, 0], [1, 0], [1, 1]], // prettier-ignore
};
const wish: PartWish = { byFilter: false, byChosen: false, where: 'everywhere', condition: '' };

describe('what a part is taken by', () => {
  test('nothing asked: every record', () => {
    expect(selectionOf(wish, known)).toEqual({ filter: '', area: null, records: null });
  });
  test('filter and condition hold together, whatever they are made of', () => {
    expect(selectionOf({ ...wish, byFilter: true, condition: 'a = 1 OR b = 2' }, known).filter).toBe(
      '(depth > 5 OR kind = 1) AND (a = 1 OR b = 2)',
    );
    expect(selectionOf({ ...wish, byFilter: true }, known).filter).toBe('depth > 5 OR kind = 1');
    expect(selectionOf({ ...wish, condition: ' a = 1 ' }, known).filter).toBe('a = 1');
  });
  test('what is on the screen, what was measured, what is chosen', () => {
    expect(selectionOf({ ...wish, where: 'in-sight', byChosen: true }, known)).toMatchObject({
      area: { crs: 'EPSG:32624', corners: [[0, 1], [10, 1], [10, 11], [0, 11]] }, // prettier-ignore
      records: [3, 9],
    });
    expect(selectionOf({ ...wish, where: 'measured' }, known).area?.corners).toBe(known.measured);
  });
  test('what is not there is not asked for', () => {
    const bare: PartKnown = { layer: { filter: '' }, chosen: [], crs: null, inSight: null, measured: [[0, 0], [1, 1]] }; // prettier-ignore
    expect(canBe(bare)).toEqual({ byFilter: false, byChosen: false, inSight: false, measured: false });
    for (const where of ['in-sight', 'measured'] as const)
      expect(selectionOf({ byFilter: true, byChosen: true, where, condition: '' }, bare)).toEqual({
        filter: '',
        area: null,
        records: null,
      });
  });
});
