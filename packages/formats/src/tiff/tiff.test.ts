/** TIFF files of other writers, by what makes them differ: order of bytes, differences, kinds of numbers, directions, channels, sizes. */
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { halfToFloat, type Plane } from '@tazzel/core';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { fuzz, platform } from '../../../../tests/formats.ts';
import { allByOpenImageIo, byOpenImageIo, scratch, tool } from '../../../../tests/tools.ts';
import { byteSource } from '../bytes.ts';
import { inspectFile } from '../inspect.ts';
import { decodePicture } from '../pictures.ts';

const folder = scratch();
const path = (name: string) => join(folder, name);
const open = (file: string) => byteSource(file.replace(/.*\//, ''), new Uint8Array(readFileSync(file)));
const inspect = (file: string) => inspectFile(open(file));
async function read(file: string, element = 0) {
  const report = await inspect(file);
  const { part, colorChannels, alphaChannel } = report.elements[element];
  return { report, ...(await decodePicture(open(file), 'tiff', { page: part, color: colorChannels, alpha: alphaChannel !== null }, true, platform)) };
}
const numbers = ({ type, data }: Plane): number[] => Array.from(data, (v) => (type === 'u8' ? v / 255 : type === 'u16' ? v / 65535 : type === 'f16' ? halfToFloat(v) : v));
const interleaved = (planes: readonly Plane[]): number[] => {
  const values = planes.map(numbers);
  return values[0].flatMap((_, i) => values.map((plane) => plane[i]));
};

const made = path('made.exr');
tool('oiiotool', '--create', '61x43', '3', '--fill:topleft=0.1,0.5,0.9:topright=1,0.1,0.3:bottomleft=0,0,0:bottomright=0.9,0.7,1', '61x43', '--noise:type=gaussian:stddev=0.03:seed=5', '--clamp:min=0:max=1', '--chnames', 'R,G,B', '-d', 'float', '-o', made);

describe('as OpenImageIO and libtiff write it', () => {
  const layouts = { strips: [], tiles: ['--tile', '32', '16'], planes: ['--planarconfig', 'separate'] } as const;
  const kinds = (['uint8', 'uint16', 'half', 'float'] as const).flatMap((type) => (['strips', 'tiles', 'planes'] as const).map((layout) => [type, layout] as const));
  const files = kinds.map(([type, layout]) => path(`${type}-${layout}.tif`));
  tool('oiiotool', ...kinds.flatMap(([type, layout], i) => [made, '-d', type, '--compression', 'zip', '--attrib:type=int', 'tiff:predictor', type.startsWith('u') ? '2' : '3', ...layouts[layout], '-o', files[i]]));
  const theirs = allByOpenImageIo(files, 'R,G,B');
  it.each(kinds.map((kind, i) => [...kind, i] as const))('differences of %s in %s', async (type, _layout, i) => expectClose(interleaved((await read(files[i])).color), theirs[i], 1e-6, type));

  /** libtiff's own tool writes what OpenImageIO does not: the other order of bytes, BigTIFF, turned pictures. */
  const copied = (name: string, from: string, ...options: string[]) => {
    execFileSync('tiffcp', [...options, from, path(name)], { stdio: 'pipe' });
    return path(name);
  };
  it.each(['uint8', 'uint16', 'float'])('%s of libtiff: big endian with differences, 64-bit offsets', async (type) => {
    const file = path(`plain-${type}.tif`);
    tool('oiiotool', made, '-d', type, '-o', file);
    const wanted = byOpenImageIo(file, 'R,G,B');
    const isFloat = type === 'float';
    // Differences of floats in the other order of bytes are left out: libtiff writes them so that it cannot read them itself.
    for (const [name, options] of [['b', ['-B', '-c', isFloat ? 'zip:1' : 'lzw:2']], ['8', ['-8', '-c', isFloat ? 'zip:3' : 'zip:2']], ['B8', ['-8', '-B', '-c', 'none']]] as const) {
      const copy = copied(`${name}-${type}.tif`, file, ...options);
      const head = readFileSync(copy).subarray(0, 4);
      expect([head.toString('latin1', 0, 2), Math.max(head[2], head[3])]).toEqual([name === '8' ? 'II' : 'MM', name === 'b' ? 42 : 43]);
      expectClose(interleaved((await read(copy)).color), wanted, 1e-6, `${type} ${name}`);
    }
  });
});

describe('what a file says of itself', () => {
  /** A TIFF by hand: one strip, little endian, and just the tags that are given. */
  const byHand = (tags: readonly (readonly [tag: number, type: 2 | 3 | 4, values: readonly number[] | string])[], pixels: Uint8Array): Uint8Array => {
    const entries = [...tags, [273, 4, [8]] as const, [279, 4, [pixels.length]] as const].sort((a, b) => a[0] - b[0]);
    const directoryAt = 8 + pixels.length + (pixels.length % 2);
    const long = directoryAt + 2 + entries.length * 12 + 4;
    const bytes = new Uint8Array(long + 2000);
    const view = new DataView(bytes.buffer);
    bytes.set([0x49, 0x49, 42, 0]);
    view.setUint32(4, directoryAt, true);
    bytes.set(pixels, 8);
    view.setUint16(directoryAt, entries.length, true);
    let free = long;
    for (const [i, [tag, type, given]] of entries.entries()) {
      const values = typeof given === 'string' ? [...given, '\0'].map((char) => char.charCodeAt(0)) : given;
      const size = type === 2 ? 1 : type === 3 ? 2 : 4;
      const at = directoryAt + 2 + i * 12;
      view.setUint16(at, tag, true);
      view.setUint16(at + 2, type, true);
      view.setUint32(at + 4, values.length, true);
      let to = at + 8;
      if (values.length * size > 4) {
        view.setUint32(at + 8, free, true);
        to = free;
        free += values.length * size;
      }
      for (const [k, value] of values.entries()) size === 1 ? view.setUint8(to + k, value) : size === 2 ? view.setUint16(to + k * 2, value, true) : view.setUint32(to + k * 4, value, true);
    }
    return bytes.subarray(0, free);
  };
  const written = (name: string, ...args: Parameters<typeof byHand>) => {
    writeFileSync(path(name), byHand(...args));
    return path(name);
  };
  const size = (width: number, height: number) => [[256, 3, [width]], [257, 3, [height]]] as const;

  it('one bit a pixel where no depth is named (the standard’s default), black or white as zero', async () => {
    const pixels = Uint8Array.of(0b10110000, 0b01000000);
    expect(interleaved((await read(written('bits.tif', [...size(4, 2), [262, 3, [1]]], pixels))).color)).toEqual([1, 0, 1, 1, 0, 1, 0, 0]);
    expect(interleaved((await read(written('paper.tif', [...size(4, 2), [262, 3, [0]]], pixels))).color)).toEqual([0, 1, 0, 0, 1, 0, 1, 1]);
  });

  it('signed numbers keep their sign', async () => {
    const values = Int16Array.of(-32768, -16384, 0, 32767);
    const file = written('signed.tif', [...size(4, 1), [258, 3, [16]], [262, 3, [1]], [339, 3, [2]]], new Uint8Array(values.buffer));
    const { report, color } = await read(file);
    expect(report.elements[0].types).toEqual(['f32']);
    expectClose(interleaved(color), [-1, -16384 / 32767, 0, 1], 1e-6, 'signed');
  });

  it('10 and 12 bits, packed without a gap, are spread to the whole range', async () => {
    // 0, 1023, 512 in ten bits each.
    const file = written('ten.tif', [...size(3, 1), [258, 3, [10]], [262, 3, [1]]], Uint8Array.of(0b00000000, 0b00111111, 0b11111000, 0b00000000));
    expectClose(interleaved((await read(file)).color), [0, 1, 512 / 1023], 1e-4, 'ten bits');
  });

  const orientations = ['TopLeft', 'TopRight', 'BottomRight', 'BottomLeft', 'LeftTop', 'RightTop', 'RightBottom', 'LeftBottom'];
  const plain = path('photo.tif');
  tool('oiiotool', made, '-d', 'uint8', '-o', plain);
  const uprights = orientations.map((name, i) => {
    execFileSync('convert', [plain, '-orient', name, '-write', path(`turned-${i + 1}.tif`), '-auto-orient', path(`upright-${i + 1}.png`)], { stdio: 'pipe' });
    return path(`upright-${i + 1}.png`);
  });
  const upright = allByOpenImageIo(uprights, 'R,G,B');
  it.each([1, 2, 3, 4, 5, 6, 7, 8])('orientation %i is shown upright, as ImageMagick turns it', async (orientation) => {
    const { report, color } = await read(path(`turned-${orientation}.tif`));
    expect(report.size).toEqual(orientation < 5 ? { width: 61, height: 43 } : { width: 43, height: 61 });
    expect(Object.keys(report.notes).includes('orientation')).toBe(orientation !== 1);
    expectClose(interleaved(color), upright[orientation - 1], 1e-6, String(orientation));
  });

  it('channels beyond the colours and alpha are elements of their own', async () => {
    const file = path('five.tif');
    tool('oiiotool', made, '--ch', 'R,G,B,A=0.5,Z=0.25,mask=0.75', '-d', 'uint16', '-o', file);
    const report = await inspect(file);
    expect(report.elements.map(({ name, colorChannels, alphaChannel, encoding }) => [name, colorChannels.join(''), alphaChannel, encoding])).toEqual([['', 'RGB', 'A', null], ['channel 5', 'channel 5', null, 'data'], ['channel 6', 'channel 6', null, 'data']]);
    expect(interleaved((await read(file, 1)).color)[0]).toBeCloseTo(0.25, 4);
    expect(interleaved((await read(file, 2)).color).at(-1)).toBeCloseTo(0.75, 4);
    expect(numbers((await read(file)).alpha as Plane)[7]).toBeCloseTo(0.5, 4);
  });

  it('pages are called by their name, or by a description that is one', async () => {
    const pixels = Uint8Array.of(1);
    const plain = [...size(1, 1), [258, 3, [8]], [262, 3, [1]]] as const;
    const nameOf = async (name: string, tags: Parameters<typeof byHand>[0]) => (await inspect(written(name, [...plain, ...tags], pixels))).elements[0].name;
    expect(await nameOf('described.tif', [[270, 2, 'raw_gi']])).toBe('raw_gi');
    expect(await nameOf('both.tif', [[270, 2, 'something'], [285, 2, 'reflection']])).toBe('reflection');
    expect(await nameOf('prose.tif', [[270, 2, 'Rendered for the client with everything switched on, second try of Tuesday']])).toBe('');
    expect(await nameOf('words.tif', [[270, 2, '{"software": "x"}']])).toBe('');
  });

  it('inks become colours, and that is said', async () => {
    const photo = path('inks-from.png');
    tool('oiiotool', made, '--attrib', 'oiio:ColorSpace', 'sRGB', '-d', 'uint8', '-o', photo);
    const file = path('cmyk.tif');
    execFileSync('convert', [photo, '-colorspace', 'CMYK', file], { stdio: 'pipe' });
    const { report, color } = await read(file);
    expect(report.remarks).toEqual([expect.stringMatching(/^cmyk\.tif: its inks .* were turned into red, green and blue without their profile/)]);
    expectClose(interleaved(color), byOpenImageIo(photo, 'R,G,B'), 0.01, 'inks');
  });

  const odd = [...size(2, 1), [262, 3, [1]]] as const;
  it.each([
    ['an unknown predictor', [...odd, [258, 3, [8]], [317, 3, [7]]], 'unsupported', /predictor 7/],
    ['differences of floats for whole numbers', [...odd, [258, 3, [8]], [317, 3, [3]]], 'unsupported', /predictor 3 with 8 bits/],
    ['compression by its name', [...odd, [258, 3, [8]], [259, 3, [50000]]], 'unsupported', /compression \(Zstandard\)/],
    ['compression without a name', [...odd, [258, 3, [8]], [259, 3, [999]]], 'unsupported', /compression \(number 999\)/],
    ['colours by their name', [...size(2, 1), [258, 3, [8]], [262, 3, [8]]], 'unsupported', /kind of colour \(CIELAB\)/],
    ['complex numbers', [...odd, [258, 3, [32]], [339, 3, [6]]], 'unsupported', /complex numbers/],
    ['channels of different depths', [...size(2, 1), [258, 3, [8, 16, 8]], [262, 3, [2]], [277, 3, [3]]], 'unsupported', /different depths \(8, 16, 8 bits\)/],
    ['strange inks', [...size(2, 1), [258, 3, [8, 8, 8, 8]], [262, 3, [5]], [277, 3, [4]], [332, 3, [2]]], 'unsupported', /inks other than/],
    ['a size that the file cannot hold', [...size(4096, 4096), [258, 3, [32]], [262, 3, [1]], [277, 3, [16]], [339, 3, [3]], [259, 3, [8]]], 'corrupt', /4096 × 4096 pixels of 16 channels cannot be packed into \d+ bytes/],
  ] as const)('%s is refused by name', async (_, tags, code, sentence) => {
    const file = written('odd.tif', tags as unknown as Parameters<typeof byHand>[0], new Uint8Array(64));
    await expect(inspect(file)).rejects.toMatchObject({ code, message: expect.stringMatching(sentence) });
  });

  it('a strip that is packed to far more than it should hold is read no further', async () => {
    const zeros = await platform.deflate(new Uint8Array(2 ** 26));
    const file = written('bomb.tif', [...size(200, 300), [258, 3, [8]], [259, 3, [8]], [262, 3, [1]]], new Uint8Array(zeros));
    const { color } = await read(file);
    expect(color[0].data.every((value) => value === 0)).toBe(true);
  });

  it('3,000 mutated files are read or refused by name', async () => {
    const files = ['uint8-strips', 'uint16-tiles', 'half-planes', 'B8-uint16', 'five', 'turned-6'].map((name) => new Uint8Array(readFileSync(path(`${name}.tif`))));
    const { read: ok, refused } = await fuzz(files, 3000, 61, async (source) => {
      const report = await inspectFile(source);
      if (report.format !== 'tiff') return;
      for (const { part, colorChannels, alphaChannel } of report.elements.slice(0, 3)) await decodePicture(source, 'tiff', { page: part, color: colorChannels, alpha: alphaChannel !== null }, true, platform);
    });
    expect(ok).toBeGreaterThan(300);
    expect(refused).toBeGreaterThan(300);
  }, 120_000);
});
