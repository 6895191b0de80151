// Type check, lint, generated docs and import graph. Everything that can be said without running the product.
import { execFile } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { root, run } from './lib/run.mjs';

const projects = ['packages', 'apps'].flatMap((group) => readdirSync(join(root, group)).flatMap((name) => readdirSync(join(root, group, name)).filter((file) => /^tsconfig.*\.json$/.test(file)).map((file) => `${group}/${name}/${file}`)));
/** The graph must have been seen: a checker that reads nothing finds nothing. */
const FEWEST_MODULES = 100;

/** Each says what is wrong, or nothing. The longest come first: then no core waits long for another at the end. */
const checks = [
  ...[...projects, 'tsconfig.tests.json'].reverse().map((project) => async () => ((await run(process.execPath, ['node_modules/typescript/bin/tsc', '-p', project])) === 0 ? null : `types of ${project}`)),
  importGraph,
  async () => ((await run('npx', ['biome', 'lint', '--error-on-warnings', '.'])) === 0 ? null : 'lint'),
  async () => ((await run('npx', ['tsx', 'scripts/generate-docs.ts', '--check'])) === 0 ? null : 'docs'),
];

async function importGraph() {
  const cruise = ['depcruise', '--config', '.dependency-cruiser.cjs', '--output-type', 'json', 'packages', 'apps'];
  const result = await promisify(execFile)('npx', cruise, { cwd: root, maxBuffer: 2 ** 28 }).catch((error) => {
    // Violations end it as well; what else went wrong stands here.
    console.error(error.stderr);
    return error;
  });
  const { summary } = JSON.parse(result.stdout);
  for (const { rule, from, to } of summary.violations) console.error(`${rule.name}: ${from} → ${to}`);
  if (summary.violations.length > 0) return 'import graph';
  if (summary.totalCruised < FEWEST_MODULES) return `import graph: only ${summary.totalCruised} modules were seen`;
  console.log(`The import graph of ${summary.totalCruised} modules is in order.`);
  return null;
}

/** What is wrong, or null. */
export async function check() {
  const [waiting, wrong] = [[...checks], []];
  const work = async () => {
    for (let next = waiting.shift(); next; next = waiting.shift()) {
      const said = await next();
      if (said) wrong.push(said);
    }
  };
  await Promise.all(Array.from({ length: availableParallelism() }, work));
  return wrong.length > 0 ? wrong.join(', ') : null;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const failure = await check();
  if (failure) {
    console.error(`Check failed: ${failure}`);
    process.exit(1);
  }
}
