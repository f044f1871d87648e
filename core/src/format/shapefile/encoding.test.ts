import { describe, expect, test } from '@jest/globals';
import { encodingLabelled, encodingOfCpg, encodingOfLdid, guessing } from './encoding.js';

/** Expected texts are those of the codecs of CPython 3.11. */
const decode = (e: ReturnType<typeof encodingOfCpg>, ...bytes: number[]): string | undefined => e?.decode(Uint8Array.from(bytes));

describe('.cpg', () => {
  test.each([
    ['UTF-8', [0xc3, 0xbc], 'ü'],
    ['utf8\r\n', [0xc3, 0xbc], 'ü'],
    ['\uFEFFUTF-8', [0xc3, 0xbc], 'ü'],
    ['1252', [0xfc, 0x80], 'ü€'],
    ['ANSI 1250', [0xf8, 0xed], 'řĺ'.replace('ĺ', 'í')],
    ['CP852', [0x81, 0xfd], 'üř'],
    ['437', [0x81, 0xe1], 'üß'],
    ['850', [0x9b], 'ø'],
    ['ISO-8859-2', [0xf8], 'ř'],
    ['88592', [0xf8], 'ř'],
    ['8859-1', [0xfc], 'ü'],
    ['866', [0x8f], 'П'],
  ])('%j', (label, bytes, text) => expect(decode(encodingOfCpg(label), ...bytes)).toBe(text));
  test.each(['', 'nonsense', '99999'])('%j names none', (label) => expect(encodingOfCpg(label)).toBeNull());
});

test.each([
  [0x01, [0x81], 'ü'],
  [0x02, [0x9b], 'ø'],
  [0x03, [0xfc], 'ü'],
  [0x57, [0xfc], 'ü'],
  [0x64, [0xfd], 'ř'],
  [0x65, [0x8f], 'П'],
  [0xc8, [0xf8], 'ř'],
  [0xc9, [0xcf], 'П'],
])('language driver %i', (ldid, bytes, text) => expect(decode(encodingOfLdid(ldid), ...bytes)).toBe(text));
// The WHATWG Encoding Standard, index-windows-1252, which stands for Latin-1, too.
test('dashes, the euro sign and quotation marks, whoever names the encoding, and where nobody does', () => {
  const bytes = Uint8Array.of(0x41, 0x96, 0x80, 0x8c, 0x84, 0xfc);
  for (const encoding of [
    encodingOfCpg('1252'),
    encodingOfCpg('ISO-8859-1'),
    encodingOfCpg('windows-1252'),
    encodingOfLdid(0x57),
    encodingLabelled('windows-1252', 'Windows-1252'),
    guessing,
  ])
    expect(encoding!.decode(bytes)).toBe('A–€Œ„ü');
});
test('0 names none', () => expect(encodingOfLdid(0)).toBeNull());
