import AxeBuilder from '@axe-core/playwright';
import { expect, test as base, type Page } from '@playwright/test';
import { spawn, type ChildProcess } from 'node:child_process';
import { cpSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { demoPlaces, placesSetting } from '../demo/dist/index.js';
import { StandIns } from '../engine/test/stand-ins.js';
import { MASTERS } from './make-masters.js';

/** Of this worker: each file of tests gets the demo copied to it anew. */
export const folder = join(tmpdir(), `rootmap-e2e-${process.pid}`);
export const desk = (...parts: string[]): string => join(folder, 'places', 'desk', 'gis', ...parts);
export const STUDY = 'Ellisande seagrass and moorings';

let server: ChildProcess | null = null;
let address = '';

/** Tests of one file share a server and a demo, which no other file touches. */
// eslint-disable-next-line no-empty-pattern -- Playwright reads off the pattern that it needs no other fixture
export const test = base.extend({ baseURL: async ({}, use) => use(address) });
export { expect };

/** Servers of others, where a file of tests wants them. */
export const servers = new StandIns();

async function start(master: keyof typeof MASTERS, withServers: boolean): Promise<void> {
  if (withServers) await servers.start();
  rmSync(folder, { recursive: true, force: true });
  cpSync(MASTERS[master], folder, { recursive: true, preserveTimestamps: true });
  const started = spawn(process.execPath, ['server/dist/bundle/main.js'], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      ROOTMAP_DATA: join(folder, 'data'),
      ROOTMAP_PLACES: placesSetting(demoPlaces(folder)),
      ROOTMAP_DEMO: folder,
      ...(withServers
        ? { ROOTMAP_STANDINS: servers.address, ROOTMAP_HOSTS: `${servers.host},${servers.host.replace('127.0.0.1', 'localhost')}` }
        : {}),
      RES_OPTIONS: 'timeout:1 attempts:1', // a name that nobody knows is told soon, also where no name server answers
      ROOTMAP_PORT: '0',
      ROOTMAP_LOG: 'warn',
      ROOTMAP_FILES: process.execPath, // no test opens windows on anybody's desk
    },
  });
  server = started;
  address = await new Promise<string>((resolve, reject) => {
    started.stdout.on('data', (data) => {
      const found = /http:\/\/[^\s]+/.exec(String(data))?.[0];
      if (found) resolve(found);
    });
    started.on('exit', (code) => reject(new Error(`the server ended with ${code}`)));
  });
  for (const path of ['gis/world_outline', 'gis/ellisande_seagrass']) {
    const added = await fetch(`${address}/api/projects`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ place: 'desk', path }),
    });
    if (!added.ok) throw new Error(await added.text());
  }
}

async function stop(): Promise<void> {
  if (server && server.exitCode === null) await new Promise((done) => server!.once('exit', done).kill('SIGTERM'));
  server = null;
  servers.stop();
  rmSync(folder, { recursive: true, force: true });
}

/** Called at the top of a file: its demo, as it is made, or with every layer mended. */
export function useDemo(master: keyof typeof MASTERS, { withServers = false } = {}): void {
  test.beforeAll(() => start(master, withServers));
  test.afterAll(stop);
}

/** The project's page of a stop, by its title. */
export async function openStop(page: Page, title: string, stop: string): Promise<void> {
  const projects = (await (await page.request.get('/api/projects')).json()) as { key: string; title: string; place: string }[];
  // A received copy has the same title; what the tests are about stands on the desk.
  const project = projects.find((p) => p.title === title && p.place === 'desk');
  expect(project, `${title} is on the list`).toBeTruthy();
  await page.goto(`/p/${project!.key}/${stop}`);
}

/** What axe checks: WCAG 2.2, levels A and AA. */
const WCAG = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];

/** A button that fades from grey to ink is read once it has. */
const settled = (page: Page): Promise<void> =>
  page.evaluate(async () => {
    const ending = document.getAnimations().filter((a) => a.effect?.getTiming().iterations !== Infinity);
    await Promise.allSettled(ending.map((a) => a.finished));
  });

/** What axe finds against WCAG. One run in the page itself, and no selectors for what is right: all that is left out is what nobody reads. */
async function violationsIn(page: Page, rules?: string[]): Promise<(readonly [string, string[]])[]> {
  await settled(page);
  const axe = new AxeBuilder({ page }).setLegacyMode(true).options({ resultTypes: ['violations'] });
  const { violations } = await (rules ? axe.withRules(rules) : axe.withTags(WCAG)).analyze();
  return violations.map((v) => [v.id, v.nodes.map((n) => n.html.slice(0, 160))] as const);
}

/** Nothing of the page is against WCAG, as far as axe can tell. `rules`: only these. */
export async function expectAccessible(page: Page, rules?: string[]): Promise<void> {
  const found = await violationsIn(page, rules);
  // A colour may have begun to fade while axe was reading: that alone is read once more.
  const isFading = found.length > 0 && found.every(([id]) => id === 'color-contrast');
  expect(isFading ? await violationsIn(page, rules) : found).toEqual([]);
}
