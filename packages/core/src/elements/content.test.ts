import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { source } from '../../../../tests/documents.ts';
import type { Plane } from '../raster/planes.ts';
import { type ContentFacts, contentFacts, roleByContent, sampledRows } from './content.ts';
import { findingsOf } from './findings.ts';
import { guessRole, ruleFor, withRule } from './guess.ts';

const WIDTH = 64;
const HEIGHT = 48;
type Pixel = (x: number, y: number, random: () => number) => readonly number[];
function look(pixel: Pixel, type: 'u8' | 'f32' = 'f32'): ContentFacts {
  const random = seeded(9);
  const values = Array.from({ length: WIDTH * HEIGHT }, (_, i) => pixel(i % WIDTH, Math.floor(i / WIDTH), random));
  const planes = values[0].map((_, c): Plane => ({ type, width: WIDTH, height: HEIGHT, data: type === 'u8' ? Uint8Array.from(values, (v) => Math.round(v[c] * 255)) : Float32Array.from(values, (v) => v[c]) }));
  return contentFacts(planes, sampledRows(HEIGHT));
}
const flat: Pixel = (x, y) => [[0.2, 0.4, 0.6], [0.9, 0.1, 0.1], [0.1, 0.8, 0.2], [0.5, 0.5, 0]][Math.floor(x / 16) ^ (y > 24 ? 1 : 0)];
const creases: Pixel = (x, y) => [Math.min(1, 0.3 + ((x % 16) + (y % 12)) / 12)];

describe('what pixels look like', () => {
  // Pictures as renderers make them; common practice, no published source.
  const kinds: readonly [string, Pixel, string | null, ('u8' | 'f32')?][] = [
    ['flat colours are IDs', flat, 'material-id', 'u8'],
    ['vectors of length one are normals', (x, y) => { const [a, b] = [x / 9, y / 9]; return [Math.cos(a) * Math.cos(b), Math.sin(a) * Math.cos(b), Math.sin(b)]; }, 'normals'],
    ['packed vectors as well', (x, y) => { const [a, b] = [x / 9, y / 9]; return [Math.cos(a) * Math.cos(b), Math.sin(a) * Math.cos(b), Math.sin(b)].map((v) => (v + 1) / 2); }, 'normals', 'u8'],
    ['three masks that do not overlap are a matte', (x, y) => [0, 1, 2].map((c) => (Math.floor(x / 22) === c && y > 9 ? 1 : 0)), 'rgb-matte', 'u8'],
    ['one channel in metres is depth', (x, y) => [2 + y * 0.7 + x * 0.01], 'depth'],
    ['white with dark creases is occlusion', creases, 'ambient-occlusion'],
    ['whole numbers in flat areas are IDs', (x) => [Math.floor(x / 16) * 7 + 3], 'object-id'],
    ['light is nothing of all that', (x, y, random) => [random() * 3, x / 40 + random(), y / 30 + random() * 0.1], null],
  ];
  it.each(kinds)('%s', (_name, pixel, role, type) => expect(roleByContent(look(pixel, type))?.role ?? null).toBe(role));
  it('equal pictures have equal prints, others have not', () => {
    expect(look(flat).print).toBe(look(flat).print);
    expect(look(flat).print).not.toBe(look(creases).print);
  });
});

describe('guessing from names, pixels and rules', () => {
  it('pixels decide where the name says nothing, and where it says little', () => {
    expect(guessRole('shot 12', look(creases))).toMatchObject({ role: 'ambient-occlusion', reason: expect.stringContaining('creases') });
    expect(guessRole('mask', look(flat, 'u8')).role).toBe('material-id');
    expect(guessRole('reflection', look(creases)).role).toBe('reflection');
  });
  it('both together are surer than one', () => expect(guessRole('AO', look(creases)).confidence).toBeGreaterThan(guessRole('AO').confidence - 0.001));
  it('a correction is remembered for names with the same words, and comes first', () => {
    const rule = ruleFor('court_v02_gloss.0001', 'reflection');
    expect(rule).toEqual({ words: ['court', 'v', 'gloss'], role: 'reflection' });
    const rules = withRule(withRule([], { words: ['gloss'], role: 'specular' }), { words: ['gloss'], role: 'reflection' });
    expect(rules).toHaveLength(1);
    expect(guessRole('yard gloss 3', null, rules)).toMatchObject({ role: 'reflection', confidence: 1, reason: 'your rule for “gloss”' });
    expect(guessRole('court_gloss_v07', null, rule ? [...rules, rule] : rules).role).toBe('reflection');
    expect(ruleFor('0001', 'gi')).toBeNull();
  });
});

describe('damage is said in a sentence with its remedy', () => {
  const found = (role: Parameters<typeof source>[1], facts: ContentFacts) => findingsOf(source(1, role), facts).map(({ kind }) => kind);
  const noisyIds: Pixel = (x, y, random) => flat(x, y, random).map((v) => v + random() * 0.03);
  it.each([
    ['IDs that are not flat', { role: 'material-id' as const }, look(noisyIds, 'u8'), ['not-flat']],
    ['IDs in order', { role: 'material-id' as const }, look(flat, 'u8'), []],
    ['IDs as JPEG', { role: 'material-id' as const, file: { ...source(1).file, format: 'jpeg' as const } }, look(flat, 'u8'), ['not-flat']],
    ['a beauty of 8 bits', { role: 'beauty' as const }, look((x, y) => [x / 64, y / 48, 0.5], 'u8'), ['eight-bit']],
    ['occlusion the other way round', { role: 'ambient-occlusion' as const }, look((x, y) => [1 - creases(x, y, Math.random)[0]]), ['inverted']],
    ['a shadow that is white', { role: 'shadow' as const }, look((x) => (x > 8 ? [1, 1, 1] : [0.2, 0.2, 0.2])), ['inverted']],
    ['depth between 0 and 1', { role: 'depth' as const }, look((x, y) => [(x + y) / 112]), ['normalised-depth']],
    ['depth all white', { role: 'depth' as const }, look(() => [1]), ['empty']],
    ['depth in metres', { role: 'depth' as const }, look((x, y) => [x + y]), []],
  ])('%s', (_name, patch, facts, kinds) => expect(found(patch, facts)).toEqual(kinds));
  it('names the element', () => expect(findingsOf(source(1, { role: 'depth', name: 'Z' }), look(() => [0]))[0].sentence).toMatch(/^Z: it is all black in the usual range: .*Render it again/));
});
