import { apertureTaps, type Air, type Backend, blendModes, cameraOf, type ColorRegisters, correctionBlends, corrections, directionOf, gaussianWeights, halfToFloat, halvesToText, inOutputSpace, LARGEST_LIGHT, newTone, type OutputSpaceId, outputSpaces, packedLut, PLACE_NUMBERS, type Pixels, type Plane, plannedTone, planeView, prepareAir, prepareFill, referenceBackend, type Register, srgbDecode, srgbEncode, tones, viewOfCamera } from '@tazzel/core';
import { beforeAll, describe, expect, it } from 'vitest';
import { builtKernels } from '../../../tests/built.ts';
import { expectClose } from '../../../tests/close.ts';
import { seeded } from '../../../tests/random.ts';
import type { Kernels } from './kernels.ts';

let kernels: Kernels;
const reference = referenceBackend(4096);
beforeAll(async () => {
  kernels = await builtKernels();
});

/** Odd on purpose: whole vectors and a rest. */
const COUNT = 1027;
type Fill = (i: number, random: () => number) => number;
const EDGES = [0, 1, 0.5, 0.25, 1e-6, 1e-7, 1 - 1e-7, 0.50001, 0.0031308, 0.04045];
const unit: Fill = (i, random) => (i < EDGES.length ? EDGES[i] : random());
const light: Fill = (i, random) => (i < EDGES.length ? EDGES[i] : random() < 0.1 ? -random() : random() * 40);

/** A backend's registers live as long as it does, so the tests share some of each. */
const pools = new Map<object, Register[]>();
function pool(backend: { register(): Register }): Register[] {
  const known = pools.get(backend) ?? Array.from({ length: 20 }, () => backend.register());
  pools.set(backend, known);
  return known;
}

function registers(backend: { register(): Register }, seed: number, fills: readonly Fill[]): Register[] {
  return fills.map((fill, k) => {
    const random = seeded(seed + k);
    const register = pool(backend)[k];
    for (let i = 0; i < COUNT; i++) register.values[i] = fill(i, random);
    return register;
  });
}
const numbers = (registersOf: readonly Register[]) => registersOf.map((register) => [...register.values.subarray(0, COUNT)]);
const triple = (list: readonly Register[], from = 0) => [list[from], list[from + 1], list[from + 2]] as unknown as ColorRegisters;

describe('blend loops equal their definitions', () => {
  for (const mode of blendModes) {
    for (const zone of ['picture', 'scene'] as const) {
      if (mode[zone] === null) continue;
      it(`${mode.id}, ${zone}`, () => {
        const value = zone === 'picture' ? unit : light;
        for (const opaque of [false, true]) {
          const alphaFill: Fill = opaque ? () => 1 : unit;
          const results = [reference, kernels].map((backend) => {
            const list = registers(backend, 77, [value, value, value, alphaFill, value, value, value, unit]);
            // Premultiplied colours cannot exceed their alpha.
            for (let c = 0; c < 3; c++) for (let i = 0; i < COUNT; i++) list[c].values[i] *= list[3].values[i];
            backend.blend(mode.id, zone, triple(list), list[3], triple(list, 4), list[7], COUNT, opaque);
            return numbers(list.slice(0, 4));
          });
          for (let c = 0; c < 4; c++) expectClose(results[1][c], results[0][c], zone === 'scene' ? 4e-6 : 2e-5, `seed 77, opaque ${opaque}, channel ${c}`);
        }
      });
    }
  }
});

describe('corrections equal their definitions', () => {
  for (const correction of corrections) {
    it.each(correction.examples)(`${correction.id} %o`, (params) => {
      if (correction.work !== 'points') return;
      const prepared = correction.prepare(params, { width: 3000, height: 2000 });
      const [expected, actual] = [reference, kernels].map((backend) => {
        const coordinate: Fill = (_, random) => random() * 3000;
        // What is asked for picture values is given no others.
        const value: Fill = correction.domain === 'display' ? (_, random) => random() : light;
        const list = registers(backend, 5, [value, value, value, coordinate, coordinate, ...(correction.reads ?? []).flatMap(() => [light, light, light])]);
        const others = (correction.reads ?? []).map((_, i) => triple(list, 5 + 3 * i));
        backend.correct({ type: correction.id, prepared, tableKey: `${correction.id} ${JSON.stringify(params)}` }, triple(list), COUNT, [list[3], list[4]], others, 2);
        return numbers(list.slice(0, 3));
      });
      // Matrices mix the channels, so a pixel's error is measured by its brightest one.
      const scale = expected[0].map((_, i) => Math.max(1, ...expected.map((channel) => Math.abs(channel[i]))));
      const scaled = (channel: readonly number[]) => channel.map((v, i) => v / scale[i]);
      // Steep passages multiply the rounding of where a hue lies, and of where a place lies among grains.
      const tolerance = { 'hue-families': 8e-5, grain: 2e-4 }[correction.id] ?? 5e-6;
      for (let c = 0; c < 3; c++) expectClose(scaled(actual[c]), scaled(expected[c]), tolerance, `seed 5, channel ${c}`);
    });
  }
});

