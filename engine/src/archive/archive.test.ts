import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { execFileSync, spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { buffer } from 'node:stream/consumers';
import { gzipSync } from 'node:zlib';
import tar from 'tar-stream';
import { TestFolder } from '../../test/test-project.js';
import { writeZip } from '../../test/small-zip.js';
import type { Archive } from './archive.js';
import { lookInside } from '../intake/look-inside.js';
import { openArchive } from './open-archive.js';

let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
});
afterEach(() => t.remove());

async function contents(archive: Archive): Promise<Record<string, string>> {
  const found: Record<string, string> = {};
  await archive.read(new Set(archive.entries.map((e) => e.path)), async (entry, content) => {
    found[entry.path] = (await buffer(content)).toString();
  });
  return found;
}
async function open(name: string, bytes: Buffer): Promise<Archive> {
  writeFileSync(t.at(name), bytes);
  return openArchive(t.at(name));
}
async function tarOf(add: (pack: tar.Pack) => void): Promise<Buffer> {
  const pack = tar.pack();
  add(pack);
  pack.finalize();
  return buffer(pack);
}

describe('zip', () => {
  test('what is in it, byte for byte, as unzip gives it too', async () => {
    const zip = await open('a.zip', writeZip({ 'x/a.txt': 'hello', 'x/ü.txt': 'umlaut', 'b.txt': '' }));
    expect(await contents(zip)).toEqual({ 'x/a.txt': 'hello', 'x/ü.txt': 'umlaut', 'b.txt': '' });
    zip.close();
    if (spawnSync('unzip', ['-v']).status === 0)
      expect(execFileSync('unzip', ['-p', t.at('a.zip'), 'x/a.txt'], { encoding: 'utf8' })).toBe('hello');
  });
  test.each([
    ['../up.txt', /leads out/],
    ['a/../../up.txt', /leads out/],
    ['/etc/passwd', /leads out/],
    ['C:/x.txt', /leads out/],
    ['a\\\\..\\\\b.txt', /leads out/],
    ['X/A.TXT', /differs only in case/],
  ])('%s is refused alone, with the reason; the rest is there', async (name, why) => {
    const zip = await open('a.zip', writeZip({ 'x/a.txt': 'good', [name]: 'bad' }));
    expect(zip.entries.map((e) => e.path)).toEqual(['x/a.txt']);
    expect(zip.refused).toEqual([{ path: name, why: expect.stringMatching(why) }]);
    expect(await contents(zip)).toEqual({ 'x/a.txt': 'good' });
    zip.close();
  });
  test('a byte that changed is noticed by the checksum', async () => {
    const bytes = writeZip({ 'a.txt': 'hello hello hello' });
    const central = bytes.lastIndexOf(Buffer.from('PK\x01\x02', 'latin1'));
    bytes.writeUInt32LE(0x12345678, central + 16); // APPNOTE 4.3.12: CRC-32 at offset 16
    const zip = await open('a.zip', bytes);
    await expect(contents(zip)).rejects.toThrow(/checksum/);
    zip.close();
  });
  test('what claims to grow beyond what packing can do is refused', async () => {
    const bytes = writeZip({ 'bomb.txt': 'x', 'good.txt': 'y' });
    const central = bytes.indexOf(Buffer.from('PK\x01\x02', 'latin1'));
    bytes.writeUInt32LE(0x7fffffff, central + 24); // uncompressed size
    const zip = await open('a.zip', bytes);
    expect(zip.entries.map((e) => e.path)).toEqual(['good.txt']);
    expect(zip.refused).toEqual([{ path: 'bomb.txt', why: expect.stringMatching(/grow/) }]);
    zip.close();
  });
  test('entries that share their packed bytes are refused', async () => {
    const bytes = writeZip({ 'a.txt': 'one'.repeat(50), 'b.txt': 'two'.repeat(50) });
    for (
      let at = bytes.indexOf(Buffer.from('PK\x01\x02', 'latin1'));
      at >= 0;
      at = bytes.indexOf(Buffer.from('PK\x01\x02', 'latin1'), at + 4)
    )
      bytes.writeUInt32LE(bytes.length, at + 20); // packed size
    const zip = await open('a.zip', bytes);
    expect(zip.entries).toEqual([]);
    expect(zip.refused.every((r) => /overlap/.test(r.why))).toBe(true);
    zip.close();
  });
  test('names in code page 437, where nothing else is said (APPNOTE D.1)', async () => {
    const bytes = writeZip({ 'gr?n.txt': 'x' });
    for (let at = bytes.indexOf('gr?n'); at >= 0; at = bytes.indexOf('gr?n', at + 1)) bytes[at + 2] = 0x81; // ü
    for (const [mark, flag] of [
      ['PK\x03\x04', 6],
      ['PK\x01\x02', 8],
    ] as const)
      bytes.writeUInt16LE(0, bytes.indexOf(Buffer.from(mark, 'latin1')) + flag);
    const zip = await open('a.zip', bytes);
    expect(zip.entries.map((e) => e.path)).toEqual(['grün.txt']);
    zip.close();
  });
  test('an archive in an archive is opened, too; a damaged one is told', async () => {
    const inner = writeZip({ 'deep/c.txt': 'c' });
    const zip = await open('a.zip', writeZip({ 'a.txt': 'a', 'in/inner.zip': inner, 'in/broken.zip': 'no zip' }));
    expect(await contents(zip)).toEqual({ 'a.txt': 'a', 'in/inner/deep/c.txt': 'c' });
    expect(zip.refused.map((r) => r.path)).toEqual(['in/broken.zip']);
    zip.close();
  });
});

