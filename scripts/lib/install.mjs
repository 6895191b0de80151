// Installs what is missing, before any package can be imported.
import { execFileSync } from 'node:child_process';
import { existsSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { mustRun, root, run } from './run.mjs';

export async function installPackages() {
  const [major] = process.versions.node.split('.').map(Number);
  if (major < 20) {
    console.error(`Tazzel needs Node.js 20 or newer; this is ${process.versions.node}.`);
    process.exit(1);
  }
  const done = join(root, 'node_modules/.package-lock.json');
  if (existsSync(done) && statSync(done).mtimeMs >= statSync(join(root, 'package-lock.json')).mtimeMs) return;
  console.log('Installing npm packages …');
  await mustRun('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']);
}

const has = (command) => {
  try {
    execFileSync('which', [command], { stdio: 'ignore' });
    return true;
  } catch {
    return false;
  }
};

/** The browser without what windows need: tests take three quarters of the time with it, and run as well without. */
const FASTER = 'chromium-headless-shell';

/** Browser and reference tools of the tests, from Debian's packages. */
export async function installTools() {
  const needed = Object.entries({ chromium: 'chromium', oiiotool: 'openimageio-tools', identify: 'imagemagick', tiffcp: 'libtiff-tools' }).filter(([command]) => !has(command)).map(([, pack]) => pack);
  const mayInstall = process.getuid?.() === 0 && has('apt-get');
  if (needed.length > 0 && !mayInstall) {
    console.error(`The tests need ${needed.join(', ')}. Installing needs root: run “sudo apt-get install ${needed.join(' ')}” and start the tests again.`);
    process.exit(1);
  }
  if (!mayInstall || (needed.length === 0 && has(FASTER))) return;
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  if (needed.length > 0) {
    console.log(`Installing ${needed.join(', ')} from Debian’s packages …`);
    await mustRun('apt-get', ['update', '-qq'], { env });
    await mustRun('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...needed], { env });
  }
  // Where there is no network nothing is waited for.
  const quietly = { env, stdio: 'ignore' };
  const quickly = ['-o', 'Acquire::Retries=0', '-o', 'Acquire::http::Timeout=20'];
  if (needed.length === 0) await run('apt-get', ['update', ...quickly], quietly);
  if (!has(FASTER)) await run('apt-get', ['install', '-y', ...quickly, '--no-install-recommends', FASTER], quietly);
}
