/** Files of layers, read by other programs' rules: Python's zip and XML readers, libvips (through sharp) and a small compositor of the W3C's formulas that shares no code with ours. */
import { readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { documentOfStack, type Edit, freshIds, layersInOrder, newTerm, type Source, type TazzelDocument } from '@tazzel/core';
import { byteSource, readOpenRaster, sourcesFromReport } from '@tazzel/formats';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { builtEngine } from '../../../tests/built.ts';
import { after } from '../../../tests/documents.ts';
import { HEIGHT, loadSet, WIDTH, writeSet } from '../../../tests/engine-set.ts';
import { joined } from '../../../tests/formats.ts';
import { scratch, tool } from '../../../tests/tools.ts';
import type { Engine } from './engine.ts';

const folder = scratch();
let engine: Engine;
let base: TazzelDocument;
beforeAll(async () => {
  const names = await writeSet(folder);
  engine = await builtEngine();
  base = await loadSet(engine, folder, names);
});
afterAll(() => engine.pool.terminate());

interface Read {
  readonly tag: 'stack' | 'layer';
  readonly name: string;
  readonly operator: string;
  readonly opacity: number;
  readonly visible: boolean;
  readonly isolated: boolean;
  readonly src: string;
  readonly items: readonly Read[];
}

/** What Python's own libraries find in the file. */
function read(path: string): { entries: string[]; mimetype: string; image: Record<string, string>; stack: Read } {
  const program = `
import sys, json, zipfile, xml.etree.ElementTree as E
z = zipfile.ZipFile(sys.argv[1])
assert z.testzip() is None
first = z.infolist()[0]
assert first.filename == 'mimetype' and first.compress_type == zipfile.ZIP_STORED and not first.extra
root = E.fromstring(z.read('stack.xml'))
def node(e):
    g = e.attrib.get
    return dict(tag=e.tag, name=g('name', ''), operator=g('composite-op', 'svg:src-over'), opacity=float(g('opacity', '1')), visible=g('visibility', 'visible') == 'visible', isolated=g('isolation') == 'isolate', src=g('src', ''), items=[node(c) for c in e])
z.extractall(sys.argv[2])
print(json.dumps(dict(entries=z.namelist(), mimetype=z.read('mimetype').decode(), image=root.attrib, stack=node(root[0]))))`;
  return JSON.parse(tool('python3', '-c', program, path, `${path}-files`).toString());
}

type Planes = readonly [Float64Array, Float64Array, Float64Array, Float64Array];
/** Straight numbers from 0 to 1. */
async function picture(path: string): Promise<Planes> {
  const { data, info } = await sharp(path).toColourspace('rgb16').ensureAlpha().raw({ depth: 'ushort' }).toBuffer({ resolveWithObject: true });
  const words = new Uint16Array(data.buffer, data.byteOffset, data.length / 2);
  return [0, 1, 2, 3].map((c) => Float64Array.from({ length: info.width * info.height }, (_, i) => words[i * 4 + c] / 65535)) as unknown as Planes;
}

const modes: Record<string, (b: number, s: number) => number> = {
  'svg:src-over': (_, s) => s,
  'svg:multiply': (b, s) => b * s,
  'svg:screen': (b, s) => b + s - b * s,
  'svg:darken': Math.min,
  'svg:difference': (b, s) => Math.abs(b - s),
};
/** W3C Compositing and Blending 1, 5.1 and 9: straight colours. */
function over(backdrop: Planes, source: Planes, operator: string, opacity: number): Planes {
  const out = backdrop.map((plane) => new Float64Array(plane.length)) as unknown as Planes;
  for (let i = 0; i < out[3].length; i++) {
    const [ab, as] = [backdrop[3][i], source[3][i] * opacity];
    const ao = operator === 'svg:plus' ? Math.min(1, as + ab) : as + ab - as * ab;
    out[3][i] = ao;
    for (let c = 0; c < 3; c++) {
      const [cb, cs] = [backdrop[c][i], source[c][i]];
      const light = operator === 'svg:plus' ? Math.min(1, cb * ab + cs * as) : as * (1 - ab) * cs + as * ab * modes[operator](cb, cs) + (1 - as) * ab * cb;
      out[c][i] = ao > 0 ? light / ao : 0;
    }
  }
  return out;
}
const nothing = (): Planes => [0, 1, 2, 3].map(() => new Float64Array(WIDTH * HEIGHT)) as unknown as Planes;
async function composited(items: readonly Read[], folderOf: string, onto: Planes): Promise<Planes> {
  let made = onto;
  for (const item of items.toReversed()) {
    if (!item.visible) continue;
    if (item.tag === 'layer') made = over(made, await picture(join(folderOf, item.src)), item.operator, item.opacity);
    else if (item.isolated) made = over(made, await composited(item.items, folderOf, nothing()), item.operator, item.opacity);
    else made = await composited(item.items, folderOf, made);
  }
  return made;
}

async function delivered(document: TazzelDocument, name: string, more: object = {}) {
  const { parts, problems, size } = await engine.deliver({ document, format: 'openraster', values: { bits: '16' }, ...more });
  const path = join(folder, `${name}.ora`);
  writeFileSync(path, joined(parts));
  return { path, problems, size, ...read(path) };
}
const apart = (a: Planes, b: Planes) => Math.max(...[0, 1, 2, 3].map((c) => a[c].reduce((most, value, i) => Math.max(most, Math.abs(value * (c < 3 ? a[3][i] : 1) - b[c][i] * (c < 3 ? b[3][i] : 1))), 0)));

/** Light, then elements with modes, a mask, a chain, a hidden one, groups that are isolated and that are not. */
function layered(...more: readonly Edit[]): TazzelDocument {
  const [, overlay] = base.sources;
  const element: Edit = { type: 'add-layer', layer: 'element', params: { source: overlay.id }, zone: 'picture' };
  const stacked = after(base, { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' }, element, element, element, element, element, element);
  const ids = stacked.buildUp.picture.map(({ id }) => id);
  const set = (n: number, patch: object): Edit => ({ type: 'set-layer', layerId: ids[n], patch });
  const grouped = after(
    stacked,
    { type: 'add-mask', name: 'Oval', terms: [newTerm('ellipse', 'add', stacked)] },
    { type: 'add-mask', name: 'Tones', terms: [newTerm('tone', 'add', stacked, { after: ids[0] })] },
    set(0, { name: 'A & <B> “c”', blend: 'multiply', opacity: 0.4 }),
    set(1, { blend: 'screen', opacity: 0.6 }),
    set(2, { blend: 'difference', opacity: 0.5, mask: { maskId: 'mask-1', inverted: false, enabled: true } }),
    set(3, { visible: false }),
    set(4, { blend: 'add', opacity: 0.25 }),
    set(5, { blend: 'darken', placement: { offsetX: 40, offsetY: -20, scaleX: 0.5, scaleY: 0.5, rotationDegrees: 20, filter: 'mitchell' } }),
    { type: 'add-chain-correction', layerId: ids[4], correction: 'levels' },
    { type: 'group-layer', layerId: ids[1] },
    { type: 'group-layer', layerId: ids[4] },
  );
  const groups = grouped.buildUp.picture.filter(({ kind }) => kind === 'group').map(({ id }) => id);
  return after(grouped, { type: 'move-layer', layerId: ids[2], zone: 'picture', index: 1, groupId: groups[0] }, { type: 'set-layer', layerId: groups[0], patch: { isolated: true, opacity: 0.8, name: 'Together' } }, ...more);
}
const flatNames = (items: readonly Read[]): string[] => items.flatMap((item) => [item.name, ...flatNames(item.items)]);

it('looks put together as the picture does, with names, modes, opacities, masks, groups', async () => {
  const { path, entries, mimetype, image, stack, problems } = await delivered(layered(), 'layers');
  expect(mimetype).toBe('image/openraster');
  expect(entries).toEqual(expect.arrayContaining(['stack.xml', 'mergedimage.png', 'Thumbnails/thumbnail.png']));
  expect(image).toMatchObject({ w: String(WIDTH), h: String(HEIGHT) });
  expect(problems.join()).toContain('2 layers of light are one picture');
  // The topmost comes first.
  expect(stack.items.map(({ tag, operator, opacity, visible, isolated }) => [tag, operator, opacity, visible, isolated])).toEqual([
    ['layer', 'svg:darken', 1, true, false],
    ['stack', 'svg:src-over', 1, true, false],
    ['layer', 'svg:src-over', 1, false, false],
    ['stack', 'svg:src-over', 0.8, true, true],
    ['layer', 'svg:multiply', 0.4, true, false],
    ['layer', 'svg:src-over', 1, true, false],
  ]);
  expect(flatNames(stack.items)).toEqual(expect.arrayContaining(['A & <B> “c”', 'Together', 'Light']));
  const made = await composited(stack.items, `${path}-files`, nothing());
  expect(apart(made, await picture(join(`${path}-files`, 'mergedimage.png')))).toBeLessThan(3e-4);
  const { width, height } = await sharp(join(`${path}-files`, 'Thumbnails/thumbnail.png')).metadata();
  expect([width, height]).toEqual([256, 128]);
}, 60_000);

it('puts together what files of layers cannot say, names it, and looks the same', async () => {
  const ids = layered().buildUp.picture.map(({ id }) => id);
  // A correction in the middle; a mode that the format has not; a mask that reads the picture; a mask of a group that is not isolated.
  const cases: readonly (readonly [string, number, readonly Edit[]])[] = [
    ['Exposure', 5, [{ type: 'add-correction-layer', correction: 'exposure', zone: 'picture', index: 1 } as Edit]],
    ['A &', 5, [{ type: 'set-layer', layerId: ids[0], patch: { blend: 'divide' } }]],
    ['A &', 5, [{ type: 'set-layer', layerId: ids[0], patch: { mask: { maskId: 'mask-2', inverted: false, enabled: true } } }]],
    ['Group', 2, [{ type: 'set-layer', layerId: ids[3], patch: { mask: { maskId: 'mask-1', inverted: false, enabled: true } } }]],
  ];
  for (const [n, [name, count, edits]] of cases.entries()) {
    const { path, stack, problems } = await delivered(layered(...edits), `baked-${n}`);
    expect(problems.join(), name).toContain(name);
    expect(stack.items, name).toHaveLength(count);
    const made = await composited(stack.items, `${path}-files`, nothing());
    expect(apart(made, await picture(join(`${path}-files`, 'mergedimage.png'))), name).toBeLessThan(3e-4);
  }
}, 120_000);

it('an isolated group with a mask is a layer; smaller sizes, up to a layer, in eight bits', async () => {
  const document = layered();
  const group = document.buildUp.picture[1].id;
  const masked = after(document, { type: 'set-layer', layerId: group, patch: { mask: { maskId: 'mask-1', inverted: true, enabled: true } } });
  const { path, stack, size, image } = await delivered(masked, 'small', { values: { bits: '8', dpi: 300, dither: false }, resize: { width: 200, filter: 'lanczos' }, upto: group });
  expect(stack.items.map(({ tag }) => tag)).toEqual(['layer', 'layer', 'layer']);
  expect([size.width, image.w, image.xres]).toEqual([200, '200', '300']);
  expect((await sharp(join(`${path}-files`, stack.items[0].src)).metadata()).depth).toBe('uchar');
}, 60_000);

it('a picture of light alone is one layer; a layer under the tone line ends it', async () => {
  const { stack } = await delivered(base, 'light', { level: 2 });
  expect(stack.items.map(({ name }) => name)).toEqual(['Light']);
  const lit = layered();
  const first = await delivered(lit, 'upto', { level: 2, upto: lit.buildUp.scene[0].id });
  expect(first.stack.items).toHaveLength(1);
}, 60_000);

it('read again it is a document of the same layers, with the same pixels', async () => {
  const { path } = await delivered(layered(), 'again');
  const found = await readOpenRaster(byteSource('again.ora', new Uint8Array(readFileSync(path))));
  expect(found.problems).toEqual([]);
  const sources: Source[] = [];
  const nextId = freshIds(null, 'source');
  for (const { name, bytes } of found.files) {
    const at = join(folder, name);
    writeFileSync(at, bytes);
    const file = { name, size: statSync(at).size, handle: at };
    const hash = await engine.hash(file);
    engine.files.set(hash, file);
    sources.push(...(await engine.examine(sourcesFromReport(await engine.inspect(file), hash, nextId))));
  }
  const { document, problems } = documentOfStack('again', 'Again', found, found.items, sources);
  expect(problems).toEqual([]);
  expect(layersInOrder(document).map(({ layer, groupIds }) => [layer.name, layer.kind, layer.opacity, layer.visible, groupIds.length])).toEqual(
    [['Light', 'picture', 1, true, 0], ...layersInOrder(layered()).flatMap(({ layer, groupIds, zone }) => (zone === 'picture' ? [[layer.name, layer.kind, layer.opacity, layer.visible, groupIds.length] as const] : []))],
  );
  const flat = async (of: TazzelDocument) => new Uint16Array((await engine.flatten({ document: of, kind: 'rgba16' })).pixels);
  const [ours, theirs] = [await flat(document), await flat(layered())];
  // Each of seven pictures is rounded to 16 bits.
  expect(ours.reduce((most, value, i) => Math.max(most, Math.abs(value - theirs[i])), 0)).toBeLessThanOrEqual(20);
}, 60_000);

it('a mode that is not known, groups that lie too deep, files that were not read: said, and the rest comes in', async () => {
  const picture = { kind: 'picture' as const, name: 'P', operator: 'svg:dst-in', opacity: 1, visible: true, fileName: 'a.png', x: 3, y: 4 };
  const deep = (depth: number): Parameters<typeof documentOfStack>[3] => [{ kind: 'group', name: `G${depth}`, operator: 'svg:src-over', opacity: 1, visible: true, isolated: true, items: depth < 6 ? deep(depth + 1) : [picture] }];
  const [, overlay] = base.sources;
  const { document, problems } = documentOfStack('x', 'X', { width: 10, height: 10 }, [...deep(1), { ...picture, fileName: 'gone.png' }], [{ ...overlay, file: { ...overlay.file, name: 'a.png' } }]);
  expect(problems).toEqual(['“G5”: groups lie at most 4 deep. Its layers were taken out of it.', '“G6”: groups lie at most 4 deep. Its layers were taken out of it.', '“P”: its mode svg:dst-in is not known here. It covers what is below.']);
  expect(layersInOrder(document).map(({ layer }) => layer.name)).toEqual(['G1', 'G2', 'G3', 'G4', 'P']);
  expect(document.sources).toMatchObject([{ x: 3, y: 4, role: 'picture' }]);
});
