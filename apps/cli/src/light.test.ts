import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { smallSet } from '../../../tests/elements.ts';
import { scratch } from '../../../tests/tools.ts';
import { calledFrom, program } from '../../../tests/shell.ts';

const folder = scratch();
const example = join(folder, 'example.json');
const run = calledFrom(folder);
const project = join(folder, 'room.tazzel');
const evening = join(folder, 'evening.tazzel');

beforeAll(() => {
  writeFileSync(example, /```json\n([\s\S]*?)```/.exec(readFileSync(new URL('../../../docs/scenes.md', import.meta.url), 'utf8'))?.[1] ?? '');
  execFileSync(process.execPath, [program, 'new', ...smallSet('reading-room', '50%'), '--out', project]);
});

interface Listed {
  readonly groups: readonly { readonly group: string; readonly on: boolean; readonly intensityStops: number; readonly kelvin: number; readonly share: number; readonly noise: number }[];
  readonly scenarios: readonly { readonly name: string }[];
}
const list = async (path: string, ...more: readonly string[]): Promise<Listed> => JSON.parse((await run('light', path, '--list', '--json', ...more)).stdout);

describe('light', () => {
  it('lists groups with their shares, temperatures and grain', async () => {
    const { groups } = await list(project);
    expect(groups.map(({ group }) => group)).toEqual(['Sun', 'Environment', 'Interior lamps', 'Facade lamps', 'Yard lights', 'Rest', 'Background, as seen']);
    expect(groups.reduce((sum, { share }) => sum + share, 0)).toBeCloseTo(1, 6);
    const lamps = groups[2];
    expect([lamps.share > 0.5, lamps.kelvin > 2000 && lamps.kelvin < 3500]).toEqual([true, true]);
    expect((await run('light', project)).stdout).toMatch(/^group {19} {4}stops {3}kelvin {2}% light {2}% grain\nSun /);
  });
  it('sets groups, keeps the mix as a scenario and writes it; flatten shows it by its name', async () => {
    const made = await run('light', project, '--start', 'dusk', '--set', 'interior lamps=0.5,3000', '--set', 'Sun=off', '--save', 'Evening', '--out', evening);
    expect([made.status, made.stderr]).toEqual([0, '']);
    expect((await list(evening)).scenarios.map(({ name }) => name)).toEqual(['Evening']);
    expect((await list(evening)).groups.slice(0, 3)).toMatchObject([{ on: false }, { intensityStops: -2 }, { on: true, intensityStops: 0.5 }]);
    expect(await run('flatten', evening, '--scenario', 'morning', '--out', 'x.exr')).toMatchObject({ status: 2, stderr: 'There is no scenario “morning”. Scenarios: Evening.\n' });
    expect((await run('flatten', evening, '--scenario', 'evening', '--out', join(folder, 'lit.exr'), '--scale', '0.125')).status).toBe(0);
    expect(await run('light', project, '--set', 'sun=1', '--out', evening)).toMatchObject({ status: 2, stderr: expect.stringMatching(/exists already/) });
  });
  it('mixes travel in a file of their own', async () => {
    const file = join(folder, 'evening.lights.json');
    expect((await run('light', evening, '--out', file)).status).toBe(0);
    expect(JSON.parse(readFileSync(file, 'utf8'))).toMatchObject({ format: 'tazzel-lights', version: 1, scenarios: [{ name: 'Evening', groups: [{ group: 'Sun' }, { group: 'Environment' }, { group: 'Interior lamps' }, { group: 'Facade lamps' }, { group: 'Yard lights' }, { group: 'Background, as seen' }] }] });
    const other = join(folder, 'other.lights.json');
    writeFileSync(other, JSON.stringify({ format: 'tazzel-lights', version: 1, scenarios: [{ name: 'Candles', groups: [{ group: 'Candles', params: { intensityStops: 1 } }, { group: 'sun', params: { on: false } }] }] }));
    const loaded = await run('light', project, '--load', other, '--list', '--json');
    expect(loaded).toMatchObject({ status: 1, stderr: `${other}: “Candles” sets the group “Candles”, which this document does not have.\n` });
    expect((JSON.parse(loaded.stdout) as Listed).groups[0].on).toBe(false);
  });
  it('writes a mix into the lamps of a scene, and names groups that it does not have', async () => {
    const out = join(folder, 'relit.json');
    const made = await run('light', project, '--set', 'environment=-2', '--set', 'interior lamps=1', '--scene', example, '--scene-out', out);
    expect(made.status).toBe(1);
    expect(made.stderr).toContain('has no light group “Interior lamps”: its part of the mix is not in it.');
    expect(JSON.parse(readFileSync(out, 'utf8')).skyFilter).toEqual([0.25, 0.25, 0.25]);
  });
  it('wrong words, and documents without groups', async () => {
    expect(await run('light', project, '--set', 'sun')).toMatchObject({ status: 2, stderr: expect.stringMatching(/expected GROUP=STOPS/) });
    expect(await run('light', project, '--set', 'moon=1')).toMatchObject({ status: 2, stderr: expect.stringMatching(/There is no light group “moon”. Groups: Sun, Environment/) });
    expect(await run('light', project, '--set', 'sun=1,900')).toMatchObject({ status: 2, stderr: expect.stringMatching(/between 1700 and 25000 K/) });
    expect((await run('light', project, '--start', 'noon')).stderr).toContain('clear-day, late-sun, dusk, night');
    expect((await run('light', project, '--scene', example)).status).toBe(2);
    const bare = join(folder, 'bare.tazzel');
    execFileSync(process.execPath, [program, 'new', smallSet('courtyard_shadow')[0], '--out', bare]);
    expect(await run('light', bare)).toMatchObject({ status: 1, stderr: 'The document has no light groups. Add those elements of the render.\n' });
    expect(await run('frames', project, '--out', join(folder, 'frames'))).toMatchObject({ status: 1, stderr: expect.stringMatching(/no frames/) });
    expect(existsSync(join(folder, 'frames'))).toBe(false);
  });
});
