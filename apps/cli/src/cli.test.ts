import { execFileSync, spawnSync } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { srgbDecode, srgbEncode } from '@tazzel/core';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { idPng, layeredExr, smallPart, smallSet } from '../../../tests/elements.ts';
import { iccProfile } from '../../../packages/formats/src/icc-write.ts';
import { byOpenImageIo, scratch, tool } from '../../../tests/tools.ts';
import { calledFrom, program } from '../../../tests/shell.ts';

const folder = scratch();
const demo = (name: 'kiln-yard.exr' | 'kiln-yard_material_id.png') => (name === 'kiln-yard.exr' ? layeredExr() : idPng());
const run = calledFrom(folder);
const project = join(folder, 'doc.tazzel');

beforeAll(() => {
  execFileSync(process.execPath, [program, 'new', demo('kiln-yard.exr'), demo('kiln-yard_material_id.png'), '--out', project]);
});

it('who reads only the first line ends nothing with an error', async () => {
  const { stdout, stderr } = spawnSync('sh', ['-c', '"$0" "$1" corrections | head -n 1', process.execPath, program], { encoding: 'utf8' });
  expect([stdout.split('\n').length, stderr]).toEqual([2, '']);
});

describe('inspect', () => {
  it('says what files hold, to people and to programs', async () => {
    const people = await run('inspect', demo('kiln-yard.exr'));
    expect(people.status).toBe(0);
    expect(people.stdout).toMatch(/EXR, 600 × 400\n {2}ZIP\n/);
    expect(people.stdout).toMatch(/diffuse_filter .* Diffuse filter, linear \(95 %: the name says “diffuse filter”\)/);
    const [report] = JSON.parse((await run('inspect', demo('kiln-yard_material_id.png'), '--json')).stdout);
    expect(report).toMatchObject({ format: 'png', size: { width: 600, height: 400 }, elements: [{ role: 'material-id', encoding: 'data', types: ['u8'] }] });
  });
  it('what was read with a remark is no failure', async () => {
    await sharp({ create: { width: 8, height: 6, channels: 3, background: '#c04020' } }).toColourspace('cmyk').jpeg().toFile(join(folder, 'inks.jpg'));
    const { status, stdout, stderr } = await run('inspect', 'inks.jpg');
    expect([status, stderr]).toEqual([0, '']);
    expect(stdout).toMatch(/! inks\.jpg: its inks \(cyan, magenta, yellow, black\) were turned/);
  });
  it('goes on past a bad file and ends with 1', async () => {
    writeFileSync(join(folder, 'bad.exr'), 'not a picture');
    const { status, stdout, stderr } = await run('inspect', 'bad.exr', 'gone.png', demo('kiln-yard_material_id.png'));
    expect(status).toBe(1);
    expect(stderr).toMatch(/bad\.exr: the contents are no picture that is read/);
    expect(stderr).toMatch(/gone\.png: there is no such file/);
    expect(stdout).toMatch(/Material ID/);
  });
});

describe('new', () => {
  it('makes a project of the files that can be read, and never overwrites by itself', async () => {
    writeFileSync(join(folder, 'bad.png'), new Uint8Array(40));
    const out = join(folder, 'partial.tazzel');
    const made = await run('new', demo('kiln-yard.exr'), 'bad.png', '--out', out, '--json');
    expect(made.status).toBe(1);
    expect(JSON.parse(made.stdout)).toMatchObject({ size: { width: 600, height: 400 }, materials: [] });
    expect(await run('new', demo('kiln-yard.exr'), '--out', out)).toMatchObject({ status: 2, stderr: expect.stringMatching(/exists already/) });
    expect(await run('new', 'bad.png', '--out', join(folder, 'none.tazzel'))).toMatchObject({ status: 1, stderr: expect.stringMatching(/no project file was written/) });
    expect(existsSync(join(folder, 'none.tazzel'))).toBe(false);
  });
});