describe('tones equal their definitions', () => {
  for (const { id, params, examples } of tones) {
    for (const carries of 'carries' in params ? ['channels', 'brightest'] : [null]) {
      it.each(examples)(`${id}, ${carries} %o`, (example) => {
        const tone = plannedTone(newTone(id, { ...example, ...(carries ? { carries } : {}) }));
        const [expected, actual] = [reference, kernels].map((backend) => {
          const list = registers(backend, 17, [light, light, light]);
          backend.tone(tone, triple(list), COUNT);
          return numbers(list);
        });
        for (let c = 0; c < 3; c++) expectClose(actual[c], expected[c], 1e-5, `seed 17, channel ${c}`);
      });
    }
  }
});

describe('blends of corrections equal their definitions', () => {
  for (const zone of ['scene', 'picture'] as const) {
    it.each(correctionBlends.map(({ id }) => id))(`%s, ${zone}`, (id) => {
      const value: Fill = zone === 'picture' ? (_, random) => random() : light;
      const dark: Fill = (i, random) => (i % 7 === 0 ? 0 : value(i, random));
      const [expected, actual] = [reference, kernels].map((backend) => {
        const list = registers(backend, 6, [value, dark, value, dark, dark, dark]);
        backend.join(id, zone, triple(list), triple(list, 3), COUNT);
        return numbers(list);
      });
      // What was there is left alone.
      for (let c = 0; c < 3; c++) expect(actual[c]).toEqual(expected[c]);
      // A colour of almost no light may become very bright: its brightest channel is the measure.
      const scale = expected[0].map((_, i) => Math.max(1, ...expected.slice(3).map((channel) => Math.abs(channel[i]))));
      for (let c = 3; c < 6; c++) expectClose(actual[c].map((v, i) => v / scale[i]), expected[c].map((v, i) => v / scale[i]), 1e-5, `channel ${c}`);
    });
  }
});

describe('tables', () => {
  // Exposure reads the first ten of its numbers; the others only make a table of it.
  const table = (factor: number, length = 1024) => {
    const made = Float32Array.from({ length }, (_, i) => i);
    made.set([factor, 0, 1, factor, 0, 1, factor, 0, 1, 1]);
    return made;
  };
  const once = (prepared: Float32Array, tableKey: string) => {
    const list = registers(kernels, 5, [() => 3, () => 3, () => 3]);
    kernels.correct({ type: 'exposure', prepared, tableKey }, triple(list), COUNT, null, [], 1);
    return list[0].values[7];
  };
  it('are uploaded once under their key, and again when there was no more room', () => {
    expect(once(table(2), 'two')).toBe(6);
    expect(once(table(5), 'two')).toBe(6);
    expect(once(table(5), 'five')).toBe(15);
    for (let i = 0; i < 300; i++) expect(once(table(i, 16_384), `table ${i}`)).toBe(3 * i);
    expect(once(table(4), 'two')).toBe(12);
  });
  it('leave everything else alone', () => {
    const before = registers(kernels, 9, Array.from({ length: 6 }, () => light)).slice(3);
    const copies = numbers(before);
    once(table(2, 2_000_000), 'large');
    expect(numbers(before)).toEqual(copies);
    expect(() => once(table(2, 2_200_000), 'too large')).toThrow(/2200000 numbers/);
  });
});

it('a table over all halves: every half, what lies between them, and what is none', () => {
  const values = halvesToText(Array.from({ length: 3 * 65536 }, (_, i) => ((i * 2654435761) % 4096) / 1024 - 2));
  const prepared = packedLut({ name: 'Halves', steps: [{ kind: 'halves', values }] });
  const at: Fill = (i) => (i < 8 ? [0, -0, Number.NaN, Number.POSITIVE_INFINITY, -1e9, 65504, 2 ** -14, 2 ** -25][i] : halfToFloat((i * 61) % 31744) * (i % 2 ? 1 : -1.0002));
  const [a, b] = [reference, kernels].map((backend) => {
    const list = registers(backend, 3, [at, at, at]);
    backend.correct({ type: 'lut-file', prepared, tableKey: 'all halves' }, triple(list), COUNT, null, [], 1);
    return numbers(list);
  });
  for (let c = 0; c < 3; c++) expectClose(b[c], a[c], 2e-6, `${c}`);
});

describe('both ends of coverage are exact, so that spans of any length give the same', () => {
  const bright: Fill = (_, random) => random() * 40;
  const whole: Fill = () => 1;
  it('in blends: full coverage over an opaque picture is what takes its place, told so or not', () => {
    for (const { id, scene } of blendModes) {
      if (!scene) continue;
      const [told, found] = [true, false].map((opaque) => {
        const list = registers(kernels, 23, [bright, bright, bright, whole, bright, bright, bright, (i, random) => (i % 3 === 0 ? 1 : random())]);
        kernels.blend(id, 'scene', triple(list), list[3], triple(list, 4), list[7], COUNT, opaque);
        return numbers(list.slice(0, 4));
      });
      expect(found, id).toEqual(told);
    }
    const list = registers(kernels, 23, [bright, bright, bright, (_, random) => random(), bright, bright, bright, whole]);
    kernels.blend('normal', 'scene', triple(list), list[3], triple(list, 4), list[7], COUNT, false);
    expect(numbers(list.slice(0, 4))).toEqual([...numbers(list.slice(4, 7)), numbers([list[7]])[0]]);
  });
  it('in mixes: none leaves what was there, all is what was made', () => {
    for (const weight of [0, 1]) {
      const list = registers(kernels, 29, [bright, bright, bright, bright, bright, bright, () => weight]);
      const expected = numbers(weight === 0 ? list.slice(0, 3) : list.slice(3, 6));
      kernels.mix(triple(list), triple(list, 3), list[6], COUNT);
      expect(numbers(list.slice(0, 3))).toEqual(expected);
    }
  });
});

