import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import type { Plane } from '../raster/planes.ts';
import { groupChannels } from './channels.ts';
import { materialsFromPalette } from './materials.ts';
import { colorKeyAt } from './palette-keys.ts';
import { findPalette } from './palette.ts';
import { unmix } from './unmix.ts';
import { guessRole } from './guess.ts';
import { guessEncoding, roles } from './roles.ts';
import { wordsOf } from './words.ts';

describe('channels become elements', () => {
  // OpenEXR “Technical Introduction”: layer.channel, nested by further dots; the last dot separates the channel.
  it('by layer', () => {
    expect(groupChannels(['A', 'B', 'G', 'R', 'light1.diffuse.B', 'light1.diffuse.G', 'light1.diffuse.R', 'depth.Z'])).toEqual([
      { name: '', color: ['R', 'G', 'B'], alpha: 'A' },
      { name: 'light1.diffuse', color: ['light1.diffuse.R', 'light1.diffuse.G', 'light1.diffuse.B'], alpha: null },
      { name: 'depth', color: ['depth.Z'], alpha: null },
    ]);
  });
  it('grey with alpha, vectors, words for colours', () => {
    expect(groupChannels(['Y', 'A'])).toEqual([{ name: '', color: ['Y'], alpha: 'A' }]);
    expect(groupChannels(['N.X', 'N.Y', 'N.Z'])).toEqual([{ name: 'N', color: ['N.X', 'N.Y', 'N.Z'], alpha: null }]);
    expect(groupChannels(['gi.red', 'gi.green', 'gi.blue'])[0].color).toEqual(['gi.red', 'gi.green', 'gi.blue']);
  });
  it('every channel in exactly one group, whatever the names (seed 31)', () => {
    const random = seeded(31);
    const parts = ['R', 'G', 'B', 'A', 'r', 'Z', 'Y', 'X', 'id', 'red', ''];
    const layers = ['', 'a', 'b.c', 'ä'];
    for (let round = 0; round < 300; round++) {
      const names = [...new Set(Array.from({ length: 1 + Math.floor(random() * 9) }, () => [layers[Math.floor(random() * 4)], parts[Math.floor(random() * parts.length)]].filter((part, i) => i === 1 || part !== '').join('.')))];
      const grouped = groupChannels(names).flatMap((group) => [...group.color, ...(group.alpha === null ? [] : [group.alpha])]);
      expect(grouped.toSorted(), `round ${round}: ${names}`).toEqual(names.toSorted());
    }
  });
});

describe('roles by name', () => {
  it('split words at separators, case and digits', () => expect(wordsOf('kiln_DiffuseFilter.0001')).toEqual(['kiln', 'diffuse', 'filter', '0001']));
  // Names as renderers and artists write them; common practice, no published source.
  it.each([
    ['kiln-yard_beauty.0001', 'beauty'],
    ['DiffuseFilter', 'diffuse-filter'],
    ['diffuse_filter', 'diffuse-filter'],
    ['raw.GI', 'raw-gi'],
    ['court_rawLighting', 'raw-lighting'],
    ['Lighting', 'direct-lighting'],
    ['reflection raw', 'raw-reflection'],
    ['Reflection', 'reflection'],
    ['MtlID', 'material-id'],
    ['material id', 'material-id'],
    ['ObjectID', 'object-id'],
    ['ZDepth', 'depth'],
    ['AO', 'ambient-occlusion'],
    ['normals', 'normals'],
    ['beauty denoised', 'denoised-beauty'],
    ['diff col', 'diffuse-filter'],
    ['diffcol', 'diffuse-filter'],
    ['lighting raw', 'raw-lighting'],
    ['rawtotallight', 'raw-lighting'],
    ['indirect', 'gi'],
    ['diffuse_indirect', 'gi'],
    ['GlobalIllumination', 'gi'],
    ['Z', 'depth'],
    ['z-depth', 'depth'],
    ['Tiefe', 'depth'],
    ['N', 'normals'],
    ['worldPosition', 'position'],
    ['selfIllumination', 'self-illumination'],
    ['self_illum', 'self-illumination'],
    ['emission', 'self-illumination'],
    ['refl_filter', 'reflection-filter'],
    ['ReflectionRaw', 'raw-reflection'],
    ['refr', 'refraction'],
    ['spec', 'specular'],
    ['Schatten', 'shadow'],
    ['éclairage direct', 'direct-lighting'],
    ['volumetrics', 'atmosphere'],
    ['lightgroup_3', 'light-group'],
    ['light_kitchen', 'light-group'],
    ['LightSelect.sun', 'light-group'],
    ['crypto_object00', 'coverage-matte'],
    ['multimatte_2', 'rgb-matte'],
    ['SSS', 'subsurface'],
    ['courtyard_final', 'beauty'],
    ['clown', 'material-id'],
    ['background', 'background'],
    ['photo of the site', 'picture'],
  ])('%s is %s', (name, role) => expect(guessRole(name).role).toBe(role));
  it('data is never colour managed, light follows its file', () => {
    expect(guessEncoding('depth', 'float')).toBe('data');
    expect(guessEncoding('material-id', 'integer')).toBe('data');
    expect(guessEncoding('beauty', 'float')).toBe('linear');
    expect(guessEncoding('beauty', 'integer')).toBe('display');
    expect(new Set(roles.map(({ id }) => id)).size).toBe(roles.length);
  });
});

