import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { fuzz, joined, platform } from '../../../../tests/formats.ts';
import { seeded } from '../../../../tests/random.ts';
import { scratch, tool } from '../../../../tests/tools.ts';
import { byteSource } from '../bytes.ts';
import { inspectFile } from '../inspect.ts';
import { crc32, readPngHeader } from './chunks.ts';
import { decodePng } from './decode.ts';
import { encodePng } from './encode.ts';

const folder = scratch();
const read = (bytes: Uint8Array, name = 'picture.png') => decodePng(byteSource(name, bytes), platform);

/** The same pixels as 16-bit RGBA, by ImageMagick. */
function byImageMagick(path: string): Uint16Array {
  const raw = tool('convert-im6.q16', path, '-depth', '16', '-endian', 'LSB', 'rgba:-');
  return new Uint16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
}

async function ours(bytes: Uint8Array): Promise<Uint16Array> {
  const { color, alpha } = await read(bytes);
  const wide = (type: string, value: number) => (type === 'u8' ? value * 257 : value);
  return Uint16Array.from({ length: color[0].data.length * 4 }, (_, i) => {
    const plane = i % 4 === 3 ? alpha : color[Math.min(i % 4, color.length - 1)];
    return plane ? wide(plane.type, plane.data[i >> 2]) : 65535;
  });
}

/** Files that ImageMagick writes: every colour type, depth and filter, odd widths, one pixel. */
const suite: Readonly<Record<string, readonly string[]>> = {
  rgb8: ['-size', '37x23', 'plasma:red-blue', '-define', 'png:color-type=2', '-depth', '8'],
  rgb16: ['-size', '37x23', 'plasma:tan-green', '-define', 'png:color-type=2', '-depth', '16', '-define', 'png:bit-depth=16'],
  rgba8: ['-size', '37x23', 'gradient:red-none', '-define', 'png:color-type=6', '-depth', '8'],
  rgba16: ['-size', '37x23', 'gradient:blue-none', '-define', 'png:color-type=6', '-define', 'png:bit-depth=16'],
  grey8: ['-size', '37x23', 'plasma:fractal', '-colorspace', 'Gray', '-define', 'png:color-type=0', '-define', 'png:bit-depth=8'],
  grey16: ['-size', '37x23', 'gradient:black-white', '-define', 'png:color-type=0', '-define', 'png:bit-depth=16'],
  grey4: ['-size', '37x23', 'gradient:black-white', '-define', 'png:color-type=0', '-define', 'png:bit-depth=4'],
  grey2: ['-size', '37x23', 'gradient:black-white', '-define', 'png:color-type=0', '-define', 'png:bit-depth=2'],
  grey1: ['-size', '37x23', 'pattern:checkerboard', '-monochrome', '-define', 'png:color-type=0', '-define', 'png:bit-depth=1'],
  'grey-alpha8': ['-size', '37x23', 'gradient:black-none', '-define', 'png:color-type=4', '-define', 'png:bit-depth=8'],
  palette8: ['-size', '37x23', 'plasma:red-blue', '-colors', '200', '-define', 'png:color-type=3', '-define', 'png:bit-depth=8'],
  palette4: ['-size', '37x23', 'plasma:red-blue', '-colors', '12', '-define', 'png:color-type=3', '-define', 'png:bit-depth=4'],
  palette1: ['-size', '37x23', 'pattern:checkerboard', '-colors', '2', '-define', 'png:color-type=3', '-define', 'png:bit-depth=1'],
  'palette-alpha': ['-size', '37x23', 'xc:none', '-fill', 'red', '-draw', 'circle 12,12 12,4', '-define', 'png:color-type=3'],
  interlaced8: ['-size', '37x23', 'plasma:red-blue', '-define', 'png:color-type=2', '-depth', '8', '-interlace', 'PNG'],
  interlaced16: ['-size', '13x7', 'plasma:red-blue', '-define', 'png:color-type=6', '-define', 'png:bit-depth=16', '-interlace', 'PNG'],
  'interlaced-grey1': ['-size', '11x3', 'pattern:checkerboard', '-monochrome', '-define', 'png:color-type=0', '-define', 'png:bit-depth=1', '-interlace', 'PNG'],
  'one pixel': ['-size', '1x1', 'xc:#336699', '-define', 'png:color-type=2'],
  'one column': ['-size', '1x40', 'gradient:red-blue', '-define', 'png:color-type=2', '-interlace', 'PNG'],
  ...Object.fromEntries([0, 1, 2, 3, 4].map((filter) => [`filter ${filter}`, ['-size', '37x23', 'plasma:red-blue', '-define', 'png:color-type=2', '-define', `png:compression-filter=${filter}`]])),
};
const files = new Map(
  Object.entries(suite).map(([name, args]) => {
    const path = join(folder, `${name}.png`);
    tool('convert-im6.q16', ...args, `PNG:${path}`);
    return [name, { path, bytes: new Uint8Array(readFileSync(path)) }];
  }),
);

