/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { PLAIN_LABEL, PLAIN_RASTER, plainLook, plainSymbol, type Look } from '@rootmap/core';
import type { KeptLook } from '@rootmap/core/contract';
import { lookFileOf, lookInFile } from './look-file.js';
import { whyNot } from './look-shelf.js';

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

describe('a look that is kept', () => {
  test('a look is for one kind of shapes, and for data that has its field', () => {
    expect(whyNot(kept('a'), 'area', [])).toBeNull();
    expect(whyNot(kept('a'), 'line', [])).toBe('it is for areas');
    expect(whyNot(kept('a', { look: byDepth }), 'area', ['kind'])).toBe('there is no field depth here');
    expect(whyNot(kept('a', { look: byDepth }), 'area', ['depth'])).toBeNull();
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
