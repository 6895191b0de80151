/** Cryptomatte specification 1.2; hashes and floats of names as its table and MurmurHash3's reference give them. */
import { describe, expect, it } from 'vitest';
import { source } from '../../../../tests/documents.ts';
import type { Plane } from '../raster/planes.ts';
import { behindSource, coverageFor, coverageRanks, coveredIds, hashesOfColors, manifestNames, rowKindOf } from './coverage.ts';

const { file } = source(1);
const matte = (n: number, name: string) => source(n, { role: 'coverage-matte', name, file });
const floats = (...bits: readonly number[]) => new Float32Array(Uint32Array.from(bits).buffer);
const plane = (data: Float32Array): Plane => ({ type: 'f32', width: data.length, height: 1, data });
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

describe('pixels of a matte', () => {
  it('areas are coverages over all ranks', () => {
    const ids = coveredIds([[plane(floats(HELLO, BUNNY)), plane(Float32Array.of(0.75, 0.5)), plane(floats(BUNNY, HELLO)), plane(Float32Array.of(0.25, 0.5))]]);
    expect(ids).toEqual([{ hash: HELLO, area: 0.625 }, { hash: BUNNY, area: 0.375 }]);
    expect(coveredIds([[{ ...plane(floats(1)), type: 'f16', data: Uint16Array.of(1) }, plane(Float32Array.of(1))]])).toEqual([]);
  });
  it('a colour is the thing that most of it carries', () => {
    const index = Uint16Array.of(0, 0, 0, 0, 0, 1, 1, 2);
    const ids = plane(floats(HELLO, HELLO, HELLO, HELLO, BUNNY, BUNNY, HELLO, 0));
    expect(hashesOfColors(index, 3, [ids])).toEqual([HELLO, null, null]);
  });
});
