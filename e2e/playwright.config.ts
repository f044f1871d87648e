import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: '.',
  testMatch: '*.spec.ts',
  fullyParallel: false,
  workers: 2, // each file has a demo and a server of its own; its tests build on one another
  globalSetup: './make-masters.ts',
  timeout: 90_000,
  expect: { timeout: 20_000 },
  reporter: [['list'], ['json', { outputFile: '../reports/playwright.json' }]],
  outputDir: '../test-results',
  use: {
    viewport: { width: 1280, height: 800 },
    actionTimeout: 20_000,
    // Without pictures and copies of the page after each step, which take as long as the steps.
    trace: { mode: 'retain-on-failure', screenshots: false, snapshots: false },
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: process.env['ROOTMAP_CHROMIUM'] ?? '/usr/bin/chromium-headless-shell',
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
});
