import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    // What the storage of a browser is stood in for needs modules of its own in each file; all else shares what is loaded and warm.
    projects: [
      { extends: true, test: { name: 'packages', include: ['packages/*/src/**/*.test.ts', 'apps/{cli,server}/src/**/*.test.ts'], isolate: false } },
      { extends: true, test: { name: 'web', include: ['apps/web/src/**/*.test.ts'] } },
    ],
    // As many as there are cores: by itself Vitest leaves one of two idle.
    maxWorkers: '100%',
    testTimeout: 60_000,
    hookTimeout: 60_000,
  },
});
