/** Every format that is written, as programs that are not ours read it: OpenImageIO, ImageMagick and libtiff, libvips (through sharp), and our own readers. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { defaultsOf, faultOf, inOutputSpace, type KeptValues, type OutputSpaceId, outputSpaces, srgbDecode } from '@tazzel/core';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { builtKernels } from '../../../../tests/built.ts';
import { expectClose } from '../../../../tests/close.ts';
import { joined, platform } from '../../../../tests/formats.ts';
import { seeded } from '../../../../tests/random.ts';
import { allByOpenImageIo, byOpenImageIo, scratch, tool } from '../../../../tests/tools.ts';
import { byteSource } from '../bytes.ts';
import { spaceOfProfile } from '../icc.ts';
import { iccProfile } from '../icc-write.ts';
import { inspectFile } from '../inspect.ts';
import type { FinishedPicture } from './define.ts';
import { flatFormatById, pictureFormatOf, pictureFormats } from './registry.ts';

const folder = scratch();
const [WIDTH, HEIGHT] = [61, 43];
const AREA = WIDTH * HEIGHT;

/** A ramp with noise, flat in one corner; alpha falls to the right, or is 1. */
function codes(most: number, isOpaque: boolean): number[] {
  const random = seeded(9);
  return Array.from({ length: AREA }, (_, i) => {
    const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
    const flat = x < 20 && y < 20;
    return [...[x / WIDTH, y / HEIGHT, 1 - x / WIDTH].map((v) => Math.round((flat ? 0.25 : Math.min(1, v * 0.9 + random() * 0.1)) * most)), isOpaque ? most : Math.round((1 - x / 2 / WIDTH) * most)];
  }).flat();
}
const shared = <T extends Uint8Array | Uint16Array | Float32Array>(values: T): ArrayBufferLike => {
  const memory = new SharedArrayBuffer(values.byteLength);
  new (values.constructor as new (buffer: ArrayBufferLike) => T)(memory).set(values);
  return memory;
};
const bytes = (isOpaque = true): FinishedPicture => ({ width: WIDTH, height: HEIGHT, isOpaque, pixels: shared(Uint8Array.from(codes(255, isOpaque))) });
const words = (isOpaque = true): FinishedPicture => ({ width: WIDTH, height: HEIGHT, isOpaque, pixels: shared(Uint16Array.from(codes(65535, isOpaque))) });
/** Light from far below black to far above white, in planes. */
const lightOf = () => {
  const random = seeded(3);
  return Float32Array.from({ length: AREA * 4 }, (_, i) => (i >= AREA * 3 ? 1 : 2 ** (random() * 30 - 18)));
};
const light = (isOpaque = true): FinishedPicture => ({ width: WIDTH, height: HEIGHT, isOpaque, pixels: shared(lightOf()) });
const withoutAlpha = (values: readonly number[]) => values.filter((_, i) => i % 4 < 3);

let kernels: Awaited<ReturnType<typeof builtKernels>>;
beforeAll(async () => {
  kernels = await builtKernels();
});
async function written(id: string, picture: FinishedPicture, values: KeptValues = {}, name = id): Promise<string> {
  const format = flatFormatById(id);
  if (!format) throw new Error(`no format ${id}`);
  const path = join(folder, `${name}.${format.endings[0]}`);
  writeFileSync(path, joined(await format.write(picture, values, platform, kernels)));
  return path;
}
const density = (path: string) => tool('identify', '-format', '%[fx:round(resolution.x)] %U', path).toString();

describe('the registry', () => {
  it('ids and endings are there once, and parameters are sound', () => {
    expect(new Set(pictureFormats.map(({ id }) => id)).size).toBe(pictureFormats.length);
    const endings = pictureFormats.flatMap((format) => format.endings);
    expect(new Set(endings).size).toBe(endings.length);
    for (const { id, params } of pictureFormats) expect(faultOf(params), id).toBeNull();
  });
  it('endings choose, large or small', () => {
    expect([pictureFormatOf('A.B.JPEG')?.id, pictureFormatOf('x.tif')?.id, pictureFormatOf('png')]).toEqual(['jpeg', 'tiff', null]);
  });
  it.each(pictureFormats.flatMap((format) => (format.kind === 'flat' ? [[format.id, format] as const] : [])))('%s is read again by what reads files here', async (id, format) => {
    const { kind } = format.pixels(defaultsOf(format));
    const path = await written(id, kind === 'float' ? light() : kind === 'rgba16' ? words() : bytes(), {}, `again-${id}`);
    const report = await inspectFile(byteSource(path, new Uint8Array(readFileSync(path))));
    expect(report).toMatchObject({ format: id, size: { width: WIDTH, height: HEIGHT } });
    expect(report.elements).toHaveLength(1);
  });
});

