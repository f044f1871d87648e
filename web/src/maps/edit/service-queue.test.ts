import { expect, test } from '@jest/globals';
import { ServiceQueue } from './service-queue.js';

test('two of one service, four of all; a service that never answers holds up no other', () => {
  const queue = new ServiceQueue();
  const begun: string[] = [];
  const ends = new Map<string, () => void>();
  const ask = (service: string, n: number): void =>
    queue.run(service, (done) => {
      begun.push(`${service}${n}`);
      ends.set(`${service}${n}`, done);
    });
  for (let n = 0; n < 5; n++) ask('dead', n);
  for (let n = 0; n < 5; n++) ask('alive', n);
  expect(begun).toEqual(['dead0', 'dead1', 'alive0', 'alive1']);
  for (let n = 0; n < 5; n++) {
    ends.get(`alive${n}`)!();
    ends.get(`alive${n}`)!(); // told twice, it counts once
  }
  expect(begun).toEqual(['dead0', 'dead1', 'alive0', 'alive1', 'alive2', 'alive3', 'alive4']);
  ask('third', 0);
  ends.get('dead0')!();
  expect(begun.slice(7)).toEqual(['third0', 'dead2']);
});
