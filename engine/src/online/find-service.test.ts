import { describe, expect, test } from '@jest/globals';
import { pastedAddress, signInOf } from './find-service.js';

describe('what people paste', () => {
  test.each([
    [' maps.example/wms ', 'https://maps.example/wms'],
    ['<https://maps.example/a>', 'https://maps.example/a'],
    ['http://maps.example', 'http://maps.example'],
    ['maps.example:8080/x', 'https://maps.example:8080/x'],
  ])('%s', (pasted, address) => expect(pastedAddress(pasted)).toBe(address));
  test.each(['ftp://x', 'file:///etc', '', '   ', 'https://', 'javascript:alert(1)//x'])('%s is refused', (pasted) =>
    expect(() => pastedAddress(pasted)).toThrow(/no address/),
  );
  test('name, password and key are taken out of it', () => {
    expect(signInOf('https://me:p%40ss@x/')).toEqual({ kind: 'password', name: 'me', password: 'p@ss' });
    expect(signInOf('https://x/?token=k&a=1')).toEqual({ kind: 'key', as: 'query', name: 'token', key: 'k' });
    expect(signInOf('https://x/?a=1')).toBeNull();
  });
});
