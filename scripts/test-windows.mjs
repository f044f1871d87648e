// npm run test:windows: unit tests, and one story in the browser, on Node for Windows under Wine. Ends with a plain line of counts.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build } from './build.mjs';
import { install } from './install.mjs';
import { node, root } from './lib.mjs';
import { LEFT_OUT, NOT_RUN, SUITES, WINE_FAULTS } from './windows/left-out.mjs';
import { ensureWine, windowsMachine } from './windows/machine.mjs';

await install();
await build();
const missing = process.platform === 'linux' ? await ensureWine() : ['Linux, on which this is run'];
if (missing.length > 0) {
  console.log(`Not run on Windows: ${missing.join(' and ')} cannot be had here.`);
  process.exit(process.env.CI ? 1 : 0);
}

const started = Date.now();
const drives = mkdtempSync(join(existsSync('/dev/shm') ? '/dev/shm' : tmpdir(), 'rootmap-drives-'));
for (const name of ['d', 'e']) mkdirSync(join(drives, name));
const machine = await windowsMachine({ D: join(drives, 'd'), E: join(drives, 'e') });
const names = LEFT_OUT.map(([name]) => name).join('|');
const patterns = SUITES.map((s) => s.replaceAll('/', '.'));
const unit = await machine.finish(
  [
    '--experimental-vm-modules',
    '--disable-warning=ExperimentalWarning',
    `${machine.workspace}\\node_modules\\jest\\bin\\jest.js`,
    '--selectProjects',
    'core',
    'engine',
    '--maxWorkers=2',
    '--testNamePattern',
    `^(?!.*(${names})$)`,
    '--testPathPatterns',
    ...patterns,
  ],
  { env: { ROOTMAP_DATA: 'D:\\data' } },
);
machine.close();
rmSync(drives, { recursive: true, force: true, maxRetries: 5 });
console.log(unit.text);
const counted = /^Tests:\s+(?:(\d+) failed, )?(?:(\d+) skipped, )?(?:(\d+) passed, )?(\d+) total/m.exec(unit.text);
const [failed = 0, leftOut = 0, passed = 0] = (counted ?? []).slice(1).map((n) => Number(n ?? 0));
console.log(`unit tests on Node for Windows: ${((Date.now() - started) / 1000).toFixed(0)} s, ${unit.status === 0 ? 'passed' : 'FAILED'}`);
console.log(`Left out, ${leftOut} of these files:`);
for (const [name, why] of LEFT_OUT) console.log(`  ${name}: ${why}`);
console.log('Not run at all:');
for (const [name, why] of NOT_RUN) console.log(`  ${name}: ${why}`);
console.log('Faults of Wine, shown in plain Node:');
for (const [what, lines] of WINE_FAULTS) console.log(`  ${what}: ${lines}`);

const storyStarted = Date.now();
const story = spawnSync(node, ['node_modules/@playwright/test/cli.js', 'test', '-c', 'e2e/windows/playwright.config.ts'], {
  cwd: root,
  stdio: 'inherit',
});
console.log(`story on Node for Windows: ${((Date.now() - storyStarted) / 1000).toFixed(0)} s, ${story.status === 0 ? 'passed' : 'FAILED'}`);
const { stats } = JSON.parse(readFileSync(join(root, 'reports', 'playwright-windows.json'), 'utf8'));
const ok = unit.status === 0 && counted !== null && passed > 0 && story.status === 0;
if (stats.flaky > 0) console.log(`${stats.flaky} of the story passed only when it was told again`);
console.log(`${passed + stats.expected + stats.flaky} passed, ${failed + stats.unexpected} failed`);
process.exit(ok ? 0 : 1);