/** Two flat colours with a slanted, antialiased edge and a small square of a third. */
function idPicture(width = 64, height = 48): Plane[] {
  const colors = [[200, 30, 30], [30, 180, 60], [20, 20, 220]];
  const data = [0, 1, 2].map(() => new Uint8Array(width * height));
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const share = Math.min(1, Math.max(0, x - 20.3 - y * 0.4 + 0.5));
      const square = x > 50 && y > 36;
      for (let c = 0; c < 3; c++) data[c][y * width + x] = square ? colors[2][c] : Math.round(colors[0][c] * (1 - share) + colors[1][c] * share);
    }
  }
  return data.map((plane) => ({ type: 'u8', width, height, data: plane }));
}

describe('the palette of a flat ID picture', () => {
  it('holds the flat colours and not the mixtures along edges, by area', () => {
    const { colors, mixture: { index } } = findPalette(idPicture(), 'data');
    expect(colors.map(({ chip }) => chip.map((v) => Math.round(v * 255)))).toEqual([[200, 30, 30], [30, 180, 60], [20, 20, 220]].sort((a, b) => colors.findIndex((c) => Math.round(c.chip[0] * 255) === a[0]) - colors.findIndex((c) => Math.round(c.chip[0] * 255) === b[0])));
    expect(colors.reduce((sum, { area }) => sum + area, 0)).toBeCloseTo(1, 12);
    expect(colors[0].area).toBeGreaterThanOrEqual(colors[1].area);
    expect(colors[2].area).toBeCloseTo((13 * 11) / (64 * 48), 3);
    expect(Math.max(...index)).toBe(2);
  });
  it('gives edge pixels to the nearer neighbour and finds the same index again', () => {
    const planes = idPicture();
    const { colors, mixture: { index } } = findPalette(planes, 'data');
    expect([...unmix(planes, colors.map(({ key }) => key)).index]).toEqual([...index]);
    // The edge crosses x = 20.3 in the first row: pixel 20 is mostly the left colour, pixel 21 the right one.
    expect(index[19]).toBe(index[0]);
    expect(index[22]).toBe(index[30]);
  });
  it('takes numbered IDs of one channel, and floats apart', () => {
    const one: Plane = { type: 'u32', width: 4, height: 4, data: Uint32Array.from({ length: 16 }, (_, i) => (i < 8 ? 70_000 : 3)) };
    expect(findPalette([one], 'data').colors.map(({ key }) => key).toSorted()).toEqual([3, 70_000]);
    const half: Plane = { type: 'f32', width: 2, height: 1, data: Float32Array.of(0.25, 0.5) };
    expect(colorKeyAt([half], 0)).not.toBe(colorKeyAt([half], 1));
  });
  it('refuses a picture that is not flat', () => {
    const random = seeded(8);
    const noise: Plane = { type: 'u16', width: 40, height: 40, data: Uint16Array.from({ length: 1600 }, () => Math.floor(random() * 65536)) };
    expect(() => findPalette([noise], 'data')).toThrow(/does not look like an ID picture/);
    const halfBlack = { ...noise, data: noise.data.map((v, i) => (i < 640 ? 0 : v)) as Uint16Array };
    expect(() => findPalette([halfBlack], 'data')).toThrow(/only 40 % of it lie in flat colours/);
    const mostlyBlack = { ...noise, data: noise.data.map((v, i) => (i < 1200 ? 0 : v)) as Uint16Array };
    expect(() => findPalette([mostlyBlack], 'data')).toThrow(/beside one large flat colour only 0 % lie in flat colours/);
  });
  it('becomes the schedule: tags by area', () => {
    const rows = materialsFromPalette('source-1', findPalette(idPicture(), 'data').colors);
    expect(rows.map(({ tag, id }) => `${tag} ${id}`)).toEqual(['M01 material-1', 'M02 material-2', 'M03 material-3']);
  });
});

it('names of any length are looked through at once, and long ones say what their beginning says', () => {
  for (const name of ['lightbeauty'.repeat(2000), 'A'.repeat(20_000), `${'Ab'.repeat(10_000)}`, 'beautybeautybeauty'.repeat(1200)]) expect(guessRole(name).role).toMatch(/./);
  expect(guessRole(`raw_gi_${'x'.repeat(20_000)}`).role).toBe('raw-gi');
  expect(wordsOf('HTMLParser_DiffuseFilter.0001')).toEqual(['html', 'parser', 'diffuse', 'filter', '0001']);
});
