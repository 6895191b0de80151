/** Materials and masks through the workers: the demo's own elements, and documents that ask for what is not there. */
import { statSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { addElements, applyEdit, emptyDocument, findMaterial, materialTerm, type Mask, type MaskTerm, newMask, newTerm, type Source, type TazzelDocument } from '@tazzel/core';
import { encodeExr, type ExrChannelData, sourcesFromReport } from '@tazzel/formats';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { builtEngine, builtKernels } from '../../../tests/built.ts';
import { after } from '../../../tests/documents.ts';
import { demoFile, demoPart } from '../../../tests/elements.ts';
import { scratch, tool } from '../../../tests/tools.ts';
import type { Engine } from './engine.ts';
import { nodePlatform } from './node-platform.ts';

let engine: Engine;
let yard: TazzelDocument;

async function sourcesOf(files: readonly string[]): Promise<Source[]> {
  const sources: Source[] = [];
  let n = 0;
  for (const path of files) {
    const ref = { name: basename(path), size: statSync(path).size, handle: path };
    const hash = await engine.hash(ref);
    engine.files.set(hash, ref);
    sources.push(...sourcesFromReport(await engine.inspect(ref), hash, () => `source-${++n}`));
  }
  return sources;
}

beforeAll(async () => {
  engine = await builtEngine();
  const sources = await sourcesOf([demoPart('denoised_beauty'), demoPart('diffuse_filter'), demoPart('depth'), demoFile('courtyard_geometry.exr')]);
  yard = addElements(emptyDocument('yard', 'Yard', { width: 1200, height: 800 }), sources);
  const { materials, problems } = await engine.findSchedule(sources);
  expect(problems).toEqual([]);
  yard = applyEdit(yard, { type: 'set-materials', sourceId: materials[0].sourceId, materials });
}, 120_000);
afterAll(() => engine.pool.terminate());

const named = (name: string) => yard.materials.find((row) => row.name === name);
const share = async (mask: Mask, document = yard, level = 2) => {
  const { plane } = await engine.mask(document, mask, level);
  let sum = 0;
  for (const value of plane.data) sum += value;
  return sum / plane.data.length / (plane.type === 'u8' ? 255 : 65535);
};
const problemsOf = async (mask: Mask, document = yard) => (await engine.mask(document, mask, 2)).problems.map(({ sentence }) => sentence);
const from = (materials: readonly string[], origin: string): MaskTerm => ({ ...materialTerm(materials), params: { materials, from: origin } });
const fromBehind = (materials: readonly string[]) => from(materials, 'behind');
const mask = (...terms: readonly MaskTerm[]) => newMask('mask-t', 'T', terms);

describe('the schedule', () => {
  it('names materials by their coverage matte, counts objects beside them, and measures colours', () => {
    const brick = named('Brick');
    expect(brick).toMatchObject({ kind: 'material', coverage: { hash: expect.any(Number) } });
    // The renderer’s brick reflects red more than blue.
    expect(brick?.mean?.[0]).toBeGreaterThan(1.5 * (brick?.mean?.[2] ?? 1));
    expect(yard.materials.filter(({ kind }) => kind === 'object').length).toBeGreaterThan(30);
    expect(yard.materials.filter(({ kind }) => kind === 'material').reduce((sum, { area }) => sum + area, 0)).toBeCloseTo(1, 3);
  });
  it('of a coverage matte alone has its names and areas', async () => {
    const mattes = yard.sources.filter(({ role }) => role === 'coverage-matte');
    const { materials } = await engine.findSchedule(mattes);
    const gravel = materials.find(({ name }) => name === 'Gravel');
    expect(gravel?.area).toBeCloseTo(named('Gravel')?.area ?? 0, 2);
    const alone = after({ ...emptyDocument('m', 'M', yard.size), sources: mattes }, { type: 'set-materials', sourceId: mattes[0].id, materials });
    await engine.preparePointer(alone);
    expect(engine.materialAt(alone, 400, 700)?.name).toBe('Gravel');
    expect(await share(mask(materialTerm([gravel?.id ?? ''])), alone)).toBeCloseTo(gravel?.area ?? 0, 2);
  });
  it('of RGB mattes has the channels of all of them, their areas, and is pointed at', async () => {
    const folder = scratch();
    const colors = [[255, 0, 0], [0, 255, 0], [0, 0, 255]];
    // Four columns: red, green and blue of the first picture; the fourth is red of the second.
    const paths = await Promise.all(
      [(x: number) => colors[x] ?? [0, 0, 0], (x: number) => (x === 3 ? colors[0] : [0, 0, 0])].map(async (colorOf, n) => {
        const path = join(folder, `rgb_matte_${n + 1}.png`);
        await sharp(Buffer.from(Array.from({ length: 80 * 10 }, (_, i) => colorOf(Math.floor((i % 80) / 20))).flat()), { raw: { width: 80, height: 10, channels: 3 } }).png().toFile(path);
        return path;
      }),
    );
    const sources = await sourcesOf(paths);
    expect(sources.map(({ role }) => role)).toEqual(['rgb-matte', 'rgb-matte']);
    const { materials } = await engine.findSchedule(sources);
    expect(materials.map(({ area }) => Number(area.toFixed(2)))).toEqual([0.25, 0.25, 0.25, 0.25, 0, 0]);
    const document = after(addElements(emptyDocument('m', 'M', { width: 80, height: 10 }), sources), { type: 'set-materials', sourceId: sources[0].id, materials });
    await engine.preparePointer(document);
    expect([5, 25, 45, 65].map((x) => document.materials.indexOf(engine.materialAt(document, x, 5) as never))).toEqual([0, 1, 2, 3]);
    const outline = await engine.outline(document, [document.materials[3].id], 0, { x: 0, y: 0, width: 80, height: 10 });
    expect([outline[(5 * 80 + 60) * 4 + 3], outline[(5 * 80 + 70) * 4 + 3], outline[(5 * 80 + 40) * 4 + 3]]).toEqual([255, 0, 0]);
  });
  it('alpha as the fourth matte has a row, alpha that only repeats the others has none', async () => {
    const folder = scratch();
    const columns = (alphaOf: (column: number) => number) => Buffer.from(Array.from({ length: 80 * 10 }, (_, i) => Math.floor((i % 80) / 20)).flatMap((column) => [column === 0 ? 255 : 0, column === 1 ? 255 : 0, column === 2 ? 255 : 0, alphaOf(column)]));
    const rows = async (name: string, alphaOf: (column: number) => number) => {
      const path = join(folder, name);
      await sharp(columns(alphaOf), { raw: { width: 80, height: 10, channels: 4 } }).png().toFile(path);
      const sources = await sourcesOf([path]);
      const { materials } = await engine.findSchedule(sources.map((source) => ({ ...source, role: 'rgb-matte' as const })));
      return materials.map(({ name: row, area }) => [row.split(' ').at(-1), Number(area.toFixed(2))]);
    };
    expect(await rows('rgb_matte_four.png', (column) => (column === 3 ? 255 : 0))).toEqual([['red', 0.25], ['green', 0.25], ['blue', 0.25], ['alpha', 0.25]]);
    for (const alphaOf of [() => 255, (column: number) => (column < 3 ? 255 : 0)]) expect(await rows(`rgb_matte_${alphaOf(3)}.png`, alphaOf)).toHaveLength(3);
  });
  describe('coverage mattes of our own', () => {
    // Two things share a colour of the flat picture; a third is one pixel.
    const [WIDTH, HEIGHT] = [40, 20];
    const hashes = { door: 0x11111111, frame: 0x22222222, wall: 0x33333333, knob: 0x44444444, chair: 0x55555555, all: 0x66666666 };
    const thingAt = (i: number): keyof typeof hashes => (i === 407 ? 'knob' : i % WIDTH < 18 ? 'door' : i % WIDTH < 20 ? 'frame' : 'wall');
    const matte = (layer: string, of: (i: number) => keyof typeof hashes): ExrChannelData[] => {
      const ids = new Float32Array(Uint32Array.from({ length: WIDTH * HEIGHT }, (_, i) => hashes[of(i)]).buffer);
      const full = new Float32Array(WIDTH * HEIGHT).fill(1);
      const none = new Float32Array(WIDTH * HEIGHT);
      return [['R', ids], ['G', full], ['B', none], ['A', none]].map(([channel, data]) => ({ name: `${layer}00.${channel}`, type: 'f32' as const, data: data as Float32Array }));
    };
    const names = JSON.stringify(Object.fromEntries(Object.entries(hashes).map(([name, hash]) => [name, hash.toString(16)])));
    const window = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
    const write = async (name: string, parts: readonly { name: string; channels: ExrChannelData[]; notes: Record<string, string> }[]) => {
      const path = join(folder, name);
      const pictures = parts.map((part) => ({ ...part, dataWindow: window, displayWindow: window, compression: 'ZIP' as const }));
      writeFileSync(path, Buffer.concat(await encodeExr(pictures.length === 1 ? pictures[0] : pictures, nodePlatform, await builtKernels())));
      return path;
    };
    const folder = scratch();

    it('of several of one kind each reaches the schedule; a flat picture does not hide what only a matte holds', async () => {
      const path = await write('mattes.exr', [
        { name: 'objects', channels: matte('crypto_object', thingAt), notes: { 'cryptomatte/1/name': 'crypto_object', 'cryptomatte/1/manifest': names } },
        // The names of the second stand in the first part of the file only.
        { name: 'assets', channels: matte('crypto_asset', (i) => (i % WIDTH < 20 ? 'all' : 'chair')), notes: { 'cryptomatte/2/name': 'crypto_asset', 'cryptomatte/2/manifest': names } },
      ]);
      const flat = join(folder, 'object_id.png');
      // Door and frame share a number; the knob is too small for a colour of its own.
      await sharp(Buffer.from(Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH < 20 ? [200, 0, 0] : [0, 0, 200])).flat()), { raw: { width: WIDTH, height: HEIGHT, channels: 3 } }).png().toFile(flat);
      const sources = await sourcesOf([path, flat]);
      expect(sources.map(({ role }) => role)).toEqual(['coverage-matte', 'coverage-matte', 'object-id']);
      const { materials, problems } = await engine.findSchedule(sources);
      expect(problems).toEqual([]);
      const door = materials.find(({ name }) => name === 'door');
      expect(door?.sourceId).toBe(sources[2].id);
      expect(materials.map(({ name }) => name).toSorted()).toEqual(['all', 'chair', 'door', 'frame', 'knob', 'wall']);
      expect(new Set(materials.map(({ tag }) => tag)).size).toBe(6);
      const document = after(addElements(emptyDocument('m', 'M', { width: WIDTH, height: HEIGHT }), sources), { type: 'set-materials', sourceId: sources[2].id, materials });
      const knob = materials.find(({ name }) => name === 'knob');
      expect(await share(mask(materialTerm([knob?.id ?? ''])), document, 0)).toBeCloseTo(1 / (WIDTH * HEIGHT), 5);
    });

    it('names lie in a file beside, or in another part; what is missing is said', async () => {
      const beside = await write('beside.exr', [{ name: 'objects', channels: matte('crypto_object', thingAt), notes: { 'cryptomatte/1/name': 'crypto_object', 'cryptomatte/1/manif_file': 'names-of-beside.json' } }]);
      const sources = await sourcesOf([beside]);
      const before = await engine.findSchedule(sources);
      expect([before.materials.map(({ name }) => name), before.problems]).toEqual([['O01', 'O02', 'O03', 'O04'], [expect.stringMatching(/are in “names-of-beside\.json”, which is not beside it/)]]);
      expect([engine.takeManifest('scene.json', '{"camera":{}}'), engine.takeManifest('empty.json', '{}'), engine.takeManifest('names-of-beside.json', names)]).toEqual([false, false, true]);
      expect((await engine.findSchedule(sources)).materials.map(({ name }) => name).toSorted()).toEqual(['door', 'frame', 'knob', 'wall']);
      const apart = await write('apart.exr', [
        { name: 'notes', channels: [{ name: 'Y', type: 'f32', data: new Float32Array(WIDTH * HEIGHT) }], notes: { 'cryptomatte/1/name': 'crypto_object', 'cryptomatte/1/manifest': names } },
        { name: 'objects', channels: matte('crypto_object', thingAt), notes: {} },
      ]);
      const other = await sourcesOf([apart]);
      expect(other.map(({ role }) => role)[1]).toBe('coverage-matte');
      expect((await engine.findSchedule(other)).materials.map(({ name }) => name).toSorted()).toEqual(['door', 'frame', 'knob', 'wall']);
    });

    it.each([
      ['half', ['-d', 'half', '--compression', 'zip'], '16-bit numbers'],
      ['pxr24', ['-d', 'float', '--compression', 'pxr24'], 'PXR24'],
      ['dwaa', ['-d', 'float', '--compression', 'dwaa'], 'DWAA'],
    ])('saved with %s it is said to be lost and fills no schedule', async (name, options, words) => {
      const whole = await write('whole.exr', [{ name: '', channels: matte('crypto_object', thingAt), notes: { 'cryptomatte/1/name': 'crypto_object', 'cryptomatte/1/manifest': names } }]);
      const path = join(folder, `${name}.exr`);
      tool('oiiotool', whole, ...options, '-o', path);
      const { materials, problems } = await engine.findSchedule((await sourcesOf([path])).map((source) => ({ ...source, role: 'coverage-matte' as const })));
      expect([materials, problems]).toEqual([[], [expect.stringMatching(new RegExp(`its numbers were rounded \\(${words}\\).*32-bit floats with ZIP`))]]);
    });
  });
  it('says behind what a material is seen', async () => {
    const oak = yard.materials.find((row) => row.kind === 'material' && row.name === 'Oak');
    const seen = await engine.seenBehind(yard, oak as never);
    expect(seen[0]?.front.name).toBe('Glass');
    expect(seen[0]?.area).toBeGreaterThan(0.0005);
  });
  it('selects a material where it is only seen through glass', async () => {
    const oak = yard.materials.find((row) => row.kind === 'material' && row.name === 'Oak');
    const behind = await share(mask(fromBehind([oak?.id ?? ''])));
    const areas = await engine.seenBehind(yard, oak as never);
    const whole = areas.reduce((sum, { area }) => sum + area, 0);
    expect(behind).toBeGreaterThan(whole * 0.7);
    expect(behind).toBeLessThan(whole * 1.5);
    const objects = yard.materials.find((row) => row.kind === 'object');
    expect(await problemsOf(mask(fromBehind([objects?.id ?? ''])))).toEqual([expect.stringMatching(/needs a second ID picture/)]);
  });
  it('points at materials and at objects', async () => {
    await engine.preparePointer(yard);
    const at = (kind: 'material' | 'object') => engine.materialAt(yard, 720, 200, kind)?.area ?? 0;
    expect(at('material')).toBeGreaterThan(at('object'));
    expect(at('object')).toBeGreaterThan(0);
  });
});

