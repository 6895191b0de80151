/** Elements that are fitted to the picture: what filtering must keep, and OpenImageIO’s triangle. */
import { floatToHalf, halfToFloat, type Plane } from '@tazzel/core';
import { join } from 'node:path';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { seeded } from '../../../tests/random.ts';
import { byOpenImageIo, scratch, tool } from '../../../tests/tools.ts';
import { resamplePlane } from './resample.ts';

const folder = scratch();

const plain = (bytes: number) => new ArrayBuffer(bytes);
const to = (plane: Plane, width: number, height: number, keepsValues = false) => resamplePlane(plane, { width, height }, keepsValues, plain);
const bytesOf = (width: number, height: number, value: (x: number, y: number) => number): Plane => ({ type: 'u8', width, height, data: Uint8Array.from({ length: width * height }, (_, i) => value(i % width, Math.floor(i / width))) });

it('one colour stays one colour at every size and in every type', () => {
  const planes: Plane[] = [bytesOf(5, 4, () => 77), { type: 'u16', width: 5, height: 4, data: new Uint16Array(20).fill(40_000) }, { type: 'f16', width: 5, height: 4, data: new Uint16Array(20).fill(floatToHalf(12.5)) }, { type: 'f32', width: 5, height: 4, data: new Float32Array(20).fill(-3.25) }];
  for (const plane of planes) for (const [width, height] of [[1, 1], [5, 4], [13, 3], [2, 9], [50, 40]]) expect(new Set(to(plane, width, height).data)).toEqual(new Set([plane.data[0]]));
});

it('a ramp stays a ramp, within its ends', () => {
  const ramp: Plane = { type: 'f32', width: 10, height: 1, data: Float32Array.from({ length: 10 }, (_, i) => i) };
  const wide = to(ramp, 40, 1).data;
  for (let x = 4; x < 36; x++) expect(wide[x]).toBeCloseTo((x + 0.5) / 4 - 0.5, 5);
  const half: Plane = { ...ramp, type: 'f16', data: Uint16Array.from(ramp.data, floatToHalf) };
  expect(Array.from(to(half, 5, 1).data, halfToFloat).every((v, i, all) => i === 0 || v > all[i - 1])).toBe(true);
});

it('shrinking keeps the mean', () => {
  const random = seeded(7);
  const noise: Plane = { type: 'f32', width: 120, height: 90, data: Float32Array.from({ length: 120 * 90 }, () => random()) };
  const mean = (values: Iterable<number>) => [...values].reduce((a, b) => a + b, 0) / [...values].length;
  expect(mean(to(noise, 24, 18).data)).toBeCloseTo(mean(noise.data), 2);
});

it('numbers of IDs are never mixed', () => {
  const ids = bytesOf(7, 5, (x, y) => ((x * 3 + y * 5) % 4) * 60);
  for (const [width, height] of [[3, 2], [21, 15], [10, 9]]) for (const value of to(ids, width, height, true).data) expect([0, 60, 120, 180]).toContain(value);
  const counts: Plane = { type: 'u32', width: 2, height: 1, data: Uint32Array.of(5, 4_000_000_000) };
  expect([...to(counts, 4, 1).data]).toEqual([5, 5, 4_000_000_000, 4_000_000_000]);
});

describe('against OpenImageIO', () => {
  it.each([
    [180, 144, 'enlarging is linear between the samples'],
    [30, 24, 'shrinking to half averages under a triangle'],
  ])('to %i × %i: %s', async (width, height) => {
    const random = seeded(4);
    const picture = bytesOf(60, 48, () => Math.floor(random() * 256));
    const [from, path] = ['from.png', 'to.exr'].map((name) => join(folder, name));
    await sharp(Buffer.from(picture.data as Uint8Array), { raw: { width: 60, height: 48, channels: 1 } }).toColourspace('b-w').png().toFile(from);
    // Its width of a triangle is that of its foot: two samples of the coarser side.
    tool('oiiotool', from, '-d', 'float', '--resize:filter=triangle', `${width}x${height}`, '-o', path);
    const theirs = byOpenImageIo(path, '0');
    const ours = to(picture, width, height).data;
    let worst = 0;
    // At the borders they leave out what lies beyond, and we repeat what is there.
    for (let y = 3; y < height - 3; y++) for (let x = 3; x < width - 3; x++) worst = Math.max(worst, Math.abs(ours[y * width + x] - theirs[y * width + x] * 255));
    expect(worst).toBeLessThan(0.51);
  });
});
