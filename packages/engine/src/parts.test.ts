import { pixelIdentity, type Plane } from '@tazzel/core';
import { beforeAll, describe, expect, it } from 'vitest';
import type { Kernels } from '@tazzel/kernels';
import { builtKernels } from '../../../tests/built.ts';
import { source } from '../../../tests/documents.ts';
import { maskPicture, outlinePicture } from './overlays.ts';
import { reducePlanes } from './reduce.ts';
import { Cancelled } from './errors.ts';
import { TileStore } from './tile-store.ts';

const plain = (byteLength: number) => new ArrayBuffer(byteLength);

describe('kept tiles', () => {
  const region = { x: 0, y: 0, width: 256, height: 256 };
  const MB = 2 ** 20;
  const store = (budget = 4 * MB) => new TileStore((bytes) => new ArrayBuffer(bytes), budget);
  const fill = (value: number) => async (into: ArrayBufferLike) => {
    new Float32Array(into).fill(value);
    return value === 1;
  };
  const first = ({ buffer }: { buffer: ArrayBufferLike }) => new Float32Array(buffer)[0];
  it('are made once, whoever asks', async () => {
    const tiles = store();
    let made = 0;
    const make = async (into: ArrayBufferLike) => {
      made++;
      return fill(7)(into);
    };
    const leases = await Promise.all([0, 1, 2].map(() => tiles.take('a', region, 4, undefined, make)));
    expect([made, ...leases.map(({ tile }) => first(tile))]).toEqual([1, 7, 7, 7]);
    expect(tiles.find('a', region)?.tile.opaque).toBe(false);
    expect([tiles.find('b', region), tiles.find('a', { ...region, x: 256 })]).toEqual([null, null]);
  });
  it('stay within the budget, the least recently used leaving first, but never what is in use', async () => {
    const tiles = store();
    const held = await tiles.take('held', region, 4, undefined, fill(1));
    for (let i = 0; i < 6; i++) {
      (await tiles.take(`tile ${i}`, region, 4, undefined, fill(i))).release();
      tiles.find('tile 0', region)?.release();
    }
    const there = (key: string) => {
      const lease = tiles.find(key, region);
      lease?.release();
      return lease !== null;
    };
    expect(['held', 'tile 0', 'tile 1', 'tile 2', 'tile 5'].map(there)).toEqual([true, true, false, false, true]);
    expect(tiles.bytesHeld).toBeLessThanOrEqual(4 * MB);
    expect([first(held.tile), held.tile.opaque]).toEqual([1, true]);
    // Everything in use may go beyond it, and comes back to it.
    const many = await Promise.all(Array.from({ length: 8 }, (_, i) => tiles.take(`many ${i}`, region, 4, undefined, fill(i))));
    expect(tiles.bytesHeld).toBeGreaterThanOrEqual(8 * MB);
    expect(many.map(({ tile }) => first(tile))).toEqual([0, 1, 2, 3, 4, 5, 6, 7]);
    for (const lease of [...many, held]) lease.release();
    tiles.forget();
    expect(tiles.bytesHeld).toBe(0);
  });
  it('where there is no memory, nothing is counted that was not given', async () => {
    let isShort = true;
    const tiles = new TileStore((bytes) => {
      if (isShort) throw new RangeError('Array buffer allocation failed');
      return new ArrayBuffer(bytes);
    }, 4 * MB);
    await expect(tiles.take('a', region, 4, undefined, fill(1))).rejects.toThrow(RangeError);
    expect(tiles.bytesHeld).toBe(0);
    isShort = false;
    expect(first((await tiles.take('a', region, 4, undefined, fill(2))).tile)).toBe(2);
  });
  it('what one gives up is made for the others; what fails may be tried again', async () => {
    const tiles = store();
    const abort = new AbortController();
    let fail: (error: Error) => void = () => undefined;
    const given = tiles.take('a', region, 4, abort.signal, () => new Promise((_, reject) => (fail = reject)));
    const waiting = tiles.take('a', region, 4, undefined, fill(3));
    abort.abort();
    fail(new Cancelled());
    await expect(given).rejects.toBeInstanceOf(Cancelled);
    expect(first((await waiting).tile)).toBe(3);
    await expect(tiles.take('b', region, 4, undefined, async () => Promise.reject(new Error('no')))).rejects.toThrow('no');
    expect(first((await tiles.take('b', region, 4, undefined, fill(5))).tile)).toBe(5);
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
    expect(pixelIdentity(a)).toBe(pixelIdentity({ ...a, id: 'source-9', name: 'other', role: 'beauty', encoding: 'display' }));
    expect(pixelIdentity(a)).not.toBe(pixelIdentity({ ...a, role: 'material-id' }));
    expect(pixelIdentity(a)).not.toBe(pixelIdentity({ ...a, colorChannels: ['G'] }));
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
