#!/usr/bin/env node
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const program = new URL('../dist/tazzel.mjs', import.meta.url);
const builder = new URL('../../../scripts/build.mjs', import.meta.url);
if (!existsSync(program) && existsSync(builder)) {
  const { execFileSync } = await import('node:child_process');
  // Only the first call after installing comes here; standard output stays the program's own.
  execFileSync(process.execPath, [fileURLToPath(builder), 'node'], { stdio: ['ignore', 2, 'inherit'] });
}
// Who reads only the first lines (head) ends the pipe; that is no fault.
process.stdout.on('error', (error) => {
  if (error.code !== 'EPIPE') throw error;
  process.exit(0);
});
const { main } = await import(program.href);
process.exitCode = await main(process.argv.slice(2), { out: console.log, err: console.error });