describe('reading what ImageMagick writes', () => {
  it.each([...files])('%s, sample by sample', async (_name, { path, bytes }) => {
    const [mine, theirs] = [await ours(bytes), byImageMagick(path)];
    // Where alpha is zero some programs drop the colour; it is not seen.
    for (let i = 0; i < theirs.length; i += 4) if (theirs[i + 3] === 0) for (let c = 0; c < 3; c++) mine[i + c] = theirs[i + c];
    expect([...mine]).toEqual([...theirs]);
  });
  it('the kinds are really there', async () => {
    const kinds = new Set<string>();
    for (const { bytes } of files.values()) {
      const header = await readPngHeader(byteSource('x', bytes));
      kinds.add(`${header.color} ${header.depth}${header.interlaced ? ' interlaced' : ''}`);
    }
    for (const kind of ['rgb 8', 'rgb 16', 'rgba 8', 'rgba 16', 'grey 1', 'grey 2', 'grey 4', 'grey 8', 'grey 16', 'grey-alpha 8', 'palette 4', 'palette 8', 'rgb 8 interlaced', 'rgba 16 interlaced', 'grey 1 interlaced']) expect(kinds).toContain(kind);
  });
  it('says what it holds without unpacking', async () => {
    const report = await inspectFile(byteSource('a.png', files.get('rgba16')?.bytes ?? new Uint8Array()));
    expect(report).toMatchObject({ format: 'png', size: { width: 37, height: 23 }, parts: [{ channels: [{ name: 'R', type: 'u16' }, {}, {}, { name: 'A', type: 'u16' }] }], premultiplied: false });
    expect((await inspectFile(byteSource('g.png', files.get('grey4')?.bytes ?? new Uint8Array()))).elements).toMatchObject([{ colorChannels: ['Y'], alphaChannel: null }]);
  });
});

describe('writing', () => {
  const random = seeded(50);
  const rgba = (count: number, top: number, opaque: boolean) => Array.from({ length: count * 4 }, (_, i) => (i % 4 === 3 && opaque ? top : Math.floor(random() * (top + 1))));
  it.each([
    ['8 bits opaque', Uint8Array.from(rgba(77, 255, true)), 3],
    ['8 bits', Uint8Array.from(rgba(77, 255, false)), 4],
    ['16 bits opaque', Uint16Array.from(rgba(77, 65535, true)), 3],
    ['16 bits', Uint16Array.from(rgba(77, 65535, false)), 4],
  ])('%s: libvips and ImageMagick read the same samples', async (_name, samples, channels) => {
    const bytes = joined(await encodePng({ width: 11, height: 7, rgba: samples }, platform));
    const wide = samples instanceof Uint16Array;
    const { data, info } = await sharp(Buffer.from(bytes)).toColourspace(wide ? 'rgb16' : 'srgb').raw({ depth: wide ? 'ushort' : 'uchar' }).toBuffer({ resolveWithObject: true });
    const seen = wide ? new Uint16Array(data.buffer.slice(data.byteOffset, data.byteOffset + data.length)) : data;
    expect(info.channels).toBe(channels);
    expect([...seen]).toEqual([...samples].filter((_, i) => channels === 4 || i % 4 !== 3));
    expect([...(await ours(bytes))]).toEqual([...samples].map((v) => (wide ? v : v * 257)));
  });
  // PNG Specification 3rd edition: the sRGB chunk with intent 0, and IEND, byte by byte; the CRC’s check value.
  it('carries the sRGB chunk', async () => {
    const hex = Buffer.from(joined(await encodePng({ width: 1, height: 1, rgba: Uint8Array.of(1, 2, 3, 255) }, platform))).toString('hex');
    expect(hex).toContain('000000017352474200aece1ce9');
    expect(hex.endsWith('0000000049454e44ae426082')).toBe(true);
    expect(crc32(new TextEncoder().encode('123456789'))).toBe(0xcbf43926);
  });
});

