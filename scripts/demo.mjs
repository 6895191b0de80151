// `npm run demo`: installs what is missing, builds what is stale, serves the product with its demo document.
import { installPackages } from './lib/install.mjs';
import { mustRun } from './lib/run.mjs';

await installPackages();
const { build } = await import('./build.mjs');
await build();
await mustRun(process.execPath, ['apps/server/dist/server.mjs'], { env: { ...process.env, TAZZEL_OPEN: 'demo' } });
