import { expect, test } from '@jest/globals';
import { createHash } from 'node:crypto';
import { memorySource } from '../../bytes/byte-source.js';
import { noCrsTable } from '../../crs/crs-table.js';
import { groupFiles } from '../../dataset/group-files.js';
import { describeAsciiGrid, fullAsciiGrid } from './ascii-grid.js';

const text = (corner: string): string =>
  `ncols 4\r\nNROWS 2\r\nxll${corner} 100\r\nyll${corner} 200\r\ncellsize 10\r\nNODATA_value -1\r\n1 2 -1 4\r\n-1 -1 -1 8\r\n`;
const [group] = groupFiles([{ path: 'g.asc', bytes: 90, modifiedMs: 0 }]).groups;
const open = (content: string) => () => memorySource(Buffer.from(content));

/** Corner or centre of the lower-left cell: common practice, no source. */
test('the box, from corner or centre', () => {
  expect(describeAsciiGrid(group!, open(text('corner')), noCrsTable)).toMatchObject({
    state: 'ok',
    bbox: [100, 200, 140, 220],
    raster: { width: 4, height: 2, pixel: [10, 10], bands: 1 },
  });
  expect(describeAsciiGrid(group!, open(text('center')), noCrsTable)).toMatchObject({ bbox: [95, 195, 135, 215] });
});
test('the cells that hold a value: rows run from north to south', () => {
  const full = fullAsciiGrid(group!, [100, 200, 140, 220], open(text('corner')), () => {
    const h = createHash('sha256');
    return { update: (b) => void h.update(b), digest: () => h.digest('hex') };
  });
  const bit = (col: number, row: number): bigint => 1n << BigInt(row * 16 + col);
  expect(full.grid).toBe((bit(2, 12) | bit(6, 12) | bit(14, 12) | bit(14, 4)).toString(16).padStart(64, '0'));
});
test('no header, a sentence', () =>
  expect(describeAsciiGrid(group!, open('1 2 3'), noCrsTable).findings[0]!.message).toContain('ncols, nrows and cellsize'));
