import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { guessRole } from '@tazzel/core';
import { nodePlatform } from '@tazzel/engine/node';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { builtRenderer, variedScene } from '../../../../tests/scenes.ts';
import { builtKernels } from '../../../../tests/built.ts';
import { byOpenImageIo, scratch, tool } from '../../../../tests/tools.ts';
import type { RenderJob } from '../render/job.ts';
import type { Renderer } from '../render/renderer.ts';
import { PATHS } from '../film/slots.ts';
import { lightGroups } from '../scene/model.ts';
import { displayElement, displayViews } from './display.ts';
import { colorOfNumber, cryptoBits, cryptoNotes, materialIds, murmurHash3, objectIds } from './ids.ts';
import { chooseElements, elementHints, elementRows } from './registry.ts';
import { type ElementPicture, normalisedDepth, resolveElement, suggestDepthRange } from './resolve.ts';
import { bitsOf, fileStem, saveElements, splitSave } from './save.ts';

const SIZE = { width: 72, height: 52 };
const hex = (v: number) => v.toString(16).padStart(8, '0');

describe('hashes of names (MurmurHash3_x86_32, seed 0, by four other implementations)', () => {
  it.each([['', '00000000'], ['hello', '248bfa47'], ['bunny', '13851a76'], ['default', '42c9679f'], ['cube', 'd9682f08'], ['sphere', '591e9a8d'], ['plane', '2e2136b8'], ['crypto_object', 'f834d0a6'], ['crypto_material', 'bda530a2'], ['crypto_asset', '28322e9a'], ['The quick brown fox jumps over the lazy dog', '2e4ff723'], ['Bäume', 'e8a6ca2c'], ['材質', '8d0addc6']])('%s', (name, code) => expect(hex(murmurHash3(name))).toBe(code));
  // Cryptomatte specification 1.2: exponents 0 and 255 are avoided.
  it.each([['', '00800000'], ['hello', '248bfa47'], ['obj_213', '7f474713'], ['obj_648', 'ff18ffe7'], ['obj_456', '80f1e77c'], ['obj_692', '00e9c275']])('as a float, %s', (name, code) => expect(hex(cryptoBits(name))).toBe(code));
  it('metadata', () => {
    expect(cryptoNotes('crypto_object', ['cube', 'cube', 'Bäume'])).toEqual({
      'cryptomatte/f834d0a/name': 'crypto_object',
      'cryptomatte/f834d0a/hash': 'MurmurHash3_32',
      'cryptomatte/f834d0a/conversion': 'uint32_to_float32',
      'cryptomatte/f834d0a/manifest': '{"cube":"d9682f08","Bäume":"e8a6ca2c"}',
    });
  });
});

describe('ID colours', () => {
  it('the first hundred numbers have colours of their own, of 300 nearly all; they are exact in 8 bits', () => {
    const colors = Array.from({ length: 300 }, (_, number) => colorOfNumber(number));
    const different = (count: number) => new Set(colors.slice(0, count).map((color) => color.join())).size;
    expect([different(100), different(300) >= 296]).toEqual([100, true]);
    for (const color of colors) for (const v of color) expect(Math.abs(v * 255 - Math.round(v * 255))).toBeLessThan(1e-9);
  });
  it('neighbouring numbers are far apart', () => {
    for (let n = 1; n < 40; n++) expect(Math.max(...colorOfNumber(n).map((v, c) => Math.abs(v - colorOfNumber(n + 1)[c])))).toBeGreaterThan(0.2);
  });
});

