/** Every format that is written, as programs that are not ours read it: OpenImageIO, ImageMagick and libtiff, libvips (through sharp), and our own readers. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { defaultsOf, faultOf, type KeptValues } from '@tazzel/core';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { builtKernels } from '../../../../tests/built.ts';
import { expectClose } from '../../../../tests/close.ts';
import { joined, platform } from '../../../../tests/formats.ts';
import { seeded } from '../../../../tests/random.ts';
import { allByOpenImageIo, byOpenImageIo, scratch, tool } from '../../../../tests/tools.ts';
import { byteSource } from '../bytes.ts';
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

describe('TIFF', () => {
  const kinds = (['8', '16', '32'] as const).flatMap((bits) => (['deflate', 'none'] as const).map((compression) => [bits, compression] as const));
  describe.each([true, false])('opaque: %s', (isOpaque) => {
    let files: string[];
    let read: Float32Array[];
    beforeAll(async () => {
      files = await Promise.all(kinds.map(([bits, compression]) => written('tiff', bits === '32' ? light(isOpaque) : bits === '16' ? words(isOpaque) : bytes(isOpaque), { bits, compression, dpi: 150 }, `t-${bits}-${compression}-${isOpaque}`)));
      read = allByOpenImageIo(files, isOpaque ? 'R,G,B' : 'R,G,B,A');
    });
    it.each(kinds.map((kind, k) => [...kind, k] as const))('%s bits, %s: the samples that went in, by OpenImageIO', (bits, _compression, k) => {
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
    expect(Buffer.compare(await sharp(path).raw().toBuffer(), Buffer.from(withoutAlpha([...rgba])))).toBe(0);
    const said = tool('sh', '-c', `tiffinfo "${path}" 2>&1`).toString();
    expect(said).toMatch(/Rows\/Strip: 97/);
    expect(said).not.toMatch(/warning|error/i);
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
