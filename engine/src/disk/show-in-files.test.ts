import { expect, test } from '@jest/globals';
import { chmodSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from './native-path.js';
import { showCall, showInFiles } from './show-in-files.js';

test('each system is told in its own way; a file is shown in its folder', () => {
  // Common practice, no source: /select of Windows' file manager, -R of open(1), xdg-open of xdg-utils.
  expect(showCall('/a b/c.shp', false, 'linux', null)).toEqual({ program: 'xdg-open', args: ['/a b'], isVerbatim: false });
  expect(showCall('/a b/c.shp', false, 'darwin', null)).toEqual({ program: 'open', args: ['-R', '/a b/c.shp'], isVerbatim: false });
  expect(showCall('/a b/c.shp', false, 'win32', null)).toEqual({
    program: 'explorer.exe',
    args: ['/select,"/a b/c.shp"'],
    isVerbatim: true,
  });
  expect(showCall('/a b', true, 'win32', null).args).toEqual(['"/a b"']);
  expect(showCall('/a b/c.shp', false, 'linux', 'files')).toEqual({ program: 'files', args: ['/a b'], isVerbatim: false });
});

test('the program is given the folder as one argument, whatever stands in its name; where it is missing, a sentence says so', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'rootmap-show $(x) -'));
  const [program, told] = [join(folder, 'files'), join(folder, 'told')];
  writeFileSync(program, `#!/bin/sh\nprintf '%s|%s' "$#" "$1" > '${told}'\n`);
  chmodSync(program, 0o755);
  await showInFiles(join(folder, 'a.shp'), false, program);
  for (let i = 0; i < 100 && !existsSync(told); i++) await new Promise((next) => setTimeout(next, 50));
  expect(readFileSync(told, 'utf8')).toBe(`1|${folder}`);
  await expect(showInFiles(folder, true, '/no/such/program')).rejects.toThrow(/has no \/no\/such\/program/);
  rmSync(folder, { recursive: true });
});
