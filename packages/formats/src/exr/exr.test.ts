import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { floatToHalf, halfToFloat, type Plane } from '@tazzel/core';
import type { Kernels } from '@tazzel/kernels';
import { DataTexture, DataUtils, FloatType, RGBAFormat } from 'three';
import { EXRExporter } from 'three/examples/jsm/exporters/EXRExporter.js';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { beforeAll, describe, expect, it } from 'vitest';
import { builtKernels } from '../../../../tests/built.ts';
import { expectClose } from '../../../../tests/close.ts';
import { firstPart, fuzz, joined, platform } from '../../../../tests/formats.ts';
import { seeded } from '../../../../tests/random.ts';
import { allByOpenImageIo, byOpenImageIo, scratch, tool } from '../../../../tests/tools.ts';
import { byteSource } from '../bytes.ts';
import { inspectFile } from '../inspect.ts';
import { allocateExrPlanes, decodeExrChunks } from './decode.ts';
import { unpackRuns } from './runs.ts';
import { encodeExr, type ExrChannelData, type ExrPicture, packRuns } from './encode.ts';
import { chunkRegion } from './header.ts';
import { readExrFile } from './file.ts';
import type { ExrWriteCompression } from './types.ts';

const folder = scratch();
let kernels: Kernels;
beforeAll(async () => {
  kernels = await builtKernels();
});

async function decode(source: ReturnType<typeof byteSource>): Promise<Map<string, Plane>> {
  const header = await firstPart(source);
  const planes = allocateExrPlanes(header, header.channels.map((channel) => channel.name));
  await decodeExrChunks(source, header, planes, 0, header.offsets.length, kernels);
  return planes;
}
const values = (plane: Plane): number[] => (plane.type === 'f16' ? Array.from(plane.data, halfToFloat) : [...plane.data]);
const COMPRESSIONS: readonly ExrWriteCompression[] = ['NONE', 'RLE', 'ZIPS', 'ZIP', 'PIZ'];

/** Halves of every kind, floats and whole numbers; smooth parts and noise, so that packing helps in some rows only. */
function picture(compression: ExrWriteCompression, width = 37, height = 35, patch: Partial<ExrPicture> = {}): ExrPicture {
  const random = seeded(70);
  const at = (i: number) => ((i / width) | 0) % 2 === 0 ? (i % width) / 10 : random() * 12 - 2;
  const half = (): ExrChannelData['data'] => Uint16Array.from({ length: width * height }, (_, i) => floatToHalf(at(i)));
  const window = { x: 0, y: 0, width, height };
  const channels: ExrChannelData[] = ['R', 'G', 'B', 'A'].map((name) => ({ name, type: 'f16', data: half() }));
  channels.push({ name: 'depth.Z', type: 'f32', data: Float32Array.from({ length: width * height }, (_, i) => at(i) * 100) });
  channels.push({ name: 'id', type: 'u32', data: Uint32Array.from({ length: width * height }, (_, i) => (i * 2654435761) >>> (i % 9)) });
  return { dataWindow: window, displayWindow: window, compression, channels, notes: { comments: 'a test' }, ...patch };
}
const encode = async (p: ExrPicture) => joined(await encodeExr(p, platform, kernels));

describe('ours read by OpenImageIO', () => {
  it('in every compression', async () => {
    const wanted = COMPRESSIONS.map((compression) => picture(compression));
    const paths = COMPRESSIONS.map((compression) => join(folder, `${compression}.exr`));
    for (const [i, path] of paths.entries()) writeFileSync(path, await encode(wanted[i]));
    const read = allByOpenImageIo(paths, 'R,G,B');
    const said = tool('oiiotool', '--info', '-v', ...paths).toString().split(/^Reading /m).slice(1);
    for (const [i, compression] of COMPRESSIONS.entries()) {
      for (const [c, name] of ['R', 'G', 'B'].entries()) {
        const channel = wanted[i].channels.find((candidate) => candidate.name === name);
        expect(read[i].filter((_, k) => k % 3 === c), `${compression} ${name}`).toEqual(Float32Array.from(channel?.data ?? [], halfToFloat));
      }
      expect(said[i]).toContain('a test');
      expect(said[i].toLowerCase()).toContain(`compression: "${compression.toLowerCase()}"`);
    }
  });
  it('data and display window', async () => {
    const path = join(folder, 'window.exr');
    writeFileSync(path, await encode(picture('ZIP', 37, 35, { dataWindow: { x: -3, y: 12, width: 37, height: 35 }, displayWindow: { x: 0, y: 0, width: 100, height: 60 } })));
    const said = tool('oiiotool', '--info', '-v', path).toString();
    expect(said).toContain('pixel data origin: x=-3, y=12');
    expect(said).toContain('full/display size: 100 x 60');
  });
});

