import { describe, expect, test } from '@jest/globals';
import { isLoopback, readConfig } from './config.js';

describe('configuration', () => {
  test.each(['127.0.0.1', '127.8.0.1', '::1', 'localhost'])('%s is loopback', (host) => expect(isLoopback(host)).toBe(true));
  test.each(['0.0.0.0', '10.0.0.1', '::', 'localhost.example', '127.0.0.1.example'])('%s is not', (host) =>
    expect(isLoopback(host)).toBe(false),
  );
  test.each([
    { ROOTMAP_PORT: 'x' },
    { ROOTMAP_PORT: '70000' },
    { ROOTMAP_READ_SECONDS: '0' },
    { ROOTMAP_HOST: '0.0.0.0' },
    { ROOTMAP_HOST: '0.0.0.0', ROOTMAP_KEY: 'short' },
    { ROOTMAP_PLACES: 'desk' },
    { ROOTMAP_PLACES: 'desk=/x,Q' },
  ])('%j is refused with a sentence', (env) => expect(() => readConfig(env)).toThrow(/\.|:/));
  test('places with drive names', () =>
    expect(readConfig({ ROOTMAP_PLACES: 'a=/x,D:;b=/y,\\\\s\\h,E:' }).places).toEqual([
      { name: 'a', folder: '/x', driveNames: ['D:'] },
      { name: 'b', folder: '/y', driveNames: ['\\\\s\\h', 'E:'] },
    ]));
});
