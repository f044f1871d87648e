// npm test: installs what is missing, Chromium included, and runs unit, server, command-line and browser tests.
// npm test -- unit | browser runs one part. Ends with a plain line of counts.
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
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

function step(name, args, options = {}) {
  const started = Date.now();
  const { status } = spawnSync(node, args, { cwd: root, stdio: 'inherit', ...options });
  console.log(`${name}: ${((Date.now() - started) / 1000).toFixed(0)} s, ${status === 0 ? 'passed' : 'FAILED'}`);
  return status === 0;
}

await install();
await build();
let ok = true;
const counts = { passed: 0, failed: 0, skipped: 0 };
await ensure('/usr/bin/ogr2ogr', 'gdal-bin', 'proj-bin', 'python3-gdal');
if (wanted !== 'browser') {
  await ensure('/usr/lib/python3/dist-packages/owslib/owscontext/core.py', 'python3-owslib');
  const jest = [
    '--experimental-vm-modules',
    '--disable-warning=ExperimentalWarning',
    'node_modules/jest/bin/jest.js',
    '--json',
    `--outputFile=${join(reports, 'jest.json')}`,
  ];
  ok = step('unit, server and command-line tests', jest) && ok;
  const r = JSON.parse(readFileSync(join(reports, 'jest.json'), 'utf8'));
  counts.passed += r.numPassedTests;
  counts.failed += r.numFailedTests + r.numRuntimeErrorTestSuites;
  counts.skipped += r.numPendingTests + r.numTodoTests;
}
if (wanted !== 'unit') {
  await ensure(process.env.ROOTMAP_CHROMIUM ?? '/usr/bin/chromium', 'chromium');
  await ensure('/usr/bin/pdftotext', 'poppler-utils');
  ok = step('browser tests', ['node_modules/@playwright/test/cli.js', 'test', '-c', 'e2e/playwright.config.ts']) && ok;
  const { stats } = JSON.parse(readFileSync(join(reports, 'playwright.json'), 'utf8'));
  counts.passed += stats.expected;
  counts.failed += stats.unexpected + stats.flaky;
  counts.skipped += stats.skipped;
}
console.log(`${counts.passed} passed, ${counts.failed} failed, ${counts.skipped} skipped`);
process.exit(ok && counts.failed === 0 ? 0 : 1);