describe('loops across pixels equal their definitions', () => {
  const random = seeded(31);
  const plane = (length: number) => Float32Array.from({ length }, () => random() * 4 - 1);
  /** Bad numbers, and what they count as. */
  const bad = (length: number) => Float32Array.from({ length }, (_, i) => [Number.NaN, Number.POSITIVE_INFINITY, -1e30, 0.5][(i * 7) % 4]);
  const counted = (values: Float32Array) => values.map((value) => (Number.isNaN(value) ? 0 : Math.min(65504, Math.max(-65504, value))));
  const made = (length: number, work: (out: Float32Array) => void) => {
    const out = new Float32Array(length);
    work(out);
    return out;
  };
  const both = (work: (backend: Backend) => Float32Array) => [reference, kernels].map((backend) => [...work(backend)]);
  it.each([[1, 1], [5, 3], [16, 16], [37, 12], [130, 65]])('halving to %i × %i', (width, height) => {
    const from = plane((2 * width + 2) * (2 * height + 2));
    const [expected, actual] = both((backend) => made(width * height, (out) => backend.halve(out, from, width, height)));
    expectClose(actual, expected, 1e-5);
  });
  it.each([[1, 1, 0.5], [5, 3, 1.2], [64, 64, 2.5], [37, 12, 5]])('convolving %i × %i, σ %f', (width, height, sigma) => {
    const weights = gaussianWeights(sigma);
    const from = plane((width + weights.length - 1) * (height + weights.length - 1));
    const [expected, actual] = both((backend) => made(width * height, (out) => backend.convolve(out, from, width, height, weights)));
    expectClose(actual, expected, 1e-5);
  });
  it.each([[1, 5, 3], [2, 64, 40], [4, 100, 33]])('enlarging by %i halvings to %i × %i', (by, width, height) => {
    const region = { x: 13, y: -2, width, height };
    const coarse = { x: Math.floor(13.5 / 2 ** by - 0.5) - 1, y: Math.floor(-1.5 / 2 ** by - 0.5) - 1, width: Math.ceil(width / 2 ** by) + 5, height: Math.ceil(height / 2 ** by) + 5 };
    const from = Float32Array.from({ length: coarse.width * coarse.height }, () => random() * 4 - 1);
    const [expected, actual] = both((backend) => made(2 * width * height, (out) => backend.enlarge(out, Float32Array.of(...from, ...from), coarse, region, by)));
    expectClose(actual, expected, 1e-5);
  });
  it('NaN counts as 0, and what is beyond ±65504 as that', () => {
    const from = bad(18 * 14);
    for (const backend of [reference, kernels]) {
      const halved = (values: Float32Array) => [...made(48, (out) => backend.halve(out, values, 8, 6))];
      const convolved = (values: Float32Array) => [...made(140, (out) => backend.convolve(out, values, 14, 10, gaussianWeights(0.5)))];
      expect(halved(from)).toEqual(halved(counted(from)));
      expect(convolved(from)).toEqual(convolved(counted(from)));
    }
  });
  it('fills: plain, along a line, around a point', () => {
    const [from, to] = [[0.2, 1.5, -0.1, 1], [4, 0, 0.3, 0]] as const;
    for (const shape of ['plain', 'linear', 'radial'] as const) {
      for (const end of [[900, 400], [100, 100]] as const) {
        const prepared = prepareFill({ shape, from, to, start: [100, 100], end });
        const [expected, actual] = [reference, kernels].map((backend) => {
          const list = registers(backend, 8, [() => 0, () => 0, () => 0, () => 0, (_, r) => r() * 1500, (_, r) => r() * 1000]);
          backend.generate('fill', prepared, triple(list), list[3], COUNT, [list[4], list[5]], [], 1);
          return numbers(list.slice(0, 4));
        });
        // Where hardly anything is left, the colour under it is not exact.
        const seen = (list: readonly number[][], c: number) => list[c].map((value, i) => (c < 3 ? value * list[3][i] : value));
        for (let c = 0; c < 4; c++) expectClose(seen(actual, c), seen(expected, c), 1e-6, `${shape} ${c}`);
      }
    }
  });
});