describe('measure', () => {
  it('says how light is spread, to people and to programs', async () => {
    const { status, stdout } = await run('measure', project);
    expect(status).toBe(0);
    expect(stdout).toMatch(/240000 pixels, codes from 0 to 255/);
    const measured = JSON.parse((await run('measure', project, '--json')).stdout);
    const out = join(folder, 'measured.png');
    await run('flatten', project, '--out', out, '--no-dither');
    const { channels } = await sharp(out).stats();
    for (const [c, name] of ['red', 'green', 'blue'].entries()) {
      // The file holds rounded codes.
      expect(Math.abs(measured[name].mean * 255 - channels[c].mean)).toBeLessThan(0.05);
      expect(measured[name].bins.reduce((sum: number, count: number) => sum + count, 0)).toBe(240000);
    }
    const light = JSON.parse((await run('measure', project, '--light', '--layer', 'layer-1', '--json')).stdout);
    expect(light).toMatchObject({ scale: 'light', pixels: 240000 });
    expect(light.green.max).toBeGreaterThan(1);
  });
  it('names what is not there', async () => {
    expect(await run('measure', project, '--layer', 'Nothing')).toMatchObject({ status: 2, stderr: expect.stringMatching(/no layer “Nothing”/) });
    expect(await run('measure', project, '--mask', 'Nothing')).toMatchObject({ status: 2, stderr: expect.stringMatching(/mask/) });
    expect(await run('measure')).toMatchObject({ status: 2, stderr: expect.stringMatching(/Name one project file/) });
  });
});

describe('watch', () => {
  it('waits until a render is whole, puts it under the build-up, delivers, keeps the document', async () => {
    const [renders, out, kept] = ['renders', 'delivered', 'kept.tazzel'].map((name) => join(folder, name));
    mkdirSync(renders);
    const render = readFileSync(demo('kiln-yard.exr'));
    const watching = run('watch', renders, '--document', project, '--out', out, '--save', kept, '--every', '0.2', '--once', '--json');
    await new Promise((resolve) => setTimeout(resolve, 600));
    // Half of it first, and what is no picture at all.
    writeFileSync(join(renders, 'kiln-yard.exr'), render.subarray(0, render.length / 2));
    writeFileSync(join(renders, 'notes.partial'), 'x');
    await new Promise((resolve) => setTimeout(resolve, 1500));
    expect(existsSync(out)).toBe(false);
    writeFileSync(join(renders, 'kiln-yard.exr'), render);
    const { status, stdout } = await watching;
    expect(status).toBe(0);
    const { elements, files } = JSON.parse(stdout);
    expect(elements).toEqual(['kiln-yard.exr']);
    expect(files).toMatchObject([{ width: 600, height: 400, problems: [] }]);
    // The same render again: the same picture as that of the document.
    const pictures = [join(out, files[0].name), join(folder, 'kept.png')];
    expect((await run('flatten', kept, '--out', pictures[1])).status).toBe(0);
    expect(readFileSync(pictures[0]).equals(readFileSync(pictures[1]))).toBe(true);
  }, 30_000);
  it('what it is told wrong ends with 2', async () => {
    expect((await run('watch', 'nowhere', '--document', project, '--out', 'x')).stderr).toContain('nowhere is no folder');
    expect((await run('watch', folder, '--out', 'x')).status).toBe(2);
    expect((await run('watch', folder, '--document', project, '--out', 'x', '--every', '0')).status).toBe(2);
  });
});

describe('files of layers', () => {
  it('are written by their ending, and read as a new document that looks the same', async () => {
    const [layers, again] = [join(folder, 'layers.ora'), join(folder, 'layers.tazzel')];
    const made = await run('flatten', project, '--out', layers, '--scale', '0.25', '--bits', '16', '--no-dither', '--json');
    expect(made.status).toBe(0);
    const read = await run('new', layers, '--out', again, '--json');
    expect(read.status).toBe(0);
    expect(JSON.parse(read.stdout).layers.length).toBeGreaterThan(0);
    const pictures = ['one.png', 'two.png'].map((name) => join(folder, `layers-${name}`));
    expect((await run('flatten', project, '--out', pictures[0], '--scale', '0.25', '--no-dither')).status).toBe(0);
    expect((await run('flatten', again, '--out', pictures[1], '--no-dither')).status).toBe(0);
    const [a, b] = await Promise.all(pictures.map((path) => sharp(path).raw().toBuffer()));
    expect(a.reduce((most, value, i) => Math.max(most, Math.abs(value - b[i])), 0)).toBeLessThanOrEqual(1);
    expect((await run('new', join(folder, 'layers-one.png').replace('.png', '.ora'), '--out', join(folder, 'none.tazzel'))).status).not.toBe(0);
  });
});

