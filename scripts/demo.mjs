// `npm run demo`: installs what is missing, builds what is stale, serves the product with its demo document. `npm run review`: the same with the start page. Both keep reviews.
import { join } from 'node:path';
import { installPackages } from './lib/install.mjs';
import { mustRun, root } from './lib/run.mjs';

await installPackages();
const { build } = await import('./build.mjs');
await build();
const [what, ...options] = process.argv.slice(2);
const open = what === 'review' ? {} : { TAZZEL_OPEN: 'demo' };
await mustRun(process.execPath, ['apps/server/dist/server.mjs', '--reviews', join(root, 'tazzel-reviews'), ...options], { env: { ...process.env, ...open } });
