/** All of a document as the parts of one OpenEXR file, read by OpenImageIO. */
import { statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type Edit, newTerm, srgbDecode, type TazzelDocument } from '@tazzel/core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { builtEngine } from '../../../tests/built.ts';
import { after } from '../../../tests/documents.ts';
import { HEIGHT, loadSet, WIDTH, writeSet } from '../../../tests/engine-set.ts';
import { joined } from '../../../tests/formats.ts';
import { byOpenImageIo, scratch, tool } from '../../../tests/tools.ts';
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

const written = async (document: TazzelDocument, name: string, more: object = {}) => {
  const made = await engine.deliver({ document, format: 'exr', values: { holds: 'parts' }, ...more });
  const path = join(folder, `${name}.exr`);
  writeFileSync(path, joined(made.parts));
  return { path, ...made };
};
/** What another program finds in the file, part by part. */
const partsOf = (path: string) => [...tool('oiiotool', '--info', '-v', '-a', path).toString().matchAll(/^ *channel list: (.*)\n[\s\S]*?oiio:subimagename: "(.*)"/gm)].map(([, channels, name]) => ({ name, channels }));
const planeOf = (path: string, part: number, channel: string) => {
  const alone = `${path}-${part}.exr`;
  tool('oiiotool', path, '--subimage', String(part), '--ch', channel, '-d', 'float', '-o', alone);
  return byOpenImageIo(alone, channel);
};

it('the finished picture, its light, each layer that means something by itself, all masks', async () => {
  const [beauty, overlay] = base.sources;
  const element = (source: string, zone: 'scene' | 'picture'): Edit => ({ type: 'add-layer', layer: 'element', params: { source }, zone });
  const document = after(
    base,
    element(beauty.id, 'scene'),
    { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' },
    element(overlay.id, 'picture'),
    { type: 'add-mask', name: 'Left.half', terms: [newTerm('material', 'add', base, { materials: [base.materials[0].id] })] },
    { type: 'add-mask', name: 'Everywhere', terms: [] },
  );
  const picture = document.buildUp.picture[0];
  const reading = after(document, { type: 'add-layer', layer: 'snapshot', params: { after: picture.id }, zone: 'picture' });
  expect((await written(reading, 'reading')).problems).toEqual([expect.stringContaining('has no part of its own')]);
  const { path, problems, size } = await written(after(document, { type: 'set-layer', layerId: picture.id, patch: { opacity: 0.5 } }), 'all');
  expect(size).toEqual({ width: WIDTH, height: HEIGHT });
  const parts = partsOf(path);
  const names = document.buildUp.scene.filter(({ kind }) => kind === 'picture').map(({ name }) => name);
  expect(parts.map(({ name }) => name)).toEqual(['picture', 'light', names[0], `${names[0]} 2`, picture.name, 'masks']);
  expect(parts[5].channels).toBe('everywhere, left-half');
  expect(problems).toEqual([]);
  // Each is what it would be by itself, and the picture is what the light and the layer make.
  const alone = await engine.deliver({ document, format: 'exr', values: { holds: 'light' } });
  const lightPath = join(folder, 'light.exr');
  writeFileSync(lightPath, joined(alone.parts));
  expect(planeOf(path, 1, 'G')).toEqual(byOpenImageIo(lightPath, 'G'));
  const finished = await engine.flatten({ document: after(document, { type: 'set-layer', layerId: picture.id, patch: { opacity: 0.5 } }), kind: 'rgba16' });
  const codes = new Uint16Array(finished.pixels);
  const linear = planeOf(path, 0, 'G');
  for (let i = 0; i < linear.length; i += 97) expect(Math.abs(linear[i] - srgbDecode(codes[i * 4 + 1] / 65535))).toBeLessThan(6e-4 * (1 + linear[i]));
  // The layer alone, straight: display codes 0 to 255 as light, times its alpha.
  const layer = planeOf(path, 4, 'R');
  for (const [x, y] of [[10, 10], [200, 100], [100, 250]]) expect(layer[y * WIDTH + x]).toBeCloseTo(srgbDecode((x % 256) / 255) * (((x * 3) % 256) / 255), 3);
  const mask = planeOf(path, 5, 'left-half');
  // One of three materials of the same area.
  expect(mask.reduce((sum, value) => sum + value, 0) / mask.length).toBeCloseTo(1 / 3, 2);
});
it('reads in again here, each part as an element', async () => {
  const { path } = await written(base, 'again');
  const report = await engine.inspect({ name: 'again.exr', size: statSync(path).size, handle: path });
  expect(report.leftOut).toEqual([]);
  expect(report.elements.length).toBeGreaterThanOrEqual(3);
});
it('at another size without masks, which is said; cancelled in the middle', async () => {
  const masked = after(base, { type: 'add-mask', name: 'All', terms: [] });
  const small = await written(masked, 'small', { resize: { width: 100, filter: 'lanczos' } });
  expect(small.size.width).toBe(100);
  expect(partsOf(small.path).map(({ name }) => name)).not.toContain('masks');
  expect(small.problems.join()).toContain('Masks are only in files of the full size');
  const abort = new AbortController();
  await expect(engine.deliver({ document: base, format: 'exr', values: { holds: 'parts' }, signal: abort.signal, onProgress: () => abort.abort() })).rejects.toMatchObject({ name: 'Cancelled' });
});