describe('PNG', () => {
  // Pixels to the metre, rounded: PNG specification, 11.3.4.3, unit 1.
  it.each([[72, 2835], [96, 3780], [150, 5906], [300, 11811], [600, 23622]])('%i dpi are %i pixels to the metre', async (dpi, metre) => {
    const file = readFileSync(await written('png', bytes(), { dpi }, `dpi-${dpi}`));
    const at = file.indexOf('pHYs') + 4;
    expect([file.readUInt32BE(at), file.readUInt32BE(at + 4), file[at + 8]]).toEqual([metre, metre, 1]);
  });
  it('resolution, as ImageMagick reads it', async () => {
    expect(density(await written('png', bytes(), { dpi: 300 }))).toMatch(/^(300 PixelsPerInch|118 PixelsPerCentimeter)/);
    expect((await sharp(await written('png', bytes(), { dpi: 300 })).metadata()).density).toBe(300);
    expect(Object.keys(await sharp(await written('png', bytes(), {}, 'plain')).metadata())).not.toContain('resolutionUnit');
  });
});

describe('the order of a JPEG', () => {
  /** The first frame header. @source ITU-T T.81, table B.1: SOF0 is baseline, SOF2 progressive */
  const frameOf = (path: string) => {
    const file = readFileSync(path);
    for (let at = 2; ; at += 2 + file.readUInt16BE(at + 2)) if (file[at + 1] >= 0xc0 && file[at + 1] <= 0xc2) return file[at + 1];
  };
  it('is row by row, or in passes, and looks the same', async () => {
    const [plain, passes] = [await written('jpeg', bytes(true), {}, 'rows'), await written('jpeg', bytes(true), { passes: 'several' }, 'passes')];
    expect([frameOf(plain), frameOf(passes)]).toEqual([0xc0, 0xc2]);
    const [a, b] = [await sharp(plain).raw().toBuffer(), await sharp(passes).raw().toBuffer()];
    // What is rounded away is weighed by how it is packed.
    expect(a.reduce((sum, value, i) => sum + Math.abs(value - b[i]), 0) / a.length).toBeLessThan(1.5);
  });
});