describe('loops of air equal their definitions', () => {
  const air = (patch: Partial<Air>): Air => ({ visibilityMetres: 400, startMetres: 3, endMetres: null, groundMetres: -2, fallOffMetres: 15, ceilingMetres: 30, color: [0.6, 0.7, 0.8], glow: [0.3, 0.2, 0.1], forwardness: 0.76, shafts: 0, sky: 0.7, mist: 0, mistMetres: 25, seed: 1, blue: 0, ...patch });
  const view = viewOfCamera(cameraOf({ from: 'hand', params: { tiltDegrees: -3, rollDegrees: 4, headingDegrees: 30, heightMetres: 1.7 } }), { width: 1500, height: 1000 });
  const sun = directionOf({ azimuthDegrees: 50, altitudeDegrees: 15 });
  const metres: Fill = (i, random) => [0, -1, Number.POSITIVE_INFINITY, 65504, 49_999, 50_001, 1e-3, 3][i] ?? random() ** 4 * 3000;
  it.each([
    ['as it is', {}, { view, sun }],
    ['even, without an end', { fallOffMetres: null, ceilingMetres: null }, { view, sun }],
    ['a thin sheet below the eye', { fallOffMetres: 0.5, ceilingMetres: 1, groundMetres: 0 }, { view, sun }],
    ['from above', { ceilingMetres: 5, groundMetres: -40 }, { view, sun }],
    ['without camera and sun', {}, { view: null, sun: null }],
    ['blue with distance', { blue: 1.4 }, { view, sun, readsBelow: true }],
    ['in banks', { mist: 0.8, mistMetres: 12, seed: 3 }, { view, sun }],
    ['in banks, without an end', { mist: 1, mistMetres: 300, fallOffMetres: null, ceilingMetres: null }, { view, sun }],
    ['ending, with shafts', { endMetres: 60, shafts: 0.7 }, { view, sun }],
    ['very clear', { visibilityMetres: 277_000, fallOffMetres: 1000 }, { view, sun }],
  ] as const)('%s', (_label, patch, sight) => {
    for (const areDepths of [false, true]) {
      for (const hasAlpha of [false, true]) {
        const prepared = prepareAir(air(patch), { readsBelow: false, ...sight, areDepths, hasAlpha });
        const [expected, actual] = [reference, kernels].map((backend) => {
          const list = registers(backend, 5, [() => 0, () => 0, () => 0, () => 0, (_, r) => r() * 1500, (_, r) => r() * 1000, metres, metres, (i, r) => (i % 3 === 0 ? r() : 0), (i, r) => (i % 4 === 0 ? r() * 1.2 - 0.1 : 1), unit, unit, unit, unit, unit, unit, unit, unit]);
          backend.generate('air', prepared, triple(list), list[3], COUNT, [list[4], list[5]], [triple(list, 6), triple(list, 9), triple(list, 12), triple(list, 15)], 1);
          return numbers(list.slice(0, 4));
        });
        // Banks are read at places in single precision, far away as well.
        for (let c = 0; c < 4; c++) expectClose(actual[c], expected[c], 'mist' in patch ? 4e-3 : c === 3 ? 3e-6 : 2e-5, `${c}`);
      }
    }
  });
  it('near and far of edges (seed 12)', () => {
    const random = seeded(12);
    for (const [width, height] of [[13, 7], [4, 1], [1, 5], [64, 9]]) {
      const from = Float32Array.from({ length: (width + 2) * (height + 2) }, () => (random() < 0.5 ? 5 + random() * 0.1 : random() < 0.1 ? 65504 : random() * 300));
      const [expected, actual] = [reference, kernels].map((backend) => {
        const out = new Float32Array(3 * width * height);
        backend.sides(out, from, width, height);
        return [...out];
      });
      expectClose(actual, expected, 1e-6);
    }
  });
  it('samples at any place (seed 14)', () => {
    const random = seeded(14);
    const [across, down] = [19, 11];
    const from = Float32Array.from({ length: across * down }, () => (random() < 0.03 ? [Number.NaN, 1e9, -1e9][Math.floor(random() * 3)] : random() * 4));
    const [u, v] = [Float32Array.from({ length: 101 }, (_, i) => (i < 3 ? 5.5 : 2 + random() * (across - 4))), Float32Array.from({ length: 101 }, (_, i) => (i < 3 ? 4.5 : 2 + random() * (down - 4)))];
    const [expected, actual] = [reference, kernels].map((backend) => {
      const out = new Float32Array(101);
      backend.sample(out, from, across, u, v);
      return [...out];
    });
    expectClose(actual, expected, 1e-5);
    expect(actual[0]).toBe(Number.isNaN(from[4 * across + 5]) ? 0 : Math.min(65504, Math.max(-65504, from[4 * across + 5])));
  });
  it('what lies around, at any place (seed 15)', () => {
    const random = seeded(15);
    const [width, height] = [17, 9];
    const from = Float32Array.from({ length: 3 * width * height }, () => random() * 4);
    // At its seam, at its poles, and beyond.
    const [u, v] = [Float32Array.from({ length: 203 }, (_, i) => [0, 0.25, width, width - 0.25][i] ?? random() * width), Float32Array.from({ length: 203 }, (_, i) => [0, height, -3, height + 2][i] ?? random() * height)];
    for (const isWhole of [true, false]) {
      const [expected, actual] = [reference, kernels].map((backend) => {
        const out = new Float32Array(3 * 203);
        backend.around([out.subarray(0, 203), out.subarray(203, 406), out.subarray(406)], from, width, height, isWhole, u, v);
        return [...out];
      });
      expectClose(actual, expected, 2e-5);
    }
  });
  it('a picture at several sizes, at any place and blur (seed 16)', () => {
    const random = seeded(16);
    // Rectangles of 40 × 24 pixels and what is half of that, and half again; the last but one is not there.
    const sizes = [0, 1, 2, 3].map((k) => {
      const [width, height] = k === 2 ? [0, 0] : [40 >> k, 24 >> k];
      return { planes: Float32Array.from({ length: 4 * width * height }, () => random() * 4), x: 5 >> k, y: 3 >> k, width, height, scale: 2 ** (k + 1) };
    });
    const odd = [Number.NaN, Number.POSITIVE_INFINITY, 0, -5, 1e9];
    const [u, v] = [90, 60].map((most) => Float32Array.from({ length: 205 }, (_, i) => odd[i] ?? random() * most));
    const wide = Float32Array.from({ length: 205 }, (_, i) => odd[(i + 3) % 200] ?? (i % 4 === 0 ? 2 ** (1 + (i % 5)) : 1.5 * 2 ** (random() * 5)));
    for (const planes of [1, 4]) {
      const [expected, actual] = [reference, kernels].map((backend) => {
        const out = new Float32Array(planes * 205);
        backend.sized(out, sizes, u, v, wide, { u: 0.25, v: -1.5, blur: planes === 1 ? 3 : 0 });
        return [...out];
      });
      expectClose(actual, expected, 2e-5);
      expect(expected.filter((value) => value > 0).length).toBeGreaterThan(50 * planes);
    }
  });
  it('places on cards, what hides them, and their colours (seed 17)', () => {
    const random = seeded(17);
    const [region, part] = [{ x: 100, y: 60, width: 40, height: 30 }, { x: 104, y: 61, width: 31, height: 27 }];
    const area = region.width * region.height;
    const noise = (planes: number, of: () => number) => Float32Array.from({ length: planes * area }, of);
    const sides = Float32Array.from({ length: 3 * area }, (_, i) => (i >= 2 * area ? Math.max(0, random() - 0.5) * 2 : random() < 0.1 ? 0 : random() < 0.05 ? 60_000 : 4 + random() * 4));
    const box = { x: 3, y: 2, width: 50, height: 90 };
    const lens = { left: 120, top: 75, per: 1 / 300 };
    // Beyond column 130 the card is behind, and from column 133 on it is folded away.
    const card = { u: [0, -235, 2.2, 0.1], v: [0, -170, 0.05, 3], share: [0, 4, -0.03, 0], perMetre: [0, 0.9, -0.0069, 0], box, widePerMetre: 0.7, lens } as const;
    const shines = noise(3, () => random() * 2 - 0.5);
    const form = { steady: [1, 0.5, 0.25], sunny: [2, 3, 4], cos: Math.cos(0.3), sin: Math.sin(0.3), side: -1, towards: [0.3, 0.5, 0.8], modelling: 0.7 } as const;
    const [slopes, under] = [noise(2, () => random() * 2 - 1), noise(4, random)];
    for (const there of [sides, null]) {
      const [expected, actual] = [reference, kernels].map((backend) => {
        const list = new Float32Array(PLACE_NUMBERS * part.width * part.height);
        const { count, ...within } = backend.met(list, card, part, region);
        const [alpha, visible] = [Float32Array.from({ length: count }, (_, i) => (i % 7 === 0 ? 0 : (i % 11) / 11)), new Float32Array(count)];
        const kept = backend.shown(list, count, alpha, visible, there);
        const colors = Float32Array.from({ length: 4 * kept }, (_, i) => ((i * 7) % 13) / 13);
        backend.lit(colors, kept, there && slopes.slice(0, 2 * kept), form);
        const out = under.slice();
        backend.laid(out, list, colors, visible.subarray(0, kept), there && shines, 1.5);
        expect(list.subarray(0, kept).every((u) => u >= within.left && u <= within.right)).toBe(true);
        return [count, kept, ...Object.values(within), ...alpha.subarray(0, kept), ...visible.subarray(0, kept), ...out];
      });
      // At the rim of a round form a square root is taken of next to nothing.
      expectClose(actual.slice(0, -4 * area), expected.slice(0, -4 * area), 2e-5);
      expectClose(actual.slice(-4 * area), expected.slice(-4 * area), 1e-3);
      expect(expected[0]).toBeGreaterThan(100);
      expect(expected[0]).toBeLessThan(part.width * part.height);
      expect(expected[1]).toBeGreaterThan(80);
    }
  });
  it('what figures take of the light (seed 18)', () => {
    const random = seeded(18);
    const [region, part] = [{ x: 10, y: 60, width: 40, height: 30 }, { x: 12, y: 61, width: 33, height: 27 }];
    const area = region.width * region.height;
    const sides = Float32Array.from({ length: 3 * area }, (_, i) => (i >= 2 * area ? Math.max(0, random() - 0.5) * 2 : random() < 0.1 ? 0 : random() < 0.05 ? 60_000 : 4 + random() * 4));
    const normals = Float32Array.from({ length: 3 * area }, () => random() * 2 - 1);
    const balls = [0.2, 0.6, 1.2].map((upMetres, i) => ({ asideMetres: i - 1, upMetres, radiusMetres: 0.3 }));
    const thrown = { u: [4, 3, 0.2, 0], v: [90, 1, 0, -0.2], share: [1, 0, 0, 0], along: [-0.5, 0.1, 0.01, 0] } as const;
    const cast = { toRight: [0.1, -0.5, 0.02, 0], up: [1.6, 0.4, 0, -0.01], toUs: [5, -1, 0, 0.002], box: { x: 3.13, y: 2.71, width: 50.37, height: 90.19 }, widePerMetre: 2, widePerDepth: 0.1, lens: { left: 20, top: 75, per: 1 / 300 }, nearest: 4.2, farthest: 7.6, contact: 0.8, reachMetres: 2, besideMetres: 1, balls, right: [0.8, -0.6], normal: [0.6, 0.8] } as const;
    const spans = Int32Array.from({ length: 2 * part.height }, (_, i) => (i % 2 === 1 ? (i < 5 ? -1 : 40) : part.x + (i % 5)));
    const [bySun, byAll] = [Float32Array.from({ length: 3 * area }, random), Float32Array.from({ length: 3 * area }, (_, i) => (i % 9 === 0 ? 0 : random()))];
    for (const [there, faces, sun] of [[sides, normals, thrown], [sides, null, thrown], [sides, normals, null], [null, null, thrown]] as const) {
      const [expected, actual] = [reference, kernels].map((backend) => {
        const list = new Float32Array(2 * PLACE_NUMBERS * part.width * part.height);
        const open = new Float32Array(area).fill(1);
        const { count, ...within } = backend.taken(list, open, { ...cast, thrown: sun }, spans, there, faces, part, region);
        const out = Float32Array.from({ length: 3 * area }, (_, i) => (i % 17) / 17);
        const lit = Float32Array.from({ length: area }, (_, i) => (i % 3 === 0 ? 1 : 0.4));
        backend.shaded(out, lit, open, there && bySun, there && byAll, [0.7, 0.6, 0.5]);
        return [count, ...Object.values(within), ...list.map((value, i) => (i % (2 * part.width * part.height) < count ? value : 0)), ...open, ...out];
      });
      expectClose(actual, expected, 2e-5);
      expect(expected[0] > 100).toBe(sun !== null);
      expect(actual.slice(-3 * area - area, -3 * area).some((value) => value < 0.9)).toBe(true);
    }
  });
  it('parts, circles, slices and openings of a depth of field (seed 13)', () => {
    const random = seeded(13);
    for (const [width, height] of [[13, 7], [4, 2], [1, 5], [66, 9]]) {
      const inside = (width + 2) * (height + 2);
      const area = width * height;
      const depth = Float32Array.from({ length: inside }, () => (random() < 0.4 ? 3 : random() < 0.3 ? 40 : random() < 0.1 ? -1 : 3 + random() * 37));
      const colors = Float32Array.from({ length: 4 * inside }, (_, i) => (i >= 3 * inside ? Math.min(1, random() + 0.5) : random() < 0.05 ? [Number.NaN, 1e9, -2][i % 3] : random() * 4));
      const sides = new Float32Array(3 * inside);
      // Depth again on each side: near, far and a share of edges.
      reference.sides(sides, Float32Array.from({ length: (width + 4) * (height + 4) }, (_, i) => depth[i % inside]), width + 2, height + 2);
      const lens = { nearMetres: 5, farMetres: 8, nearPx: 9, farPx: 6, mostPx: 7 };
      const reach = 2;
      const [wide, high] = [width - 2 * reach, height - 2 * reach];
      const [expected, actual] = [reference, kernels].map((backend) => {
        const parts = new Float32Array(8 * area);
        backend.parted(parts, colors, sides, width, height);
        const share = Float32Array.from({ length: area }, (_, i) => (i % 3) / 2);
        const circles = new Float32Array(2 * area);
        const extremes = backend.circles(circles, depth.subarray(0, area), depth.subarray(inside - area), lens);
        const slice = new Float32Array(5 * area);
        const isThere = backend.slice(slice, parts, circles, share, { from: -2, fromWidth: 0.5, to: Number.POSITIVE_INFINITY, toWidth: 1 });
        const sum = slice.map((value) => value * 0.3);
        backend.behind(sum, slice);
        const drawn = new Float32Array(wide > 0 && high > 0 ? 5 * wide * high : 0);
        if (drawn.length > 0) backend.disc(drawn, slice, wide, high, reach, [{ part: { x: 1, y: 0, width: wide - 1, height: high }, taps: apertureTaps({ blades: 5, roundness: 0.3, rotationRadians: 0.2, catsEye: 0.5 }, 2.4, true, [0.6, 0.4]) }]);
        return { extremes, isThere, planes: [parts, circles, slice, sum, drawn].map((plane) => [...plane]) };
      });
      expect(actual.isThere).toBe(expected.isThere);
      expectClose([...actual.extremes], [...expected.extremes], 1e-5);
      for (const [n, plane] of expected.planes.entries()) expectClose(actual.planes[n], plane, 2e-5, `${n}`);
    }
  });
});

