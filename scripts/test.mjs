// npm test: installs what is missing, Chromium included, and runs unit, server, command-line and browser tests.
// npm test -- unit | browser runs one part. Ends with a plain line of counts.
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statfsSync } from 'node:fs';
import { join, relative } from 'node:path';
import { spawnSync } from 'node:child_process';
import { build } from './build.mjs';
import { install } from './install.mjs';
import { node, root, run } from './lib.mjs';

const wanted = process.argv[2] ?? 'all';
const reports = join(root, 'reports');
rmSync(reports, { recursive: true, force: true });
mkdirSync(reports, { recursive: true });

/** Packages of Debian that stand in for the outside: the browser, and readers to compare with. */
async function ensure(program, ...packages) {
  if (existsSync(program)) return;
  const [command, ...before] = process.getuid() === 0 ? ['apt-get'] : ['sudo', 'apt-get'];
  const apt = (...args) => run(command, [...before, ...args]);
  console.log(`Installing ${packages.join(', ')} from the packages of Debian.`);
  await apt('update', '-qq');
  await apt('install', '-y', '-qq', '--no-install-recommends', '-o', 'DPkg::Lock::Timeout=300', ...packages);
}

const WORKERS = 2;
const ROOMY_BYTES = 4 << 30;
/** In memory where there is room: tests write and sync thousands of small files, and a disk makes them wait for each. */
function temporaryFolder() {
  const memory = '/dev/shm';
  if (!existsSync(memory)) return {};
  const { bavail, bsize } = statfsSync(memory);
  if (bavail * bsize < ROOMY_BYTES) return {};
  const folder = mkdtempSync(join(memory, 'rootmap-tests-'));
  chmodSync(folder, 0o755); // tests that run as somebody else get through
  return { TMPDIR: folder };
}
const temporary = temporaryFolder();

const SHOWN = 10;
function tellSlowest(files) {
  console.log(`The slowest ${SHOWN} files:`);
  for (const { name, seconds } of files.sort((a, b) => b.seconds - a.seconds).slice(0, SHOWN))
    console.log(`${seconds.toFixed(0).padStart(5)} s  ${relative(root, name)}`);
}

function step(name, args) {
  const started = Date.now();
  const { status } = spawnSync(node, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...temporary } });
  console.log(`${name}: ${((Date.now() - started) / 1000).toFixed(0)} s, ${status === 0 ? 'passed' : 'FAILED'}`);
  return status === 0;
}

await install();
await build();
let ok = true;
const counts = { passed: 0, failed: 0, skipped: 0 };
await ensure('/usr/bin/ogr2ogr', 'gdal-bin', 'proj-bin', 'python3-gdal');
await ensure('/usr/bin/pdftotext', 'poppler-utils');
if (wanted !== 'browser') {
  await ensure('/usr/lib/python3/dist-packages/owslib/owscontext/core.py', 'python3-owslib');
  const jest = [
    '--experimental-vm-modules',
    '--disable-warning=ExperimentalWarning',
    'node_modules/jest/bin/jest.js',
    '--json',
    `--outputFile=${join(reports, 'jest.json')}`,
    `--maxWorkers=${WORKERS}`,
  ];
  ok = step('unit, server and command-line tests', jest) && ok;
  const r = JSON.parse(readFileSync(join(reports, 'jest.json'), 'utf8'));
  counts.passed += r.numPassedTests;
  counts.failed += r.numFailedTests + r.numRuntimeErrorTestSuites;
  counts.skipped += r.numPendingTests + r.numTodoTests;
  tellSlowest(r.testResults.map((t) => ({ name: t.name, seconds: (t.endTime - t.startTime) / 1000 })));
}
if (wanted !== 'unit') {
  await ensure(process.env.ROOTMAP_CHROMIUM ?? '/usr/bin/chromium-headless-shell', 'chromium-headless-shell');
  ok = step('browser tests', ['node_modules/@playwright/test/cli.js', 'test', '-c', 'e2e/playwright.config.ts']) && ok;
  const { stats, suites } = JSON.parse(readFileSync(join(reports, 'playwright.json'), 'utf8'));
  counts.passed += stats.expected;
  counts.failed += stats.unexpected + stats.flaky;
  counts.skipped += stats.skipped;
  const secondsOf = (suite) =>
    (suite.suites ?? []).reduce((sum, s) => sum + secondsOf(s), 0) +
    (suite.specs ?? []).flatMap((s) => s.tests.flatMap((t) => t.results)).reduce((sum, r) => sum + r.duration / 1000, 0);
  tellSlowest(suites.map((s) => ({ name: join(root, 'e2e', s.file), seconds: secondsOf(s) })));
}
if (temporary.TMPDIR) rmSync(temporary.TMPDIR, { recursive: true, force: true });
console.log(`${counts.passed} passed, ${counts.failed} failed, ${counts.skipped} skipped`);
process.exit(ok && counts.failed === 0 ? 0 : 1);
