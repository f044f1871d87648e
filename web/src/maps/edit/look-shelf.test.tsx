/** @jest-environment jsdom */
import { afterEach, describe, expect, test } from '@jest/globals';
import { act, renderHook } from '@testing-library/react';
import { PLAIN_LABEL, PLAIN_RASTER, plainLook, plainSymbol, type Look } from '@rootmap/core';
import { lookFileOf, lookInFile } from './look-file.js';
import { useLookShelf, whyNot, type KeptLook } from './look-shelf.js';

afterEach(() => localStorage.clear());
const kept = (name: string, over: Partial<KeptLook> = {}): KeptLook => ({
  name,
  kind: 'area',
  look: plainLook('area'),
  label: null,
  ...over,
});
const byDepth: Look = {
  kind: 'by-class',
  field: 'depth',
  method: 'natural',
  breaks: [0, 5, 10],
  entries: [
    { title: '0 to 5', symbol: { ...plainSymbol('area'), fill: '#112233' } },
    { title: '5 to 10', symbol: { ...plainSymbol('area'), fill: '#445566' } },
  ],
};

describe('the shelf of looks', () => {
  test('keeps one look a name, in order, for all that show it', () => {
    const [one, other] = [renderHook(useLookShelf), renderHook(useLookShelf)];
    act(() => one.result.current.keep(kept('Mud')));
    act(() => one.result.current.keep(kept('Beds')));
    act(() => one.result.current.keep(kept('Mud', { look: byDepth })));
    expect(other.result.current.shelf.map((l) => [l.name, l.look.kind])).toEqual([
      ['Beds', 'one'],
      ['Mud', 'by-class'],
    ]);
    act(() => other.result.current.drop('Beds'));
    expect(one.result.current.shelf.map((l) => l.name)).toEqual(['Mud']);
  });

  test('a look is for one kind of shapes, and for data that has its field', () => {
    expect(whyNot(kept('a'), 'area', [])).toBeNull();
    expect(whyNot(kept('a'), 'line', [])).toBe('it is for areas');
    expect(whyNot(kept('a', { look: byDepth }), 'area', ['kind'])).toBe('there is no field depth here');
    expect(whyNot(kept('a', { look: byDepth }), 'area', ['depth'])).toBeNull();
  });

  test.each(['{', '[3, null]', '[{"name": 1}]'])('what is kept as %s does no harm', (text) => {
    localStorage.setItem('rootmap.looks', text);
    expect(renderHook(useLookShelf).result.current.shelf).toEqual([]);
  });
});

describe('a look in a file of its own, SLD (OGC 05-078r4)', () => {
  const fields = [{ name: 'depth', type: 'real' as const }];
  test('comes back as it was, with its label', async () => {
    const label = { ...PLAIN_LABEL, template: '{depth}', placement: 'over' as const };
    const text = await lookFileOf({ name: 'Depth', kind: 'area', look: byDepth, label });
    expect(text).toMatch(/<(\w+:)?StyledLayerDescriptor[^>]*version="1\.1\.0"/);
    const read = await lookInFile(text, fields);
    expect(read?.look).toMatchObject({ kind: 'by-class', field: 'depth', breaks: [0, 5, 10] });
    expect(read?.label?.template).toBe('{depth}');
    const ramp = [0, 1].map((value) => ({ value, colour: value === 0 ? '#000000' : '#ff0000', opacity: 1 }));
    const raster = await lookInFile(await lookFileOf({ name: 'r', kind: 'raster', look: { ...PLAIN_RASTER, ramp }, label: null }), []);
    expect(raster?.look).toMatchObject({ kind: 'raster', ramp });
  });
  test('what is no style is told', async () => {
    for (const text of ['', 'not xml', '<a/>', '{"a": 1}']) expect(await lookInFile(text, fields)).toBeNull();
  });
});
