import { describe, expect, test } from '@jest/globals';
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { surveyFolder } from '../survey/list-datasets.js';
import { fullFingerprint } from './full-fingerprint.js';

const length = (n: number): Buffer => {
  const b = Buffer.alloc(8);
  b.writeBigUInt64BE(BigInt(n));
  return b;
};
const of = (folder: string, id: string) =>
  fullFingerprint(
    folder,
    surveyFolder(folder).datasets.find((d) => d.id === id)!,
  );

describe('shapefile, against a plain reading of the whole file', () => {
  const folder = 'testdata/open/sf/shape';
  test.each(['nc', 'olinda1', 'storms_xyz', 'storms_xyzm'])('%s', (name) => {
    const shp = readFileSync(`${folder}/${name}.shp`);
    const dbf = readFileSync(`${folder}/${name}.dbf`);
    const hash = createHash('sha256')
      .update(length(shp.length))
      .update(shp)
      .update(length(dbf.length))
      .update(dbf.subarray(0, 1))
      .update(dbf.subarray(4));
    // ESRI (1998): box, parts, points stand at 4, 36 and 40 of a record's content.
    const box = [36, 44, 52, 60].map((o) => shp.readDoubleLE(o));
    let vertices = 0;
    let grid = 0n;
    for (let at = 100; at < shp.length; at += 8 + shp.readInt32BE(at + 4) * 2) {
      const parts = shp.readInt32LE(at + 8 + 36);
      const points = shp.readInt32LE(at + 8 + 40);
      for (let i = 0; i < points; i++) {
        const x = shp.readDoubleLE(at + 8 + 44 + parts * 4 + i * 16);
        const y = shp.readDoubleLE(at + 8 + 52 + parts * 4 + i * 16);
        const col = Math.min(15, Math.floor(((x - box[0]!) / (box[2]! - box[0]!)) * 16));
        const row = Math.min(15, Math.floor(((y - box[1]!) / (box[3]! - box[1]!)) * 16));
        grid |= 1n << BigInt(row * 16 + col);
      }
      vertices += points;
    }
    expect(of(folder, `${name}.shp`)).toMatchObject({
      vertices,
      grid: grid.toString(16).padStart(64, '0'),
      hash: `sha256:${hash.digest('hex')}`,
    });
  });
  test('the date in a table is no part of the data', () => {
    const dbf = readFileSync(`${folder}/nc.dbf`);
    expect(dbf.subarray(1, 4).equals(Buffer.alloc(3))).toBe(false);
  });
});

test('a raster: the cells of its valid pixels (6 × 6 of LZW packed floats, all of them valid), its bytes as hash', () => {
  let grid = 0n;
  for (let row = 0; row < 6; row++)
    for (let col = 0; col < 6; col++) grid |= 1n << BigInt(Math.floor(((row + 0.5) / 6) * 16) * 16 + Math.floor(((col + 0.5) / 6) * 16));
  const bytes = readFileSync('testdata/open/spdata/raster/elev.tif');
  const f = of('testdata/open/spdata/raster', 'elev.tif');
  expect(f.grid).toBe(grid.toString(16).padStart(64, '0'));
  expect(f.hash).toBe(`sha256:${createHash('sha256').update(length(bytes.length)).update(bytes).digest('hex')}`);
});

test('two datasets with byte-equal shapes, but other tables, have other hashes', () => {
  const folder = 'testdata/open';
  const a = of(folder, 'sf/shape/nc.shp');
  const b = of(folder, 'spdata/shapes/sids.shp');
  expect(readFileSync(`${folder}/sf/shape/nc.shp`).length).toBe(readFileSync(`${folder}/spdata/shapes/sids.shp`).length);
  expect(a.hash).not.toBe(b.hash);
});