describe('flatten', () => {
  it('writes the picture: without corrections it is the beauty, encoded', async () => {
    const out = join(folder, 'picture.png');
    expect((await run('flatten', project, '--out', out, '--no-dither')).status).toBe(0);
    const { data, info } = await sharp(out).raw().toBuffer({ resolveWithObject: true });
    expect([info.width, info.height, info.channels]).toEqual([600, 400, 3]);
    // Read by OpenImageIO, encoded by IEC 61966-2-1.
    const light = byOpenImageIo(copy(demo('kiln-yard.exr')), 'R,G,B');
    for (let i = 0; i < data.length; i += 997) {
      const v = Math.min(1, Math.max(0, light[i]));
      expect(Math.abs(data[i] - 255 * (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055))).toBeLessThanOrEqual(0.51);
    }
  });
  it('in another colour space looks the same where its profile is followed; who made it stands in the file', async () => {
    const [plain, wide] = [join(folder, 'in-srgb.png'), join(folder, 'in-oprgb.tif')];
    expect((await run('flatten', project, '--out', plain, '--no-dither', '--scale', '0.25')).status).toBe(0);
    expect((await run('flatten', project, '--out', wide, '--scale', '0.25', '--space', 'oprgb', '--title', 'Kiln Yard', '--author', 'A. Nobody')).status).toBe(0);
    // ImageMagick hands both profiles over to Little CMS.
    writeFileSync(join(folder, 'srgb.icc'), iccProfile('srgb'));
    const a = tool('convert', plain, '-depth', '8', 'rgb:-');
    const b = tool('convert', wide, '-profile', join(folder, 'srgb.icc'), '-depth', '8', 'rgb:-');
    expect(b.length).toBe(a.length);
    expect(a.every((value, i) => Math.abs(value - b[i]) <= 1)).toBe(true);
    expect(readFileSync(wide).includes('A. Nobody')).toBe(true);
    expect((await run('flatten', project, '--out', join(folder, 'bad.png'), '--space', 'wide')).stderr).toContain('one of srgb, display-p3, oprgb, linear');
  });
  it('in other proportions is a part of the whole, moved to an end; what is wrong of it is said', async () => {
    const [whole, part, small] = ['uncut.png', 'two-to-one.png', 'square.tif'].map((name) => join(folder, name));
    await run('flatten', project, '--out', whole, '--no-dither');
    expect((await run('flatten', project, '--out', part, '--no-dither', '--cut', '2:1', '--shift', '100')).status).toBe(0);
    expect(Buffer.compare(await sharp(part).raw().toBuffer(), await sharp(whole).extract({ left: 0, top: 100, width: 600, height: 300 }).raw().toBuffer())).toBe(0);
    expect((await run('flatten', project, '--out', small, '--cut', '1:1', '--width', '100', '--compression', 'none')).status).toBe(0);
    expect(await sharp(small).metadata()).toMatchObject({ width: 100, height: 100 });
    // A rectangle of it, and as large as fits into a box.
    const [region, box] = ['region.png', 'box.png'].map((name) => join(folder, name));
    expect((await run('flatten', project, '--out', region, '--no-dither', '--region', '40,30,120,80')).status).toBe(0);
    expect(Buffer.compare(await sharp(region).raw().toBuffer(), await sharp(whole).extract({ left: 40, top: 30, width: 120, height: 80 }).raw().toBuffer())).toBe(0);
    expect((await run('flatten', project, '--out', box, '--width', '300', '--height', '1in', '--dpi', '100')).status).toBe(0);
    expect(await sharp(box).metadata()).toMatchObject({ width: 150, height: 100 });
    expect((await run('flatten', project, '--out', part, '--force', '--region', '500,0,200,10')).stderr).toContain('within 600 × 400 pixels');
    for (const [words, said] of [[['--cut', 'wide'], 'as in 16:9'], [['--cut', '2:1', '--shift', '200'], 'from -100 to 100'], [['--shift', '3'], 'say how it is cut']] as const) {
      const { status, stderr } = await run('flatten', project, '--out', join(folder, 'never.png'), ...words);
      expect([status, stderr]).toEqual([2, expect.stringContaining(said)]);
    }
  });
  it('writes scene light as EXR, unclamped, at a scale, with a correction from the command line', async () => {
    const out = join(folder, 'light.exr');
    const made = await run('flatten', project, '--out', out, '--samples', 'float', '--add', 'exposure:exposureStops=1', '--json');
    expect(JSON.parse(made.stdout)).toMatchObject({ width: 600, format: 'exr', values: { samples: 'float' } });
    const [ours, beauty] = [byOpenImageIo(out, 'R,G,B'), byOpenImageIo(copy(demo('kiln-yard.exr')), 'R,G,B')];
    for (let i = 0; i < ours.length; i += 991) expect(ours[i]).toBeCloseTo(beauty[i] * 2, 5);
    expect(ours.some((v) => v > 2)).toBe(true);
    const small = await run('flatten', project, '--out', join(folder, 'small.png'), '--scale', '0.25', '--json');
    expect(JSON.parse(small.stdout)).toMatchObject({ width: 150, height: 100 });
  });
  it('takes values of every kind, and corrections of picture values over the tone line', async () => {
    const picture = async (name: string, ...args: readonly string[]) => {
      expect(await run('flatten', project, '--out', join(folder, name), '--scale', '0.125', '--no-dither', ...args)).toMatchObject({ status: 0 });
      return (await sharp(join(folder, name)).raw().toBuffer()) as Buffer;
    };
    const plain = await picture('plain.png');
    const inverted = await picture('curves.png', '--add', 'curves:all=0,1 1,0,luminosity=0,0 1,1');
    for (let i = 0; i < plain.length; i += 97) expect(Math.abs(inverted[i] - (255 - plain[i]))).toBeLessThanOrEqual(1);
    const grey = await picture('grey.png', '--add', 'hue-families:saturationPercent=0,0,0,0,0,0,0,0');
    for (let i = 0; i < grey.length; i += 99) expect(Math.abs(grey[i] - grey[i + 1])).toBeLessThanOrEqual(1);
    const centred = await picture('vignette.png', '--add', 'vignette:cornerStops=-3,centre=0,0;softnessPercent=50');
    expect(centred[0]).toBe(plain[0]);
    expect(centred[centred.length - 1]).toBeLessThan(plain[plain.length - 1] * 0.6);
    // Reinhard et al. 2002, eq. 4, with a white that is never reached: light over one and itself.
    const held = await picture('reinhard.png', '--tone', 'reinhard:white=1000,carries=channels');
    for (let i = 0; i < plain.length; i += 97) {
      const light = srgbDecode(plain[i] / 255);
      if (plain[i] < 255) expect(Math.abs(held[i] - 255 * srgbEncode(light / (1 + light)))).toBeLessThanOrEqual(1.5);
    }
    expect(await picture('straight.png', '--tone', 'straight')).toEqual(plain);
  });
  it('takes a table of colours and a look from files, and says what a look lacks', async () => {
    const picture = async (name: string, ...args: readonly string[]) => {
      const { status, stderr } = await run('flatten', project, '--out', join(folder, name), '--scale', '0.125', '--no-dither', ...args);
      return { status, stderr, pixels: (await sharp(join(folder, name)).raw().toBuffer()) as Buffer };
    };
    const { pixels: plain } = await picture('without.png');
    writeFileSync(join(folder, 'half.cube'), 'LUT_1D_SIZE 2\n0 0 0\n0.5 0.5 0.5\n');
    const halved = await picture('half.png', '--lut', 'half.cube');
    for (let i = 0; i < plain.length; i += 97) expect(Math.abs(halved.pixels[i] - plain[i] / 2)).toBeLessThanOrEqual(1);
    const invert = { id: 'layer-1', kind: 'correction', name: 'Negative', visible: true, opacity: 1, mask: null, correction: { type: 'invert', blend: 'all', params: {} } };
    const masked = { ...invert, id: 'layer-2', name: 'Velvet: negative', mask: { maskId: 'mask-1', inverted: false, enabled: true } };
    const mask = { id: 'mask-1', name: 'Velvet', growPx: 0, featherPx: 0, followEdges: false, inverted: false, strength: 1, terms: [{ id: 'term-1', type: 'material', operation: 'add', muted: false, params: { materials: ['material-9'], from: 'auto' } }] };
    writeFileSync(join(folder, 'negative.look.json'), JSON.stringify({ format: 'tazzel-look', version: 4, name: 'Negative', size: { width: 600, height: 400 }, materials: [{ id: 'material-9', name: 'Velvet', kind: 'material' }], elements: [], masks: [mask], scene: [], picture: [invert, masked], chains: [], tone: null }));
    const negative = await picture('negative.png', '--look', 'negative.look.json');
    expect(negative.stderr).toMatch(/The mask “Velvet” lacks the material “Velvet”/);
    for (let i = 0; i < plain.length; i += 97) expect(Math.abs(negative.pixels[i] - (255 - plain[i]))).toBeLessThanOrEqual(1);
    writeFileSync(join(folder, 'no.look.json'), '{}');
    expect((await run('flatten', project, '--out', join(folder, 'no.png'), '--look', 'no.look.json')).stderr).toMatch(/This is not a look/);
  });
  it('of another width it is filtered as light, in the same proportions', async () => {
    const of = async (name: string, ...args: readonly string[]) => {
      expect(await run('flatten', project, '--out', join(folder, name), '--no-dither', ...args)).toMatchObject({ status: 0 });
      return sharp(join(folder, name)).raw().toBuffer({ resolveWithObject: true });
    };
    const [whole, third] = [await of('whole.png'), await of('third.tif', '--bits', '8', '--width', '200', '--filter', 'mitchell')];
    expect([third.info.width, third.info.height]).toEqual([200, 133]);
    const light = ({ data }: { data: Buffer }) => data.reduce((sum, code) => sum + srgbDecode(code / 255), 0) / data.length;
    expect(light(third) / light(whole)).toBeCloseTo(1, 2);
    expect(Buffer.compare((await of('same.png', '--width', '600')).data, whole.data)).toBe(0);
  });
  it('stops where it is told', async () => {
    const upto = (layer: string, out: string) => run('flatten', project, '--out', join(folder, out), '--scale', '0.125', '--upto', layer);
    expect((await upto('kiln-yard beauty', 'upto.png')).status).toBe(0);
    expect(await upto('nothing', 'upto2.png')).toMatchObject({ status: 2, stderr: expect.stringMatching(/no layer “nothing”\. Layers: kiln-yard beauty/) });
  });
  it.each([
    [['--out', 'x.gif'], /ending must be one of \.png, \.tif/],
    [['--out', 'x.png', '--quality', '80'], /PNG has no parameter “quality”\. It has: bits, space, dither, dpi, title, author/],
    [['--out', 'x.jpg', '--quality', 'good'], /JPEG, Quality: expected a number/],
    [['--out', 'x.png', '--scale', '3'], /expected one of 1, 0\.5/],
    [['--out', 'x.png', '--add', 'exposure:stops=1'], /no parameter “stops”/],
    [['--out', 'x.png', '--add', 'exposure'], /expected NAME:parameter=value/],
    [['--out', 'x.png', '--add', 'curves:all=0,0'], /Curves, All: expected 2 to 24 points/],
    [['--out', 'x.png', '--add', 'hologram:depth=1'], /There is no correction “hologram”/],
    [['--out', 'x.png', '--set', 'kiln-yard beauty:source=source-99'], /its element is missing/],
    [['--out', 'x.png', '--tone', 'velvet'], /There is no tone “velvet”\. Known: straight, toe-shoulder/],
    [['--out', 'x.png', '--tone', 'reinhard:whitest=2'], /no parameter “whitest”/],
    [['--out', 'x.png', '--width', '300mm'], /say with --dpi how many pixels/],
    [['--out', 'x.png', '--width', '2.5'], /expected whole pixels/],
    [['--out', 'x.png', '--width', '90', '--scale', '0.5'], /--width and --height, or --scale, not both/],
    [['--out', 'x.png', '--width', '90', '--filter', 'box'], /expected one of lanczos, mitchell/],
    [['--out', 'x.png', '--width', '900000'], /cannot be delivered: each side may have/],
    [['--out', 'x.png', '--bits', '12'], /expected one of 8, 16/],
    [['--sideways'], /sideways/],
  ])('wrong words end with 2: %j', async (args, sentence) => {
    expect(await run('flatten', project, ...args)).toMatchObject({ status: 2, stderr: expect.stringMatching(sentence) });
  });
  it('a damaged project file says what is missing and still gives what it can', async () => {
    const cut = join(folder, 'cut.tazzel');
    const bytes = readFileSync(project);
    writeFileSync(cut, bytes.subarray(0, bytes.indexOf('.png') + 1000));
    const { status, stderr } = await run('flatten', cut, '--out', join(folder, 'cut.png'), '--scale', '0.125');
    expect(status).toBe(1);
    expect(stderr).toMatch(/kiln-yard_material_id\.png” is missing in the project file/);
    expect(existsSync(join(folder, 'cut.png'))).toBe(true);
  });
});

