/**
 * ID pictures that were saved as JPEG, by libjpeg-turbo (through sharp) in several qualities, with colour at full and at half the resolution. The exact
 * coverage is known, because the scene is our own. Compared with selecting by colour at the tolerance that is common for soft files (32 of 255).
 */
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import type { Plane } from '../raster/planes.ts';
import { findPalette } from './palette.ts';
import type { Rgb } from './palette-keys.ts';
import type { Mixture } from './unmix.ts';

const [WIDTH, HEIGHT, SAMPLES] = [480, 320, 4];
const COUNT = 12;

type Inside = (x: number, y: number) => boolean;
const box = (left: number, top: number, right: number, bottom: number): Inside => (x, y) => x > left && x < right && y > top && y < bottom;

/** Ground, house, roof, windows, doors, trees, a post, a railing, a pond, a sign: large, small, round, slanted and thin. */
function scene(random: () => number): (x: number, y: number) => number {
  const shapes: (readonly [thing: number, inside: Inside])[] = [
    [1, (x, y) => y > 200 + x * 0.05],
    [2, box(60, 90, 300, 230)],
    [3, (x, y) => x > 60 && x < 300 && y < 90 && y > 90 - (120 - Math.abs(x - 180)) * 0.4],
    ...Array.from({ length: 6 }, (_, i) => [4, box(80 + i * 36, 110, 100 + i * 36, 140)] as const),
    ...Array.from({ length: 6 }, (_, i) => [5, box(80 + i * 36, 160, 100 + i * 36, 190)] as const),
    [6, box(165, 170, 195, 230)],
    ...Array.from({ length: 14 }, () => {
      const [cx, cy, r] = [330 + random() * 130, 110 + random() * 90, 6 + random() * 20];
      return [7, (x: number, y: number) => (x - cx) ** 2 + (y - cy) ** 2 < r * r] as const;
    }),
    [8, box(385, 150, 392, 240)],
    [9, (x, y) => box(30, 250, 420, 280)(x, y) && Math.abs(((x + y * 0.1) % 9) - 4) < 1.1],
    [9, box(30, 246, 420, 250.5)],
    [10, (x, y) => ((x - 240) / 70) ** 2 + ((y - 300) / 14) ** 2 < 1],
    [11, box(440, 20, 470, 60)],
  ];
  return (x, y) => shapes.reduce((found, [thing, inside]) => (inside(x, y) ? thing : found), 0);
}

function render(seed: number): { pixels: Uint8Array; colors: Rgb[]; exact: Float32Array[] } {
  const random = seeded(seed);
  const colors: Rgb[] = [];
  while (colors.length < COUNT) {
    const color: Rgb = [Math.floor(random() * 256), Math.floor(random() * 256), Math.floor(random() * 256)];
    if (colors.every((other) => Math.hypot(...other.map((v, c) => v - color[c])) > 70)) colors.push(color);
  }
  const thingAt = scene(random);
  const exact = colors.map(() => new Float32Array(WIDTH * HEIGHT));
  const pixels = new Uint8Array(WIDTH * HEIGHT * 3);
  for (let i = 0; i < WIDTH * HEIGHT; i++) {
    for (let s = 0; s < SAMPLES ** 2; s++) exact[thingAt((i % WIDTH) + ((s % SAMPLES) + 0.5) / SAMPLES, Math.floor(i / WIDTH) + (Math.floor(s / SAMPLES) + 0.5) / SAMPLES)][i] += 1 / SAMPLES ** 2;
    for (const c of [0, 1, 2]) pixels[i * 3 + c] = Math.round(colors.reduce((sum, color, k) => sum + exact[k][i] * color[c], 0));
  }
  return { pixels, colors, exact };
}

async function asJpeg(pixels: Uint8Array, quality: number, chromaSubsampling: string): Promise<Plane[]> {
  const file = await sharp(pixels, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } }).jpeg({ quality, chromaSubsampling }).toBuffer();
  const raw = await sharp(file).raw().toBuffer();
  return [0, 1, 2].map((c) => ({ type: 'u8', width: WIDTH, height: HEIGHT, data: Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => raw[i * 3 + c]) }));
}

function coverageOf({ index, edges, each, parts, shares }: Mixture, row: number): Float32Array {
  const out = Float32Array.from(index, (value) => (value === row ? 1 : 0));
  for (const [k, i] of edges.entries()) {
    out[i] = 0;
    for (let n = k * each; n < (k + 1) * each; n++) if (parts[n] === row) out[i] += shares[n] / 255;
  }
  return out;
}

/** Mean errors of coverage over edge pixels and over all, ours and by plain matching. */
function judge({ colors, exact }: ReturnType<typeof render>, planes: readonly Plane[], { colors: rows, mixture }: ReturnType<typeof findPalette>) {
  const sums = { edge: 0, edges: 0, all: 0, plain: 0, lost: 0 };
  for (const [k, color] of colors.entries()) {
    const distances = rows.map(({ rgb }) => Math.hypot(...rgb.map((v, c) => v * 255 - color[c])));
    const row = distances.indexOf(Math.min(...distances));
    if (distances[row] > 30) sums.lost++;
    const found = coverageOf(mixture, row);
    for (let i = 0; i < found.length; i++) {
      const share = exact[k][i];
      const error = Math.abs(found[i] - share);
      sums.all += error;
      sums.plain += Math.abs((planes.every(({ data }, c) => Math.abs(data[i] - color[c]) <= 32) ? 1 : 0) - share);
      if (share <= 0.01 || share >= 0.99) continue;
      sums.edge += error;
      sums.edges++;
    }
  }
  return { edge: sums.edge / sums.edges, all: sums.all, plain: sums.plain, lost: sums.lost, rows: rows.length };
}

const renders = new Map([1, 2].map((seed) => [seed, render(seed)]));

describe.each([
  [92, 0.12],
  [85, 0.2],
  [75, 0.25],
])('quality %i', (quality, limit) => {
  it(`edges are within ${limit} on average, all pixels nearer than by matching, and rows are things (seeds 1 and 2)`, async () => {
    const edges: number[] = [];
    for (const [seed, made] of renders) {
      for (const sampling of ['4:4:4', '4:2:0']) {
        const planes = await asJpeg(made.pixels, quality, sampling);
        const found = judge(made, planes, findPalette(planes, 'data', true));
        edges.push(found.edge);
        expect(found.all, `seed ${seed}, ${sampling}`).toBeLessThan(found.plain);
        expect(found.lost, `seed ${seed}, ${sampling}`).toBe(0);
        expect(found.rows - COUNT, `seed ${seed}, ${sampling}`).toBeLessThanOrEqual(sampling === '4:4:4' ? 0 : 3);
      }
    }
    expect(edges.reduce((a, b) => a + b) / edges.length).toBeLessThanOrEqual(limit);
  }, 60_000);
});