describe('TIFF', () => {
  const kinds = (['8', '16', '32'] as const).flatMap((bits) => (['deflate', 'lzw', 'none'] as const).flatMap((compression) => (['strips', 'tiles'] as const).map((layout) => [bits, compression, layout] as const)));
  describe.each([true, false])('opaque: %s', (isOpaque) => {
    let files: string[];
    let read: Float32Array[];
    beforeAll(async () => {
      files = await Promise.all(kinds.map(([bits, compression, layout]) => written('tiff', bits === '32' ? light(isOpaque) : bits === '16' ? words(isOpaque) : bytes(isOpaque), { bits, compression, layout, dpi: 150 }, `t-${bits}-${compression}-${layout}-${isOpaque}`)));
      // Colours beside an alpha that are not multiplied with it OpenImageIO reads otherwise from tiles than from strips: libtiff lays them out anew.
      const copied = files.map((path, k) => {
        if (isOpaque || kinds[k][2] === 'strips') return path;
        tool('tiffcp', '-s', '-c', 'none', path, `${path}-strips.tif`);
        return `${path}-strips.tif`;
      });
      read = allByOpenImageIo(copied, isOpaque ? 'R,G,B' : 'R,G,B,A');
    });
    it.each(kinds.map((kind, k) => [...kind, k] as const))('%s bits, %s in %s: the samples that went in, by OpenImageIO', (bits, _compression, _layout, k) => {
      if (bits === '32') {
        const planes = lightOf();
        const channels = isOpaque ? 3 : 4;
        expect([...read[k]]).toEqual(Array.from({ length: AREA * channels }, (_, i) => planes[(i % channels) * AREA + Math.floor(i / channels)]));
        return;
      }
      const most = bits === '16' ? 65535 : 255;
      const all = codes(most, isOpaque);
      // OpenImageIO multiplies colours by their alpha as it reads.
      const wanted = isOpaque ? withoutAlpha(all) : all.map((value, i) => (i % 4 === 3 ? value : value * (all[i - (i % 4) + 3] / most)));
      expectClose([...read[k]], wanted.map((value) => value / most), isOpaque ? 1e-6 : 1.01 / most, bits);
    });
    it('resolution, as ImageMagick reads it', () => expect(density(files[0])).toBe('150 PixelsPerInch'));
  });
  it('in many strips, as libvips reads it, and libtiff finds nothing to warn of', async () => {
    const [width, height] = [900, 700];
    const random = seeded(1);
    const rgba = Uint8Array.from({ length: width * height * 4 }, (_, i) => (i % 4 === 3 ? 255 : random() * 256));
    const path = await written('tiff', { width, height, isOpaque: true, pixels: shared(rgba) }, { bits: '8' }, 'strips');
    // It converts by the profile, from sRGB to sRGB: a code at most.
    const found = await sharp(path).raw().toBuffer();
    expect(withoutAlpha([...rgba]).every((value, i) => Math.abs(value - found[i]) <= 1)).toBe(true);
    const said = tool('sh', '-c', `tiffinfo "${path}" 2>&1`).toString();
    expect(said).toMatch(/Rows\/Strip: 97/);
    expect(said).not.toMatch(/warning|error/i);
  });
  it.each(['deflate', 'lzw', 'none'])('in many tiles, %s, as libtiff’s own copy has them', async (compression) => {
    const [width, height] = [700, 300];
    const random = seeded(2);
    const rgba = Uint16Array.from({ length: width * height * 4 }, (_, i) => (i % 4 === 3 ? 65535 : (i >> 3) * 7 + random() * 300));
    const path = await written('tiff', { width, height, isOpaque: true, pixels: shared(rgba) }, { bits: '16', compression, layout: 'tiles' }, `tiles-${compression}`);
    expect(tool('sh', '-c', `tiffinfo "${path}" 2>&1`).toString()).toMatch(/Tile Width: 256 Tile Length: 256/);
    tool('tiffcp', '-s', '-c', 'none', path, `${path}-copy.tif`);
    expect(byOpenImageIo(`${path}-copy.tif`, 'R,G,B').every((value, i) => Math.abs(value * 65535 - rgba[Math.floor(i / 3) * 4 + (i % 3)]) < 0.01)).toBe(true);
  });
  it('what does not fit into 4 GB is refused, with what to do', async () => {
    await expect(flatFormatById('tiff')?.write({ width: 30_000, height: 30_000, isOpaque: true, pixels: new ArrayBuffer(0) }, { bits: '32' }, platform, kernels)).rejects.toThrow('30000 × 30000 pixels: a TIFF has at most 4 GB. Deliver it with fewer bits, smaller, or as OpenEXR.');
  });
});

describe('JPEG', () => {
  it('looks as the picture, with colour at full resolution, better with more quality', async () => {
    const off = async (quality: number) => {
      const path = await written('jpeg', bytes(), { quality }, `q${quality}`);
      expect(await sharp(path).metadata()).toMatchObject({ chromaSubsampling: '4:4:4', width: WIDTH, height: HEIGHT });
      const found = await sharp(path).raw().toBuffer();
      return withoutAlpha(codes(255, true)).reduce((sum, value, i) => sum + Math.abs(value - found[i]), 0) / found.length;
    };
    const [high, low] = [await off(95), await off(40)];
    expect(high).toBeLessThan(4);
    expect(low).toBeGreaterThan(high * 1.5);
  });
  it('resolution in its head; white where there is nothing', async () => {
    const path = await written('jpeg', { ...bytes(), isOpaque: false, pixels: shared(new Uint8Array(AREA * 4)) }, { dpi: 300 }, 'empty');
    expect(density(path)).toBe('300 PixelsPerInch');
    expect(Math.min(...(await sharp(path).raw().toBuffer()))).toBeGreaterThanOrEqual(254);
  });
  it('sides that its numbers do not hold are refused', async () => {
    await expect(flatFormatById('jpeg')?.write({ width: 70_000, height: 1, isOpaque: true, pixels: new ArrayBuffer(0) }, {}, platform, kernels)).rejects.toThrow('70000 × 1 pixels: a JPEG has at most 65535 on each side. Deliver it smaller, or as TIFF.');
  });
});

describe('WebP', () => {
  it('without loss every code, alpha too', async () => {
    const path = await written('webp', bytes(false), { lossless: true }, 'exact');
    expect([...(await sharp(path).raw().toBuffer())]).toEqual(codes(255, false));
  });
  it('with loss near it and smaller', async () => {
    const [exact, small] = [await written('webp', bytes(), { lossless: true }, 'large'), await written('webp', bytes(), { quality: 90 }, 'small')];
    const found = await sharp(small).raw().toBuffer();
    expect(withoutAlpha(codes(255, true)).reduce((sum, value, i) => sum + Math.abs(value - found[i]), 0) / found.length).toBeLessThan(6);
    expect((await sharp(small).metadata()).size ?? 0).toBeLessThanOrEqual((await sharp(exact).metadata()).size ?? 0);
  });
});

