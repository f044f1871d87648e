import { chmodSync, existsSync, mkdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import { TestServer } from '../test/start-server.js';

/** The file manager of the machine: here a script that writes down what it was given. */
const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, ...parts);
const show = (path: string) => server.post('/api/show', { place: 'desk', path });

beforeAll(async () => {
  mkdirSync(at('desk', 'a b'), { recursive: true });
  mkdirSync(at('aside'));
  writeFileSync(at('desk', 'a b', 'c.shp'), '');
  symlinkSync(at('aside'), at('desk', 'out'));
  writeFileSync(at('files'), `#!/bin/sh\nprintf '%s' "$1" > '${at('told')}'\n`);
  chmodSync(at('files'), 0o755);
  await server.start({ ROOTMAP_PLACES: `desk=${at('desk')}`, ROOTMAP_FILES: at('files') });
});
afterAll(() => server.stop());

test('a file is shown in its folder; what is gone or leads out of its place is refused, and nothing is opened', async () => {
  for (const path of ['none', 'out', '../aside', '/etc']) {
    const refused = await show(path);
    expect([path, refused.status, (refused.body as { detail: string }).detail]).toEqual([path, expect.any(Number), expect.any(String)]);
    expect([path, refused.status >= 400 && refused.status < 500]).toEqual([path, true]);
  }
  expect(existsSync(at('told'))).toBe(false);
  expect((await show('a b/c.shp')).status).toBe(204);
  for (let i = 0; i < 100 && !existsSync(at('told')); i++) await new Promise((next) => setTimeout(next, 50));
  expect(readFileSync(at('told'), 'utf8')).toBe(at('desk', 'a b'));
});
