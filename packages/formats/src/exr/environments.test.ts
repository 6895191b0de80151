/** Files that nobody of this project made: the CC0 environment pictures of the npm package @pmndrs/assets, as OpenImageIO reads them. */
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { halfToFloat } from '@tazzel/core';
import { beforeAll, expect, it } from 'vitest';
import { builtKernels } from '../../../../tests/built.ts';
import { firstPart } from '../../../../tests/formats.ts';
import { allByOpenImageIo, scratch } from '../../../../tests/tools.ts';
import { byteSource } from '../bytes.ts';
import { allocateExrPlanes, decodeExrChunks } from './decode.ts';

const assets = fileURLToPath(new URL('../../../../node_modules/@pmndrs/assets/hdri/', import.meta.url));
const names = readdirSync(assets).filter((name) => name.endsWith('.exr.js'));
const folder = scratch();

it('there are pictures to compare', () => expect(names.length).toBeGreaterThan(10));

const pathOf = (name: string) => join(folder, name.replace('.js', ''));
let theirs: readonly Float32Array[];
beforeAll(async () => {
  for (const name of names) {
    const { default: address } = (await import(join(assets, name))) as { default: string };
    writeFileSync(pathOf(name), Buffer.from(address.slice(address.indexOf(',') + 1), 'base64'));
  }
  theirs = allByOpenImageIo(names.map(pathOf), 'R,G,B');
});

it.each(names)('%s', async (name) => {
  const bytes = new Uint8Array(readFileSync(pathOf(name)));
  const source = byteSource(name, bytes);
  const header = await firstPart(source);
  const planes = allocateExrPlanes(header, ['R', 'G', 'B']);
  await decodeExrChunks(source, header, planes, 0, header.offsets.length, await builtKernels());
  const wanted = theirs[names.indexOf(name)];
  // Lossless packings give the same halves; DWA ends in a cosine transform, after which values are rounded to steps of a root.
  const tolerance = header.compression.startsWith('DWA') ? 0.01 : 0;
  for (const [c, channel] of ['R', 'G', 'B'].entries()) {
    const plane = planes.get(channel);
    const found = plane?.type === 'f16' ? Float32Array.from(plane.data, halfToFloat) : Float32Array.from(plane?.data ?? []);
    expect(found.length).toBe(wanted.length / 3);
    expect(found.reduce((off, v, i) => off + Number(Math.abs(v - wanted[i * 3 + c]) > tolerance * Math.max(1 / 16, Math.abs(v))), 0), `${header.compression} ${channel}`).toBe(0);
  }
});
