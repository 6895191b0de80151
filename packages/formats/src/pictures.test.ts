import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type FileFormat, halfToFloat, type Plane } from '@tazzel/core';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../tests/close.ts';
import { fuzz, joined, platform } from '../../../tests/formats.ts';
import { seeded } from '../../../tests/random.ts';
import { allByOpenImageIo, byOpenImageIo, scratch, tool } from '../../../tests/tools.ts';
import { byteSource } from './bytes.ts';
import { spaceOfProfile } from './icc.ts';
import { inspectFile, recognise } from './inspect.ts';
import type { FileReport } from './report.ts';
import { decodePicture } from './pictures.ts';
import { crc32 } from './png/chunks.ts';

const folder = scratch();
const open = (path: string) => byteSource(path.replace(/.*\//, ''), new Uint8Array(readFileSync(path)));
const wantedOf = ({ part, colorChannels, alphaChannel }: FileReport['elements'][number]) => ({ page: part, color: colorChannels, alpha: alphaChannel !== null });
const whole = { page: 0, color: ['R', 'G', 'B'], alpha: false };
async function read(path: string, managed = true) {
  const source = open(path);
  const report = await inspectFile(source);
  const pixels = await decodePicture(source, report.format as Exclude<FileFormat, 'exr'>, wantedOf(report.elements[0]), managed, platform);
  return { report, ...pixels };
}
const floats = ({ type, data }: Plane): number[] => Array.from(data, (v) => (type === 'u8' ? v / 255 : type === 'u16' ? v / 65535 : type === 'f16' ? halfToFloat(v) : v));
const interleaved = (planes: readonly Plane[]): number[] => {
  const values = planes.map(floats);
  return values[0].flatMap((_, i) => values.map((plane) => plane[i]));
};

const made = join(folder, 'made.exr');
tool('oiiotool', '--create', '61x43', '3', '--fill:topleft=0.1,0.5,0.9:topright=1,0.1,0.3:bottomleft=0,0,0:bottomright=0.9,0.7,1', '61x43', '--noise:type=gaussian:stddev=0.03:seed=5', '--clamp:min=0:max=1', '--chnames', 'R,G,B', '-d', 'float', '-o', made);
const photo = join(folder, 'photo.png');
tool('oiiotool', made, '--attrib', 'oiio:ColorSpace', 'sRGB', '-d', 'uint8', '-o', photo);

describe('TIFF as OpenImageIO writes it', () => {
  const layouts = { strips: [], tiles: ['--tile', '32', '16'], planes: ['--planarconfig', 'separate'] };
  const names = Object.keys(layouts) as (keyof typeof layouts)[];
  // Each type with each compression, and both with every layout in turn.
  const kinds = (['uint8', 'uint16', 'float', 'half'] as const).flatMap((type, t) => ['none', 'lzw', 'zip', 'packbits'].map((compression, c) => [type, compression, names[(t + c) % 3]] as const));
  const files = kinds.map(([type, compression, name]) => join(folder, `${type}-${compression}-${name}.tif`));
  tool('oiiotool', ...kinds.flatMap(([type, compression, name], i) => [made, '-d', type, '--compression', compression, ...layouts[name], '-o', files[i]]));
  const wanted = allByOpenImageIo(files, 'R,G,B');
  it.each(kinds.map((kind, i) => [...kind, i] as const))('%s, %s, %s', async (_type, _compression, name, i) => {
    const { report, color, alpha } = await read(files[i]);
    expect(report).toMatchObject({ format: 'tiff', size: { width: 61, height: 43 }, leftOut: [] });
    expect([color.length, alpha]).toEqual([3, null]);
    expectClose(interleaved(color), wanted[i], 1e-6, name);
  });
  it('big endian, grey, palette, white as zero, alpha of both kinds, 32-bit numbers', async () => {
    const convert = (to: string, ...args: string[]) => {
      const path = join(folder, to);
      execFileSync('convert', [photo, ...args, path], { stdio: 'pipe' });
      return path;
    };
    const theirs = async (path: string) => Array.from((await sharp(path).removeAlpha().toColourspace('srgb').raw().toBuffer()), (v) => v / 255);
    const big = convert('big.tif', '-define', 'tiff:endian=msb', '-compress', 'lzw');
    expect([...readFileSync(big).subarray(0, 2)]).toEqual([0x4d, 0x4d]);
    expectClose(interleaved((await read(big)).color), await theirs(big), 1e-6, 'big endian');
    const grey = convert('grey.tif', '-colorspace', 'Gray', '-type', 'Grayscale');
    const readGrey = await read(grey);
    expect(readGrey.report.elements[0].colorChannels).toEqual(['Y']);
    const palette = convert('palette.tif', '-colors', '16', '-type', 'Palette');
    expectClose(interleaved((await read(palette)).color), await theirs(palette), 1e-6, 'palette');
    const bilevel = convert('bilevel.tif', '-threshold', '50%', '-type', 'Bilevel', '-compress', 'group4');
    await expect(read(bilevel)).rejects.toMatchObject({ name: 'FormatError', code: expect.stringMatching(/unsupported|corrupt/) });
    for (const [kind, premultiplied] of [['associated', true], ['unassociated', false]] as const) {
      const path = convert(`${kind}.tif`, '-alpha', 'set', '-channel', 'A', '-evaluate', 'set', '50%', '+channel', '-define', `tiff:alpha=${kind}`);
      const { report, alpha } = await read(path);
      expect(report.elements[0]).toMatchObject({ alphaChannel: 'A', premultiplied });
      expect(floats(alpha as Plane)[0]).toBeCloseTo(0.5, 2);
    }
    const ids = join(folder, 'ids.tif');
    tool('oiiotool', made, '--ch', '0', '-d', 'uint32', '-o', ids);
    expect((await read(ids)).color[0].type).toBe('u32');
  });
  it('pages are elements', async () => {
    const path = join(folder, 'pages.tif');
    execFileSync('convert', [photo, '(', photo, '-resize', '50%', ')', path], { stdio: 'pipe' });
    const report = await inspectFile(open(path));
    expect(report.elements.map(({ name, part, window }) => [name, part, window.width])).toEqual([['page 1', 0, 61], ['page 2', 1, 31]]);
    expect((await decodePicture(open(path), 'tiff', { ...whole, page: 1 }, true, platform)).color[0].width).toBe(31);
  });
  it('JPEG inside', async () => {
    const path = join(folder, 'jpeg.tif');
    execFileSync('convert', [photo, '-compress', 'jpeg', '-quality', '95', path], { stdio: 'pipe' });
    const theirs = Array.from(await sharp(path).raw().toBuffer(), (v) => v / 255);
    const ours = interleaved((await read(path)).color);
    expect(ours.reduce((sum, v, i) => sum + Math.abs(v - theirs[i]), 0) / ours.length).toBeLessThan(0.01);
  });
});

describe('JPEG against sharp', () => {
  const theirs = async (path: string) => sharp(path).rotate().raw().toBuffer();
  it.each(['4:4:4', '4:2:0'])('%s, plain and progressive', async (chromaSubsampling) => {
    for (const progressive of [false, true]) {
      const path = join(folder, `photo-${progressive}-${chromaSubsampling.length}.jpg`);
      await sharp(photo).jpeg({ quality: 92, progressive, chromaSubsampling }).toFile(path);
      const { report, color } = await read(path);
      expect(report).toMatchObject({ format: 'jpeg', size: { width: 61, height: 43 }, elements: [{ types: ['u8'] }] });
      // Two decoders of the same standard: inverse cosines may round apart by one code.
      const wanted = await theirs(path);
      const ours = interleaved(color).map((v) => Math.round(v * 255));
      expect(Math.max(...ours.map((v, i) => Math.abs(v - wanted[i])))).toBeLessThanOrEqual(2);
    }
  });
  it.each([1, 2, 3, 4, 5, 6, 7, 8])('orientation %i is shown upright', async (orientation) => {
    const path = join(folder, `turned-${orientation}.jpg`);
    await sharp(photo).jpeg({ quality: 100, chromaSubsampling: '4:4:4' }).withMetadata({ orientation }).toFile(path);
    const { report, color } = await read(path);
    const upright = await sharp(path).rotate().raw().toBuffer({ resolveWithObject: true });
    expect(report.size).toEqual({ width: upright.info.width, height: upright.info.height });
    const ours = interleaved(color).map((v) => Math.round(v * 255));
    expect(Math.max(...ours.map((v, i) => Math.abs(v - upright.data[i])))).toBeLessThanOrEqual(2);
  });
  it('grey is one channel; cut files and arithmetic coding are refused by name', async () => {
    const bytes = readFileSync(join(folder, 'photo-false-5.jpg'));
    const scan = bytes.indexOf(Buffer.from([0xff, 0xda]));
    for (const share of [0.1, 0.5, 0.9, 0.999]) {
      const cut = bytes.subarray(0, Math.floor(scan + (bytes.length - scan) * share));
      await expect(decodePicture(byteSource('cut.jpg', new Uint8Array(cut)), 'jpeg', whole, true, platform)).rejects.toMatchObject({ code: 'truncated', message: expect.stringMatching(/^cut\.jpg: the file ends in the middle of its pixels/) });
    }
    // What a camera or an uploader hung behind the end does no harm.
    await decodePicture(byteSource('long.jpg', new Uint8Array(Buffer.concat([bytes, Buffer.from('trailing words')]))), 'jpeg', whole, true, platform);
    const arithmetic = new Uint8Array(bytes);
    arithmetic[arithmetic.findIndex((byte, i) => byte === 0xff && arithmetic[i + 1] === 0xc0) + 1] = 0xc9;
    await expect(inspectFile(byteSource('odd.jpg', arithmetic))).rejects.toMatchObject({ code: 'unsupported', message: expect.stringMatching(/arithmetic coding/) });
    const grey = join(folder, 'grey.jpg');
    await sharp(photo).toColourspace('b-w').jpeg().toFile(grey);
    expect((await read(grey)).color).toHaveLength(1);
  });
});

it.each([[], ['-interlace', 'JPEG']])('JPEG of inks, as ImageMagick writes it (%s), becomes colours, and that is said', async (...interlace) => {
  const path = join(folder, 'cmyk.jpg');
  execFileSync('convert', [photo, '-colorspace', 'CMYK', '-quality', '98', '-sampling-factor', '1x1', ...interlace, path], { stdio: 'pipe' });
  const { report, color } = await read(path);
  expect(report.remarks).toEqual([expect.stringMatching(/^cmyk\.jpg: its inks .* without their profile/)]);
  const ours = interleaved(color);
  const wanted = byOpenImageIo(photo, 'R,G,B');
  expect(ours.reduce((sum, v, i) => sum + Math.abs(v - wanted[i]), 0) / ours.length).toBeLessThan(0.02);
});

describe('WebP against sharp', () => {
  it.each([1, 3, 6, 8])('orientation %i is shown upright', async (orientation) => {
    const path = join(folder, `turned-${orientation}.webp`);
    await sharp(photo).withMetadata({ orientation }).webp({ lossless: true }).toFile(path);
    const { report, color } = await read(path);
    const upright = await sharp(path).rotate().raw().toBuffer({ resolveWithObject: true });
    expect(report.size).toEqual({ width: upright.info.width, height: upright.info.height });
    expect(interleaved(color).map((v) => Math.round(v * 255))).toEqual([...upright.data]);
  });
  it.each([[true, true], [true, false], [false, true], [false, false]])('lossless %s, alpha %s', async (lossless, withAlpha) => {
    const path = join(folder, `${lossless}-${withAlpha}.webp`);
    const picture = withAlpha ? sharp(photo).ensureAlpha(0.5) : sharp(photo);
    await picture.webp({ lossless, quality: 90, exact: true }).toFile(path);
    const { report, color, alpha } = await read(path);
    expect(report.elements[0].alphaChannel).toBe(withAlpha ? 'A' : null);
    const wanted = await sharp(path).raw().toBuffer();
    const ours = interleaved(alpha ? [...color, alpha] : color).map((v) => Math.round(v * 255));
    expect(ours).toEqual([...wanted]);
  });
});

describe('Radiance HDR', () => {
  // REFERENCES 11.4: G. Ward, “Real Pixels”; bytes and values of the published table.
  it('the published values', async () => {
    const rows: [number[], number[]][] = [[[128, 128, 128, 129], [1, 1, 1]], [[184, 184, 184, 126], [0.1796875, 0.1796875, 0.1796875]], [[128, 32, 8, 131], [4, 1, 0.25]], [[255, 128, 25, 128], [0.99609375, 0.5, 0.09765625]], [[255, 3, 0, 144], [65280, 768, 0]], [[0, 0, 0, 0], [0, 0, 0]]];
    const head = `#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 1 +X ${rows.length}\n`;
    const path = join(folder, 'table.hdr');
    writeFileSync(path, joined([Buffer.from(head), Uint8Array.from(rows.flatMap(([bytes]) => bytes))]));
    const { report, color } = await read(path);
    expect(report.elements[0].encoding).toBe('linear');
    expectClose(interleaved(color), rows.flatMap(([, values]) => values), 1e-3);
  });
  it('run lengths as OpenImageIO and ImageMagick write them', async () => {
    const path = join(folder, 'oiio.hdr');
    tool('oiiotool', made, '--mulc', '7', '-o', path);
    expectClose(interleaved((await read(path)).color), byOpenImageIo(path, 'R,G,B'), 1e-3);
    const other = join(folder, 'magick.hdr');
    execFileSync('convert', [photo, other], { stdio: 'pipe' });
    expectClose(interleaved((await read(other)).color), byOpenImageIo(other, 'R,G,B'), 2e-3);
  });
  it('light that halves do not hold is kept in floats', async () => {
    const path = join(folder, 'sun.hdr');
    // Exponent 153: 128 · 2^17.
    writeFileSync(path, joined([Buffer.from('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 1 +X 3\n'), Uint8Array.of(128, 64, 32, 129, 128, 1, 0, 153, 128, 128, 128, 130)]));
    const { color } = await read(path);
    expect(color[0].type).toBe('f32');
    expectClose(interleaved(color), [1, 0.5, 0.25, 128 * 2 ** 17, 2 ** 17, 0, 2, 2, 2], 1e-6);
  });
  it('old run lengths, exposure, rows from below, columns from the right', async () => {
    const pixel = [128, 64, 32, 129];
    const write = (size: string, body: number[], more = '') => {
      const path = join(folder, 'odd.hdr');
      writeFileSync(path, joined([Buffer.from(`#?RGBE\n${more}FORMAT=32-bit_rle_rgbe\n\n${size}\n`), Uint8Array.from(body)]));
      return read(path);
    };
    expect(interleaved((await write('-Y 1 +X 5', [...pixel, 1, 1, 1, 4])).color)).toEqual(new Array(5).fill([1, 0.5, 0.25]).flat());
    expect(interleaved((await write('-Y 1 +X 1', pixel, 'EXPOSURE=2\nEXPOSURE=2\n')).color)).toEqual([0.25, 0.125, 0.0625]);
    const two = [[128, 0, 0, 129], [0, 128, 0, 129]];
    expect(interleaved((await write('+Y 2 +X 1', two.flat())).color)).toEqual([0, 1, 0, 1, 0, 0]);
    expect(interleaved((await write('-Y 1 -X 2', two.flat())).color)).toEqual([0, 1, 0, 1, 0, 0]);
    const turned = await write('+X 2 -Y 1', two.flat());
    expect([turned.report.size, interleaved(turned.color)]).toEqual([{ width: 2, height: 1 }, [1, 0, 0, 0, 1, 0]]);
    await expect(write('-Y 1 +X 5', [...pixel, 1, 1, 1, 9])).rejects.toMatchObject({ code: 'corrupt' });
  });
});

describe('colour spaces', () => {
  const chunk = (type: string, body: Uint8Array) => {
    const named = joined([Buffer.from(type, 'latin1'), body]);
    const out = Buffer.alloc(named.length + 8);
    out.writeUInt32BE(body.length);
    out.set(named, 4);
    out.writeUInt32BE(crc32(named), named.length + 4);
    return new Uint8Array(out);
  };
  const pixel = async (...chunks: Uint8Array[]) => {
    const plain = await sharp({ create: { width: 2, height: 2, channels: 3, background: { r: 200, g: 100, b: 50 } } }).png().toBuffer();
    const path = join(folder, 'tagged.png');
    writeFileSync(path, joined([plain.subarray(0, 33), ...chunks, plain.subarray(33)]));
    return read(path);
  };
  it('cICP P3: 200 100 50 becomes 215 93 31, as Chromium draws it (REFERENCES 11.5), also beside sRGB; data keeps its codes', async () => {
    const cicp = chunk('cICP', Uint8Array.of(12, 13, 0, 1));
    const tagged = await pixel(cicp);
    expect(tagged.color.map(({ data }) => data[0])).toEqual([215, 93, 31]);
    expect(tagged.report.notes.colours).toBe('Display P3: converted to sRGB');
    expect((await pixel(chunk('sRGB', Uint8Array.of(0)), cicp)).color.map(({ data }) => data[0])).toEqual([215, 93, 31]);
    expect((await decodePicture(open(join(folder, 'tagged.png')), 'png', whole, false, platform)).color.map(({ data }) => data[0])).toEqual([200, 100, 50]);
  });
  it('gAMA 1 is light, gAMA 45455 display values, anything else is named', async () => {
    const gamma = (value: number) => {
      const body = Buffer.alloc(4);
      body.writeUInt32BE(value);
      return chunk('gAMA', new Uint8Array(body));
    };
    expect((await pixel(gamma(100000))).report.elements[0].encoding).toBe('linear');
    expect((await pixel(gamma(45455))).report).toMatchObject({ leftOut: [], remarks: [], elements: [{ encoding: null }] });
    expect((await pixel(gamma(55556))).report.remarks).toEqual([expect.stringMatching(/“gamma 1\.80”, which is not converted/)]);
    expect((await pixel(chunk('cICP', Uint8Array.of(9, 16, 0, 1)))).report.remarks).toEqual([expect.stringContaining('“PQ”')]);
  });
  it('cHRM beside gAMA: the primaries of P3 are converted, those of sRGB say nothing, and sRGB outranks them', async () => {
    const numbers = (type: string, values: readonly number[]) => {
      const body = Buffer.alloc(values.length * 4);
      for (const [i, value] of values.entries()) body.writeUInt32BE(value, i * 4);
      return chunk(type, new Uint8Array(body));
    };
    const gamma = numbers('gAMA', [45455]);
    const p3 = numbers('cHRM', [31270, 32900, 68000, 32000, 26500, 69000, 15000, 6000]);
    // The same picture tagged by cICP.
    expect((await pixel(gamma, p3)).color.map(({ data }) => data[0])).toEqual([215, 93, 31]);
    expect((await pixel(chunk('sRGB', Uint8Array.of(0)), gamma, p3)).color.map(({ data }) => data[0])).toEqual([200, 100, 50]);
    const srgb = await pixel(gamma, numbers('cHRM', [31270, 32900, 64000, 33000, 30000, 60000, 15000, 6000]));
    expect([srgb.color.map(({ data }) => data[0]), srgb.report.notes.colours]).toEqual([[200, 100, 50], undefined]);
  });
  it.each([1, 2, 3, 4, 5, 6, 7, 8])('a PNG that says by Exif that it is turned (%i) is shown upright', async (orientation) => {
    const exif = Uint8Array.of(0x49, 0x49, 42, 0, 8, 0, 0, 0, 1, 0, 18, 1, 3, 0, 1, 0, 0, 0, orientation, 0, 0, 0, 0, 0, 0, 0);
    const plain = readFileSync(photo);
    const path = join(folder, `turned-${orientation}.png`);
    writeFileSync(path, joined([plain.subarray(0, 33), chunk('eXIf', exif), plain.subarray(33)]));
    const { report, color } = await read(path);
    const upright = await sharp(await sharp(photo).withMetadata({ orientation }).tiff({ compression: 'none' }).toBuffer()).rotate().raw().toBuffer({ resolveWithObject: true });
    expect(report.size).toEqual({ width: upright.info.width, height: upright.info.height });
    expect(interleaved(color).map((v) => Math.round(v * 255))).toEqual([...upright.data]);
  });
  it('grey profiles count: a display curve is one, a straight one is light, any other is named', () => {
    const profile = (curve: readonly number[]) => {
      const bytes = Buffer.alloc(200);
      bytes.write('GRAY', 16, 'latin1');
      bytes.write('acsp', 36, 'latin1');
      bytes.writeUInt32BE(1, 128);
      bytes.write('kTRC', 132, 'latin1');
      bytes.writeUInt32BE(144, 136);
      bytes.write('curv', 144, 'latin1');
      bytes.writeUInt32BE(curve.length, 152);
      for (const [i, value] of curve.entries()) bytes.writeUInt16BE(value, 156 + i * 2);
      return spaceOfProfile(new Uint8Array(bytes));
    };
    expect(profile([Math.round(2.2 * 256)])).toMatchObject({ isUnknown: false, isLinear: false });
    expect(profile([])).toMatchObject({ isUnknown: false, isLinear: true });
    expect(profile([Math.round(1.8 * 256)])).toMatchObject({ isUnknown: true });
  });
  it('profiles of sharp: sRGB and P3 are told, in PNG, JPEG, WebP and TIFF', async () => {
    // Display P3 red has no sRGB equal: its red channel stays full, the others are cut to 0.
    for (const format of ['png', 'jpeg', 'webp', 'tiff'] as const) {
      const path = join(folder, `p3.${format}`);
      await sharp(photo).withIccProfile('p3').toFormat(format, format === 'png' ? {} : { quality: 100 }).toFile(path);
      const { report, color } = await read(path);
      expect(report.notes.colours, format).toBe('Display P3: converted to sRGB');
      // Converting there and back gives the picture again, where it lies inside of both.
      const [there, source] = [interleaved(color), Array.from(await sharp(photo).raw().toBuffer(), (v) => v / 255)];
      expect(there.reduce((sum, v, i) => sum + Math.abs(v - source[i]), 0) / there.length, format).toBeLessThan(format === 'jpeg' || format === 'webp' ? 0.03 : 0.004);
      const srgb = join(folder, `srgb.${format}`);
      await sharp(photo).withIccProfile('srgb').toFormat(format).toFile(srgb);
      expect((await inspectFile(open(srgb))).notes.colours ?? 'sRGB', format).toBe('sRGB');
    }
    expect(spaceOfProfile(new Uint8Array(200))).toMatchObject({ isUnknown: true });
  });
});

describe('what is no picture, or a damaged one', () => {
  it('formats are told by their first bytes', async () => {
    tool('oiiotool', made, '-d', 'uint8', '--compression', 'lzw', '-o', join(folder, 'lzw-strips.tif'));
    for (const [path, format] of [['lzw-strips.tif', 'tiff'], ['photo-false-5.jpg', 'jpeg'], ['true-true.webp', 'webp'], ['oiio.hdr', 'hdr']] as const) expect(await recognise(open(join(folder, path)))).toBe(format);
    await expect(recognise(byteSource('a.gif', Buffer.from('GIF89a..........')))).rejects.toMatchObject({ code: 'unsupported', message: expect.stringContaining('GIF') });
  });
  const damaged: readonly (readonly [Exclude<FileFormat, 'exr' | 'png'>, string, readonly string[]])[] = [
    ['tiff', 'lzw.tif', ['-d', 'uint8', '--compression', 'lzw']],
    ['tiff', 'tiles.tif', ['-d', 'float', '--compression', 'zip', '--tile', '32', '16']],
    ['tiff', 'packbits.tif', ['-d', 'uint16', '--compression', 'packbits']],
    ['jpeg', 'damaged.jpg', []],
    ['webp', 'damaged.webp', []],
    ['hdr', 'damaged.hdr', []],
  ];
  it.each(damaged)('%s: mutated files are read or refused by name (%s)', async (format, name, args) => {
    const path = join(folder, name);
    tool('oiiotool', made, ...args, '-o', path);
    const counts = await fuzz([new Uint8Array(readFileSync(path))], 500, 77, async (source) => {
      const report = await inspectFile(source);
      if (report.format === format) await decodePicture(source, format, wantedOf(report.elements[0]), true, platform);
    });
    expect(counts.read + counts.refused).toBe(500);
    expect(counts.refused).toBeGreaterThan(10);
  }, 120_000);
  it('promises of millions of pixels in a few bytes are not believed', async () => {
    const bomb = byteSource('bomb.hdr', Buffer.from('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 16000 +X 16000\n'));
    await expect(decodePicture(bomb, 'hdr', whole, true, platform)).rejects.toMatchObject({ code: 'truncated' });
    const random = seeded(4);
    const noise = Uint8Array.from({ length: 300 }, () => random() * 256);
    await expect(inspectFile(byteSource('noise', noise))).rejects.toMatchObject({ code: 'not-recognised' });
  });
});
