import { copyFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { byteSource } from '@tazzel/formats';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { builtEngine } from '../../../tests/built.ts';
import { demoSet } from '../../../tests/elements.ts';
import { namedSources } from '../../../tests/sources.ts';
import { scratch } from '../../../tests/tools.ts';
import type { Engine } from './engine.ts';
import { nodePlatform } from './node-platform.ts';
import { hashOfFile } from './worker.ts';

let small: Engine;
let large: Engine;
beforeAll(async () => {
  small = await builtEngine({ budgetBytes: 8 * 2 ** 20 });
  large = await builtEngine();
});
afterAll(() => {
  small.pool.terminate();
  large.pool.terminate();
});

describe('looking into a set', () => {
  it('one that does not fit is sampled, not decoded, and gets the roles that it gets when it is read whole', async () => {
    const set = await namedSources(small, demoSet('courtyard'));
    const sampled = await small.examine(set);
    expect(small.bytesHeld).toBe(0);
    const whole = await large.examine(await namedSources(large, demoSet('courtyard')));
    expect(large.bytesHeld).toBeGreaterThan(10_000_000);
    expect(sampled.map(({ name, role, encoding, alpha }) => [name, role, encoding, alpha])).toEqual(whole.map(({ name, role, encoding, alpha }) => [name, role, encoding, alpha]));
    expect(sampled.flatMap(({ findings }) => findings)).toEqual([]);
  }, 60_000);
  it('pixels give a role away where the name is hidden', async () => {
    const set = (await namedSources(large, demoSet('courtyard'))).map((source) => ({ ...source, name: source.id, role: 'picture' as const, guess: { reason: '', confidence: 0.3 } }));
    const roles = new Map((await large.examine(set)).map((source, i) => [demoNames[i] ?? '', source.role]));
    expect(roles.get('ambient_occlusion')).toBe('ambient-occlusion');
    expect(roles.get('depth')).toBe('depth');
    expect(roles.get('material_id')).toBe('material-id');
  }, 60_000);
  it('the same picture twice is named once, and does not count twice', async () => {
    const [gi] = (await namedSources(large, demoSet('courtyard'))).filter(({ role }) => role === 'gi');
    const [first, second] = await large.examine([gi, { ...gi, id: 'source-99', name: 'gi again' }]);
    expect([first.findings, first.inSum]).toEqual([[], 'auto']);
    // In another role it is said as well, and counts: one lamp may be all that shines.
    const [, lamp] = await large.examine([gi, { ...gi, id: 'source-98', name: 'light_lamp', role: 'light-group', guess: null }]);
    expect(lamp).toMatchObject({ inSum: 'auto', findings: [{ kind: 'copy' }] });
    expect(second).toMatchObject({ inSum: 'out', findings: [{ kind: 'copy', sentence: 'gi again is the same picture as gi. One of the two can be removed.' }] });
  }, 60_000);
});

it('the title of a set of files says nothing about its parts, nor a file’s name about the layers in it', async () => {
  const folder = scratch();
  const parts = { beauty: 'beauty', gi: 'gi', reflection: 'reflection', shadow: 'shadow', diffuse_filter: 'diffuse-filter' } as const;
  const dark = await sharp({ create: { width: 96, height: 64, channels: 3, background: '#0a0806' } }).png().toBuffer();
  const sets = await Promise.all(
    ['evening_light', 'mirror_lake'].map(async (title) => {
      const paths = Object.keys(parts).map((part) => join(folder, `${title}_${part}.png`));
      for (const path of paths) writeFileSync(path, dark);
      const files = await Promise.all(paths.map(async (path) => namedSources(large, [path])));
      return (await large.examineEach(files)).map((found) => (found instanceof Error ? found.message : found[0].role));
    }),
  );
  for (const roles of sets) expect(roles).toEqual(Object.values(parts));
  const [layered] = demoSet('courtyard');
  const renamed = join(folder, 'hall_reflection_test.exr');
  copyFileSync(layered, renamed);
  const before = (await large.examine(await namedSources(large, [layered]))).map(({ role }) => role);
  expect((await large.examine(await namedSources(large, [renamed]))).map(({ role }) => role)).toEqual(before);
}, 60_000);

it('a file that is hashed slice by slice has the hash that Node gives it', async () => {
  const bytes = Uint8Array.from({ length: 20_000_003 }, (_, i) => (i * 2654435761) >>> 24);
  expect(await hashOfFile(byteSource('large', bytes), nodePlatform, 1000)).toBe(await nodePlatform.sha256(bytes));
});

const demoNames: readonly string[] = ['denoised_beauty', 'alpha', 'direct_lighting', 'gi', 'reflection', 'refraction', 'specular', 'self_illumination', 'background', 'diffuse_filter', 'raw_lighting', 'ambient_occlusion', 'light_group_sun', 'light_group_environment', 'light_group_interior_lamps', 'light_group_facade_lamps', 'light_group_yard_lights', 'light_group_rest', 'depth', 'material_id'];