describe('several parts in one file', () => {
  const parts = (): ExrPicture[] => [
    { ...picture('ZIP'), name: 'beauty' },
    { ...picture('ZIPS', 20, 9, { dataWindow: { x: 4, y: -2, width: 20, height: 9 }, displayWindow: { x: 0, y: 0, width: 37, height: 35 } }), name: 'a part with a name longer than thirty-one bytes' },
    { ...picture('NONE', 37, 35), name: 'third', channels: picture('NONE').channels.slice(4) },
  ];
  it('read by ourselves: windows, names, every value', async () => {
    const wanted = parts();
    const shares: number[] = [];
    const source = byteSource('parts.exr', joined(await encodeExr(wanted, platform, kernels, (share) => shares.push(share))));
    expect(shares.at(-1)).toBe(1);
    const file = await readExrFile(source);
    expect(file.parts.map(({ name, dataWindow }) => ({ name, dataWindow }))).toEqual(wanted.map(({ name, dataWindow }) => ({ name, dataWindow })));
    for (const [i, header] of file.parts.entries()) {
      const planes = allocateExrPlanes(header, header.channels.map((channel) => channel.name));
      await decodeExrChunks(source, header, planes, 0, header.offsets.length, kernels);
      for (const { name, data } of wanted[i].channels) expect(planes.get(name)?.data, `${header.name} ${name}`).toEqual(data);
    }
    // Without a listener the file is the same, byte for byte.
    expect(joined(await encodeExr(wanted, platform, kernels))).toEqual(joined(await encodeExr(wanted, platform, kernels, () => undefined)));
  });
  it('read by OpenImageIO', async () => {
    const path = join(folder, 'our-parts.exr');
    writeFileSync(path, joined(await encodeExr(parts(), platform, kernels)));
    const said = tool('oiiotool', '--info', '-v', '-a', path).toString();
    expect(said).toContain('a part with a name longer than thirty-one bytes');
    tool('oiiotool', '--subimage', '2', path, '-o', join(folder, 'our-third.exr'));
    expect(byOpenImageIo(join(folder, 'our-third.exr'), 'depth.Z')).toEqual(parts()[2].channels[0].data);
  });
});

describe('ours read by three’s loader', () => {
  it.each(COMPRESSIONS)('%s', async (compression) => {
    const wanted = picture(compression);
    const bytes = await encode({ ...wanted, channels: wanted.channels.slice(0, 4) });
    const loader = new EXRLoader();
    loader.setDataType(FloatType);
    const { data, width, height } = loader.parse(bytes.buffer as ArrayBuffer) as { data: Float32Array; width: number; height: number };
    expect([width, height]).toEqual([37, 35]);
    // three's rows run from the bottom.
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        for (let c = 0; c < 4; c++) expect(data[((height - 1 - y) * width + x) * 4 + c]).toBe(DataUtils.fromHalfFloat(wanted.channels[c].data[y * width + x]));
      }
    }
  });
});