describe('tar', () => {
  test('packed or not; links, devices and what leads out are refused', async () => {
    const bytes = await tarOf((pack) => {
      pack.entry({ name: './x/a.txt', mtime: new Date('2024-05-01T00:00:00Z') }, 'hello');
      pack.entry({ name: 'x', type: 'directory' });
      pack.entry({ name: '../up.txt' }, 'up');
      pack.entry({ name: 'way', type: 'symlink', linkname: '/etc/passwd' });
      pack.entry({ name: 'X/A.txt' }, 'twin');
    });
    for (const [name, content] of [
      ['a.tar', bytes],
      ['a.tar.gz', gzipSync(bytes)],
      ['a.tgz', gzipSync(bytes)],
    ] as const) {
      const archive = await open(name, content);
      expect(archive.entries).toEqual([{ path: 'x/a.txt', bytes: 5, modifiedMs: Date.parse('2024-05-01T00:00:00Z') }]);
      expect(archive.refused.map((r) => r.path).sort()).toEqual(['../up.txt', 'X/A.txt', 'way']);
      expect(await contents(archive)).toEqual({ 'x/a.txt': 'hello' });
    }
    expect(execFileSync('tar', ['tf', t.at('a.tar.gz')], { encoding: 'utf8' })).toContain('x/a.txt');
  });
  test('cut off or damaged: a sentence', async () => {
    const bytes = gzipSync(await tarOf((pack) => pack.entry({ name: 'a.txt' }, 'x'.repeat(5000))));
    await expect(open('cut.tar.gz', bytes.subarray(0, bytes.length - 20))).rejects.toMatchObject({ problem: { code: 'bad-archive' } });
    await expect(open('no.tar.gz', Buffer.from('no gzip at all'))).rejects.toMatchObject({ problem: { code: 'bad-archive' } });
  });
});

test('another ending is told what can be opened', async () => {
  writeFileSync(t.at('a.rar'), 'x');
  await expect(openArchive(t.at('a.rar'))).rejects.toThrow(/zip, kmz, tar/);
  expect(readFileSync(t.at('a.rar'), 'utf8')).toBe('x');
});

describe('made to mislead or to flood', () => {
  test('what no disk could hold beside the others is refused alone: a file where others have a folder, a name that is too long', async () => {
    const long = `${'あ'.repeat(86)}.txt`; // 262 bytes
    const members = { 'dir/file': 'a', dir: 'b', other: 'c', 'Other/below': 'd', [long]: 'e', 'good.txt': 'f' };
    const asTar = await tarOf((pack) => Object.entries(members).forEach(([name, text]) => pack.entry({ name }, text)));
    for (const archive of [await open('a.zip', writeZip(members)), await open('a.tar', asTar)]) {
      expect(archive.refused.map((r) => [r.path, r.why])).toEqual([
        ['dir', 'it is a file where others have a folder'],
        ['Other/below', 'it is below other, which is a file'],
        [long, expect.stringMatching(/longer than the 255 bytes/)],
      ]);
      expect(await contents(archive)).toEqual({ 'dir/file': 'a', other: 'c', 'good.txt': 'f' });
      archive.close();
    }
  });

  // CWE-409: archives in an archive, each of which would be unpacked to be looked into.
  test('all archives in one together take no more than their limit; the others stay packed', async () => {
    const inner = writeZip({ 'zeros.csv': Buffer.alloc(64 << 20) });
    const zip = await open('a.zip', writeZip(Object.fromEntries(['a', 'b'].map((n) => [`${n}.zip`, inner]))));
    expect(zip.entries.map((e) => e.path)).toEqual(['a/zeros.csv', 'b/zeros.csv']); // packed they are small
    zip.close();
    const stored = writeZip({ 'x.csv': 'x' });
    const padded = Buffer.concat([Buffer.alloc(300 << 20), stored]);
    const two = await open('b.zip', writeZip({ 'a.zip': padded, 'b.zip': padded, 'c.csv': 'c' }));
    expect(two.entries.map((e) => e.path)).toContain('b.zip'); // the second one does not fit any more
    two.close();
  }, 90_000); // 600 MB are packed first

  test('twenty thousand small files are looked into in one pass', async () => {
    const members = Object.fromEntries(Array.from({ length: 20_000 }, (_, i) => [`f/${i}.txt`, 'x']));
    writeFileSync(t.at('many.zip'), writeZip(members));
    const seen = await lookInside(t.at('many.zip'));
    expect(seen.files).toBe(20_000); // about 5 s alone; a pass for each file took longer than a test may
  });
});
