/** Scenes of known area, sampled 16 × 16 times a pixel, as a renderer samples them; the exact coverage is what the samples say. */
import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { srgbDecode, srgbEncode } from '../color/srgb.ts';
import type { Plane } from '../raster/planes.ts';
import { findPalette } from './palette.ts';
import { colorKey, colorKeyAt, type Rgb, sameColors } from './palette-keys.ts';
import { areasOf, type Mixture, NOTHING, unmix } from './unmix.ts';

const SIZE = 96;
const SAMPLES = 16;
type Scene = (x: number, y: number) => number;

const disc: Scene = (x, y) => ((x - 47.3) ** 2 + (y - 50.1) ** 2 < 30.4 ** 2 ? 1 : 0);
const slanted: Scene = (x, y) => (y > 20.2 + x * 0.37 ? 1 : 0);
/** Railings of 0.6 pixels on a ground, with a post that shows their colour pure. */
const railing: Scene = (x, y) => (x > 40 && x < 46 ? 1 : Math.abs(((x + y * 0.13) % 6) - 3) < 0.3 ? 1 : 0);
/** Slanted courses of bricks: three meet at every joint. */
const bricks: Scene = (x, y) => {
  const v = (y + x * 0.11 + 2.3) / 9;
  const course = Math.floor(v);
  return (Math.floor((x - y * 0.17 + (course % 2) * 7.6 + 200) / 15.2) + 2 * course) % 4;
};

function render(scene: Scene, colors: readonly Rgb[], space: 'linear' | 'display'): { planes: Plane[]; exact: Float64Array[] } {
  const exact = colors.map(() => new Float64Array(SIZE * SIZE));
  const data = [0, 1, 2].map(() => new Uint8Array(SIZE * SIZE));
  for (let i = 0; i < SIZE * SIZE; i++) {
    for (let s = 0; s < SAMPLES ** 2; s++) exact[scene((i % SIZE) + ((s % SAMPLES) + 0.5) / SAMPLES, Math.floor(i / SIZE) + (Math.floor(s / SAMPLES) + 0.5) / SAMPLES)][i] += 1 / SAMPLES ** 2;
    for (const c of [0, 1, 2]) {
      const mixed = colors.reduce((sum, rgb, k) => sum + exact[k][i] * (space === 'linear' ? srgbDecode(rgb[c] / 255) : rgb[c] / 255), 0);
      data[c][i] = Math.round(255 * (space === 'linear' ? srgbEncode(mixed) : mixed));
    }
  }
  return { planes: data.map((plane) => ({ type: 'u8', width: SIZE, height: SIZE, data: plane })), exact };
}

function coverageOf({ index, edges, parts, shares }: Mixture, color: number): Float64Array {
  const out = Float64Array.from(index, (value) => (value === color ? 1 : 0));
  for (const [k, i] of edges.entries()) {
    out[i] = 0;
    for (let n = 0; n < 3; n++) if (parts[k * 3 + n] === color) out[i] += shares[k * 3 + n] / 255;
  }
  return out;
}

/** Selecting by colour: all pixels within the tolerance that is common for soft files. */
const plainMatch = (planes: readonly Plane[], rgb: Rgb) => Float64Array.from({ length: SIZE * SIZE }, (_, i) => (planes.every(({ data }, c) => Math.abs(data[i] - rgb[c]) <= 32) ? 1 : 0));

function errors(found: Float64Array, exact: Float64Array, among: (i: number) => boolean): number {
  let [sum, count] = [0, 0];
  for (const [i, v] of exact.entries()) {
    if (!among(i)) continue;
    sum += Math.abs(v - found[i]);
    count++;
  }
  return sum / count;
}

const COLORS: readonly Rgb[] = [[40, 90, 200], [220, 60, 40], [50, 190, 80], [230, 200, 60]];
const keysOf = (planes: readonly Plane[], count: number) => COLORS.slice(0, count).map((rgb) => colorKey(planes, rgb));