describe('light', () => {
  it('Radiance HDR, as OpenImageIO and ImageMagick read it, within its eight bits', async () => {
    for (const width of [WIDTH, 5]) {
      const area = width * HEIGHT;
      const source = lightOf();
      const planes = Float32Array.from({ length: area * 4 }, (_, i) => source[i % (AREA * 3)]);
      const path = await written('hdr', { width, height: HEIGHT, isOpaque: true, pixels: shared(planes) }, {}, `w${width}`);
      const found = byOpenImageIo(path, 'R,G,B');
      let worst = 0;
      for (let i = 0; i < area; i++) {
        const most = Math.max(planes[i], planes[area + i], planes[2 * area + i]);
        // A mantissa is at least 128 in the brightest channel. OpenImageIO adds half a step to each, as Radiance does where mantissas were cut off.
        for (let c = 0; c < 3; c++) worst = Math.max(worst, Math.abs(found[i * 3 + c] - planes[c * area + i]) / most);
      }
      expect(worst, String(width)).toBeLessThanOrEqual(1 / 127);
      expect(tool('identify', '-format', '%m %w', path).toString()).toBe(`HDR ${width}`);
    }
  });
  it('Radiance HDR: flat rows are short, black is black', async () => {
    const path = await written('hdr', { width: 4000, height: 2, isOpaque: true, pixels: new Float32Array(4000 * 2 * 4).buffer }, {}, 'black');
    expect(readFileSync(path).length).toBeLessThan(700);
    expect(Math.max(...byOpenImageIo(path, 'R,G,B'))).toBe(0);
  });
  it('OpenEXR holds halves or floats, alpha where there is some', async () => {
    const path = await written('exr', light(false), { samples: 'float', compression: 'piz' });
    const planes = lightOf();
    expect([...byOpenImageIo(path, 'R,G,B,A')]).toEqual(Array.from({ length: AREA * 4 }, (_, i) => planes[(i % 4) * AREA + Math.floor(i / 4)]));
    expect(tool('oiiotool', '--info', '-v', await written('exr', light())).toString()).toMatch(/3 channel, half/);
  });
});

/** Eight bits, nothing lost, as each format says it. */
const exactly: Readonly<Record<string, KeptValues>> = { png: { bits: '8' }, tiff: { bits: '8' }, webp: { lossless: true } };