describe('choosing elements', () => {
  it('sets and names, in the registry’s order, once each', () => {
    const rebuild = chooseElements(['gi', 'rebuild', 'beauty'], false);
    expect(rebuild).toEqual(elementRows.map(({ id }) => id).filter((id) => rebuild.includes(id)));
    for (const path of PATHS.filter((one) => one !== 'atmosphere')) expect(rebuild).toContain(path);
    expect(chooseElements(['everything'], false)).toHaveLength(elementRows.length - 1);
    expect(chooseElements(['everything'], true)).toEqual(['alpha', 'atmosphere', 'light-group']);
  });
  it('refuses what does not exist, and nothing', () => {
    expect(() => chooseElements(['beauty', 'sparkle'], false)).toThrow(/no element “sparkle”.*Elements: beauty/s);
    expect(() => chooseElements(['depth'], true)).toThrow(/fog render has/);
  });
  it('hints name the materials that call for an element', () => {
    const hints = new Map(elementHints(variedScene()).map(({ element, because }) => [element, because]));
    expect(hints.get('refraction')).toMatch(/Glass, Water/);
    expect(hints.get('reflection')).toMatch(/Glass, Mirror, Bronze and 2 more/);
    expect(hints.has('light-group')).toBe(true);
  });
  it('every element’s role is recognised again by its name in the file', () => {
    for (const { id, role } of elementRows.filter((row) => !['light-group', 'rgb-matte'].includes(row.id))) expect(guessRole(id.replaceAll('-', '_')).role, id).toBe(role);
    for (const group of ['sun', 'environment', 'interior_lamps']) expect(guessRole(`light_group_${group}`).role).toBe('light-group');
    expect(guessRole('rgb_matte_1_Brick_2_Glass').role).toBe('rgb-matte');
  });
});

