import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, truncateSync, writeFileSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import { TestFolder } from '../../test/test-project.js';
import type { RunOptions } from '../changes/run-change.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { ZipReader } from '../zip/zip-reader.js';
import { ZipWriter } from '../zip/zip-writer.js';
import { pack } from './pack.js';
import { planPack } from './plan-pack.js';
import { receive } from './receive.js';
import { verifyBundle } from './verify.js';

let t: TestFolder;
let store: DataSource;
let options: RunOptions;
let whole: Buffer;
beforeAll(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
  options = { journal: new SqlJournal(store), program: 'test' };
  cpSync('testdata/open/example_project', t.at('p'), { recursive: true });
  await pack(planPack(t.scope('p')), t.at('out.zip'), 'test', options);
  whole = readFileSync(t.at('out.zip'));
});
afterAll(async () => {
  await store.destroy();
  t.remove();
});

/** A bag that is not valid, or a zip that cannot be opened at all. */
async function isFound(bytes: Buffer): Promise<boolean> {
  writeFileSync(t.at('bad.zip'), bytes);
  try {
    return !(await verifyBundle(t.at('bad.zip'))).valid;
  } catch (error) {
    if ((error as { problem?: { code: string } }).problem?.code !== 'bad-bag') throw error;
    return true;
  }
}

test('as it was written it is valid', async () => expect(await isFound(whole)).toBe(false));

test('200 seeded flips of one bit, anywhere in the file: all are found', async () => {
  const missed: number[] = [];
  let x = 20_261_130;
  for (let i = 0; i < 200; i++) {
    x = (Math.imul(x, 1664525) + 1013904223) >>> 0;
    const bit = Math.floor((x / 2 ** 32) * whole.length * 8);
    const bytes = Buffer.from(whole);
    bytes[bit >> 3] = bytes[bit >> 3]! ^ (1 << (bit & 7));
    if (!(await isFound(bytes))) missed.push(bit);
  }
  expect(missed).toEqual([]);
}, 60_000);

/** Each entry's own head, bit by bit, its name and its extra fields. */
test('every bit of an entry’s own head that differs from the directory is found', async () => {
  const zip = await ZipReader.open(t.at('out.zip'));
  const entry = zip.entries[5]!;
  zip.close();
  const end = entry.offset + 30 + whole.readUInt16LE(entry.offset + 26) + whole.readUInt16LE(entry.offset + 28);
  const missed: number[] = [];
  for (let at = entry.offset; at < end; at++) {
    const bytes = Buffer.from(whole);
    bytes[at] = bytes[at]! ^ (1 << (at & 7));
    if (!(await isFound(bytes))) missed.push(at - entry.offset);
  }
  expect(missed).toEqual([]);
}, 60_000);

test.each([0, 1, 21, 100, 5000, -1, -22, -200])('cut off at %i: it is told, and nothing is unpacked', async (at) => {
  const length = at < 0 ? whole.length + at : at;
  expect(await isFound(whole.subarray(0, length))).toBe(true);
  await receive(t.at('bad.zip'), t.at('cut'), 'test', t.places, options).catch((e: Error) => expect(e.message).not.toBe(''));
  expect(existsSync(t.at('cut'))).toBe(false);
});

/** A bag as others make it: without a seal. */
async function foreignBag(name: string, change: (entries: Map<string, Buffer>) => void): Promise<void> {
  const reader = await ZipReader.open(t.at('out.zip'));
  const entries = new Map<string, Buffer>();
  for (const entry of reader.entries) {
    const parts: Buffer[] = [];
    for await (const piece of await reader.stream(entry.name)) parts.push(piece as Buffer);
    entries.set(entry.name, Buffer.concat(parts));
  }
  reader.close();
  change(entries);
  const zip = await ZipWriter.create(t.at(name));
  for (const [path, bytes] of entries) await zip.add(path, [bytes], 0, true);
  await zip.finish();
}

