import { expect, test } from '@jest/globals';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from './native-path.js';
import { patiently } from './patience.js';

const failing = (code: string, times: number) => {
  let calls = 0;
  const act = (): Promise<string> => {
    calls++;
    return calls <= times ? Promise.reject(Object.assign(new Error(code), { code, syscall: 'rename' })) : Promise.resolve('done');
  };
  return { act, calls: () => calls };
};

test('what is let go of in a moment is waited for', async () => {
  for (const code of ['EBUSY', 'EPERM', 'EACCES']) expect(await patiently([], failing(code, 4).act, true)).toBe('done');
});
test('what stays held is given up after two seconds, with what the system said', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'rootmap-patience-'));
  writeFileSync(join(folder, 'a'), 'x');
  const { act, calls } = failing('EBUSY', Infinity);
  const startedMs = performance.now();
  await expect(patiently([folder], act, true)).rejects.toMatchObject({ code: 'EBUSY' });
  expect(performance.now() - startedMs).toBeGreaterThan(1500);
  expect(calls()).toBeGreaterThan(5);
  rmSync(folder, { recursive: true });
});
test('nobody waits for what no waiting helps, nor on a system without such locks', async () => {
  for (const [code, isPatient] of [
    ['ENOENT', true],
    ['ENOSPC', true],
    ['EBUSY', false],
  ] as const) {
    const { act, calls } = failing(code, Infinity);
    await expect(patiently([], act, isPatient)).rejects.toMatchObject({ code });
    expect(calls()).toBe(1);
  }
});