describe.each(['linear', 'display'] as const)('colours that were averaged in %s values', (space) => {
  it.each([['a disc', disc], ['a slanted edge', slanted], ['a railing thinner than a pixel', railing]] as const)('%s: the coverage of edge pixels is within 0.01, and colour matching is several times worse', (_, scene) => {
    const { planes, exact } = render(scene, COLORS.slice(0, 2), space);
    const found = coverageOf(unmix(planes, keysOf(planes, 2)), 1);
    const edge = (i: number) => exact[1][i] > 0 && exact[1][i] < 1;
    const error = errors(found, exact[1], edge);
    expect(error).toBeLessThan(0.01);
    expect(errors(plainMatch(planes, COLORS[1]), exact[1], edge)).toBeGreaterThan(5 * error);
    expect(errors(found, exact[1], (i) => !edge(i))).toBe(0);
  });
  it('where three meet, it is within 0.03', () => {
    const { planes, exact } = render(bricks, COLORS, space);
    const mixture = unmix(planes, keysOf(planes, 4));
    const several = (i: number) => exact.filter((plane) => plane[i] > 0).length === 3;
    for (const color of [0, 1, 2, 3]) {
      const found = coverageOf(mixture, color);
      expect(errors(found, exact[color], several)).toBeLessThan(0.03);
      expect(errors(found, exact[color], (i) => exact[color][i] > 0 && exact[color][i] < 1 && exact.filter((plane) => plane[i] > 0).length === 2)).toBeLessThan(0.01);
    }
  });
  it('the areas are those of the samples', () => {
    const { planes, exact } = render(disc, COLORS.slice(0, 2), space);
    const areas = areasOf(unmix(planes, keysOf(planes, 2)), 2);
    expect(areas[1]).toBeCloseTo(exact[1].reduce((a, b) => a + b) / SIZE ** 2, 4);
    expect(areas[0] + areas[1]).toBeCloseTo(1, 10);
  });
});

it('shares of every pixel sum to one, whatever the picture holds (seed 5)', () => {
  const random = seeded(5);
  const planes = [0, 1, 2].map((): Plane => ({ type: 'u8', width: 40, height: 30, data: Uint8Array.from({ length: 1200 }, () => Math.floor(random() * 256)) }));
  const { edges, parts, shares, index } = unmix(planes, keysOf(planes, 4));
  for (let k = 0; k < edges.length; k++) expect(shares[k * 3] + shares[k * 3 + 1] + shares[k * 3 + 2]).toBe(255);
  expect(Math.max(...parts, ...index)).toBeLessThan(4);
});

it('noise in 32-bit floats: colours are found, and no pixel is lost', () => {
  const { planes } = render(disc, COLORS.slice(0, 2), 'linear');
  const random = seeded(6);
  const floats = planes.map(({ data, ...size }): Plane => ({ ...size, type: 'f32', data: Float32Array.from(data, (v) => v / 255 + random() * 1e-5) }));
  const { colors, mixture } = findPalette(floats, 'data');
  expect(colors.length).toBeGreaterThanOrEqual(2);
  expect(colors.reduce((sum, { area }) => sum + area, 0)).toBeCloseTo(1, 6);
  expect(mixture.index.length).toBe(SIZE ** 2);
});

/** A picture of a left part and noise to the right of it, with the keys of the left part's colours. */
function besideNoise(count: number, width: number, height: number, known: number): { planes: Plane[]; keys: number[] } {
  const random = seeded(8);
  const colors = Array.from({ length: count }, (): Rgb => [Math.floor(random() * 256), Math.floor(random() * 256), Math.floor(random() * 256)]);
  const picture = Array.from({ length: width * height }, (_, i): Rgb => {
    const [x, y] = [i % width, Math.floor(i / width)];
    if (x < known) return colors[(Math.floor(x / 5) + Math.floor(y / 5) * Math.ceil(known / 5)) % count];
    return [Math.floor(random() * 256), Math.floor(random() * 256), Math.floor(random() * 256)];
  });
  const planes = [0, 1, 2].map((c): Plane => ({ type: 'u8', width, height, data: Uint8Array.from(picture, (rgb) => rgb[c]) }));
  return { planes, keys: [...new Set(colors.map((rgb) => colorKey(planes, rgb)))] };
}