describe('render', () => {
  const scene = join(folder, 'room.json');
  const example = /```json\n([\s\S]*?)```/.exec(readFileSync(new URL('../../../docs/scenes.md', import.meta.url), 'utf8'))?.[1] ?? '';
  beforeAll(() => writeFileSync(scene, example));
  const render = (...args: readonly string[]) => run('render', scene, '--size', '60x40', '--samples', '4', ...args);
  it('the scene of the docs, its files numbered, nothing replaced', async () => {
    const first = await render('--elements', 'enhancement,crypto-material', '--out', 'renders', '--json');
    expect(first.status).toBe(0);
    const result = JSON.parse(first.stdout);
    expect(result).toMatchObject({ width: 60, height: 40, samplesPerPixel: 4, endedEarly: false, leftOut: [] });
    expect(result.elements).toContain('crypto-material');
    expect(result.files.map(({ file }: { file: string }) => file)).toEqual([join('renders', 'a-room_front_001.exr')]);
    expect((await render('--out', 'renders')).stdout).toMatch(/a-room_front_002\.exr/);
    const info = tool('oiiotool', '--info', '-a', join(folder, 'renders', 'a-room_front_001.exr')).toString();
    expect(info).toMatch(/denoised_beauty|subimage/);
    const inspected = JSON.parse((await run('inspect', join('renders', 'a-room_front_001.exr'), '--json')).stdout);
    // Noisy and denoised beauty beside denoised elements: the check finds the one that they sum to.
    const [checked] = JSON.parse((await run('check', join('renders', 'a-room_front_002.exr'), '--split', 'elements', '--json')).stdout);
    expect(checked).toMatchObject({ beauty: 'denoised_beauty', verdict: 'adds-up', others: [{ label: 'beauty' }] });
    expect((await run('check', join('renders', 'a-room_front_002.exr'))).status).toBe(0);
    expect(inspected[0].elements.map(({ role }: { role: string }) => role)).toEqual(expect.arrayContaining(['beauty', 'denoised-beauty', 'depth', 'material-id', 'coverage-matte']));
  });
  it('a PNG for each, a region, no denoiser; what a PNG cannot hold is said', async () => {
    const { status, stdout } = await render('--elements', 'beauty,depth,material-id', '--layout', 'png', '--bits', '8', '--denoise', 'none', '--region', '10,10,20,16', '--out', 'pngs');
    expect(status).toBe(0);
    expect(stdout).toMatch(/Depth in metres is not saved: a PNG/);
    expect(existsSync(join(folder, 'pngs', 'a-room_front_001_material_id.png'))).toBe(true);
    expect(stdout).toMatch(/60 × 40, 4\.0 samples, noise/);
  });
  it('a sky from a picture beside the scene', async () => {
    tool('oiiotool', '--create', '16x8', '3', '--fill:color=0.2,0.4,0.9', '16x8', '-o', join(folder, 'sky.exr'));
    const described = { ...JSON.parse(example), sun: null, sky: { kind: 'image', file: 'sky.exr', luminance: 500 } };
    writeFileSync(join(folder, 'sky.json'), JSON.stringify(described));
    const made = await run('render', 'sky.json', '--size', '30x20', '--samples', '2', '--elements', 'background', '--layout', 'exr', '--bits', '32', '--denoise', 'none', '--out', 'sky', '--json');
    expect(made.status).toBe(0);
    const light = byOpenImageIo(join(folder, 'sky', 'a-room_front_001_background.exr'), 'R,G,B');
    // The upper row sees the sky alone: its colours keep their proportion.
    expect(light[2] / light[0]).toBeCloseTo(4.5, 3);
    expect(await run('render', 'gone.json', '--out', 'x')).toMatchObject({ status: 1, stderr: expect.stringMatching(/no such scene file, and no built-in scene/) });
  });
  it('errors in a scene name the field', async () => {
    writeFileSync(join(folder, 'wrong.json'), example.replace('"focalMillimetres": 28', '"focalMillimetres": "28"').replace('"material": "Glass"', '"material": "Gold"'));
    const { status, stderr } = await run('render', 'wrong.json', '--out', 'x');
    expect(status).toBe(1);
    expect(stderr).toMatch(/cameras\[0\]\.focalMillimetres/);
    writeFileSync(join(folder, 'nojson.json'), '{ "format": ');
    expect((await run('render', 'nojson.json', '--out', 'x')).stderr).toMatch(/nojson\.json is not JSON.*docs\/scenes\.md/);
  });
  it.each([
    [['--out', 'x', '--size', 'big'], /expected WIDTHxHEIGHT/],
    [['--out', 'x', '--noise', '0'], /expected a number above 0/],
    [['--out', 'x', '--samples', '1.5'], /expected a whole number/],
    [['--out', 'x', '--layout', 'tiff'], /expected one of multi-part/],
    [['--out', 'x', '--layout', 'png', '--bits', '32'], /png has 16 or 8/],
    [['--out', 'x', '--region', '1,2'], /expected 4 numbers/],
    [['--out', 'x', '--depth', '9,3'], /near end must be smaller/],
    [['--out', 'x', '--denoise', 'some'], /expected one of none, beauty, all/],
    [[], /Name one scene and a folder/],
  ])('wrong words end with 2: %j', async (args, sentence) => expect(await run('render', scene, ...args)).toMatchObject({ status: 2, stderr: expect.stringMatching(sentence) }));
  it('what the renderer refuses ends with 1', async () => {
    expect(await render('--out', 'x', '--camera', 'back')).toMatchObject({ status: 1, stderr: expect.stringMatching(/no camera “back”\. Cameras: front/) });
    expect(await render('--out', 'x', '--elements', 'glow')).toMatchObject({ status: 1, stderr: expect.stringMatching(/no element “glow”/) });
    expect(await render('--out', 'x', '--fog')).toMatchObject({ status: 1, stderr: expect.stringMatching(/describes no fog/) });
  });
});

