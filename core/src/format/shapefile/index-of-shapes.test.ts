import { expect, test } from '@jest/globals';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { memorySource } from '../../bytes/byte-source.js';
import { indexOfShapes } from './index-of-shapes.js';

// Judge: the .shx files that the publishers of the open data wrote; all but that of multipatch, which states another length than its
// own .shp has.
const folder = 'testdata/open';
const shapefiles = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter(
  (f) =>
    f.endsWith('.shp') &&
    !f.endsWith('multipatch.shp') &&
    readdirSync(join(folder, f, '..')).includes(f.replace(/^.*\//, '').replace(/shp$/, 'shx')),
);

test.each(shapefiles)('the index of %s is made anew, byte for byte, offsets and lengths', (file) => {
  const made = indexOfShapes(memorySource(readFileSync(join(folder, file))))!;
  const published = readFileSync(join(folder, file.replace(/shp$/, 'shx')));
  expect(Buffer.from(made.subarray(100)).equals(published.subarray(100))).toBe(true);
  expect([made.length, Buffer.from(made).readInt32BE(24)]).toEqual([published.length, published.readInt32BE(24)]);
});

test('a file that is cut off, or none at all, gives no index', () => {
  expect(shapefiles.length).toBeGreaterThan(1);
  const whole = readFileSync(join(folder, shapefiles[0]!));
  expect(indexOfShapes(memorySource(whole.subarray(0, whole.length - 3)))).toBeNull();
  expect(indexOfShapes(memorySource(whole.subarray(0, 50)))).toBeNull();
  expect(indexOfShapes(memorySource(Buffer.alloc(200)))).toBeNull();
});
