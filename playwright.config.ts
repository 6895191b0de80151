import { defineConfig } from '@playwright/test';
import { browserOptions } from './e2e/browser.ts';
import { SHIPPED, SHIPPED_PORT } from './e2e/shipped.ts';

const PORT = 4871;
const results = process.env.TAZZEL_RESULTS;

/** The production build: with a small demo for most tests, and as users get it. */
export default defineConfig({
  testDir: 'e2e',
  testMatch: '*.spec.ts',
  timeout: 600_000,
  // No test asserts a time: a machine that stalls for a while is slow, not wrong.
  expect: { timeout: 120_000 },
  // A browser waits for its picture about a third of its time; two at once use that.
  workers: 2,
  fullyParallel: true,
  reporter: [['list'], ...(results ? ([['json', { outputFile: results }]] as const) : [])],
  use: { baseURL: `http://localhost:${PORT}`, viewport: { width: 1280, height: 800 }, launchOptions: browserOptions, trace: 'off', acceptDownloads: true, serviceWorkers: 'block' },
  webServer: [
    { command: 'node --import tsx e2e/serve-small.ts', env: { PORT: String(PORT) }, url: `http://localhost:${PORT}`, reuseExistingServer: false, timeout: 600_000 },
    { command: 'node apps/server/dist/server.mjs', env: { PORT: String(SHIPPED_PORT) }, url: SHIPPED, reuseExistingServer: false },
  ],
});