describe('read what OpenImageIO writes', () => {
  const made = join(folder, 'made.exr');
  tool('oiiotool', '--create', '61x43', '3', '--fill:color=4,0.5,0.001', '61x43', '--noise:type=gaussian:stddev=0.4:seed=3', '--ch', 'R,G,B', '-d', 'float', '-o', made);
  const kinds = COMPRESSIONS.flatMap((compression) => (['half', 'float', 'uint32'] as const).map((type) => [compression, type] as const));
  const pathOf = (compression: string, type: string) => join(folder, `oiio-${compression}-${type}.exr`);
  let theirs: ReadonlyMap<string, Float32Array>;
  beforeAll(() => {
    tool('oiiotool', ...kinds.flatMap(([compression, type]) => [made, '-d', type, '--compression', compression.toLowerCase(), '-o', pathOf(compression, type)]));
    const paths = kinds.map((kind) => pathOf(...kind));
    const read = allByOpenImageIo(paths, 'R,G,B');
    theirs = new Map(paths.map((path, i) => [path, read[i]]));
  });
  it.each(kinds)('%s, %s', async (compression, type) => {
    const path = pathOf(compression, type);
    const planes = await decode(byteSource('oiio.exr', new Uint8Array(readFileSync(path))));
    const rgb = theirs.get(path) ?? new Float32Array();
    if (type === 'uint32') {
      // OpenImageIO hands whole numbers over as shares of the largest.
      for (const [c, name] of ['R', 'G', 'B'].entries()) expectClose(Array.from(planes.get(name)?.data ?? [], (v) => v / (2 ** 32 - 1)), [...rgb.filter((_, i) => i % 3 === c)], 1e-6, name);
      expect(planes.get('R')?.type).toBe('u32');
      return;
    }
    for (const [c, name] of ['R', 'G', 'B'].entries()) expect(values(planes.get(name) as Plane)).toEqual([...rgb.filter((_, i) => i % 3 === c)]);
  });
  it('layers, windows and attributes', async () => {
    const path = join(folder, 'layers.exr');
    tool('oiiotool', made, '--chnames', 'gi.R,gi.G,gi.B', made, '--chnames', 'R,G,B', '--chappend', '--origin', '+10-4', '--fullsize', '90x70+2+1', '--attrib', 'comments', 'courtyard', '--compression', 'zip', '-o', path);
    const report = await inspectFile(byteSource('layers.exr', new Uint8Array(readFileSync(path))));
    expect(report.elements.map(({ name, colorChannels }) => [name, ...colorChannels])).toEqual([['', 'R', 'G', 'B'], ['gi', 'gi.R', 'gi.G', 'gi.B']]);
    expect(report.size).toEqual({ width: 90, height: 70 });
    expect(report.parts.map(({ window }) => window)).toEqual([{ x: 8, y: -5, width: 61, height: 43 }]);
    expect(report.elements[1].window).toEqual({ x: 8, y: -5, width: 61, height: 43 });
    expect(report.notes.comments).toBe('courtyard');
  });
});