describe('help', () => {
  it('is there for everything', async () => {
    expect(await run()).toMatchObject({ status: 2, stdout: expect.stringMatching(/npx tazzel inspect/) });
    expect((await run('help')).status).toBe(0);
    expect((await run('flatten', '--help')).stdout).toMatch(/--upto LAYER/);
    expect((await run('corrections')).stdout).toMatch(/exposureStops {2}Exposure: -10 … 10 EV/);
    expect(await run('paint')).toMatchObject({ status: 2, stderr: expect.stringMatching(/no command “paint”/) });
  });
});

/** A copy among the scratch files: the reference tool writes beside what it reads. */
function copy(path: string): string {
  mkdirSync(join(folder, 'copies'), { recursive: true });
  const to = join(folder, 'copies', 'beauty.exr');
  if (!existsSync(to)) writeFileSync(to, readFileSync(path));
  return to;
}

describe('packing of light', () => {
  it('PIZ gives the same light as ZIP, read by OpenImageIO', async () => {
    const [zip, piz] = ['zip', 'piz'].map((compression) => join(folder, `${compression}.exr`));
    for (const [compression, out] of [['zip', zip], ['piz', piz]]) {
      expect((await run('flatten', project, '--out', out, '--scale', '0.25', '--compression', compression)).status).toBe(0);
    }
    expect(tool('oiiotool', '--info', '-v', piz).toString()).toContain('compression: "piz"');
    expect(byOpenImageIo(piz, 'R,G,B')).toEqual(byOpenImageIo(zip, 'R,G,B'));
    expect(await run('flatten', project, '--out', join(folder, 'x.exr'), '--compression', 'dwaa')).toMatchObject({ status: 2, stderr: expect.stringContaining('expected one of zip, zips, piz, rle, none') });
  }, 60_000);
});

