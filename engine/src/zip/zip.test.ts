import { expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { crc32, inflateRawSync } from 'node:zlib';
import fc from 'fast-check';
import { crcOfBoth } from './crc-of-both.js';
import { join } from '../disk/native-path.js';
import { ZipReader } from './zip-reader.js';
import { deflated, ZipWriter } from './zip-writer.js';

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

/** Info-ZIP's and Python's readers are the judges. 65,535 is the most that a zip without zip64 counts. */
test('more entries than a zip without zip64 can count', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'rootmap-zip-'));
  try {
    const path = join(folder, 'many.zip');
    const zip = await ZipWriter.create(path);
    const empty = { crc: 0, bytes: 0, data: new Uint8Array(), stored: true };
    for (let i = 0; i < 70_000; i++) await zip.addPacked(`data/file ${i}.txt`, empty, 1_700_000_000_000);
    await zip.finish();
    expect(execFileSync('unzip', ['-Z', '-h', path], { encoding: 'utf8' })).toContain('number of entries: 70000');
    const counted = 'import sys,zipfile; z=zipfile.ZipFile(sys.argv[1]); print(len(z.namelist()), z.testzip())';
    expect(execFileSync('python3', ['-c', counted, path], { encoding: 'utf8' }).trim()).toBe('70000 None');
    const reader = await ZipReader.open(path);
    expect(reader.entries.at(-1)).toMatchObject({ name: 'data/file 69999.txt', bytes: 0 });
    reader.close();
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}, 90_000);
