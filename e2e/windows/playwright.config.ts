import base from '../playwright.config.js';

/** The story on Node for Windows, driven by the Chromium of this system; `npm run test:windows` starts it. */
export default {
  ...base,
  testMatch: '*.windows.ts',
  workers: 1,
  retries: 1, // Wine and a busy machine: what passes only then is told as that
  timeout: 240_000,
  expect: { timeout: 60_000 },
  use: { ...base.use, actionTimeout: 60_000 },
  globalSetup: undefined,
  reporter: [['list'], ['json', { outputFile: '../../reports/playwright-windows.json' }]],
  outputDir: '../../test-results/windows',
};
