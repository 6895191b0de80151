import type { Plane, TilePixels } from '@tazzel/core';
import { beforeAll, describe, expect, it } from 'vitest';
import type { Kernels } from '@tazzel/kernels';
import { builtKernels } from '../../../tests/built.ts';
import { source } from '../../../tests/documents.ts';
import { maskPicture, outlinePicture } from './overlays.ts';
import { reducePlanes } from './reduce.ts';
import { sourceKey } from './source-store.ts';
import { TileCache } from './tile-cache.ts';

const plain = (byteLength: number) => new ArrayBuffer(byteLength);

describe('kept tiles', () => {
  const region = { x: 0, y: 0, width: 256, height: 256 };
  const tile = (): TilePixels => ({ region, planes: new Float32Array(256 * 256 * 4), opaque: true });
  it('gives the result with the most steps that still stands', () => {
    const cache = new TileCache();
    const keys = ['none', 'a', 'b', 'c'];
    cache.put(0, region, 'a', tile());
    const best = tile();
    cache.put(0, region, 'b', best);
    expect(cache.latest(0, region, keys, 3)).toEqual({ steps: 2, pixels: best });
    expect(cache.latest(0, region, keys, 1)?.steps).toBe(1);
    expect(cache.latest(0, region, ['none', 'a', 'changed', 'c'], 3)?.steps).toBe(1);
    expect(cache.latest(1, region, keys, 3)).toBeNull();
    expect(cache.latest(0, { ...region, x: 256 }, keys, 3)).toBeNull();
  });
  it('stays within its budget, the least recently used leaving first', () => {
    const cache = new TileCache();
    for (let i = 0; i < 300; i++) {
      cache.put(0, region, `key ${i}`, tile());
      cache.latest(0, region, ['', 'key 0'], 1);
    }
    // A tile of four float planes is 1 MB, the budget 256 MB.
    const held = Array.from({ length: 300 }, (_, i) => cache.latest(0, region, ['', `key ${i}`], 1) !== null);
    expect(held.filter(Boolean)).toHaveLength(256);
    expect([held[0], held[1], held[299]]).toEqual([true, false, true]);
  });
});

describe('reduced levels', () => {
  let kernels: Kernels;
  beforeAll(async () => {
    kernels = await builtKernels();
  });
  const plane: Plane = { type: 'u8', width: 5, height: 3, data: Uint8Array.of(0, 10, 20, 30, 40, 10, 20, 30, 40, 50, 100, 110, 120, 130, 140) };
  it('colours are averaged, an odd edge by itself', () => {
    const [half, quarter] = reducePlanes(plane, false, 2, kernels, plain);
    expect([half.width, half.height, ...half.data]).toEqual([3, 2, 10, 30, 45, 105, 125, 140]);
    expect([quarter.width, quarter.height]).toEqual([2, 1]);
  });
  it('IDs keep values that were there', () => {
    const [half] = reducePlanes(plane, true, 1, kernels, plain);
    expect([...half.data]).toEqual([0, 20, 40, 100, 120, 140]);
    const numbers: Plane = { type: 'u32', width: 2, height: 2, data: Uint32Array.of(70000, 1, 2, 3) };
    expect([...reducePlanes(numbers, false, 1, kernels, plain)[0].data]).toEqual([70000]);
  });
  it('the same channels of the same file share their planes, unless one of them holds IDs', () => {
    const a = source(1);
    expect(sourceKey(a)).toBe(sourceKey({ ...a, id: 'source-9', name: 'other', role: 'beauty', encoding: 'display' }));
    expect(sourceKey(a)).not.toBe(sourceKey({ ...a, role: 'material-id' }));
    expect(sourceKey(a)).not.toBe(sourceKey({ ...a, colorChannels: ['G'] }));
  });
});

describe('pictures over the picture', () => {
  const alpha = (rgba: Uint8ClampedArray) => [...rgba].filter((_, i) => i % 4 === 3);
  it('a mask as alpha, as matte, inverted', () => {
    const mask: Plane = { type: 'u8', width: 3, height: 2, data: Uint8Array.of(0, 128, 255, 0, 0, 64) };
    const region = { x: 1, y: 0, width: 2, height: 2 };
    expect(alpha(maskPicture({ mask, region, inverted: false, matte: false }))).toEqual([128, 255, 0, 64]);
    expect(alpha(maskPicture({ mask, region, inverted: true, matte: false }))).toEqual([127, 0, 255, 191]);
    expect([...maskPicture({ mask, region, inverted: false, matte: true })]).toEqual([128, 128, 128, 255, 255, 255, 255, 255, 0, 0, 0, 255, 64, 64, 64, 255]);
  });
  it('an outline is the edge inside the material, also where the picture ends', () => {
    const index = { width: 5, height: 5, data: Uint16Array.from([0, 0, 0, 0, 0, 0, 1, 1, 1, 0, 0, 1, 1, 1, 0, 0, 1, 1, 1, 0, 0, 0, 0, 0, 0]) };
    const whole = { x: 0, y: 0, width: 5, height: 5 };
    const drawn = alpha(outlinePicture({ index, rows: [1], place: { x: 0, y: 0 }, region: whole, level: 0 })).map((v) => (v ? 1 : 0));
    expect(drawn).toEqual([0, 0, 0, 0, 0, 0, 1, 1, 1, 0, 0, 1, 0, 1, 0, 0, 1, 1, 1, 0, 0, 0, 0, 0, 0]);
    const shifted = alpha(outlinePicture({ index, rows: [1], place: { x: 2, y: 2 }, region: whole, level: 0 })).map((v) => (v ? 1 : 0));
    expect(shifted.slice(15, 20)).toEqual([0, 0, 0, 1, 1]);
  });
});
