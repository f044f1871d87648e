import { describe, expect, test } from '@jest/globals';
import type { DraftLayer, IdentifiedLayer } from '@rootmap/core/contract';
import { hitsOf, pixelText } from './hits.js';

const layer = (id: string): DraftLayer => ({ id, title: id.toUpperCase() }) as DraftLayer;
const nothing: Omit<IdentifiedLayer, 'id'> = { shapes: [], more: 0, bands: null, colour: null, problem: null };

describe('what was found at a point', () => {
  test('stands in the order of the map, without layers where nothing is, with what a server sent', () => {
    const found: IdentifiedLayer[] = [
      { ...nothing, id: 'depth', bands: [null, 7], colour: '#102030' },
      { ...nothing, id: 'beds', shapes: [{ record: 4, kind: 'area', away: 0 }], more: 3 },
      { ...nothing, id: 'gone', problem: 'It is gone.' },
      { ...nothing, id: 'empty' },
    ];
    const groups = hitsOf(['beds', 'served', 'empty', 'gone', 'depth'].map(layer), found, [
      { layer: 'served', values: { name: 'Quay', tags: { a: 1 }, none: null } },
    ]);
    expect(groups.map((g) => [g.layer.id, g.hits.length, g.more, g.problem])).toEqual([
      ['beds', 1, 3, null],
      ['served', 1, 0, null],
      ['gone', 0, 0, 'It is gone.'],
      ['depth', 1, 0, null],
    ]);
    expect(groups[1]!.hits[0]).toMatchObject({
      values: [
        { name: 'name', value: 'Quay' },
        { name: 'tags', value: '{"a":1}' },
        { name: 'none', value: null },
      ],
    });
    expect(groups[3]!.hits[0]).toMatchObject({
      values: [
        { name: 'band 1', value: null },
        { name: 'band 2', value: '7' },
        { name: 'colour', value: '#102030' },
      ],
    });
  });

  test.each([
    [Math.fround(10.2), '10.2'],
    [10.2, '10.2'],
    [-9999, '-9999'],
    [Math.fround(1 / 3), '0.33333334'],
    [1 / 3, '0.3333333333333333'],
    [16777217.5, '16777217.5'],
  ])('a pixel of %d is told as %s', (value, text) => {
    expect(pixelText(value)).toBe(text);
    expect(Math.fround(Number(pixelText(value)))).toBe(Math.fround(value));
  });
});
