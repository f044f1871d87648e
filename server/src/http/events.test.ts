import { expect, jest, test } from '@jest/globals';
import type { JobView, ServerEvent } from '@rootmap/core/contract';
import { Events } from './events.js';

const project = (key: string): ServerEvent => ({ type: 'project', key });
const job: ServerEvent = { type: 'job', job: { id: 'j' } as JobView };
const heard = (events: Events): ServerEvent[] => {
  const told: ServerEvent[] = [];
  events.listen().subscribe((event) => told.push(event));
  return told;
};

test('whoever begins to listen is told what happened a moment ago, once, and then everything', () => {
  const events = new Events();
  events.publish(project('a'));
  events.publish(project('a'));
  events.publish({ type: 'places' });
  events.publish(job);
  const told = heard(events);
  expect(told).toEqual([project('a'), { type: 'places' }]);
  events.publish(job);
  events.publish(project('b'));
  expect(told.slice(2)).toEqual([job, project('b')]);
});

test('what is longer ago is not told again', () => {
  const now = jest.spyOn(performance, 'now').mockReturnValue(1000);
  const events = new Events();
  events.publish(project('old'));
  now.mockReturnValue(12_000);
  expect(heard(events)).toEqual([]);
  events.publish(project('new'));
  expect(heard(events)).toEqual([project('new')]);
  now.mockRestore();
});
