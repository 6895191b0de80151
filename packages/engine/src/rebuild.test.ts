import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { addElements, emptyDocument, guessEdits, guessSentence, type Source, type TazzelDocument } from '@tazzel/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { builtEngine } from '../../../tests/built.ts';
import { after } from '../../../tests/documents.ts';
import { smallPart, smallSet } from '../../../tests/elements.ts';
import { namedSources } from '../../../tests/sources.ts';
import { scratch, tool } from '../../../tests/tools.ts';
import type { Engine } from './engine.ts';

let engine: Engine;
let courtyard: TazzelDocument;

beforeAll(async () => {
  // So little memory that pictures of half the size are compared: sums hold there as well.
  engine = await builtEngine({ budgetBytes: 2 ** 21 });
  const sources = await namedSources(engine, [...smallSet('courtyard'), ...smallSet('courtyard_fog')]);
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
    expect(elements).toMatchObject({ verdict: 'adds-up', guesses: [], level: 1, set: { missing: [] } });
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
    expect(result?.set.missing.map(({ id }) => id)).toEqual([role]);
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
  tool('oiiotool', smallPart('denoised_beauty'), '--subimage', 'denoised_beauty', '--ch', 'R,G,B', '--dup', '--subc', '1', '--clamp:min=0', '--blur:kernel=triangle', '25x25', '--mulc', '0.4', '--add', '-d', 'half', '-o', path);
  const [glowing] = await namedSources(engine, [path]);
  const result = await check({ ...courtyard, sources: courtyard.sources.map((source) => (source === byRole('denoised-beauty') ? { ...glowing, id: source.id, role: 'beauty' as const } : source)) });
  expect(result?.guesses[0]).toMatchObject({ kind: 'glow' });
  expect(result?.sentence).toMatch(/contains it already/);
  expect(result?.guesses[0].figures.meanError).toBeLessThan((result?.figures.meanError ?? 0) / 2);
}, 60_000);

