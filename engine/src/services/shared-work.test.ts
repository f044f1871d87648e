import { expect, test } from '@jest/globals';
import { SharedWork } from './shared-work.js';

const endless = (): { work: SharedWork<string>; signal: () => AbortSignal } => {
  let seen: AbortSignal;
  const work = new SharedWork<string>((signal) => {
    seen = signal;
    return new Promise((_, reject) => signal.addEventListener('abort', () => reject(new Error('ended'))));
  });
  return { work, signal: () => seen };
};

test('it goes on while one of those who wait is there, and ends with the last', async () => {
  const { work, signal } = endless();
  const [a, b] = [new AbortController(), new AbortController()];
  const waits = [work.join(a.signal), work.join(b.signal)];
  a.abort();
  expect([signal().aborted, work.isEnded]).toEqual([false, false]);
  b.abort();
  expect([signal().aborted, work.isEnded]).toEqual([true, true]);
  for (const wait of waits) await expect(wait).rejects.toThrow('ended');
});

test('one who waits without a signal keeps it going', () => {
  const { work, signal } = endless();
  const gone = new AbortController();
  void work.join().catch(() => undefined);
  void work.join(gone.signal).catch(() => undefined);
  gone.abort();
  expect(signal().aborted).toBe(false);
});
