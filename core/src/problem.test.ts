import { expect, test } from '@jest/globals';
import { explain, type Problem } from './problem.js';

const PROBLEMS: Problem[] = [
  { code: 'truncated', file: 'a.shp', neededBytes: 100, gotBytes: 40 },
  { code: 'bad-field', file: 'a.shp', field: 'the file code', offset: 0, expected: '9994', found: 1 },
  { code: 'bad-json', file: 'm', line: 3, column: 7, expected: 'a value' },
  { code: 'wrong-shape', file: 'm', member: 'type', expected: '"FeatureCollection"' },
  { code: 'not-a-database', file: 'g.gpkg', why: 'w' },
  { code: 'too-large', file: 'm', bytes: 9, limitBytes: 8 },
  { code: 'bad-address', text: 'D:x', why: 'w' },
  { code: 'outside-places', path: '/x', why: 'w' },
  { code: 'place-absent', place: 'stick' },
  { code: 'missing', path: '/x' },
  { code: 'exists', path: '/x' },
  { code: 'permission', path: '/x' },
  { code: 'no-space', path: '/x' },
  { code: 'busy', path: '/x' },
  { code: 'read-only', path: '/x' },
  { code: 'io', path: '/x', errno: 'EIO' },
  { code: 'changed-meanwhile', path: '/x' },
  { code: 'locked', root: '/x', owner: 'rootmap' },
  { code: 'not-found', what: 'project', id: 'k' },
  { code: 'bad-bag', path: 'data/x', why: 'w' },
  { code: 'cannot-undo', path: '/x', why: 'w' },
  { code: 'two-project-files', folder: '/x', files: ['a', 'b'] },
  { code: 'wrong-use', message: 'Say what.' },
  { code: 'cancelled', what: 'The bundle' },
  { code: 'failed', what: 'It', why: 'w' },
];

test.each(PROBLEMS.map((p) => [p.code, p] as const))('%s has a sentence that ends, and says what it is about', (_, problem) => {
  const sentence = explain(problem);
  expect(sentence).toMatch(/[.]$/);
  expect(sentence).not.toMatch(/undefined|\[object/);
});
test('the sentence of a damaged map names line, column and what to do', () =>
  expect(explain(PROBLEMS[2]!)).toBe(
    'm is damaged at line 3, column 7: expected a value. Mend the text there, or bring back an earlier copy.',
  ));
test('a full disk says that nothing was lost', () =>
  expect(explain({ code: 'no-space', path: '/x' })).toMatch(/what stood there is unchanged/));
