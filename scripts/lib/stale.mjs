// Whether outputs are older than what they are made from. Only Node's own modules: this runs before anything is installed.
import { existsSync, mkdirSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

const SKIPPED = new Set(['node_modules', 'dist', 'build', '.git', 'test-results']);

function newest(path) {
  if (!existsSync(path)) return 0;
  const stats = statSync(path);
  if (!stats.isDirectory()) return stats.mtimeMs;
  let latest = 0;
  for (const entry of readdirSync(path)) if (!SKIPPED.has(entry)) latest = Math.max(latest, newest(join(path, entry)));
  return latest;
}

/** True if `stamp` is missing or older than any file under `inputs`. */
export const isStale = (stamp, inputs) => !existsSync(stamp) || inputs.some((input) => newest(input) > statSync(stamp).mtimeMs);

export function touch(stamp) {
  mkdirSync(dirname(stamp), { recursive: true });
  writeFileSync(stamp, `${new Date().toISOString()}\n`);
}