describe('colour spaces', () => {
  const ids = Object.keys(outputSpaces) as OutputSpaceId[];
  beforeAll(() => {
    for (const id of ids) writeFileSync(join(folder, `${id}.icc`), iccProfile(id));
  });
  it.each(['display-p3', 'oprgb', 'linear'] as const)('%s: Little CMS, by our profiles, makes the same of colours as we do, within 1/255', (id) => {
    const random = seeded(5);
    const given = Array.from({ length: 200 }, () => [random(), random(), random()] as const);
    const [from, to] = [join(folder, 'given.ppm'), join(folder, 'made.ppm')];
    writeFileSync(from, Buffer.concat([Buffer.from('P6\n200 1\n65535\n'), Buffer.from(given.flat().flatMap((v) => [Math.round(v * 65535) >> 8, Math.round(v * 65535) & 255]))]));
    // ImageMagick hands profiles over to Little CMS.
    tool('convert', from, '-profile', join(folder, 'srgb.icc'), '-profile', join(folder, `${id}.icc`), '-depth', '16', to);
    const bytesOf = readFileSync(to).subarray(-200 * 6);
    for (const [i, rgb] of given.entries()) {
      const wanted = inOutputSpace([srgbDecode(rgb[0]), srgbDecode(rgb[1]), srgbDecode(rgb[2])], id);
      for (let c = 0; c < 3; c++) expect(Math.abs(bytesOf.readUInt16BE(i * 6 + c * 2) / 65535 - wanted[c])).toBeLessThan(1 / 255);
    }
  });
  it('profiles are read again by what reads profiles here', () => {
    expect(spaceOfProfile(iccProfile('srgb'))).toMatchObject({ isUnknown: false, matrix: null, isLinear: false });
    expect(spaceOfProfile(iccProfile('display-p3'))).toMatchObject({ name: 'Display P3', isUnknown: false });
    expect(spaceOfProfile(iccProfile('linear'))).toMatchObject({ isUnknown: false, isLinear: true });
  });
  // The colorants of sRGB under D50, as ICC's own profile sRGB_v4_ICC_preference and IEC 61966-2-1 amendment 1 print them.
  it('has the published colorants of sRGB', () => {
    const profile = Buffer.from(iccProfile('srgb'));
    const at = (name: string) => profile.readUInt32BE(profile.indexOf(name, 128) + 4);
    const xyz = (name: string) => [8, 12, 16].map((offset) => profile.readInt32BE(at(name) + offset) / 65536);
    for (const [name, wanted] of [['rXYZ', [0.4361, 0.2225, 0.0139]], ['gXYZ', [0.3851, 0.7169, 0.0971]], ['bXYZ', [0.1431, 0.0606, 0.7141]]] as const) for (const [c, value] of xyz(name).entries()) expect(Math.abs(value - wanted[c]), name).toBeLessThan(3e-4);
  });
  it.each([
    ['png', 'display-p3'],
    ['tiff', 'oprgb'],
    ['tiff', 'srgb'],
    ['jpeg', 'srgb'],
    ['jpeg', 'display-p3'],
    ['webp', 'oprgb'],
  ] as const)('%s in %s carries its profile, and its pixels are what they were', async (id, space) => {
    const values = { ...exactly[id], space };
    const path = await written(id, bytes(false), values, `${id}-${space}`);
    const { icc } = await sharp(path).metadata();
    expect(Buffer.compare(icc as Buffer, Buffer.from(iccProfile(space)))).toBe(0);
    expect(flatFormatById(id)?.pixels(values).space).toBe(space);
    if (id === 'jpeg') return;
    // The sums of all samples, as a program sees them that follows no profile.
    const [plain, own] = [await written(id, bytes(false), exactly[id], `${id}-plain`), path].map((file) => tool('convert', file, '-strip', '-depth', '8', 'rgba:-'));
    expect(Buffer.compare(plain, own)).toBe(0);
  });
  it('light of 32 bits is linear, whatever is chosen', async () => {
    expect(flatFormatById('tiff')?.pixels({ bits: '32', space: 'oprgb' })).toMatchObject({ kind: 'float', space: 'srgb' });
    const { icc } = await sharp(await written('tiff', light(), { bits: '32' }, 'float-space')).metadata();
    expect(Buffer.compare(icc as Buffer, Buffer.from(iccProfile('linear')))).toBe(0);
  });
});

describe('title and author', () => {
  const notes = { title: 'Kiln Yard <& “late”>', author: 'A. Nobody' };
  it.each(['png', 'tiff', 'jpeg', 'webp', 'exr'] as const)('stand in a %s, as others read it', async (id) => {
    const path = await written(id, id === 'exr' ? light() : bytes(), { ...notes, ...exactly[id] }, `notes-${id}`);
    const file = readFileSync(path);
    for (const value of Object.values(notes)) {
      const text = id === 'jpeg' || id === 'webp' ? value.replace('&', '&amp;').replace('<', '&lt;').replace('>', '&gt;') : value;
      expect(file.includes(Buffer.from(text))).toBe(true);
    }
    if (id === 'jpeg' || id === 'webp') expect((await sharp(path).metadata()).xmp?.toString()).toContain('<dc:creator><rdf:Seq><rdf:li>A. Nobody</rdf:li>');
    if (id === 'png') expect((await sharp(path).metadata()).comments).toEqual([{ keyword: 'Title', text: notes.title }, { keyword: 'Author', text: notes.author }]);
    if (id === 'tiff') expect(tool('identify', '-format', '%[tiff:artist]', path).toString()).toBe(notes.author);
    if (id === 'exr') expect(tool('oiiotool', '--info', '-v', path).toString()).toMatch(/owner: "A\. Nobody"|Copyright: "A\. Nobody"/);
    const report = await inspectFile(byteSource(path, new Uint8Array(file)));
    expect(report.size).toEqual({ width: WIDTH, height: HEIGHT });
  });
  it('nothing is said where nothing was written', async () => {
    for (const id of ['png', 'tiff', 'jpeg', 'webp'] as const) {
      const file = readFileSync(await written(id, bytes(), exactly[id] ?? {}, `silent-${id}`));
      for (const word of ['iTXt', 'xmp', 'Author']) expect(file.includes(Buffer.from(word)), id).toBe(false);
    }
  });
});
