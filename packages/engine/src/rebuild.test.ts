import { join } from 'node:path';
import { addElements, emptyDocument, guessEdits, type Source, type TazzelDocument } from '@tazzel/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { builtEngine } from '../../../tests/built.ts';
import { after } from '../../../tests/documents.ts';
import { demoPart, demoSet } from '../../../tests/elements.ts';
import { namedSources } from '../../../tests/sources.ts';
import { scratch, tool } from '../../../tests/tools.ts';
import type { Engine } from './engine.ts';

let engine: Engine;
let courtyard: TazzelDocument;

beforeAll(async () => {
  // So little memory that pictures of a quarter of the size are compared: sums hold there as well.
  engine = await builtEngine({ budgetBytes: 8 * 2 ** 20 });
  const sources = await namedSources(engine, [...demoSet('courtyard'), ...demoSet('courtyard_fog')]);
  courtyard = addElements(emptyDocument('check', 'Check', sources[0]), sources);
}, 120_000);
afterAll(() => engine.pool.terminate());

const ROLES = ['direct-lighting', 'gi', 'reflection', 'refraction', 'specular', 'self-illumination', 'background'] as const;
const byRole = (role: string) => courtyard.sources.find((source) => source.role === role) as Source;
const changed = (source: Source, patch: Partial<Source>): TazzelDocument => ({ ...courtyard, sources: courtyard.sources.map((other) => (other === source ? { ...source, ...patch } : other)) });
const check = (document: TazzelDocument, split: 'elements' | 'lights' = 'elements') => engine.checkRebuild(document, { split });

describe('a set that adds up', () => {
  it('says so, for elements and for light groups, and leaves the fog of another render out', async () => {
    const elements = await check(courtyard);
    expect(elements).toMatchObject({ verdict: 'adds-up', guesses: [], level: 2, set: { missing: [] } });
    expect(elements?.set.spare.map(({ label }) => label)).toContain('atmosphere');
    expect(elements?.figures.psnrDb).toBeGreaterThan(60);
    expect(elements?.sentence).toMatch(/^The 7 elements add up to denoised_beauty: on average they differ by 0\.\d+ %\.$/);
    expect(await check(courtyard, 'lights')).toMatchObject({ verdict: 'adds-up' });
  });
  it('has nothing to say without a beauty, or without anything beside it', async () => {
    expect(await check({ ...courtyard, sources: courtyard.sources.filter((source) => source.role !== 'denoised-beauty') })).toBeNull();
    expect(await check({ ...courtyard, sources: courtyard.sources.filter((source) => source.role === 'denoised-beauty') })).toBeNull();
  });
});

describe.each(ROLES)('something is wrong with %s', (role) => {
  const source = () => byRole(role);
  const first = async (document: TazzelDocument) => {
    const result = await check(document);
    // Whoever accepts the proposal has a set that adds up.
    if (result?.guesses[0]) {
      const mended = after(document, ...guessEdits(result.guesses[0], document.sources));
      expect((await check(mended))?.verdict, result.sentence).toBe('adds-up');
    }
    return result?.guesses[0];
  };
  it('left out, it is named', async () => {
    if (role !== 'direct-lighting') return expect(await first(changed(source(), { inSum: 'out' }))).toMatchObject({ kind: 'add', sourceIds: [source().id] });
    // Filter and raw light are there as well and take its place.
    expect((await check(changed(source(), { inSum: 'out' })))?.set.terms[0].label).toBe('diffuse_filter × raw_lighting');
  }, 60_000);
  it('there twice, one of the two is named', async () => {
    const twice = { ...courtyard, sources: [...courtyard.sources, { ...source(), id: 'source-99', name: 'copy' }] };
    const guess = await first(twice);
    expect(guess).toMatchObject({ kind: 'without' });
    expect(['source-99', source().id]).toContain(guess?.sourceIds[0]);
  }, 60_000);
  it('scaled by 1.1 or saved at half its light, it is named with the factor', async () => {
    const scaled = await first(changed(source(), { scale: 1.1 }));
    expect(scaled).toMatchObject({ kind: 'factor', sourceIds: [source().id] });
    expect(scaled?.factor).toBeCloseTo(1 / 1.1, 2);
    expect(await first(changed(source(), { scale: 0.5 }))).toMatchObject({ kind: 'double', sourceIds: [source().id] });
  }, 60_000);
  it('taken for display values, it is named', async () => expect(await first(changed(source(), { encoding: 'display' }))).toMatchObject({ kind: 'encoding', sourceIds: [source().id] }), 60_000);
  it('not there at all, its kind of light is what is missing', async () => {
    const result = await check({ ...courtyard, sources: courtyard.sources.filter((other) => other !== source() && other.role !== 'raw-lighting') });
    expect(result?.set.missing).toEqual([role]);
    expect(result?.sentence).toMatch(new RegExp(`do not (quite )?add up.*missing may be ${role.replace('-', '.')}`, 'i'));
  }, 60_000);
});

it('a light group that is left out is named', async () => {
  const sun = courtyard.sources.find((source) => source.name === 'light_group_sun') as Source;
  expect((await check(changed(sun, { inSum: 'out' }), 'lights'))?.guesses[0]).toMatchObject({ kind: 'add', sourceIds: [sun.id] });
}, 60_000);

it('a beauty that was exposed after rendering is told by how much', async () => {
  const result = await check(changed(byRole('denoised-beauty'), { scale: 2 ** 0.5 }));
  expect(result?.guesses[0]).toMatchObject({ kind: 'exposure' });
  expect(result?.sentence).toMatch(/brighter than the sum everywhere, by 0\.50 stops/);
}, 60_000);

it('a beauty with glow around its lights is told, whatever the shape of the glow', async () => {
  const path = join(scratch(), 'beauty_glow.exr');
  // A pyramid, which is none of the Gaussians of the search; made by OpenImageIO.
  tool('oiiotool', demoPart('denoised_beauty'), '--subimage', 'denoised_beauty', '--ch', 'R,G,B', '--dup', '--subc', '1', '--clamp:min=0', '--resize', '300x200', '--blur:kernel=triangle', '25x25', '--resize', '1200x800', '--mulc', '0.4', '--add', '-d', 'half', '-o', path);
  const [glowing] = await namedSources(engine, [path]);
  const result = await check({ ...courtyard, sources: courtyard.sources.map((source) => (source === byRole('denoised-beauty') ? { ...glowing, id: source.id, role: 'beauty' as const } : source)) });
  expect(result?.guesses[0]).toMatchObject({ kind: 'glow' });
  expect(result?.sentence).toMatch(/contains it already/);
  expect(result?.guesses[0].figures.meanError).toBeLessThan((result?.figures.meanError ?? 0) / 2);
}, 60_000);