describe('the other compressions and tiles, as OpenImageIO writes them', () => {
  /** Smooth with grain, flat, and pure noise, large values and negative ones; sizes that no block or tile divides. */
  const pictures: Readonly<Record<string, readonly string[]>> = {
    grain: ['--create', '157x143', '3', '--fill:topleft=0.1,0.5,4:topright=2,0.1,0.3:bottomleft=0,0,0:bottomright=9,7,1', '157x143', '--noise:type=gaussian:stddev=0.05:seed=5'],
    flat: ['--pattern', 'constant:color=0.18,0.5,12', '157x143', '3'],
    noise: ['--create', '157x143', '3', '--noise:type=uniform:min=-300:max=60000:seed=6'],
  };
  const kinds: readonly (readonly [string, readonly string[]])[] = [
    ...['piz', 'pxr24', 'b44', 'b44a'].flatMap((compression) => (['half', 'float', 'uint32'] as const).map((type) => [`${compression} ${type}`, ['-d', type, '--compression', compression]] as const)),
    ['tiles zip', ['-d', 'half', '--compression', 'zip', '--tile', '64', '32']],
    ['tiles of one picture', ['-d', 'float', '--compression', 'zips', '--tile', '512', '512']],
    ['tiles piz', ['-d', 'half', '--compression', 'piz', '--tile', '48', '48']],
    ['tiles b44', ['-d', 'half', '--compression', 'b44', '--tile', '50', '50']],
    ['tiles none', ['-d', 'uint32', '--compression', 'none', '--tile', '16', '16']],
  ];
  // Whole numbers are written from 0…1, so the other pictures would only be clipped.
  const namesOf = (args: readonly string[]) => Object.keys(pictures).filter((name) => name === 'grain' || !args.includes('uint32'));
  const pathOf = (kind: string, name: string) => join(folder, `${kind}-${name}.exr`.replaceAll(' ', '-'));
  const layout = (args: readonly string[]) => (args.includes('--tile') ? args : [...args, '--scanline']);
  /** The same files through OpenImageIO: also what a lossy compression made of the picture must agree. */
  let theirs: ReadonlyMap<string, Float32Array>;
  beforeAll(() => {
    const jobs = kinds.flatMap(([kind, args]) => namesOf(args).map((name) => ({ path: pathOf(kind, name), make: [...pictures[name], '--chnames', 'R,G,B', ...layout(args)] })));
    tool('oiiotool', ...jobs.flatMap(({ path, make }) => [...make, '-o', path]));
    const read = allByOpenImageIo(jobs.map(({ path }) => path), 'R,G,B');
    theirs = new Map(jobs.map(({ path }, i) => [path, read[i]]));
  });
  it.each(kinds)('%s', async (kind, args) => {
    for (const name of namesOf(args)) {
      const path = pathOf(kind, name);
      const planes = await decode(byteSource('oiio.exr', new Uint8Array(readFileSync(path))));
      const rgb = theirs.get(path) ?? new Float32Array();
      const scale = args.includes('uint32') ? 2 ** 32 - 1 : 1;
      for (const [c, channel] of ['R', 'G', 'B'].entries()) {
        const ours = values(planes.get(channel) as Plane);
        for (let i = 0; i < ours.length; i++) {
          const wanted = rgb[i * 3 + c];
          if (scale === 1 ? ours[i] !== wanted : !(Math.abs(ours[i] / scale - wanted) <= 1e-6)) expect(ours[i] / scale, `${name} ${channel} ${i}`).toBe(wanted);
        }
      }
    }
  });
  describe('cosines of light', () => {
    const sets = [['R', 'G', 'B'], ['gi.R', 'gi.G', 'gi.B'], ['A'], ['depth.Z']];
    const all = sets.flat();
    const cosines = ['dwaa', 'dwab'].flatMap((compression) => [['half'], ['float', '--tile', '48', '40']].map(([type, ...tiles]) => [compression, type, tiles] as const));
    const cosinesPath = (compression: string, type: string, name: string) => join(folder, `${compression}-${type}-${name}.exr`);
    let read: ReadonlyMap<string, Float32Array>;
    beforeAll(() => {
      const jobs = cosines.flatMap(([compression, type, tiles]) =>
        Object.entries(pictures).map(([name, create]) => ({
          path: cosinesPath(compression, type, name),
          // Colour as one set, another layer, alpha in run lengths, and a channel that no rule names.
          make: [...create, '--chnames', 'R,G,B', ...create, '--mulc', '0.5', '--chnames', 'gi.R,gi.G,gi.B', '--chappend', ...create, '--ch', '0', '--mulc', '0.1', '--clamp:min=0:max=1', '--chnames', 'A', '--chappend', ...create, '--ch', '1', '--chnames', 'depth.Z', '--chappend', '-d', type, ...layout(tiles), '--compression', compression],
        })),
      );
      tool('oiiotool', ...jobs.flatMap(({ path, make }) => [...make, '-o', path]));
      const light = allByOpenImageIo(jobs.map(({ path }) => path), all.join());
      read = new Map(jobs.map(({ path }, i) => [path, light[i]]));
    });
    it.each(cosines)('%s, %s, %j', async (compression, type) => {
      for (const name of Object.keys(pictures)) {
        const path = cosinesPath(compression, type, name);
        const planes = await decode(byteSource('oiio.exr', new Uint8Array(readFileSync(path))));
        const light = read.get(path) ?? new Float32Array();
        for (const set of sets) {
          const at = set.map((channel) => all.indexOf(channel));
          for (const [k, channel] of set.entries()) {
            const ours = values(planes.get(channel) as Plane);
            const theirsAt = (i: number, c: number) => light[i * all.length + at[c]];
            // Both round cosines in single precision before they round to halves: one step of a perceptual half apart at most, which is a hundredth of very bright light.
            const wrong = ours.findIndex((value, i) => !(Math.abs(value - theirsAt(i, k)) <= 0.01 * Math.max(1e-3, ...set.map((_, c) => Math.abs(theirsAt(i, c))))));
            expect(wrong < 0 ? null : [wrong, ours[wrong], theirsAt(wrong, k)], `${name} ${channel}`).toBeNull();
          }
        }
      }
    });
  });
  it.each(['b44', 'b44a'])('%s with a channel marked as linear to the eye', async (compression) => {
    const path = join(folder, `${compression}-marked.exr`);
    tool('oiiotool', ...pictures.grain, '--chnames', 'R,G,B', '-d', 'half', '--compression', compression, '-o', path);
    const bytes = new Uint8Array(readFileSync(path));
    // The mark of the channel R stands behind its name and type.
    const list = Buffer.from(bytes).indexOf('channels\0chlist\0') + 'channels\0chlist\0'.length + 4;
    const red = Buffer.from(bytes).indexOf('R\0', list);
    bytes[red + 2 + 4] = 1;
    writeFileSync(path, bytes);
    const planes = await decode(byteSource('marked.exr', bytes));
    const theirs = byOpenImageIo(path, 'R,G,B');
    for (const [c, channel] of ['R', 'G', 'B'].entries()) {
      const ours = values(planes.get(channel) as Plane);
      const wrong = ours.findIndex((value, i) => !(Object.is(value, theirs[i * 3 + c]) || Math.abs(value - theirs[i * 3 + c]) <= 0.001 * Math.abs(theirs[i * 3 + c]) + 1e-6));
      expect(wrong < 0 ? null : [wrong, ours[wrong], theirs[wrong * 3 + c]], channel).toBeNull();
    }
  });
  it('a channel that is listed twice is refused by name', async () => {
    const bytes = joined(await encodeExr(picture('ZIP'), platform, kernels));
    const at = Buffer.from(bytes).indexOf('channels\0chlist\0');
    const names = (await firstPart(byteSource('twice.exr', bytes))).channels.map(({ name }) => name);
    const [first, second] = names.filter((name) => name.length === names[0].length);
    const place = Buffer.from(bytes).indexOf(`${second}\0`, at + 20);
    bytes.set(Buffer.from(first), place);
    await expect(firstPart(byteSource('twice.exr', bytes))).rejects.toMatchObject({ code: 'corrupt', message: `twice.exr: the channel “${first}” is listed twice. The header is damaged; save the file again.` });
  });
  it('of a picture with smaller levels the full size is read', async () => {
    const path = join(folder, 'levels.exr');
    tool('oiiotool', ...pictures.grain, '--chnames', 'R,G,B', '-d', 'half', '--compression', 'zip', '-otex', path);
    const source = byteSource('levels.exr', new Uint8Array(readFileSync(path)));
    const header = await firstPart(source);
    expect(header.tiles).not.toBeNull();
    expect(header.dataWindow).toMatchObject({ width: 157, height: 143 });
    const rgb = byOpenImageIo(path, 'R,G,B');
    expect(values((await decode(source)).get('G') as Plane)).toEqual([...rgb.filter((_, i) => i % 3 === 1)]);
    expect((await inspectFile(source)).parts[0].compression).toMatch(/ZIP, tiles of 64 × 64/);
  });
  it('chunks cover every pixel once, whatever their shape', async () => {
    for (const kind of ['piz-half-grain', 'tiles-zip-grain', 'tiles-of-one-picture-flat']) {
      const header = await firstPart(byteSource('x', new Uint8Array(readFileSync(join(folder, `${kind}.exr`)))));
      const seen = new Uint8Array(157 * 143);
      for (const chunk of header.offsets.keys()) {
        const { x, y, width, height } = chunkRegion(header, chunk);
        for (let row = y; row < y + height; row++) seen.fill(seen[row * 157 + x] + 1, row * 157 + x, row * 157 + x + width);
      }
      expect(seen.every((count) => count === 1), kind).toBe(true);
    }
  });
  it('2,000 mutated files are read or refused by name', async () => {
    const kept = ['piz-half', 'pxr24-float', 'b44-half', 'tiles-piz', 'tiles-zip'];
    const small = (kind: string) => join(folder, `small-${kind}.exr`);
    tool('oiiotool', ...kept.flatMap((kind) => [join(folder, `${kind}-grain.exr`), '--cut', '33x21+40+40', '-d', kind.endsWith('float') ? 'float' : 'half', '--compression', kind.replace(/tiles-|-.*/g, ''), ...layout(kind.startsWith('tiles') ? ['--tile', '16', '16'] : []), '-o', small(kind)]));
    const files = kept.map((kind) => new Uint8Array(readFileSync(small(kind))));
    const counts = await fuzz(files, 2000, 74, decode);
    expect(counts.refused).toBeGreaterThan(400);
    expect(counts.read + counts.refused).toBe(2000);
  });
});

