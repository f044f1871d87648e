import { defineConfig } from '@playwright/test';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const PORT = Number(process.env['ROOTMAP_E2E_PORT'] ?? 4893);
export const DEMO_FOLDER = process.env['ROOTMAP_E2E_FOLDER'] ?? join(tmpdir(), 'rootmap-e2e-demo');
process.env['ROOTMAP_E2E_FOLDER'] = DEMO_FOLDER;

export default defineConfig({
  testDir: '.',
  testMatch: '*.spec.ts',
  fullyParallel: false,
  workers: 1, // one demo, one story: the tests build on each other's state within a file
  timeout: 90_000,
  expect: { timeout: 20_000 },
  reporter: [['list'], ['json', { outputFile: '../reports/playwright.json' }]],
  outputDir: '../test-results',
  use: {
    baseURL: `http://127.0.0.1:${PORT}`,
    viewport: { width: 1280, height: 800 },
    actionTimeout: 20_000,
    trace: 'retain-on-failure',
    launchOptions: {
      executablePath: process.env['ROOTMAP_CHROMIUM'] ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
  webServer: {
    command: `node ../scripts/demo.mjs --fresh --port ${PORT} --folder ${DEMO_FOLDER}`,
    url: `http://127.0.0.1:${PORT}/api/status`,
    timeout: 300_000,
    reuseExistingServer: false,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 5_000 },
  },
});
