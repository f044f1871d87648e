import { afterEach, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync } from 'node:fs';
import { TestFolder } from '../../test/test-project.js';
import { isGone, thisProcess } from './owner.js';
import { setOwnersFolder } from './owner-lock.js';

const t = new TestFolder();
setOwnersFolder(t.at('data'));
afterEach(() => expect(existsSync(t.at('data', 'owners'))).toBe(true));

test('where no start time is told, a process is known by its lock, and is never gone while it runs', () => {
  const me = thisProcess('test', '');
  expect(me.startTime).toMatch(/^lock:\d+-[0-9a-f]{8}\.lock$/);
  expect([isGone(me), thisProcess('test', '').startTime]).toEqual([false, me.startTime]);
});

test('another process: not gone while it lives, gone when it was killed, though its number is in use', async () => {
  mkdirSync(t.at('data', 'owners'), { recursive: true });
  const path = t.at('data', 'owners', 'other.lock');
  new Database(path).close();
  const script = `const D=require('better-sqlite3');const d=new D(process.argv[1]);d.pragma('locking_mode = EXCLUSIVE');d.exec('BEGIN EXCLUSIVE');console.log('held');setInterval(()=>{},1000)`;
  const child = spawn(process.execPath, ['-e', script, path], { stdio: ['ignore', 'pipe', 'inherit'] });
  await new Promise((held) => child.stdout.once('data', held));
  const owner = { ...thisProcess('test', ''), pid: process.pid, startTime: 'lock:other.lock' };
  expect(isGone(owner)).toBe(false);
  child.kill('SIGKILL');
  await new Promise((ended) => child.once('exit', ended));
  expect([isGone(owner), existsSync(path)]).toEqual([true, false]);
  expect(isGone(owner)).toBe(true); // and stays so
});