describe('rules for roles', () => {
  it('are followed by every command that gives roles, and refused by name if they are none', async () => {
    writeFileSync(join(folder, 'rules.json'), JSON.stringify({ format: 'tazzel-role-rules', rules: [{ words: ['yard'], role: 'wireframe' }] }));
    const [report] = JSON.parse((await run('inspect', demo('kiln-yard_material_id.png'), '--rules', 'rules.json', '--json')).stdout);
    expect(report.elements[0]).toMatchObject({ role: 'wireframe', reason: 'your rule for “yard”' });
    writeFileSync(join(folder, 'bad.json'), '{}');
    expect(await run('inspect', demo('kiln-yard_material_id.png'), '--rules', 'bad.json')).toMatchObject({ status: 2, stderr: expect.stringContaining('--rules bad.json: This file does not hold rules') });
    expect(await run('check', demo('kiln-yard.exr'), '--rules', 'gone.json')).toMatchObject({ status: 2, stderr: expect.stringContaining('there is no such file') });
  });
});

describe('masks', () => {
  it('writes every material as PNG and all of them into one EXR, and the shares of each pixel sum to one', async () => {
    const [result] = [JSON.parse((await run('masks', project, '--materials', '--out', 'masks', '--bits', '16', '--json')).stdout)];
    expect(result.files.length).toBeGreaterThan(10);
    const planes = await Promise.all(result.files.map(async ({ file }: { file: string }) => sharp(join(folder, file)).toColourspace('grey16').raw({ depth: 'ushort' }).toBuffer({ resolveWithObject: true })));
    expect(planes[0].info).toMatchObject({ width: 600, height: 400, channels: 1 });
    const words = planes.map(({ data }) => new Uint16Array(data.buffer, data.byteOffset, data.length / 2));
    let [off, edges] = [0, 0];
    for (let i = 0; i < words[0].length; i += 7) {
      const sum = words.reduce((total, plane) => total + plane[i], 0);
      if (words.some((plane) => plane[i] > 0 && plane[i] < 65535)) edges++;
      if (Math.abs(sum - 65535) > 3 * 257) off++;
    }
    expect(edges).toBeGreaterThan(1000);
    expect(off).toBe(0);
    // OpenImageIO reads the same numbers from the EXR.
    const channel = basename(result.files[3].file, '.png');
    const exr = byOpenImageIo(join(folder, result.exr), channel);
    for (let i = 0; i < exr.length; i += 101) expect(Math.abs(exr[i] - words[3][i] / 65535)).toBeLessThan(0.001);
    expect(await run('masks', project, '--materials', '--out', 'masks')).toMatchObject({ status: 2, stderr: expect.stringContaining('exists already') });
  });
  it('says what is missing', async () => {
    expect(await run('masks', project, '--out', 'none')).toMatchObject({ status: 1, stderr: expect.stringContaining('has no masks') });
    expect(await run('masks', project, '--materials', '--only', 'Moss', '--out', 'none')).toMatchObject({ status: 2, stderr: expect.stringContaining('There is no mask “Moss”') });
    expect(await run('masks', project)).toMatchObject({ status: 2 });
  });
});