describe('small loops equal their definitions', () => {
  const both = (seed: number, fills: readonly Fill[], work: (backend: typeof reference | Kernels, list: Register[]) => unknown) =>
    [reference, kernels].map((backend) => {
      const list = registers(backend, seed, fills);
      const returned = work(backend, list);
      return { values: numbers(list), returned };
    });

  it('coverage, with and without alpha and mask, and what it says of the extent', () => {
    const beyond: Fill = (i, random) => (i === 3 ? Number.NaN : random() * 1.4 - 0.2);
    for (const [withAlpha, withMask, invert] of [[true, true, false], [true, true, true], [true, false, false], [false, true, true], [false, true, false], [false, false, false]]) {
      const [a, b] = both(6, [() => 0, beyond, unit], (backend, [out, alpha, mask]) => backend.coverage(out, COUNT, 0.8, withAlpha ? alpha : null, withMask ? mask : null, invert));
      expectClose(b.values[0], a.values[0], 1e-6);
      expect(b.returned).toBe(a.returned);
    }
    const cases: readonly [Fill, string][] = [[() => 0, 'empty'], [() => 1, 'full'], [(i) => (i === COUNT - 1 ? 1 : 0), 'partial'], [(i) => (i === COUNT - 1 ? 0 : 1), 'partial'], [(i) => (i === 500 ? 0.5 : 1), 'partial'], [() => 0.5, 'partial']];
    for (const [mask, extent] of cases) for (const { returned } of both(1, [() => 0, mask], (backend, list) => backend.coverage(list[0], COUNT, 1, null, list[1], false))) expect(returned).toBe(extent);
  });

  it.each(Object.keys(outputSpaces) as OutputSpaceId[])('pixels of sRGB become those of %s, under any alpha', (space) => {
    const region = { x: 0, y: 0, width: 101, height: 97 };
    const area = region.width * region.height;
    const random = seeded(8);
    const straight = Float32Array.from({ length: area * 4 }, (_, i) => (i % 13 === 0 ? 0 : i % 17 === 0 ? 1 : random()));
    const planes = straight.map((value, i) => (i < area * 3 ? value * straight[3 * area + (i % area)] : value));
    kernels.toSpace(space, { region, planes, opaque: false });
    for (let i = 0; i < area; i++) {
      const alpha = straight[3 * area + i];
      const wanted = inOutputSpace([srgbDecode(straight[i]), srgbDecode(straight[area + i]), srgbDecode(straight[2 * area + i])], space);
      for (let c = 0; c < 3; c++) if (!(Math.abs(planes[c * area + i] - wanted[c] * alpha) < 4e-6)) expect(planes[c * area + i], `${space} ${i}`).toBe(wanted[c] * alpha);
      expect(planes[3 * area + i]).toBe(alpha);
    }
  });

  it('transfer, clamp, alpha and mix', () => {
    const wild: Fill = (i, random) => (i === 20 ? Number.NaN : i < 10 ? EDGES[i] : random() * 3 - 1);
    const runs: readonly [string, number, (backend: typeof reference | Kernels, list: Register[]) => void][] = [
      // The polynomial's error is below a tenth of a 16-bit code.
      ['encode', 2e-6, (backend, list) => backend.transfer('encode', triple(list), COUNT)],
      ['decode', 2e-6, (backend, list) => backend.transfer('decode', triple(list), COUNT)],
      ['scale', 1e-6, (backend, list) => backend.scale(triple(list), -0.9, 1.1, COUNT)],
      ['clamp', 0, (backend, list) => backend.clampToUnit(triple(list), COUNT)],
    ];
    for (const [name, tolerance, work] of runs) {
      const [a, b] = both(12, [wild, wild, wild], work);
      for (let c = 0; c < 3; c++) expectClose(b.values[c], a.values[c], tolerance, name);
    }
    const [a, b] = both(13, [light, light, light, unit, light, light, light, unit], (backend, list) => {
      backend.divideAlpha(triple(list), list[3], COUNT);
      backend.multiplyAlpha(triple(list), list[3], COUNT);
      backend.mix(triple(list), triple(list, 4), list[7], COUNT);
    });
    for (let c = 0; c < 3; c++) expectClose(b.values[c], a.values[c], 1e-5, 'alpha and mix');
  });

  it('the sRGB encoder stays within a tenth of a 16-bit code of the standard', () => {
    const list = pool(kernels).slice(0, 3);
    let worst = 0;
    for (let start = 0; start < 65536; start += 4096) {
      for (let i = 0; i < 4096; i++) for (const register of list) register.values[i] = ((start + i) / 65535) ** 2.2;
      const input = [...list[0].values];
      kernels.transfer('encode', triple(list), 4096);
      for (let i = 0; i < 4096; i++) worst = Math.max(worst, Math.abs(list[0].values[i] - srgbEncode(input[i])) * 65535);
    }
    expect(worst).toBeLessThan(0.15);
  });
});

