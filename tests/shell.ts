/** The program as it is built, called within the process: that is far cheaper than one for each call. `apps/cli/bin` is called by few. */
import { fileURLToPath } from 'node:url';

const bundle = new URL('../apps/cli/dist/tazzel.mjs', import.meta.url);
export const program = fileURLToPath(new URL('../apps/cli/bin/tazzel.mjs', import.meta.url));

export interface Called {
  readonly status: number;
  readonly stdout: string;
  readonly stderr: string;
}

/** Calls the program as from a folder. */
export const calledFrom = (folder: string) => async (...args: readonly string[]): Promise<Called> => {
  const { main } = (await import(bundle.href)) as typeof import('../apps/cli/src/main.ts');
  const [lines, problems]: [string[], string[]] = [[], []];
  const before = process.cwd();
  process.chdir(folder);
  try {
    const status = await main(args, { out: (line) => void lines.push(`${line}\n`), err: (line) => void problems.push(`${line}\n`) });
    return { status, stdout: lines.join(''), stderr: problems.join('') };
  } finally {
    process.chdir(before);
  }
};
