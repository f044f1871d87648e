import { expect, test } from '@jest/globals';
import { countOf, editsOf, openSession, stepSession, type Session, type SessionEvent } from './edit-session.js';

const fields = [{ name: 'depth', type: 'real' as const }];
const point = (x: number) => ({ type: 'Point', coordinates: [x, 0] });
const start = openSession(fields, [
  { id: 7, geometry: point(1), values: [1] },
  { id: 9, geometry: point(2), values: [2] },
]);
const after = (...events: SessionEvent[]): Session => events.reduce(stepSession, start);

test('drawn, moved, changed, removed: each is told once, and what was not touched is not', () => {
  const s = after(
    { type: 'draw', geometry: point(5) },
    { type: 'set', key: 2, field: 0, value: 12.5 },
    { type: 'reshape', shapes: new Map([[0, point(4)]]) },
    { type: 'remove', key: 1 },
  );
  expect(editsOf(start.now, s.now)).toEqual({
    newFields: [],
    added: [{ geometry: point(5), values: [12.5] }],
    changed: [{ id: 7, geometry: point(4), values: [1] }],
    removed: [9],
  });
});
test('an added field alone changes no record; its values do', () => {
  const field = { name: 'notes', type: 'text' as const };
  expect(editsOf(start.now, after({ type: 'add-field', field }).now)).toEqual({ newFields: [field], added: [], changed: [], removed: [] });
  const s = after({ type: 'add-field', field }, { type: 'set', key: 0, field: 1, value: 'x' });
  expect(editsOf(start.now, s.now).changed).toEqual([{ id: 7, values: [1, 'x'] }]);
});
test('everything is taken back step by step, and done again', () => {
  let s = after({ type: 'draw', geometry: point(5) }, { type: 'remove', key: 0 });
  s = stepSession(stepSession(s, { type: 'undo' }), { type: 'undo' });
  expect([s.now, countOf(editsOf(start.now, s.now))]).toEqual([start.now, 0]);
  s = stepSession(s, { type: 'redo' });
  expect(s.now.records).toHaveLength(3);
  expect(stepSession(start, { type: 'undo' })).toBe(start);
});
