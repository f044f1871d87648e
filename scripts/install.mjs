// Installs what the lock file names, and compiles the one addon that has no ready-made form here.
import { closeSync, copyFileSync, existsSync, mkdirSync, openSync, readFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { dirname, join } from 'node:path';
import { hashOf, isStamped, npm, root, stamp } from './lib.mjs';

const addon = join(root, 'node_modules', 'better-sqlite3', 'build', 'Release', 'better_sqlite3.node');

/** A compiled addon is kept in the user's cache by version, ABI and platform, so that the next clone need not compile it. */
function cached() {
  const { version } = JSON.parse(readFileSync(join(root, 'node_modules', 'better-sqlite3', 'package.json'), 'utf8'));
  const cache = process.env.XDG_CACHE_HOME ?? join(homedir(), '.cache');
  return join(cache, 'rootmap-build', `better_sqlite3-${version}-${process.versions.modules}-${process.platform}-${process.arch}.node`);
}

/** What compiles an addon of Node (node-gyp, "Installation"). */
const COMPILERS = {
  win32:
    'Let this machine reach the network once, or install Python 3 and the Build Tools for Visual Studio with "Desktop development with C++".',
  darwin: 'Install the command line tools with "xcode-select --install".',
  linux:
    'Install Python 3, make and a C++ compiler (Debian: apt-get install python3 make g++), and the headers of Node where the network is not reached.',
};

async function buildAddon() {
  if (existsSync(addon)) return;
  const kept = cached();
  if (existsSync(kept)) {
    mkdirSync(dirname(addon), { recursive: true });
    copyFileSync(kept, addon);
    return;
  }
  console.log('Getting the database addon, ready-made or compiled here; this takes a minute or two, once.');
  const log = join(root, 'node_modules', '.rootmap', 'addon.log');
  mkdirSync(dirname(log), { recursive: true });
  const out = openSync(log, 'w');
  try {
    await npm(['rebuild', 'better-sqlite3'], { stdio: ['ignore', out, out], env: { CFLAGS: '-O2', JOBS: '2', ...process.env } });
  } catch {
    console.error(
      `The database addon (better-sqlite3) could not be had: it is neither on the network nor can it be compiled here. ${COMPILERS[process.platform] ?? COMPILERS.linux} Then run this again. What was tried is told in ${log}.`,
    );
    process.exit(1);
  } finally {
    closeSync(out);
  }
  mkdirSync(dirname(kept), { recursive: true });
  copyFileSync(addon, kept);
}

export async function install() {
  const lock = hashOf(join(root, 'package-lock.json'));
  if (!isStamped('installed', lock)) {
    await npm(['ci', '--ignore-scripts']);
    stamp('installed', lock);
  }
  await buildAddon();
}
