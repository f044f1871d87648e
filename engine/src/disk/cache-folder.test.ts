import { expect, test } from '@jest/globals';
import { mkdirSync, readdirSync, utimesSync, writeFileSync } from 'node:fs';
import { TestFolder } from '../../test/test-project.js';
import { trimFiles } from './cache-folder.js';

test('of files that can be made again those written longest ago go, as many as it takes', () => {
  const t = new TestFolder();
  mkdirSync(t.at('pictures'));
  for (const [i, name] of ['c.png', 'a.png', 'd.png', 'b.png'].entries()) {
    writeFileSync(t.at(`pictures/${name}`), new Uint8Array(100));
    utimesSync(t.at(`pictures/${name}`), 1_000_000 + i, 1_000_000 + i);
  }
  trimFiles(t.at('pictures'), 400);
  expect(readdirSync(t.at('pictures'))).toHaveLength(4);
  trimFiles(t.at('pictures'), 250);
  expect(readdirSync(t.at('pictures')).sort()).toEqual(['b.png', 'd.png']);
  t.remove();
});
