import { expect, test } from '@jest/globals';
import { crc32 } from 'node:zlib';
import fc from 'fast-check';
import { crcOfBoth } from './crc-of-both.js';

/** zlib's own CRC-32 is the judge. */
test('the CRC of two runs of bytes comes from the CRC of each', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 400 }), fc.uint8Array({ maxLength: 400 }), (a, b) => {
      expect(crcOfBoth(crc32(a), crc32(b), b.length)).toBe(crc32(Buffer.concat([a, b])));
    }),
    { seed: 21, numRuns: 300 },
  );
  const long = Buffer.alloc(3_000_001, 7);
  expect(crcOfBoth(crc32(Buffer.from('x')), crc32(long), long.length)).toBe(crc32(Buffer.concat([Buffer.from('x'), long])));
});
