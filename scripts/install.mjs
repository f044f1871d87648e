// Installs what the lock file names, and compiles the one addon that has no ready-made form here.
import { copyFileSync, existsSync, mkdirSync, readFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { dirname, join } from 'node:path';
import { hashOf, isStamped, root, run, stamp } from './lib.mjs';

const addon = join(root, 'node_modules', 'better-sqlite3', 'build', 'Release', 'better_sqlite3.node');

/** A compiled addon is kept in the user's cache by version, ABI and platform, so that the next clone need not compile it. */
function cached() {
  const { version } = JSON.parse(readFileSync(join(root, 'node_modules', 'better-sqlite3', 'package.json'), 'utf8'));
  const cache = process.env.XDG_CACHE_HOME ?? join(homedir(), '.cache');
  return join(cache, 'rootmap-build', `better_sqlite3-${version}-${process.versions.modules}-${process.platform}-${process.arch}.node`);
}

async function buildAddon() {
  if (existsSync(addon)) return;
  const kept = cached();
  if (existsSync(kept)) {
    mkdirSync(dirname(addon), { recursive: true });
    copyFileSync(kept, addon);
    return;
  }
  console.log('Compiling the database addon; this takes a minute or two, once.');
  await run('npm', ['rebuild', 'better-sqlite3'], { env: { CFLAGS: '-O2', JOBS: '2', ...process.env } });
  mkdirSync(dirname(kept), { recursive: true });
  copyFileSync(addon, kept);
}

export async function install() {
  const lock = hashOf(join(root, 'package-lock.json'));
  if (!isStamped('installed', lock)) {
    await run('npm', ['ci', '--ignore-scripts']);
    stamp('installed', lock);
  }
  await buildAddon();
}