describe('masks', () => {
  it('of flat colours and of coverage mattes agree but for a hundredth of the edge', async () => {
    const brick = named('Brick')?.id ?? '';
    const [flat, exact] = await Promise.all((['flat', 'coverage'] as const).map(async (origin) => (await engine.mask(yard, mask(from([brick], origin)), 0)).plane));
    let [error, edges] = [0, 0];
    for (let i = 0; i < flat.data.length; i++) {
      if (exact.data[i] === 0 || exact.data[i] === 255) continue;
      edges++;
      error += Math.abs(flat.data[i] - exact.data[i]) / 255;
    }
    expect(edges).toBeGreaterThan(1000);
    expect(error / edges).toBeLessThan(0.05);
  });
  it('combine materials, depth and tones of the picture so far', async () => {
    const gravel = named('Gravel')?.id ?? '';
    const whole = await share(mask(materialTerm([gravel])));
    const near = await share(mask(materialTerm([gravel]), newTerm('depth', 'intersect', yard, { nearMetres: 0, farMetres: 10, softNearMetres: 0, softFarMetres: 0 })));
    const far = await share(mask(materialTerm([gravel]), newTerm('depth', 'intersect', yard, { nearMetres: 10, farMetres: 1000, softNearMetres: 0, softFarMetres: 0 })));
    expect(near).toBeGreaterThan(0.02);
    expect(near + far).toBeCloseTo(whole, 2);
    const lights = newTerm('tone', 'add', yard, { after: 'layer-1', lowPercent: 50, softLowPercent: 0 });
    const before = await share(mask(lights));
    const darker = after(yard, { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' }, { type: 'set-params', layerId: 'layer-2', params: { exposureStops: -3 } });
    expect(await share(mask(lights), darker)).toBeCloseTo(before, 6);
    expect(await share(mask({ ...lights, params: { ...lights.params, after: 'layer-2' } }), darker)).toBeLessThan(before / 2);
  });
  it('are the same whether they are reduced first or afterwards', async () => {
    const brick = mask(materialTerm([named('Brick')?.id ?? '']));
    expect(await share(brick, yard, 0)).toBeCloseTo(await share(brick, yard, 3), 3);
  });
  it('read the picture after a layer that they mask themselves, without an end to it', async () => {
    const circular = after(yard, { type: 'add-mask', name: 'Lights', terms: [newTerm('tone', 'add', yard, { after: 'layer-1' })] }, { type: 'set-layer', layerId: 'layer-1', patch: { mask: { maskId: 'mask-1', inverted: false, enabled: true } } });
    expect(await share(circular.masks[0], circular)).toBe(0);
  }, 30_000);
});

describe('what is not there', () => {
  it('is said, and the rest of the mask is made', async () => {
    const brick = named('Brick')?.id ?? '';
    const whole = await share(mask(materialTerm([brick])));
    expect(await problemsOf(mask(materialTerm([brick]), newTerm('facing', 'intersect', yard, { source: 'source-77' })))).toEqual(['The element it reads is gone. Choose another.']);
    const lost: TazzelDocument = { ...yard, sources: yard.sources.map((s) => (s.role === 'depth' ? { ...s, file: { ...s.file, hash: '0'.repeat(64) } } : s)) };
    const withDepth = mask(materialTerm([brick]), newTerm('depth', 'intersect', yard));
    expect((await problemsOf(withDepth, lost))[0]).toMatch(/is missing. Add the file again/);
    expect(await share(withDepth, lost)).toBeCloseTo(whole, 6);
    expect(await problemsOf(mask(materialTerm([brick, 'material-999'])))).toEqual(['1 of its 2 materials are not in the schedule any more.']);
  });
  it('masks that refer to each other in a circle end', async () => {
    const refer = (maskId: string): MaskTerm => newTerm('mask', 'add', yard, { mask: maskId });
    const circular = { ...yard, masks: [newMask('mask-1', 'One', [refer('mask-2'), newTerm('ellipse', 'add', yard)]), newMask('mask-2', 'Two', [refer('mask-1')])] };
    expect((await problemsOf(circular.masks[0], circular))[0]).toMatch(/Two refers back to this mask/);
    expect(await share(circular.masks[0], circular)).toBeGreaterThan(0.1);
    const [one, two] = await Promise.all(circular.masks.map((each) => engine.mask(circular, each, 3)));
    expect([one.problems.length, two.problems.length].every((count) => count > 0)).toBe(true);
  }, 30_000);
  it('an ID picture of another size covers what it covers, and says so; one through JPEG still gives its materials', async () => {
    const folder = scratch();
    const squares = Buffer.from(Uint8Array.from({ length: 300 * 200 * 3 }, (_, i) => [[200, 40, 40], [40, 180, 60], [50, 60, 200]][(Math.floor((Math.floor(i / 3) % 300) / 100))][i % 3]));
    const [png, jpeg] = [join(folder, 'material_id.png'), join(folder, 'material_id.jpg')];
    writeFileSync(png, await sharp(squares, { raw: { width: 300, height: 200, channels: 3 } }).png().toBuffer());
    writeFileSync(jpeg, await sharp(squares, { raw: { width: 300, height: 200, channels: 3 } }).jpeg({ quality: 70 }).toBuffer());
    for (const path of [png, jpeg]) {
      const [ids] = await sourcesOf([path]);
      const { materials } = await engine.findSchedule([{ ...ids, id: 'ids', role: 'material-id', encoding: 'data' }]);
      expect(materials.map(({ area }) => Math.round(area * 100)).sort()).toEqual([33, 33, 33]);
      const document = { ...yard, sources: [{ ...ids, id: 'ids', role: 'material-id' as const, encoding: 'data' as const }], materials };
      expect((await problemsOf(mask(materialTerm([materials[0].id])), document))[0]).toMatch(/is 300 × 200, the picture 1200 × 800/);
      expect(await share(mask(materialTerm([materials[0].id])), document)).toBeCloseTo((100 * 200) / (1200 * 800), 3);
    }
  }, 30_000);
});

it('rows that are gone from the new render keep their masks', () => {
  const brick = named('Brick');
  const masked = after(yard, { type: 'mask-with-material', materialIds: [brick?.id ?? ''], layerId: 'layer-1' });
  const refreshed = after(masked, { type: 'refresh', sources: yard.sources, materials: yard.materials.filter(({ id }) => id !== brick?.id), size: yard.size });
  expect(findMaterial(refreshed, brick?.id ?? '')?.area).toBe(0);
  expect(refreshed.masks).toEqual(masked.masks);
});