describe('bags of others', () => {
  test('an extra file, one that is missing, and one whose size lies', async () => {
    await foreignBag('more.zip', (e) => void e.set('check/data/more.txt', Buffer.from('x')));
    expect((await verifyBundle(t.at('more.zip'))).findings).toContainEqual({ path: 'data/more.txt', problem: 'is in no manifest' });
    const gone = 'check/data/maps/map_00.owc.json';
    await foreignBag('less.zip', (e) => void e.delete(gone));
    expect((await verifyBundle(t.at('less.zip'))).findings).toContainEqual({ path: 'data/maps/map_00.owc.json', problem: 'is missing' });
    const lying = Buffer.from(readFileSync(t.at('less.zip')));
    const zip = await ZipReader.open(t.at('less.zip'));
    const entry = zip.entries.find((e) => e.name.endsWith('.shp'))!;
    zip.close();
    const central = lying.indexOf(Buffer.from(entry.name), entry.offset + 100 + entry.packedBytes) - 46;
    lying.writeBigUInt64LE(BigInt(entry.bytes + 7), central + 46 + entry.name.length + 4);
    expect(await isFound(lying)).toBe(true);
  });

  test('two entries that share their bytes are refused before one of them is unpacked', async () => {
    await foreignBag('twins.zip', () => undefined);
    const bytes = readFileSync(t.at('twins.zip'));
    const zip = await ZipReader.open(t.at('twins.zip'));
    const [a, b] = zip.entries.filter((e) => e.name.endsWith('.shp'));
    zip.close();
    const central = bytes.indexOf(Buffer.from(b!.name), a!.offset + a!.packedBytes + 200) - 46;
    const last = bytes.lastIndexOf(Buffer.from(b!.name)) - 46;
    expect(central).toBeLessThanOrEqual(last);
    bytes.writeBigUInt64LE(BigInt(a!.offset), last + 46 + b!.name.length + 4 + 16);
    writeFileSync(t.at('twins.zip'), bytes);
    const { findings } = await verifyBundle(t.at('twins.zip'));
    expect(findings.map((f) => f.problem)).toContain('its bytes are those of another file, too');
  });

  test('a bomb: it unpacks to no more than its directory says', async () => {
    const bomb = 'data/x';
    const zip = await ZipWriter.create(t.at('bomb.zip'));
    for (const [name, text] of [
      ['bagit.txt', 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n'],
      ['manifest-sha256.txt', `${'0'.repeat(64)}  ${bomb}\n`],
    ] as const)
      await zip.add(name, [Buffer.from(text)], 0, true);
    await zip.add(bomb, [Buffer.alloc(40 << 20)], 0, false);
    await zip.finish();
    const bytes = readFileSync(t.at('bomb.zip'));
    const at = bytes.lastIndexOf(Buffer.from(bomb)) - 46;
    bytes.writeBigUInt64LE(10n, at + 46 + 6 + 4);
    writeFileSync(t.at('bomb.zip'), bytes);
    const before = process.memoryUsage().rss;
    expect((await verifyBundle(t.at('bomb.zip'))).valid).toBe(false);
    expect(process.memoryUsage().rss - before).toBeLessThan(200 << 20);
  });
});

test('a bag’s folder: a changed byte is found, a link is refused', async () => {
  mkdirSync(t.at('bag/data'), { recursive: true });
  writeFileSync(t.at('bag/bagit.txt'), 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n');
  writeFileSync(t.at('bag/data/a.txt'), 'hello\n');
  // sha256sum of "hello\n", as coreutils gives it
  writeFileSync(t.at('bag/manifest-sha256.txt'), '5891b5b522d5df086d0ff0b110fbd9d21bb4fc7163af34d08286a2e846f6be03  data/a.txt\n');
  expect(await verifyBundle(t.at('bag'))).toMatchObject({ valid: true, files: 1 });
  writeFileSync(t.at('bag/data/a.txt'), 'hellO\n');
  expect((await verifyBundle(t.at('bag'))).findings).toEqual([{ path: 'data/a.txt', problem: 'its sha256 is another one than listed' }]);
});

test('what is cut off leaves no trace in the folder beside it', async () => {
  cpSync(t.at('out.zip'), t.at('short.zip'));
  truncateSync(t.at('short.zip'), whole.length - 300);
  await expect(receive(t.at('short.zip'), t.at('none'), 'test', t.places, options)).rejects.toThrow();
  expect(readdirSync(t.path).filter((f) => f.includes('none'))).toEqual([]);
});

test('what is not right is set aside by name, where that is asked for, and the rest opens', async () => {
  const zip = await ZipReader.open(t.at('out.zip'));
  const hurt = zip.entries.find((e) => e.name.endsWith('fairway_006.dbf'))!;
  zip.close();
  const bytes = Buffer.from(whole);
  bytes[hurt.offset + 30 + hurt.name.length + 29 + 40]! ^= 0xff;
  writeFileSync(t.at('hurt.zip'), bytes);
  const refused = await receive(t.at('hurt.zip'), t.at('rest'), 'test', t.places, options);
  expect([refused.files, existsSync(t.at('rest'))]).toEqual([0, false]);
  const arrived = await receive(t.at('hurt.zip'), t.at('rest'), 'test', t.places, options, undefined, undefined, { setAside: true });
  expect(arrived.findings.map((f) => f.path)).toContain('data/working/fairway_006.dbf');
  expect(existsSync(t.at('rest/working/fairway_006.dbf'))).toBe(false);
  expect(arrived.layers.filter((l) => l.state !== 'sound').map((l) => l.title)).toEqual(['fairway_006']);
});
