import { spawnSync } from 'node:child_process';
import { cpSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, afterEach, beforeAll, beforeEach } from '@jest/globals';
import { join } from '@rootmap/engine';

/** Each test has a folder of its own with the open example in `p`, and the built command, as users run it. */
export function useExample() {
  let folder: string;
  const at = (...parts: string[]): string => join(folder, ...parts);
  beforeEach(() => {
    folder = mkdtempSync(join(tmpdir(), 'rootmap-cli-'));
    cpSync('testdata/open/example_project', at('p'), { recursive: true });
  });
  afterEach(() => rmSync(folder, { recursive: true, force: true }));
  return { at, rootmap: commandIn(at) };
}

/** A folder that all tests of a file share, and the built command. */
export function useFolder() {
  let folder: string;
  const at = (...parts: string[]): string => join(folder, ...parts);
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), 'rootmap-cli-'));
  });
  afterAll(() => rmSync(folder, { recursive: true, force: true }));
  return { at, rootmap: commandIn(at) };
}

const commandIn =
  (at: (...parts: string[]) => string) =>
  (...args: string[]) => {
    const r = spawnSync(process.execPath, ['cli/bin/rootmap.js', ...args], {
      encoding: 'utf8',
      env: { ...process.env, ROOTMAP_DATA: at('data'), INIT_CWD: '/nowhere' },
    });
    return { status: r.status, out: r.stdout, err: r.stderr, json: (): any => JSON.parse(r.stdout) };
  };
