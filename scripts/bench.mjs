import { installPackages } from './lib/install.mjs';
import { mustRun } from './lib/run.mjs';

await installPackages();
const { build } = await import('./build.mjs');
await build(['--browser', '--masks', '--memory'].some((flag) => process.argv.includes(flag)) ? undefined : ['kernels', 'node']);
await mustRun('npx', ['tsx', 'scripts/bench/main.ts', ...process.argv.slice(2)]);