describe('check', () => {
  const set = smallSet('courtyard');
  it('a set that adds up ends with 0, for people and for programs', async () => {
    const people = await run('check', ...set);
    expect(people.status).toBe(0);
    expect(people.stdout).toMatch(/Elements: direct_lighting \+ gi \+ .*\n {2}The 7 elements add up to denoised_beauty/);
    expect(people.stdout).toMatch(/Light groups: .*\n {2}The 6 light groups add up/);
    const [elements] = JSON.parse((await run('check', ...set, '--split', 'elements', '--json')).stdout);
    expect(elements).toMatchObject({ split: 'elements', beauty: 'denoised_beauty', verdict: 'adds-up', guesses: [], level: 0 });
    expect(elements.psnrDb).toBeGreaterThan(60);
  });
  it('one that does not names what is missing and ends with 1; folders stand for their files', async () => {
    const part = join(folder, 'set');
    mkdirSync(part);
    for (const path of set.filter((file) => file !== smallPart('gi'))) copyFileSync(path, join(part, basename(path)));
    const { status, stderr } = await run('check', part, '--split', 'elements');
    expect(status).toBe(1);
    expect(stderr).toMatch(/The 6 elements do not add up to denoised_beauty: the sum is too dark by .* missing may be/i);
  }, 120_000);
  it('wrong words', async () => {
    expect(await run('check')).toMatchObject({ status: 2 });
    expect(await run('check', set[0], '--split', 'colours')).toMatchObject({ status: 2, stderr: expect.stringContaining('expected elements, lights or both') });
    expect(await run('check', idPng())).toMatchObject({ status: 1, stderr: expect.stringContaining('nothing to add up') });
  }, 60_000);
});