describe('files of several parts', () => {
  const path = join(folder, 'parts.exr');
  const part = (name: string, seed: number, ...more: readonly string[]) => ['--create', '61x43', '3', `--noise:type=uniform:min=0:max=9:seed=${seed}`, '--chnames', 'R,G,B', '--attrib', 'oiio:subimagename', name, ...more];
  tool('oiiotool', ...part('beauty', 1), ...part('diffuse_filter', 2, '-d', 'half'), '--siappend', ...part('depth', 3, '--ch', 'R', '--chnames', 'Z', '--origin', '+7+5', '--fullsize', '61x43+0+0'), '--siappend', ...part('gi', 4, '--chnames', 'gi.R,gi.G,gi.B'), '--siappend', '--compression', 'zip', '-o', path);
  const source = () => byteSource('parts.exr', new Uint8Array(readFileSync(path)));
  it('each part is an element with its own window', async () => {
    const report = await inspectFile(source());
    expect(report.parts.map(({ name }) => name)).toEqual(['beauty', 'diffuse_filter', 'depth', 'gi']);
    expect(report.elements.map(({ name, part: number, colorChannels }) => [name, number, ...colorChannels])).toEqual([['beauty', 0, 'R', 'G', 'B'], ['diffuse_filter', 1, 'R', 'G', 'B'], ['depth', 2, 'Z'], ['gi', 3, 'gi.R', 'gi.G', 'gi.B']]);
    expect([report.size, report.elements[2].window]).toEqual([{ width: 61, height: 43 }, { x: 7, y: 5, width: 61, height: 43 }]);
  });
  it('every part holds its own pixels', async () => {
    const { parts } = await readExrFile(source());
    for (const [i, header] of parts.entries()) {
      const planes = allocateExrPlanes(header, header.channels.map(({ name }) => name));
      await decodeExrChunks(source(), header, planes, 0, header.offsets.length, kernels);
      const alone = join(folder, `part-${i}.exr`);
      tool('oiiotool', path, '--subimage', String(i), '--origin', '+0+0', '--fullpixels', '-o', alone);
      const names = header.channels.length === 1 ? 'Z' : header.channels.map(({ name }) => name).toSorted().toReversed().join(',');
      const theirs = byOpenImageIo(alone, names);
      for (const [c, name] of names.split(',').entries()) expect(values(planes.get(name) as Plane), `${header.name} ${name}`).toEqual([...theirs.filter((_, k) => k % names.split(',').length === c)]);
    }
  });
  it('a chunk of another part is found out', async () => {
    const bytes = new Uint8Array(readFileSync(path));
    const { parts } = await readExrFile(byteSource('x', bytes));
    new DataView(bytes.buffer).setInt32(parts[1].offsets[0], 2, true);
    const planes = allocateExrPlanes(parts[1], ['R']);
    await expect(decodeExrChunks(byteSource('parts.exr', bytes), parts[1], planes, 0, 1, kernels)).rejects.toMatchObject({ code: 'corrupt', message: expect.stringContaining('a chunk of part 2 in part 1') });
  });
  it('of a file that was not written to its end, the parts that are whole are read and the other is named with what is there of it', async () => {
    const bytes = new Uint8Array(readFileSync(path));
    const { parts } = await readExrFile(byteSource('x', bytes));
    const last = parts.toSorted((a, b) => Math.max(...b.offsets) - Math.max(...a.offsets))[0];
    const others = parts.filter((header) => header !== last).map(({ name }) => name);
    const halfway = Math.ceil(last.offsets.length / 2);
    const tables = Math.min(...parts.flatMap(({ offsets }) => offsets));
    // Cut in a chunk of the last part, with its table whole, and with all tables empty.
    for (const isEmpty of [false, true]) {
      const cut = bytes.slice(0, last.offsets[halfway] + 30);
      if (isEmpty) cut.fill(0, tables - parts.reduce((sum, { offsets }) => sum + offsets.length, 0) * 8, tables);
      const file = await readExrFile(byteSource('parts.exr', cut));
      expect(file.parts.map(({ name }) => name)).toEqual(others);
      expect(file.leftOut).toEqual([expect.stringMatching(new RegExp(`^parts\\.exr: the part “${last.name}” is incomplete: ${Math.floor((100 * halfway) / last.offsets.length)} % of it is there\\.`))]);
      for (const header of file.parts) expect(header.offsets, header.name).toEqual(parts.find(({ name }) => name === header.name)?.offsets);
    }
  });
  it('tiles of a stopped render are found, whatever their order; pixels that are not square are said', async () => {
    const tiled = join(folder, 'tiled.exr');
    tool('oiiotool', '--create', '61x43', '3', '--noise:type=uniform:seed=4', '--tile', '16', '16', '--attrib:type=float', 'PixelAspectRatio', '2', '-o', tiled);
    const bytes = new Uint8Array(readFileSync(tiled));
    const header = await firstPart(byteSource('x', bytes));
    const stopped = bytes.slice();
    const table = Math.min(...header.offsets);
    stopped.fill(0, table - header.offsets.length * 8, table);
    expect((await firstPart(byteSource('x', stopped))).offsets).toEqual(header.offsets);
    expect((await inspectFile(byteSource('wide.exr', bytes))).remarks).toEqual([expect.stringMatching(/^wide\.exr: its pixels are not square \(2 to 1\)/)]);
  });
  it('a part that is not read is named and the others are read', async () => {
    const bytes = new Uint8Array(readFileSync(path));
    const text = Buffer.from(bytes.buffer);
    // The second part says that it holds another kind of pixels, in as many letters.
    const second = text.indexOf('scanlineimage', text.indexOf('scanlineimage') + 1);
    text.write('deepscanlines', second, 'latin1');
    const { parts, leftOut } = await readExrFile(byteSource('parts.exr', bytes));
    expect(parts.map(({ name, part: number }) => [name, number])).toEqual([['beauty', 0], ['depth', 2], ['gi', 3]]);
    // Numbers are those of the file, so that documents stay right when more kinds are read one day.
    expect((await inspectFile(byteSource('parts.exr', bytes))).elements.map(({ name, part: number }) => [name, number])).toEqual([['beauty', 0], ['depth', 2], ['gi', 3]]);
    expect(leftOut).toEqual([expect.stringMatching(/^parts\.exr: OpenEXR parts of type “deepscanlines” are not read/)]);
  });
  it('2,000 mutated files are read or refused by name', async () => {
    const counts = await fuzz([new Uint8Array(readFileSync(path))], 2000, 75, async (mutated) => {
      for (const header of (await readExrFile(mutated)).parts) await decodeExrChunks(mutated, header, allocateExrPlanes(header, header.channels.map(({ name }) => name)), 0, header.offsets.length, kernels);
    });
    expect(counts.refused).toBeGreaterThan(500);
    expect(counts.read + counts.refused).toBe(2000);
  });
});

