import { defineConfig } from '@playwright/test';
import { browserOptions } from './e2e/browser.ts';

const PORT = 4871;
const results = process.env.TAZZEL_RESULTS;

/** The production build, served as users get it. */
export default defineConfig({
  testDir: 'e2e',
  testMatch: '*.spec.ts',
  timeout: 180_000,
  expect: { timeout: 15_000 },
  workers: 1,
  fullyParallel: false,
  reporter: [['list'], ...(results ? ([['json', { outputFile: results }]] as const) : [])],
  use: { baseURL: `http://localhost:${PORT}`, viewport: { width: 1280, height: 800 }, launchOptions: browserOptions, trace: 'off', acceptDownloads: true },
  webServer: { command: 'node apps/server/dist/server.mjs', env: { PORT: String(PORT) }, url: `http://localhost:${PORT}`, reuseExistingServer: false },
});