describe('reading samples', () => {
  const special = Float32Array.of(Number.NaN, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, -0, 1e-40, 65504, -65504, 1e30);
  const planes: readonly Plane[] = (['u8', 'u16', 'f16', 'f32', 'u32'] as const).map((type) => {
    const random = seeded(40);
    const data = planeView(type, new ArrayBuffer(4096 * 4), 0, type === 'f16' || type === 'u16' ? 8192 : type === 'u8' ? 16384 : 4096);
    for (let i = 0; i < data.length; i++) data[i] = type === 'f32' ? (special[i] ?? random() * 9 - 3) : type === 'f16' ? (i * 7919) & 0xffff : Math.floor(random() * 2 ** (type === 'u8' ? 8 : type === 'u16' ? 16 : 32));
    return { type, width: data.length, height: 1, data };
  });
  it.each(planes.map((plane) => [plane.type, plane] as const))('%s, from odd places and in odd lengths', (_type, plane) => {
    for (const how of ['as-is', 'to-light'] as const) {
      for (const [at, start, count] of [[0, 0, 1000], [3, 5, 61], [9, 1, 1], [0, 17, 16]]) {
        const [expected, actual] = [reference, kernels].map((backend) => {
          const [register] = pool(backend);
          register.values.fill(-7);
          backend.load(register, at, plane, start, count, how);
          return [...register.values.subarray(0, 1024)];
        });
        // What lies before and behind the run belongs to others.
        expect([...actual.slice(0, at), ...actual.slice(at + count)].every((v) => v === -7)).toBe(true);
        expectClose(actual, expected, 2e-6, `${how} ${start}`);
      }
    }
  });
  it('every half, exactly', () => {
    const halves: Plane = { type: 'f16', width: 65536, height: 1, data: Uint16Array.from({ length: 65536 }, (_, i) => i) };
    const [register] = pool(kernels);
    for (let start = 0; start < 65536; start += 4096) {
      kernels.load(register, 0, halves, start, 4096, 'as-is');
      for (let i = 0; i < 4096; i++) {
        const value = halfToFloat(start + i);
        const expected = Number.isNaN(value) ? 0 : Number.isFinite(value) ? value : Math.sign(value) * LARGEST_LIGHT;
        if (register.values[i] !== expected) expect(register.values[i], `half ${start + i}`).toBe(expected);
      }
    }
  });
});

