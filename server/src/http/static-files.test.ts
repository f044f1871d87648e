import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { gzipSync } from 'node:zlib';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import express from 'express';
import { serveWeb } from './static-files.js';

const folder = mkdtempSync(join(tmpdir(), 'rootmap-static-'));
let server: Server;
let base = '';
beforeAll(async () => {
  mkdirSync(join(folder, 'assets'));
  writeFileSync(join(folder, 'index.html'), '<!doctype html><title>page</title>');
  writeFileSync(join(folder, 'assets', 'a-1.js'), 'export const a = 1;');
  writeFileSync(join(folder, 'assets', 'a-1.js.gz'), gzipSync('export const a = 1;'));
  const app = express();
  serveWeb(app, folder);
  server = await new Promise<Server>((resolve) => {
    const started = app.listen(0, '127.0.0.1', () => resolve(started));
  });
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true });
});

test('an asset is sent as it was packed to whoever takes that, and for good', async () => {
  const packed = await fetch(`${base}/assets/a-1.js`); // takes gzip
  expect(packed.headers.get('content-encoding')).toBe('gzip');
  expect(packed.headers.get('content-type')).toMatch(/javascript/);
  expect(packed.headers.get('cache-control')).toMatch(/immutable/);
  expect(await packed.text()).toBe('export const a = 1;');
  const plain = await fetch(`${base}/assets/a-1.js`, { headers: { 'accept-encoding': 'identity' } });
  expect(plain.headers.get('content-encoding')).toBeNull();
  expect(await plain.text()).toBe('export const a = 1;');
});

test('an asset that is not there is not the page; every other address is', async () => {
  expect((await fetch(`${base}/assets/b-2.js`)).status).toBe(404);
  expect((await fetch(`${base}/assets/../index.html`)).status).toBe(200);
  expect(await (await fetch(`${base}/p/k/overview`)).text()).toContain('<title>page</title>');
});