describe('read what three’s exporter writes', () => {
  it.each([['NONE', 0], ['ZIPS', 2], ['ZIP', 3]] as const)('%s', async (name, compression) => {
    const [width, height] = [19, 33];
    const random = seeded(73);
    const rgba = Float32Array.from({ length: width * height * 4 }, (_, i) => (i % 4 === 3 ? 1 : random() * 20));
    const texture = new DataTexture(rgba, width, height, RGBAFormat, FloatType);
    const bytes = new Uint8Array(await new EXRExporter().parse(texture, { type: FloatType, compression }));
    const source = byteSource('three.exr', bytes);
    expect((await firstPart(source)).compression).toBe(name);
    const planes = await decode(source);
    // three's rows run from the bottom.
    for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) expect(planes.get('G')?.data[y * width + x]).toBe(rgba[((height - 1 - y) * width + x) * 4 + 1]);
  });
});

describe('by itself', () => {
  // “OpenEXR File Layout”: the chunk of a 2 × 1 RGBA half picture, byte by byte (matched by independent readers).
  it('the published example of a chunk', async () => {
    const window = { x: 0, y: 0, width: 2, height: 1 };
    const half = (...v: number[]) => Uint16Array.from(v, floatToHalf);
    const channels: ExrChannelData[] = [{ name: 'R', type: 'f16', data: half(0.18, 0) }, { name: 'G', type: 'f16', data: half(1, 0.5) }, { name: 'B', type: 'f16', data: half(4, 65504) }, { name: 'A', type: 'f16', data: half(1, 0.25) }];
    const bytes = await encode({ dataWindow: window, displayWindow: window, compression: 'NONE', channels });
    expect(Buffer.from(bytes.subarray(-24)).toString('hex')).toBe('00000000100000000' + '03c00340044ff7b003c0038c3310000');
  });
  it.each(COMPRESSIONS)('what is written is read, every sample of every type: %s', async (compression) => {
    const wanted = picture(compression);
    const planes = await decode(byteSource('x', await encode(wanted)));
    for (const channel of wanted.channels) expect([...(planes.get(channel.name)?.data ?? [])]).toEqual([...channel.data]);
  });
  it('runs of every length (seed 71)', () => {
    const random = seeded(71);
    for (let round = 0; round < 200; round++) {
      const raw = new Uint8Array(Math.floor(random() * 900));
      for (let i = 0; i < raw.length; ) {
        const value = Math.floor(random() * 4);
        for (let n = Math.floor(random() * random() * 300) + 1; n > 0 && i < raw.length; n--) raw[i++] = value;
      }
      expect([...unpackRuns(packRuns(raw), raw.length)]).toEqual([...raw]);
    }
    for (const bad of [[5], [-3 & 255, 1], [200, 1, 2], [127, 9, 127, 9]]) expect(() => unpackRuns(Uint8Array.from(bad), 10)).toThrow(RangeError);
  });
  it('long channel names survive, and OpenImageIO reads them', async () => {
    const name = `${'light.group.'.repeat(6)}kitchen.R`;
    const base = picture('ZIP');
    const bytes = await encode({ ...base, channels: [{ ...base.channels[0], name }, ...base.channels.slice(1, 4)] });
    expect((await firstPart(byteSource('x', bytes))).channels.map((channel) => channel.name)).toContain(name);
    const path = join(folder, 'long.exr');
    writeFileSync(path, bytes);
    expect(tool('oiiotool', '--info', '-v', path).toString()).toContain(name);
  });
});