describe('writing samples', () => {
  const tile = (values: readonly number[], alpha: readonly number[]): Pixels => ({
    region: { x: 0, y: 0, width: values.length, height: 1 },
    planes: Float32Array.from([...values, ...values, ...values, ...alpha]),
    opaque: alpha.every((a) => a === 1),
  });
  it('rounds to bytes and words, un-premultiplied, in bounds', () => {
    const values = [0, 0.5, 1, 2, -1, Number.NaN, 0.1, 0.25];
    const alpha = [1, 1, 1, 1, 1, 1, 0.5, 0];
    const bytes = new Uint8Array(32);
    kernels.packBytes(tile(values, alpha), bytes, false);
    expect([...bytes.filter((_, i) => i % 4 === 0)]).toEqual([0, 128, 255, 255, 0, 0, 51, 0]);
    expect([...bytes.filter((_, i) => i % 4 === 3)]).toEqual([255, 255, 255, 255, 255, 255, 128, 0]);
    const words = new Uint16Array(32);
    kernels.packWords(tile(values, alpha), words);
    expect([...words.filter((_, i) => i % 4 === 0)]).toEqual([0, 32768, 65535, 65535, 0, 0, 13107, 0]);
  });
  it('dither keeps exact codes and the mean of those between', () => {
    const out = new Uint8Array(64 * 4);
    let sum = 0;
    for (let y = 0; y < 8; y++) {
      const rows: Pixels = { ...tile(new Array(64).fill(100.37 / 255), new Array(64).fill(1)), region: { x: 0, y, width: 64, height: 1 } };
      kernels.packBytes(rows, out, true);
      for (let i = 0; i < 64; i++) sum += out[i * 4];
    }
    expect(sum / 512).toBeCloseTo(100.37, 1);
    kernels.packBytes(tile(new Array(64).fill(77 / 255), new Array(64).fill(1)), out, true);
    expect(new Set(out.filter((_, i) => i % 4 < 3))).toEqual(new Set([77]));
  });
  it('float to half as IEEE 754 rounds', () => {
    const values = Float32Array.from({ length: 65536 }, (_, i) => halfToFloat(i));
    const out = new Uint16Array(65536);
    kernels.toHalf(values, out);
    for (let i = 0; i < 65536; i++) if (((i >> 10) & 31) !== 31 && out[i] !== i) expect(out[i], `half ${i}`).toBe(i);
  });
  it('reduces two by two by the mean', () => {
    for (const [type, upper, lower, mean] of [['u8', [10, 20, 31], [30, 40, 33], [25, 32]], ['u16', [1000, 2000, 7], [3000, 4000, 9], [2500, 8]]] as const) {
      const out = planeView(type, new ArrayBuffer(2 * (type === 'u8' ? 1 : 2)));
      kernels.reduceRow(type, type === 'u8' ? Uint8Array.from(upper) : Uint16Array.from(upper), type === 'u8' ? Uint8Array.from(lower) : Uint16Array.from(lower), out);
      expect([...out]).toEqual(mean);
    }
    const out = new Float32Array(2);
    kernels.reduceRow('f32', Float32Array.of(1, 2, 8), Float32Array.of(3, 4, 2), out);
    expect([...out]).toEqual([2.5, 5]);
  });
});
