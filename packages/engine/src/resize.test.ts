import { resamplingFilters } from '@tazzel/core';
import { expect, it } from 'vitest';
import { builtKernels } from '../../../tests/built.ts';
import { resizePicture } from './resize.ts';

const [from, to] = [{ width: 40, height: 40 }, { width: 20, height: 20 }];
const all = { first: 0, end: to.height };
/** Columns of black and white, each a pixel wide. */
const stripes = (alpha = 65535) => Uint16Array.from({ length: 40 * 40 * 4 }, (_, i) => (i % 4 === 3 ? alpha : (i >> 2) % 2 === 0 ? 0 : 65535));

it.each(Object.keys(resamplingFilters) as (keyof typeof resamplingFilters)[])('stripes of black and white become the code of half the light, not half the code (%s)', async (filter) => {
  const kernels = await builtKernels();
  const codes = new Uint8Array(20 * 20 * 4);
  resizePicture({ pixels: stripes().buffer, kind: 'rgba16', from, to, filter, into: { kind: 'rgba8', dither: false, space: 'srgb' }, rows: all, output: codes.buffer }, kernels);
  // IEC 61966-2-1: half the light is 188.
  const middle = codes.subarray((10 * 20 + 10) * 4, (10 * 20 + 10) * 4 + 4);
  expect([...middle].map((value, c) => Math.abs(value - [188, 188, 188, 255][c]) <= 1)).toEqual([true, true, true, true]);
  const words = new Uint16Array(20 * 20 * 4);
  resizePicture({ pixels: stripes(32768).buffer, kind: 'rgba16', from, to, filter, into: { kind: 'rgba16', dither: false, space: 'srgb' }, rows: all, output: words.buffer }, kernels);
  expect(words[(10 * 20 + 10) * 4 + 3]).toBe(32768);
  expect(Math.abs(words[(10 * 20 + 10) * 4] / 257 - 188)).toBeLessThan(1);
});

it('what is not there gives no colour to what is; light stays light', async () => {
  const kernels = await builtKernels();
  // The left half is white and there, the right half is red and not there.
  const pixels = Uint16Array.from({ length: 40 * 40 * 4 }, (_, i) => ((i >> 2) % 40 < 20 ? 65535 : i % 4 === 0 ? 65535 : 0));
  const codes = new Uint8Array(20 * 20 * 4);
  resizePicture({ pixels: pixels.buffer, kind: 'rgba16', from, to, filter: 'mitchell', into: { kind: 'rgba8', dither: false, space: 'srgb' }, rows: all, output: codes.buffer }, kernels);
  for (let x = 0; x < 20; x++) {
    const [r, g, b, alpha] = codes.subarray((5 * 20 + x) * 4, (5 * 20 + x) * 4 + 4);
    if (alpha > 8) expect([r, g, b]).toEqual([255, 255, 255]);
  }
  const light = new Float32Array(40 * 40 * 4).fill(1, 40 * 40 * 3);
  light.fill(37.5, 0, 1600);
  const small = new Float32Array(20 * 20 * 4);
  resizePicture({ pixels: light.buffer, kind: 'float', from, to, filter: 'lanczos', into: { kind: 'float', dither: false, space: 'srgb' }, rows: all, output: small.buffer }, kernels);
  expect([small[210], small[610], small[1410]].map((value) => Number(value.toFixed(4)))).toEqual([37.5, 0, 1]);
});

it('in parts it is what it is as a whole', async () => {
  const kernels = await builtKernels();
  const made = (parts: readonly (typeof all)[]) => {
    const output = new ArrayBuffer(23 * 31 * 4);
    for (const rows of parts) resizePicture({ pixels: stripes().map((value, i) => (value * (i % 977)) / 977).buffer, kind: 'rgba16', from, to: { width: 23, height: 31 }, filter: 'lanczos', into: { kind: 'rgba8', dither: true, space: 'srgb' }, rows, output }, kernels);
    return new Uint8Array(output);
  };
  expect(made([{ first: 20, end: 31 }, { first: 0, end: 7 }, { first: 7, end: 20 }])).toEqual(made([{ first: 0, end: 31 }]));
});
