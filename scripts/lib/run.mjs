import { spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('../..', import.meta.url));

/** Runs a program in the project's folder; its output is shown. Resolves to the exit code. */
export function run(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd: root, stdio: 'inherit', ...options });
    child.on('error', reject);
    child.on('exit', (code, signal) => resolve(signal ? 1 : (code ?? 1)));
  });
}

/** As `run`, but a failure ends this process. */
export async function mustRun(command, args, options) {
  const code = await run(command, args, options);
  if (code !== 0) process.exit(code);
}