describe('refusals', () => {
  it('whole kinds are refused by name', async () => {
    const deep = join(folder, 'deep.exr');
    tool('oiiotool', '--create', '8x8', '5', '--chnames', 'R,G,B,A,Z', '--deepen', '-o', deep);
    await expect(inspectFile(byteSource('deep.exr', new Uint8Array(readFileSync(deep))))).rejects.toMatchObject({ code: 'unsupported', message: expect.stringMatching(/deep/) });
  });
  it('more parts than anybody needs', async () => {
    const window = { x: 0, y: 0, width: 1, height: 1 };
    const parts = Array.from({ length: 1100 }, (_, i) => ({ name: `p${i}`, dataWindow: window, displayWindow: window, compression: 'NONE' as const, channels: [{ name: 'Y', type: 'f16' as const, data: Uint16Array.of(0) }] }));
    await expect(readExrFile(byteSource('parts.exr', joined(await encodeExr(parts, platform, kernels))))).rejects.toMatchObject({ code: 'too-large', message: expect.stringContaining('more than 1024 parts') });
  });
  it('cut off, overlapping, too large', async () => {
    const bytes = await encode(picture('ZIP'));
    const check = (changed: Uint8Array, code: string, sentence: RegExp) => expect(decode(byteSource('bad.exr', changed))).rejects.toMatchObject({ code, fileName: 'bad.exr', message: expect.stringMatching(sentence) });
    await check(bytes.slice(0, 150), 'truncated', /inside its header/);
    await check(bytes.slice(0, bytes.length - 40), 'truncated', /ends at line/);
    // A render that was stopped before its table of places was written: what is there is found, what is not is said.
    const { offsets } = await firstPart(byteSource('x', bytes));
    const stopped = bytes.slice();
    stopped.fill(0, offsets[0] - offsets.length * 8, offsets[0]);
    const [whole, found] = [await decode(byteSource('x', bytes)), await decode(byteSource('stopped', stopped))];
    for (const [name, plane] of whole) expect(found.get(name)?.data, name).toEqual(plane.data);
    await check(stopped.slice(0, bytes.length - 40), 'truncated', /before its last line/);
    const window = Buffer.from(bytes).indexOf('dataWindow\0box2i\0') + 'dataWindow\0box2i\0'.length + 4;
    const wide = bytes.slice();
    new DataView(wide.buffer).setInt32(window + 8, 29999, true);
    new DataView(wide.buffer).setInt32(window + 12, 29999, true);
    await check(wide, 'too-large', /30000 × 30000 pixels/);
    const packed = bytes.slice();
    packed[bytes.length - 30] ^= 0xff;
    await check(packed, 'corrupt', /cannot be unpacked at line/);
  });
  it('2,400 mutated files are read or refused by name', async () => {
    const files = await Promise.all(COMPRESSIONS.map((compression) => encode(picture(compression, 17, 19))));
    const counts = await fuzz(files, 2400, 72, decode);
    expect(counts.refused).toBeGreaterThan(500);
    expect(counts.read + counts.refused).toBe(2400);
  });
});