describe('small things without antialiasing', () => {
  const [grey, red, green, blue, far]: Rgb[] = [[120, 120, 120], [220, 30, 40], [30, 200, 60], [40, 60, 210], [240, 200, 20]];
  const picture = (colorAt: (x: number, y: number) => Rgb): Plane[] => [0, 1, 2].map((c) => ({ type: 'u8', width: SIZE, height: SIZE, data: Uint8Array.from({ length: SIZE * SIZE }, (_, i) => colorAt(i % SIZE, Math.floor(i / SIZE))[c]) }));
  it('a line of one pixel, a dot of nine and a sliver have rows of their own, and are covered exactly', () => {
    const at = (x: number, y: number): Rgb => (x > 80 && y > 80 ? far : y === 20 + Math.floor(x / 3) && x > 10 && x < 60 ? red : x >= 70 && x < 73 && y >= 10 && y < 13 ? green : x === 5 && y > 40 && y < 60 ? blue : grey);
    const planes = picture(at);
    const { colors, mixture } = findPalette(planes, 'data');
    expect(colors.map(({ key }) => key).toSorted()).toEqual([grey, red, green, blue, far].map((rgb) => colorKey(planes, rgb)).toSorted());
    for (const [row, { key }] of colors.entries()) {
      const wanted = Float64Array.from({ length: SIZE * SIZE }, (_, i) => (colorKeyAt(planes, i) === key ? 1 : 0));
      expect(errors(coverageOf(mixture, row), wanted, () => true)).toBe(0);
    }
  });
  it('one that is too small for a row smears onto no place far away', () => {
    // Four pixels of pink: nearer to the far yellow than to grey, and no mixture of anything.
    const planes = picture((x, y) => (x > 80 && y > 80 ? far : x >= 84 && y === 70 && x < 88 ? [250, 120, 200] : grey));
    const { colors, mixture } = findPalette(planes, 'data');
    expect(colors).toHaveLength(2);
    const yellow = colors.findIndex(({ key }) => key === colorKey(planes, far));
    for (let x = 84; x < 88; x++) expect(coverageOf(mixture, yellow)[70 * SIZE + x]).toBe(0);
  });
  it('edges of one coverage along a whole row are no things', () => {
    const planes = picture((_, y) => (y < 40 ? grey : y === 40 ? [170, 75, 80] : y < 70 ? red : y === 70 ? [130, 45, 125] : blue));
    expect(findPalette(planes, 'data').colors).toHaveLength(3);
  });
});

it('places that show none of the known colours far and wide belong to nothing', () => {
  const { planes, keys } = besideNoise(2, 200, 64, 110);
  const { index, edges } = unmix(planes, keys);
  expect(index[10 * 200 + 20]).toBeLessThan(2);
  expect(index[10 * 200 + 190]).toBe(NOTHING);
  for (const i of edges) expect(i % 200).toBeLessThan(160);
  expect(areasOf(unmix(planes, keys), 2).reduce((a, b) => a + b, 0)).toBeLessThan(0.81);
});

it('thousands of colours beside thousands of unknown pixels come to an end', () => {
  const { planes, keys } = besideNoise(4000, 600, 300, 400);
  const areas = areasOf(unmix(planes, keys), keys.length);
  expect(areas.reduce((a, b) => a + b, 0)).toBeGreaterThan(0.66);
}, 20_000);

it('pixels have the same colour exactly if they have the same key, in every type and mixture of types (seed 9)', () => {
  const random = seeded(9);
  const count = 400;
  const plane = (type: 'u8' | 'u16' | 'f16' | 'f32' | 'u32'): Plane => {
    const value = () => Math.floor(random() * 3);
    const data =
      type === 'u8' ? Uint8Array.from({ length: count }, value)
      : type === 'f32' ? Float32Array.from({ length: count }, () => value() + random() * 1e-6)
      : type === 'u32' ? Uint32Array.from({ length: count }, () => value() * 70_000)
      : Uint16Array.from({ length: count }, value);
    return { type, width: count, height: 1, data };
  };
  const pictures = [[plane('u8'), plane('u8'), plane('u8')], [plane('f16'), plane('f16'), plane('f16')], [plane('f32'), plane('f32'), plane('f32')], [plane('u16'), plane('f32'), plane('u8')], [plane('u32')], [plane('f32')], [plane('u16')]];
  for (const planes of pictures) {
    const isSame = sameColors(planes);
    for (let i = 1; i < count; i++) expect(isSame(i, i - 1), `${planes.map(({ type }) => type)} at ${i}`).toBe(colorKeyAt(planes, i) === colorKeyAt(planes, i - 1));
  }
});
