/** Cryptomatte specification 1.2; hashes and floats of names as its table and MurmurHash3's reference give them. */
import { describe, expect, it } from 'vitest';
import { source } from '../../../../tests/documents.ts';
import { behindSource, coverageFor, coverageRanks, manifestNames, rowKindOf } from './coverage.ts';

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
  it('name the hashes of their own layer', () => {
    const names = manifestNames(notes('{"hello":"248bfa47","bunny":"13851a76","Bäume":"e8a6ca2c"}'), 'crypto_material00');
    expect([names.get(HELLO), names.get(BUNNY), names.get(0xe8a6ca2c), names.get(1)]).toEqual(['hello', 'bunny', 'Bäume', undefined]);
  });
  it.each(['', '{"hello":', 'null', '[]', '7', '{"hello":7,"bunny":"not hex"}', '{}'])('%s names nothing and stops nothing', (text) => expect(manifestNames(notes(text), 'crypto_material00').size).toBe(0));
  it('absent ones name nothing; of a huge one no more is read than is useful', () => {
    expect(manifestNames({}, 'crypto_material00').size).toBe(0);
    const huge = `{${Array.from({ length: 150_000 }, (_, i) => `"m${i}":"${i.toString(16)}"`).join(',')}}`;
    expect(manifestNames(notes(huge), 'crypto_material00').size).toBe(100_000);
  });
});