describe('the elements of one render', () => {
  let renderer: Renderer;
  let job: RenderJob;
  const one = (id: string, clean = false): ElementPicture => resolveElement(job.rendering, id, clean)[0];
  const planes = (id: string, clean = false) => one(id, clean).channels.map(({ data }) => data);
  const sum = (pictures: readonly (readonly Float32Array[])[]) => pictures.reduce<Float32Array[]>((total, picture) => total.map((plane, c) => plane.map((v, i) => v + picture[c][i])), [0, 1, 2].map(() => new Float32Array(SIZE.width * SIZE.height)));
  beforeAll(async () => {
    renderer = await builtRenderer();
    await renderer.openScene({ description: variedScene() });
    job = renderer.begin({ camera: 'camera', ...SIZE, elements: ['everything'], quality: { noisePercent: null, seconds: null, samples: 16 }, seed: 3, fog: false, region: null, denoise: 'all', aoMetres: 1, depthRange: null });
    await job.finished;
  });
  afterAll(() => renderer.terminate());

  for (const clean of [false, true]) {
    const which = clean ? 'without noise' : 'as rendered';
    it(`additive elements sum to the beauty, ${which}`, () => {
      const beauty = planes(clean ? 'denoised-beauty' : 'beauty', clean);
      for (const [c, plane] of sum(PATHS.map((path) => planes(path, clean))).entries()) expectClose(plane, beauty[c], 1e-6, `channel ${c}`);
    });
    it(`light groups sum to the beauty, ${which}`, () => {
      const beauty = planes(clean ? 'denoised-beauty' : 'beauty', clean);
      const groups = resolveElement(job.rendering, 'light-group', clean).map(({ channels }) => channels.map(({ data }) => data));
      expect(groups).toHaveLength(lightGroups(job.rendering.scene).length);
      for (const [c, plane] of sum(groups).entries()) expectClose(plane, beauty[c], clean ? 1e-4 : 1e-5, `channel ${c}`);
    });
    it(`filter × raw is the lit element, ${which}`, () => {
      for (const [raw, filter, lit] of [['raw-lighting', 'diffuse-filter', 'direct-lighting'], ['raw-gi', 'diffuse-filter', 'gi'], ['raw-reflection', 'reflection-filter', 'reflection'], ['raw-refraction', 'refraction-filter', 'refraction'], ['raw-shadow', 'diffuse-filter', 'shadow']]) {
        const [a, b, c] = [planes(raw, clean), planes(filter), planes(lit, clean)];
        for (let k = 0; k < 3; k++) expectClose(a[k].map((v, i) => v * b[k][i]), c[k].map((v, i) => (b[k][i] > 0 ? v : 0)), 1e-5, raw);
      }
    });
  }
  it('what has no filter has no light of that kind', () => {
    for (const [filter, lit] of [['reflection-filter', 'reflection'], ['refraction-filter', 'refraction']]) {
      const [f, l] = [planes(filter), planes(lit)];
      for (let k = 0; k < 3; k++) for (let i = 0; i < f[k].length; i++) if (f[k][i] === 0) expect(l[k][i]).toBe(0);
    }
  });
  it('coverage of all IDs is 1 with alpha, in mattes of both kinds', () => {
    const [alpha] = planes('alpha');
    for (const id of ['crypto-material', 'crypto-object']) {
      const channels = planes(id);
      const total = alpha.map((_, i) => channels.reduce((all, plane, k) => all + (k % 2 === 1 ? plane[i] : 0), 0));
      expectClose(total, alpha, 1e-6, id);
    }
    const mattes = resolveElement(job.rendering, 'rgb-matte', false).flatMap(({ channels }) => channels.map(({ data }) => data));
    expectClose(alpha.map((_, i) => mattes.reduce((all, plane) => all + plane[i], 0)), alpha, 1e-6, 'rgb mattes');
  });
  it('ranks fall, and every ID is in the manifest', () => {
    const { channels, notes } = one('crypto-material');
    const manifest = new Set(Object.values(JSON.parse(Object.entries(notes).find(([key]) => key.endsWith('/manifest'))?.[1] ?? '{}') as Record<string, string>));
    const bits = new Uint32Array(1);
    const float = new Float32Array(bits.buffer);
    for (let i = 0; i < SIZE.width * SIZE.height; i++) {
      for (let rank = 0; rank * 2 < channels.length; rank++) {
        const share = channels[rank * 2 + 1].data[i];
        if (rank > 0) expect(share).toBeLessThanOrEqual(channels[rank * 2 - 1].data[i]);
        float[0] = channels[rank * 2].data[i];
        if (share > 0) expect(manifest.has(hex(bits[0]))).toBe(true);
      }
    }
  });
  it('a matte by ID is the same as the RGB matte of its number', () => {
    const rows = materialIds(job.rendering.scene);
    const brick = rows.findIndex(({ name }) => name === 'Brick');
    const channels = planes('crypto-material');
    const bits = new Uint32Array([cryptoBits('Brick')]);
    const [code] = new Float32Array(bits.buffer);
    const matte = channels[0].map((_, i) => channels.reduce((all, plane, k) => all + (k % 2 === 0 && plane[i] === code ? channels[k + 1][i] : 0), 0));
    const numbers = [...new Set(rows.map(({ number }) => number))].sort((a, b) => a - b);
    const place = numbers.indexOf(rows[brick].number);
    expectClose(resolveElement(job.rendering, 'rgb-matte', false)[Math.floor(place / 3)].channels[place % 3].data, matte, 1e-6);
    expect(Math.max(...matte)).toBe(1);
  });
  it('flat pixels of an ID picture carry exactly the colour of their ID', () => {
    const colors = new Set(objectIds(job.rendering.scene).map(({ color }) => color.map((v) => Math.fround(v)).join()));
    const [r, g, b] = planes('object-id');
    let flat = 0;
    for (let i = 0; i < r.length; i++) if (colors.has([r[i], g[i], b[i]].join())) flat++;
    expect(flat / r.length).toBeGreaterThan(0.4);
  });
  it('numbers and colours can be changed afterwards', () => {
    job.relabel({ Brick: { number: 40, idColor: [1, 0, 1] }, Mirror: { number: 40 } });
    expect(materialIds(job.rendering.scene).find(({ name }) => name === 'Brick')).toEqual({ name: 'Brick', number: 40, color: [1, 0, 1] });
    expect(resolveElement(job.rendering, 'rgb-matte', false).some(({ name }) => name.includes('40_Brick_Mirror'))).toBe(true);
    job.relabel({});
  });
  it('IDs behind glass and in mirrors', () => {
    const rows = materialIds(job.rendering.scene);
    for (const [id, kind] of [['material-id-through-glass', 'Glass'], ['material-id-in-mirrors', 'Mirror']]) {
      const seen = planes(id);
      const own = rows.find(({ name }) => name === kind);
      const places = seen[0].reduce((count, _, i) => count + (seen.some((plane) => plane[i] > 0) ? 1 : 0), 0);
      expect(places, id).toBeGreaterThan(20);
      // The surface itself is not what is seen in it.
      for (let i = 0; i < seen[0].length; i++) expect(seen.every((plane, c) => Math.abs(plane[i] - (own?.color[c] ?? 0)) < 1e-6)).toBe(false);
    }
  });
  it('depth in glass and mirrors: that of other surfaces is their own, that in those is farther', () => {
    const [sight] = planes('depth-in-glass-and-mirrors');
    const [depth] = planes('depth');
    const inside = ['material-id-through-glass', 'material-id-in-mirrors'].map((id) => planes(id));
    let farther = 0;
    for (let i = 0; i < depth.length; i++) {
      expect(sight[i]).toBeGreaterThanOrEqual(depth[i] * (1 - 1e-5));
      if (Number.isFinite(depth[i]) && sight[i] > depth[i] * 1.02) farther++;
    }
    const shown = depth.filter((_, i) => inside.some((channels) => channels.some((plane) => plane[i] > 0))).length;
    expect(farther).toBeGreaterThan(shown / 4);
    expect(farther).toBeLessThan(depth.length / 2);
  });
  it('depth range: suggested from what is seen, near is white', () => {
    const range = suggestDepthRange(job.rendering.film);
    expect(range?.near).toBeGreaterThan(1);
    expect(range?.near).toBeLessThan(4);
    const depth = normalisedDepth(job.rendering.film, range ?? { near: 0, far: 1 });
    const [metres] = planes('depth');
    let nearest = 0;
    for (let i = 0; i < metres.length; i++) if (metres[i] < metres[nearest]) nearest = i;
    expect(depth[nearest]).toBeGreaterThan(0.9);
    expect(Math.min(...depth)).toBe(0);
  });
  it('regions are cut out of the whole', () => {
    const region = { x: 13, y: 7, width: 40, height: 30 };
    for (const id of ['beauty', 'normals', 'material-id', 'crypto-object', 'depth-normalised', 'raw-gi']) {
      const whole = planes(id);
      const part = resolveElement(job.rendering, id, false, region)[0].channels;
      for (const [c, { data }] of part.entries()) for (const [x, y] of [[0, 0], [39, 29], [17, 11]]) expect(data[y * 40 + x], id).toBe(whole[c][(y + 7) * SIZE.width + x + 13]);
    }
  });
  it('every element can be looked at', () => {
    const views = displayViews(job.rendering.scene, job.request.elements);
    expect(views.length).toBeGreaterThan(job.request.elements.length + 5);
    for (const view of views) {
      const rgba = displayElement(job.rendering, view, true, { x: 0, y: 0, ...SIZE });
      expect(rgba.length).toBe(SIZE.width * SIZE.height * 4);
      expect(rgba.every((v, i) => i % 4 !== 3 || v === 255)).toBe(true);
    }
  });

  describe('saved', () => {
    const folder = scratch();
    const save = async (elements: readonly string[], settings: Parameters<RenderJob['save']>[1]) => {
      const { files, leftOut } = await job.save(elements, settings, `yard_${settings.layout}_${settings.bits}`);
      for (const { name, parts } of files) writeFileSync(join(folder, name), Buffer.concat(parts));
      return { names: files.map(({ name }) => name), leftOut };
    };
    it('parts of one file, read by OpenImageIO: names and values equal', async () => {
      const { names } = await save(['beauty', 'depth', 'normals', 'crypto-material', 'light-group'], { layout: 'multi-part', bits: 16, clean: false });
      expect(names).toEqual(['yard_multi-part_16.exr']);
      const path = join(folder, names[0]);
      const info = tool('oiiotool', '--info', '-v', '-a', path).toString();
      for (const name of ['"beauty"', '"depth"', '"normals"', '"crypto_material"', '"light_group_bulbs"']) expect(info).toContain(`oiio:subimagename: ${name}`);
      expect(info).toContain('cryptomatte/bda530a/conversion: "uint32_to_float32"');
      tool('oiiotool', '--subimage', '0', path, '-d', 'float', '--compression', 'none', '--scanline', '-o', join(folder, 'part.exr'));
      const beauty = planes('beauty');
      const read = byOpenImageIo(join(folder, 'part.exr'), 'R,G,B');
      // Half floats keep 11 bits.
      expectClose(read, Float32Array.from({ length: read.length }, (_, i) => beauty[i % 3][Math.floor(i / 3)]), 6e-4);
      tool('oiiotool', '--subimage', 'crypto_material', path, '--scanline', '-o', join(folder, 'ids.exr'));
      const ids = byOpenImageIo(join(folder, 'ids.exr'), 'crypto_material00.R,crypto_material00.G');
      const expected = planes('crypto-material');
      expect([...ids].every((v, i) => Object.is(v, expected[i % 2][Math.floor(i / 2)]))).toBe(true);
    });
    it('layers of one file, and floats', async () => {
      const { names } = await save(['beauty', 'gi', 'alpha', 'position'], { layout: 'multi-layer', bits: 32, clean: false });
      const path = join(folder, names[0]);
      expect(tool('oiiotool', '--info', '-v', path).toString()).toMatch(/channel list: .*\bR\b.*alpha\.A.*gi\.R.*position\.X/s);
      const gi = planes('gi');
      expectClose(byOpenImageIo(path, 'gi.R,gi.G,gi.B'), Float32Array.from({ length: gi[0].length * 3 }, (_, i) => gi[i % 3][Math.floor(i / 3)]), 0);
    });
    it('a PNG for each: raw IDs, encoded light; what a PNG cannot hold is named', async () => {
      const { names, leftOut } = await save(['beauty', 'material-id', 'depth', 'crypto-object', 'normals'], { layout: 'png', bits: 8, clean: false });
      expect(names).toEqual(['yard_png_8_beauty.png', 'yard_png_8_normals.png', 'yard_png_8_material_id.png'].toSorted((a, b) => ['beauty', 'material_id', 'normals'].findIndex((w) => a.includes(w)) - ['beauty', 'material_id', 'normals'].findIndex((w) => b.includes(w))));
      expect(leftOut.join(' ')).toMatch(/Depth in metres is not saved: a PNG keeps numbers from 0 to 1 only.*Coverage by object/s);
      const ids = byOpenImageIo(join(folder, 'yard_png_8_material_id.png'), 'R,G,B');
      const expected = planes('material-id');
      expectClose(ids, Float32Array.from({ length: ids.length }, (_, i) => Math.round(expected[i % 3][Math.floor(i / 3)] * 255) / 255), 1e-6);
    });
    it('one file each, and what was not rendered is refused', async () => {
      expect((await save(['gi', 'light-group'], { layout: 'exr', bits: 16, clean: true })).names).toEqual(['yard_exr_16_gi.exr', ...lightGroups(job.rendering.scene).map((group) => `yard_exr_16_light_group_${group}.exr`)]);
      const small = renderer.begin({ ...job.request, width: 16, height: 16, region: null, elements: ['beauty'], denoise: 'none', quality: { noisePercent: null, seconds: null, samples: 1 } });
      await small.finished;
      await expect(small.save(['gi'], { layout: 'exr', bits: 16, clean: false }, 'x')).rejects.toThrow(/GI was not rendered/);
    });
    it('cut to the region, in a window of the whole', async () => {
      const part = await saveElements({ rendering: job.rendering, elements: ['beauty'], settings: { layout: 'exr', bits: 32, clean: false }, region: { x: 10, y: 6, width: 20, height: 12 }, stem: 'part' }, nodePlatform, await builtKernels());
      writeFileSync(join(folder, part.files[0].name), Buffer.concat(part.files[0].parts));
      expect(tool('oiiotool', '--info', '-v', join(folder, part.files[0].name)).toString()).toMatch(/20 x +12.*pixel data origin: x=10, y=6.*full\/display size: 72 x 52/s);
    });
  });
});

describe('names of files', () => {
  it('are numbered and never taken twice', () => {
    expect(fileStem('Kiln Yard: Bücherei', 'court yard', false, () => false)).toBe('kiln-yard-bucherei_court-yard_001');
    expect(fileStem('A', 'b', true, (stem) => ['a_b_fog_001', 'a_b_fog_002'].includes(stem))).toBe('a_b_fog_003');
  });
  it('separate files are saved side by side', () => {
    const request = { rendering: {} as never, elements: ['beauty', 'gi'], region: { x: 0, y: 0, width: 1, height: 1 }, stem: 's' };
    expect(splitSave({ ...request, settings: { layout: 'png', bits: 8, clean: false } })).toHaveLength(2);
    expect(splitSave({ ...request, settings: { layout: 'multi-layer', bits: 16, clean: false } })).toHaveLength(1);
    expect(bitsOf('png')).toEqual([16, 8]);
  });
});