describe('at full size', () => {
  const folder = scratch();
  const shot = (name: string) => join(folder, name);
  let fine: Engine;
  /** The elements, each alone in its file. */
  const part = (name: string, ...change: string[]) => {
    const path = shot(`${name}${change.length === 0 ? '' : `_${change.join('').replace(/\W+/g, '')}`}.exr`);
    if (existsSync(path)) return path;
    tool('oiiotool', smallPart(name), '--subimage', name, '--ch', 'R,G,B', ...change, '-d', 'float', '-o', path);
    return path;
  };
  const sum = ['direct_lighting', 'gi', 'reflection', 'refraction', 'specular', 'self_illumination', 'background'];
  const documentOf = async (paths: readonly string[]) => {
    const sources = await namedSources(fine, paths);
    return addElements(emptyDocument('check', 'Check', sources[0]), sources);
  };
  const withRoles = (document: TazzelDocument, roles: Readonly<Record<string, Partial<Source>>>): TazzelDocument => ({ ...document, sources: document.sources.map((source) => ({ ...source, ...roles[source.name.replace(/\.exr$/, '')] })) });

  beforeAll(async () => {
    // All in one process: it takes long to start.
    tool('oiiotool', ...['denoised_beauty', ...sum].flatMap((name) => [smallPart(name), '--subimage', name, '--ch', 'R,G,B', '-d', 'float', '-o', shot(`${name}.exr`)]));
    fine = await builtEngine();
  }, 60_000);
  afterAll(() => fine.pool.terminate());

  it.each([[1, 0], [0, -1], [3, 2], [-17, 9]])('an element that lies %i, %i pixels off is named with its shift, and mended', async (x, y) => {
    const moved = await documentOf([part('denoised_beauty'), ...sum.map((name) => part(name))]);
    const off = withRoles(moved, { gi: { x, y } });
    const result = await fine.checkRebuild(off, { split: 'elements' });
    expect(result).toMatchObject({ verdict: 'off' });
    expect(result?.guesses[0]).toMatchObject({ kind: 'shift', label: 'gi', shift: { x: 0 - x, y: 0 - y } });
    expect(result?.sentence).toContain(`With gi moved by ${0 - x}, ${0 - y} pixels the sum fits`);
    const mended = after(off, ...guessEdits(result?.guesses[0] as NonNullable<typeof result>['guesses'][number], off.sources));
    expect(await fine.checkRebuild(mended, { split: 'elements' })).toMatchObject({ verdict: 'adds-up', guesses: [] });
  }, 60_000);

  it('of several beauties the one that the sum matches is named, whatever their order', async () => {
    const noisy = part('denoised_beauty', '--noise:type=gaussian:mean=0:stddev=0.1:seed=1');
    for (const beauties of [[noisy, part('denoised_beauty')], [part('denoised_beauty'), noisy]]) {
      const document = await documentOf([...beauties, ...sum.map((name) => part(name))]);
      const role = { role: 'beauty' as const };
      const result = await fine.checkRebuild({ ...document, sources: document.sources.map((source) => (source.name.includes('beauty') ? { ...source, ...role } : source)) }, { split: 'elements' });
      expect(result).toMatchObject({ verdict: 'adds-up', set: { target: { name: 'denoised_beauty' } } });
      expect(result?.others).toHaveLength(1);
      expect(result?.others[0].meanError).toBeGreaterThan(0.05);
      expect(result?.sentence).toMatch(/add up to denoised_beauty:.* Less alike: .*noise.*, \d+ % off\.$/);
    }
  }, 60_000);

  it('a lamp of some pixels that nothing in the set explains is a fault, however small its mean', async () => {
    const lamp = part('denoised_beauty', '--fill:color=6,5,3', '6x6+100+40');
    const document = withRoles(await documentOf([lamp, ...sum.map((name) => part(name))]), { 'denoised_beauty_fillcolor6536x610040': { role: 'beauty' } });
    const result = await fine.checkRebuild(document, { split: 'elements' });
    expect(result?.figures.meanError).toBeLessThan(0.005);
    expect(result?.figures.shareOff).toBeLessThan(0.01);
    expect(result).toMatchObject({ verdict: 'off', guesses: [] });
    expect(result?.sentence).toMatch(/do not add up.*off by up to \d+ %, at 10\d, 4\d\./);
  }, 60_000);

  it.each([
    ['diffuse_filter', 'filter'],
    ['raw_lighting', 'raw light'],
  ])('%s stored as display values: the %s alone is named, and Apply reads it so', async (stored) => {
    // Surfaces and light of our own numbers: products of them are exact, and the filter takes part in two.
    const make = (name: string, from: string, to: string) => {
      const path = shot(`${name}.exr`);
      tool('oiiotool', '--pattern', `fill:topleft=${from}:bottomright=${to}:topright=0.5,0.1,0.3:bottomleft=0.2,0.7,0.4`, '120x80', '3', '-d', 'float', '-o', path);
      return path;
    };
    const filter = make('diffuse_filter', '0.8,0.2,0.1', '0.1,0.6,0.9');
    const direct = make('raw_lighting', '0.1,0.2,0.3', '0.9,0.8,0.7');
    const gi = make('raw_gi', '0.05,0.1,0.2', '0.3,0.2,0.1');
    const beauty = shot('beauty.exr');
    tool('oiiotool', direct, gi, '--add', filter, '--mul', '-d', 'float', '-o', beauty);
    const wrong = withRoles(await documentOf([beauty, filter, direct, gi]), { [stored]: { encoding: 'display' } });
    const result = await fine.checkRebuild(wrong, { split: 'elements', pairs: 'filter-raw' });
    expect(result?.set.terms).toHaveLength(2);
    expect(result?.guesses[0]).toMatchObject({ kind: 'encoding', label: stored, left: expect.any(Number) });
    expect(result?.guesses[0].left).toBeLessThan(1e-9);
    const mended = after(wrong, ...guessEdits(result?.guesses[0] as NonNullable<typeof result>['guesses'][number], wrong.sources));
    expect(mended.sources.find(({ name }) => name === stored)?.encoding).toBe('linear');
    expect((await fine.checkRebuild(mended, { split: 'elements', pairs: 'filter-raw' }))?.verdict).toBe('adds-up');
  }, 60_000);

  it('a change that leaves much is not said to fit', async () => {
    // Two faults at once: one of them explains most of the gap, and the rest of it is visible.
    const document = withRoles(await documentOf([part('denoised_beauty'), ...sum.map((name) => part(name))]), { gi: { scale: 2 }, direct_lighting: { scale: 1.1 } });
    const result = await fine.checkRebuild(document, { split: 'elements' });
    expect(result?.verdict).toBe('off');
    for (const guess of result?.guesses ?? []) if (guess.figures.meanError > 0.03) expect(guessSentence(guess)).toMatch(/comes nearer, but .* % are left.*something else is wrong as well/);
    expect(result?.sentence).not.toMatch(/the sum fits/);
  }, 60_000);

  it('a beauty of eight bits ends at white; the light above it is no fault', async () => {
    const clipped = shot('clipped_beauty.png');
    tool('oiiotool', part('denoised_beauty'), '--clamp:min=0:max=1', '--colorconvert', 'linear', 'sRGB', '-d', 'uint8', '-o', clipped);
    const bright = sum.map((name) => part(name));
    const result = await fine.checkRebuild(await documentOf([clipped, ...bright]), { split: 'elements' });
    expect(result?.set.target.encoding).toBe('display');
    expect(result?.verdict).not.toBe('off');
    expect(result?.figures.largestError).toBeLessThan(0.5);
  }, 60_000);

  it('light groups say which usual group no name speaks of', async () => {
    const groups = ['light_group_sun', 'light_group_environment'].map((name) => part(name));
    const result = await fine.checkRebuild(await documentOf([part('denoised_beauty'), ...groups]), { split: 'lights' });
    expect(result?.set.missing.map(({ id }) => id)).toEqual(['self-illumination', 'rest']);
    expect(result?.sentence).toMatch(/do not add up.*What is missing may be the group of surfaces that shine or the rest group/);
  }, 60_000);

  it('the background is only offered where the sum has holes', async () => {
    const some = sum.filter((name) => name !== 'refraction' && name !== 'background');
    const holes = await fine.checkRebuild(await documentOf([part('denoised_beauty'), ...sum.filter((name) => name !== 'background').map((name) => part(name))]), { split: 'elements' });
    expect(holes?.sentence).toMatch(/What is missing may be background/);
    const sky = part('background');
    const dark = await fine.checkRebuild(withRoles(await documentOf([part('denoised_beauty'), ...some.filter((name) => name !== 'gi').map((name) => part(name)), sky]), {}), { split: 'elements' });
    expect(dark?.sentence).toMatch(/What is missing may be gi or refraction/);
  }, 60_000);
});
