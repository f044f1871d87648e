import { expect, test } from '@jest/globals';
import { crc32, inflateRawSync } from 'node:zlib';
import fc from 'fast-check';
import { crcOfBoth } from './crc-of-both.js';
import { deflated } from './zip-writer.js';

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

/** zlib's own inflate is the judge. */
test('a stream that is packed in pieces at the same time is one stream, the same however its bytes come', async () => {
  const pack = async (bytes: Buffer, size: number): Promise<Buffer> => {
    const pieces = async function* (): AsyncGenerator<Uint8Array> {
      for (let at = 0; at < bytes.length; at += size) yield bytes.subarray(at, at + size);
    };
    const packed: Uint8Array[] = [];
    for await (const piece of deflated(pieces())) packed.push(piece);
    return Buffer.concat(packed);
  };
  for (const length of [0, 1, (1 << 20) - 1, 1 << 20, (1 << 20) + 1, 5_000_003]) {
    const bytes = Buffer.alloc(length);
    for (let i = 0; i < length; i++) bytes[i] = (i * i) >> 9;
    const packed = await pack(bytes, 70_001);
    expect(inflateRawSync(packed).equals(bytes)).toBe(true);
    expect((await pack(bytes, 1 << 18)).equals(packed)).toBe(true);
  }
});
