// Installs what is missing, before any package can be imported.
import { execFileSync } from 'node:child_process';
import { existsSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { mustRun, root } from './run.mjs';

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

/** Browser and reference tools of the tests, from Debian's packages. */
export async function installTools() {
  const missing = Object.entries({ chromium: 'chromium', oiiotool: 'openimageio-tools', identify: 'imagemagick', tiffcp: 'libtiff-tools' }).filter(([command]) => !has(command)).map(([, pack]) => pack);
  if (missing.length === 0) return;
  const mayInstall = process.getuid?.() === 0 && has('apt-get');
  if (!mayInstall) {
    console.error(`The tests need ${missing.join(', ')}. Installing needs root: run “sudo apt-get install ${missing.join(' ')}” and start the tests again.`);
    process.exit(1);
  }
  console.log(`Installing ${missing.join(', ')} from Debian’s packages …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  await mustRun('apt-get', ['update', '-qq'], { env });
  await mustRun('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing], { env });
}