describe('refusals', () => {
  const good = files.get('rgb8')?.bytes ?? new Uint8Array();
  const chunk = (type: string, body: Uint8Array) => {
    const typed = Buffer.concat([Buffer.from(type, 'latin1'), body]);
    const out = Buffer.alloc(typed.length + 8);
    out.writeUInt32BE(body.length, 0);
    typed.copy(out, 4);
    out.writeUInt32BE(crc32(typed), typed.length + 4);
    return out;
  };
  const huge = (width: number, height: number) => {
    const ihdr = Buffer.alloc(13);
    ihdr.writeUInt32BE(width, 0);
    ihdr.writeUInt32BE(height, 4);
    ihdr.set([8, 6, 0, 0, 0], 8);
    return joined([good.subarray(0, 8), chunk('IHDR', ihdr), chunk('IDAT', Buffer.from([1, 2, 3])), chunk('IEND', Buffer.alloc(0))]);
  };
  it.each([
    ['cut off', good.slice(0, 200), 'truncated', /ends too early/],
    ['without a signature', good.slice(4), 'not-recognised', /no picture that is read/],
    ['empty', new Uint8Array(), 'truncated', /is empty/],
    ['a header of 30000 × 30000', huge(30000, 30000), 'too-large', /30000 × 30000 pixels/],
    ['a header of 16000 × 16000 over three bytes of pixels', huge(16000, 16000), 'corrupt', /cannot be packed into 3 bytes/],
    ['a header of nothing', huge(0, 5), 'corrupt', /size is 0 × 5/],
  ])('%s', async (_what, bytes, code, sentence) => {
    const reading = inspectFile(byteSource('bad.png', bytes)).then(() => read(bytes, 'bad.png'));
    await expect(reading).rejects.toMatchObject({ code, fileName: 'bad.png', message: expect.stringMatching(sentence) });
  });
  it('a changed pixel byte is found by the checksum', async () => {
    const changed = good.slice();
    changed[Buffer.from(good).indexOf('IDAT') + 100] ^= 0x10;
    await expect(read(changed)).rejects.toMatchObject({ code: 'corrupt' });
  });
  it('foreign formats are named', async () => {
    for (const [begin, name] of [[[0x42, 0x4d, 0, 0], 'BMP'], [[0x47, 0x49, 0x46, 0x38], 'GIF'], [[0x25, 0x50, 0x44, 0x46], 'PDF']] as const) {
      await expect(inspectFile(byteSource('x.png', Uint8Array.from([...begin, ...new Array(20).fill(0)])))).rejects.toMatchObject({ code: 'unsupported', message: expect.stringContaining(`this is a ${name} file`) });
    }
  });
  it('2,400 mutated files are read or refused by name', async () => {
    const counts = await fuzz([...files.values()].map(({ bytes }) => bytes), 2400, 61, async (source) => {
      await inspectFile(source);
      await decodePng(source, platform);
    });
    expect(counts.refused).toBeGreaterThan(800);
    expect(counts.read + counts.refused).toBe(2400);
  });
});
