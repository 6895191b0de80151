/**
 * The demo with every fourth pixel of every fourth row, for tests of what does not depend on its size: the same elements and documents, a
 * sixteenth of the work. Made of the shipped files by OpenImageIO (nothing is mixed, so that IDs stay what they are) and by the demo's own script.
 */
import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { isStale, touch } from '../scripts/lib/stale.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const shipped = join(root, 'apps/web/public/demo');
/** Pictures for the docs are made of one with every second pixel. */
const SHARE = process.env.TAZZEL_PRACTICE ? 50 : 25;
export const smallDemo = join(root, `.cache/demo-${SHARE}`);

export function makeSmallDemo(): void {
  const stamp = join(smallDemo, '.made');
  if (!isStale(stamp, [shipped, join(root, 'scripts/make-demo-data.ts'), join(root, 'packages/core/src')])) return;
  rmSync(smallDemo, { recursive: true, force: true });
  mkdirSync(smallDemo, { recursive: true });
  mkdirSync(join(smallDemo, 'photograph'));
  for (const file of readdirSync(shipped, { recursive: true, encoding: 'utf8' }).filter((name) => name.endsWith('.exr'))) execFileSync('oiiotool', ['-a', join(shipped, file), '--resample:interp=0', `${SHARE}%`, '-o', join(smallDemo, file)]);
  execFileSync(process.execPath, ['--import', 'tsx', join(root, 'scripts/make-demo-data.ts'), '--documents', '--into', smallDemo], { cwd: root, stdio: 'inherit' });
  touch(stamp);
}
