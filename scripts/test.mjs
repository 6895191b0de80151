// `npm test`: installs what is missing, then checks, unit tests, and browser tests against the production build.
import { readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { installPackages, installTools } from './lib/install.mjs';
import { root, run } from './lib/run.mjs';

await installPackages();
await installTools();
const { build } = await import('./build.mjs');
await build();

const results = join(root, '.cache');
const unitFile = join(results, 'unit.json');
const browserFile = join(results, 'browser.json');
rmSync(results, { recursive: true, force: true });

const { check } = await import('./check.mjs');
const failure = await check();
if (failure) console.error(`Check failed: ${failure}`);
await run('npx', ['vitest', 'run', '--reporter=default', '--reporter=json', `--outputFile=${unitFile}`]);
await run('npx', ['playwright', 'test'], { env: { ...process.env, TAZZEL_RESULTS: browserFile } });

const read = (file) => {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    return null;
  }
};
const unit = read(unitFile);
const browser = read(browserFile);
// A suite that left no result has failed as a whole; the check counts as one test.
const passed = (failure ? 0 : 1) + (unit?.numPassedTests ?? 0) + (browser?.stats?.expected ?? 0);
const failed = (failure ? 1 : 0) + (unit ? unit.numFailedTests + Math.max(0, unit.numFailedTestSuites - unit.numFailedTests > 0 && unit.numFailedTests === 0 ? 1 : 0) : 1) + (browser ? browser.stats.unexpected + browser.errors.length : 1);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
