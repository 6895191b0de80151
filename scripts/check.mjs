// Type check, lint, generated docs and import graph. Everything that can be said without running the product.
import { execFileSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { root, run } from './lib/run.mjs';

const projects = ['packages', 'apps'].flatMap((group) => readdirSync(join(root, group)).flatMap((name) => readdirSync(join(root, group, name)).filter((file) => /^tsconfig.*\.json$/.test(file)).map((file) => `${group}/${name}/${file}`)));
/** The graph must have been seen: a checker that reads nothing finds nothing. */
const FEWEST_MODULES = 100;

export async function check() {
  const waiting = [...projects, 'tsconfig.tests.json'];
  const wrong = [];
  const work = async () => {
    for (let project = waiting.pop(); project; project = waiting.pop()) if ((await run(process.execPath, ['node_modules/typescript/bin/tsc', '-p', project])) !== 0) wrong.push(project);
  };
  await Promise.all(Array.from({ length: availableParallelism() }, work));
  if (wrong.length > 0) return `types: ${wrong.join(', ')}`;
  if ((await run('npx', ['biome', 'lint', '--error-on-warnings', '.'])) !== 0) return 'lint';
  if ((await run('npx', ['tsx', 'scripts/generate-docs.ts', '--check'])) !== 0) return 'docs';
  const cruise = ['depcruise', '--config', '.dependency-cruiser.cjs', '--output-type', 'json', 'packages', 'apps'];
  let result;
  try {
    result = execFileSync('npx', cruise, { cwd: root, maxBuffer: 2 ** 28, stdio: ['ignore', 'pipe', 'inherit'] });
  } catch (error) {
    result = error.stdout;
  }
  const { summary } = JSON.parse(result);
  for (const { rule, from, to } of summary.violations) console.error(`${rule.name}: ${from} → ${to}`);
  if (summary.violations.length > 0) return 'import graph';
  if (summary.totalCruised < FEWEST_MODULES) return `import graph: only ${summary.totalCruised} modules were seen`;
  console.log(`Types, lint and the import graph of ${summary.totalCruised} modules are in order.`);
  return null;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const failure = await check();
  if (failure) {
    console.error(`Check failed: ${failure}`);
    process.exit(1);
  }
}
