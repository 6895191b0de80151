/** Cryptomatte specification 1.2; hashes and floats of names as its table and MurmurHash3's reference give them. */
import { describe, expect, it } from 'vitest';
import { source } from '../../../../tests/documents.ts';
import { behindSource, coverageFor, coverageRanks, matteNames, rowKindOf } from './coverage.ts';

const { file } = source(1);
const matte = (n: number, name: string) => source(n, { role: 'coverage-matte', name, file });
const [HELLO, BUNNY] = [0x248bfa47, 0x13851a76];

describe('sources of a matte', () => {
  const sources = [matte(1, 'crypto_material01'), matte(2, 'crypto_material'), matte(3, 'crypto_material00'), matte(4, 'crypto_object00'), source(5, { role: 'material-id', name: 'ids' }), source(6, { role: 'object-id', name: 'objects' })];
  it('are its ranks in order, without the preview', () => {
    expect(coverageRanks(sources, 'source-1').map(({ id }) => id)).toEqual(['source-3', 'source-1']);
    expect(coverageRanks(sources, 'source-2')).toEqual([]);
  });
  it('belong to the ID picture of the same things', () => {
    expect(coverageFor(sources, sources[4])?.id).toBe('source-3');
    expect(coverageFor(sources, sources[5])?.id).toBe('source-4');
    expect([rowKindOf(sources[0]), rowKindOf(sources[3]), rowKindOf(sources[5])]).toEqual(['material', 'object', 'object']);
  });
  it('a second ID picture is of what is behind, if its name says so', () => {
    const two = { sources: [source(1, { role: 'material-id', name: 'material_id' }), source(2, { role: 'material-id', name: 'material_id_through_glass' })] };
    expect(behindSource(two, two.sources[0])?.id).toBe('source-2');
    expect(behindSource({ sources: [two.sources[0], source(3, { role: 'material-id', name: 'material_id_2' })] }, two.sources[0])).toBeNull();
  });
});

describe('manifests', () => {
  const notes = (manifest: string) => ({ 'cryptomatte/bda530a/name': 'crypto_material', 'cryptomatte/bda530a/manifest': manifest, 'cryptomatte/f834d0a/name': 'crypto_object', 'cryptomatte/f834d0a/manifest': '{"door":"00000001"}' });
  const of = (given: Readonly<Record<string, string>>, beside?: (file: string) => string | undefined, source = matte(1, 'crypto_material00')) => matteNames(given, source, beside);
  it('name the hashes of their own layer', () => {
    const { names, problem } = of(notes('{"hello":"248bfa47","bunny":"13851a76","Bäume":"e8a6ca2c"}'));
    expect([names.get(HELLO), names.get(BUNNY), names.get(0xe8a6ca2c), names.get(1), problem]).toEqual(['hello', 'bunny', 'Bäume', undefined, null]);
  });
  it.each(['', '{"hello":', 'null', '[]', '7', '{"hello":7,"bunny":"not hex"}'])('%s names nothing, stops nothing, and is said', (text) => expect(of(notes(text))).toMatchObject({ names: new Map(), problem: expect.stringMatching(/^The names of crypto_material00 cannot be read: the manifest in the file is damaged\./) }));
  it('absent ones name nothing; of a huge one no more is read than is useful, which is said', () => {
    expect(of({})).toEqual({ names: new Map(), problem: null });
    expect(of({ 'cryptomatte/bda530a/name': 'crypto_material' }).problem).toMatch(/crypto_material00 brings no names/);
    const huge = `{${Array.from({ length: 150_000 }, (_, i) => `"m${i}":"${i.toString(16)}"`).join(',')}}`;
    const { names, problem } = of(notes(huge));
    expect([names.size, problem]).toEqual([100_000, expect.stringMatching(/150,000 names; 100,000 of them are read/)]);
  });
  it('may lie in a file beside the picture, never above it', () => {
    const given = { 'cryptomatte/bda530a/name': 'crypto_material', 'cryptomatte/bda530a/manif_file': '../../secret/names.json' };
    const asked: string[] = [];
    const found = of(given, (file) => {
      asked.push(file);
      return '{"hello":"248bfa47"}';
    });
    expect([asked, found.names.get(HELLO), found.problem]).toEqual([['names.json'], 'hello', null]);
    expect(of(given).problem).toMatch(/The names of crypto_material00 are in “names\.json”, which is not beside it\. Drop both files together\./);
    expect(of(given, () => 'no json').problem).toMatch(/“names\.json” is damaged/);
  });
  it('are found by what the channels are called: with the name of a part before it, and after the element was renamed', () => {
    const part = source(1, { role: 'coverage-matte', name: 'my matte', file, colorChannels: ['view.crypto_material00.r', 'view.crypto_material00.g', 'view.crypto_material00.b'] });
    expect(of(notes('{"hello":"248bfa47"}'), undefined, part).names.get(HELLO)).toBe('hello');
    expect([coverageRanks([part], part.id).length, rowKindOf(part)]).toEqual([1, 'material']);
  });
});
