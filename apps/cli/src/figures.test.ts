/** Figures in the shell: stood up by camera and depth, listed, delivered; what is missing is said. */
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { beforeAll, describe, expect, it } from 'vitest';
import { smallSet } from '../../../tests/elements.ts';
import { scratch } from '../../../tests/tools.ts';
import { calledFrom, program } from '../../../tests/shell.ts';

const folder = scratch();
const run = calledFrom(folder);
const [project, peopled] = [join(folder, 'yard.tazzel'), join(folder, 'peopled.tazzel')];
const cutOut = (name: string) => fileURLToPath(new URL(`../../web/public/figures/${name}.png`, import.meta.url));

beforeAll(() => {
  execFileSync(process.execPath, [program, 'new', ...smallSet('courtyard', '50%'), '--out', project]);
});

describe('figures', () => {
  it('stands a cut-out up where its foot is to be seen, and lists it; flatten shows it', async () => {
    const made = await run('figures', project, '--add', cutOut('woman-dress'), '--at', '300,340', '--height', '1.68', '--mirror', '--out', peopled);
    expect([made.status, made.stderr]).toEqual([0, '']);
    const { figures } = JSON.parse((await run('figures', peopled, '--list', '--json')).stdout);
    expect(figures).toMatchObject([{ picture: 'woman-dress', at: [300, 340], heightMetres: 1.68, mirrored: true }]);
    // All of its picture but its margins, which the script cuts off.
    expect(figures[0].foot[1]).toBeGreaterThan(0.98);
    expect(Math.abs(figures[0].groundMetres)).toBeLessThan(0.3);
    const values = async (path: string) => JSON.parse((await run('measure', path, '--json')).stdout);
    expect(await values(peopled)).not.toEqual(await values(project));
  });
  it('says what is wrong: no ground, no picture, no place, nothing to write to', async () => {
    const refused = async (...more: readonly string[]) => (await run('figures', project, ...more)).stderr;
    expect(await refused('--add', cutOut('dog'), '--at', '300,10', '--out', 'x.tazzel')).toMatch(/above the horizon/);
    expect(await refused('--add', 'none.png', '--at', '1,1', '--out', 'x.tazzel')).toMatch(/none.png: there is no such file/);
    expect(await refused('--add', cutOut('dog'), '--at', 'here', '--out', 'x.tazzel')).toMatch(/--at here: expected two numbers/);
    expect(await refused('--add', cutOut('dog'))).toMatch(/--add and --out belong together/);
    expect((await run('figures', project)).stdout).toBe('No figures stand in the picture.\n');
  });
});
