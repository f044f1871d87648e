import { expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { isSuspect } from '@rootmap/core';
import { wktToWkb } from '../../../core/src/geometry/wkt-to-wkb.js';
import { ShapeJudge } from './valid-shapes.js';

interface Published {
  readonly source: string;
  readonly cases: readonly (readonly [what: string, wkt: string, isValid: boolean])[];
}

const { cases } = JSON.parse(readFileSync('testdata/checks/simple-features-validity.json', 'utf8')) as Published;

test('shapes of the published cases are valid or not as their source says', () => {
  const judge = new ShapeJudge(false);
  const read = cases.flatMap(([what, wkt, isValid]) => {
    const wkb = wktToWkb(wkt);
    return wkb ? [{ what, wkt, isValid, found: !isSuspect(wkb) || judge.fault(wkb) === null }] : [];
  });
  expect(read.filter((c) => c.found !== c.isValid)).toEqual([]);
  // Empty parts, coordinates that are no numbers (another check) and rings by themselves are not read from text: 20 of 841.
  expect([read.length, read.filter((c) => !c.isValid).length, cases.length]).toEqual([821, 49, 841]);
});
