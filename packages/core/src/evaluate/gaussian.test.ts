import { readFileSync } from 'node:fs';
import { beforeAll, describe, expect, it } from 'vitest';
import sharp from 'sharp';
import { builtKernels } from '../../../../tests/built.ts';
import { expectClose } from '../../../../tests/close.ts';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { seeded } from '../../../../tests/random.ts';
import type { Edit } from '../document/edits.ts';
import { newTerm } from '../document/mask-edits.ts';
import { emptyDocument, type TazzelDocument } from '../model/model.ts';
import type { Plane } from '../raster/planes.ts';
import { sizeAtLevel } from '../raster/region.ts';
import type { Backend } from './backend.ts';
import { gaussianPhases, gaussianWeights } from './gaussian-phases.ts';
import type { Pixels } from './pixels.ts';
import { planDocument } from './plan.ts';
import { referenceBackend } from './reference.ts';
import { lightOf } from './targets.ts';
import type { SourceView } from '../raster/view.ts';

let kernels: Backend;
beforeAll(async () => {
  kernels = await builtKernels();
});

interface Values {
  readonly width: number;
  readonly height: number;
  readonly points: readonly (readonly [number, number])[];
  readonly blurred: Readonly<Record<string, readonly number[]>>;
}
const values = JSON.parse(readFileSync(new URL('fixtures/gaussian-scipy.json', import.meta.url), 'utf8')) as Values;

/** One grey element of some size under the tone line, and a blur of everything below. */
function blurred(size: { width: number; height: number }, params: Record<string, number>, ...edits: readonly Edit[]): TazzelDocument {
  const element = source(1, { ...size, colorChannels: ['Y'] });
  return after(
    emptyDocument('doc', 'Test', size),
    { type: 'add-sources', sources: [element] },
    { type: 'add-layer', layer: 'element', params: { source: element.id }, zone: 'scene' },
    { type: 'add-correction-layer', correction: 'gaussian-blur', zone: 'scene' },
    { type: 'set-params', layerId: 'layer-2', params },
    ...edits,
  );
}
const grey = (data: Float32Array, width: number, height: number, alpha: Plane | null = null): SourceView => ({ color: [{ type: 'f32', width, height, data }], alpha, premultiplied: false, x: 0, y: 0 });
const mask = (): Plane => {
  throw new Error('no mask here');
};

describe('a Gaussian is that of SciPy', () => {
  const { width, height, points, blurred: expected } = values;
  /** Noise between 0 and 1, brighter on the right, one very bright pixel: the same as was given to SciPy. */
  const data = new Float32Array(width * height);
  for (let i = 0, state = 12345; i < data.length; i++) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    data[i] = state / 2 ** 32 + (i % width >= width / 2 ? 1 : 0) + (i === 60 * width + 40 ? 200 : 0);
  }
  // scipy.ndimage.gaussian_filter (1.17.1), mode “nearest”, truncate 8, in double precision.
  it.each(Object.keys(expected).map(Number))('σ %f px, in the middle and at the edges', (sigmaPx) => {
    const plan = planDocument(blurred({ width, height }, { sigmaPx }));
    const { planes } = draw(plan, { source: () => grey(data, width, height), mask, target: lightOf(plan), backend: kernels }).pixels;
    // A thousandth of what the bright pixel leaves at its own place, and five hundred-thousandths of everything else.
    const bound = 1.2e-3 * (200 / (2 * Math.PI * sigmaPx ** 2)) + 5e-5;
    for (const [i, [x, y]] of points.entries()) expect(Math.abs(planes[y * width + x] - expected[sigmaPx][i]), `${x}, ${y}`).toBeLessThan(bound);
  });
  // At the edge the outermost pixel goes on, and that of a smaller picture is a mean of several: noise differs there.
  it('smaller at every level, within a hundredth of the contrast away from the edge', () => {
    const plan = planDocument(blurred({ width, height }, { sigmaPx: 12 }));
    const smooth = data.map((value, i) => (i === 60 * width + 40 ? 0.5 : value));
    const full = draw(plan, { source: () => grey(smooth, width, height), mask, target: lightOf(plan), backend: kernels }).pixels.planes;
    for (const level of [1, 2]) {
      const size = sizeAtLevel({ width, height }, level);
      const side = 2 ** level;
      const mean = (values: Float32Array, x: number, y: number) => {
        let [sum, count] = [0, 0];
        for (let j = y * side; j < Math.min(height, (y + 1) * side); j++) for (let i = x * side; i < Math.min(width, (x + 1) * side); i++, count++) sum += values[j * width + i];
        return sum / count;
      };
      const reduced = Float32Array.from({ length: size.width * size.height }, (_, i) => mean(smooth, i % size.width, Math.floor(i / size.width)));
      const small = draw(plan, { source: () => grey(reduced, size.width, size.height), mask, target: lightOf(plan), backend: kernels, level }).pixels.planes;
      const margin = Math.ceil(36 / side);
      for (let y = margin; y < size.height - margin; y += 5) for (let x = margin; x < size.width - margin; x += 5) expect(Math.abs(small[y * size.width + x] - mean(full, x, y)), `level ${level}: ${x}, ${y}`).toBeLessThan(0.01);
    }
  });
});

describe('a Gaussian is that of libvips', () => {
  // libvips blurs bytes; in whole numbers, whose rounding shows most in rows and columns at the edge. @source sharp 0.35, vips_gaussblur
  it.each([0.7, 2, 6, 20])('σ %f px of a photograph-like picture, to three codes', async (sigmaPx) => {
    const [width, height] = [160, 120];
    const random = seeded(9);
    const codes = Uint8Array.from({ length: width * height }, (_, i) => 127 + 80 * Math.sin((i % width) / 9) * Math.cos(Math.floor(i / width) / 7) + 40 * random());
    const theirs = await sharp(codes, { raw: { width, height, channels: 1 } }).blur({ sigma: sigmaPx, minAmplitude: 0.005 }).toColourspace('b-w').raw().toBuffer();
    const plan = planDocument(blurred({ width, height }, { sigmaPx }));
    const { planes } = draw(plan, { source: () => grey(Float32Array.from(codes), width, height), mask, target: lightOf(plan), backend: kernels }).pixels;
    for (let i = 0; i < codes.length; i++) expect(Math.abs(planes[i] - theirs[i]), `${i % width}, ${Math.floor(i / width)}`).toBeLessThan(3);
  });
});

describe('alpha, masks, bad numbers', () => {
  const [width, height] = [90, 70];
  const random = seeded(17);
  const data = Float32Array.from({ length: width * height }, () => random() * 3);
  const holes: Plane = { type: 'f32', width, height, data: Float32Array.from(data, (_, i) => (i % width < 30 ? 0 : i % 7 === 0 ? 0.4 : 1)) };
  const light = (document: TazzelDocument, source: SourceView, backend: Backend = kernels, masks: Plane | null = null) => {
    const plan = planDocument(document);
    return draw(plan, { source: () => source, mask: () => masks ?? mask(), target: lightOf(plan), backend }).pixels;
  };
  it.each([1.5, 9])('σ %f: colour counts as far as it covers, and the cover is blurred with it', (sigmaPx) => {
    const document = blurred({ width, height }, { sigmaPx }, { type: 'set-source', sourceId: 'source-1', patch: {} });
    const both = light(document, grey(data, width, height, holes)).planes;
    const area = width * height;
    const covered = light(document, grey(data.map((value, i) => value * holes.data[i]), width, height)).planes;
    const cover = light(document, grey(holes.data as Float32Array, width, height)).planes;
    for (let i = 0; i < area; i++) {
      expect(Math.abs(both[i] - covered[i])).toBeLessThan(2e-5);
      expect(Math.abs(both[3 * area + i] - cover[i])).toBeLessThan(2e-5);
    }
    expect(light(document, grey(data, width, height)).opaque).toBe(true);
  });
  it.each([1.5, 6, 30])('σ %f inside a mask takes nothing from outside it, with the kernels as with the definitions', (sigmaPx) => {
    // Water on the left, gravel that is far brighter on the right.
    const water: Plane = { type: 'u8', width, height, data: Uint8Array.from({ length: width * height }, (_, i) => (i % width < 45 ? 255 : 0)) };
    const scene = Float32Array.from({ length: width * height }, (_, i) => (i % width < 45 ? 0.5 + 0.1 * ((i >> 3) % 2) : 50));
    const masked = blurred({ width, height }, { sigmaPx }, { type: 'add-mask', name: 'Water', terms: [newTerm('rectangle', 'add', emptyDocument('d', 'D', { width, height }), { points: [[20, 35], [25, 35], [20, 40]], softPx: 60 })] }, { type: 'set-layer', layerId: 'layer-2', patch: { mask: { maskId: 'mask-1', inverted: false, enabled: true } } });
    const results = [kernels, referenceBackend()].map((backend) => light(masked, grey(scene, width, height), backend, water).planes);
    for (const planes of results) for (let i = 0; i < width * height; i++) expect(planes[i]).toSatisfy((value: number) => (i % width < 45 ? value > 0.49 && value < 0.61 : value === 50));
    for (let i = 0; i < width * height; i++) expect(Math.abs(results[0][i] - results[1][i])).toBeLessThan(1e-4);
    const open = after(masked, { type: 'set-params', layerId: 'layer-2', params: { staysInside: false } });
    expect(light(open, grey(scene, width, height), kernels, water).planes[44]).toBeGreaterThan(5);
  });
  it('an empty mask blurs nothing, a width far beyond the picture makes it even', () => {
    const empty: Plane = { type: 'u8', width, height, data: new Uint8Array(width * height) };
    const masked = blurred({ width, height }, { sigmaPx: 20 }, { type: 'add-mask', name: 'Nothing', terms: [] }, { type: 'set-layer', layerId: 'layer-2', patch: { mask: { maskId: 'mask-1', inverted: false, enabled: true } } });
    expect([...light(masked, grey(data, width, height), kernels, empty).planes.subarray(0, 50)]).toEqual([...data.subarray(0, 50)]);
    const even = light(blurred({ width, height }, { sigmaPx: 1000, sigmaPercent: 25 }), grey(data, width, height)).planes.subarray(0, width * height);
    const [low, high] = [Math.min(...even), Math.max(...even)];
    expect(high - low).toBeLessThan(0.05);
    expect(low).toBeGreaterThan(1);
  });
  it.each([1, 25])('σ %f: one NaN and one infinity stay where they are', (sigmaPx) => {
    const bad = data.map((value, i) => (i === 2000 ? Number.NaN : i === 2500 ? Number.POSITIVE_INFINITY : value));
    const result = light(blurred({ width, height }, { sigmaPx }), grey(bad, width, height)).planes;
    expect(result.every((value) => Number.isFinite(value))).toBe(true);
    // As if the one were black and the other the brightest light there is.
    const expected = light(blurred({ width, height }, { sigmaPx }), grey(data.map((value, i) => (i === 2000 ? 0 : i === 2500 ? 65504 : value)), width, height)).planes;
    expect([...result]).toEqual([...expected]);
  });
  it('every tile is the crop of the whole, whichever was made first', () => {
    const size = { width: 600, height: 310 };
    const many = Float32Array.from({ length: size.width * size.height }, () => random() * 2);
    const plan = planDocument(blurred(size, { sigmaPx: 7 }, { type: 'add-correction-layer', correction: 'gaussian-blur', zone: 'scene' }, { type: 'set-params', layerId: 'layer-3', params: { sigmaPx: 1.2 } }));
    const options = { source: () => grey(many, size.width, size.height), mask, target: lightOf(plan), backend: kernels };
    const whole = draw(plan, options).pixels.planes;
    const store = new Map<string, Pixels>();
    for (const region of [{ x: 300, y: 200, width: 280, height: 100 }, { x: 0, y: 0, width: 1, height: 1 }, { x: 255, y: 0, width: 3, height: 310 }]) {
      const part = draw(plan, { ...options, store, region }).pixels.planes;
      for (let y = 0; y < region.height; y++) {
        for (let c = 0; c < 4; c++) expect([...part.subarray((c * region.height + y) * region.width, (c * region.height + y + 1) * region.width)]).toEqual([...whole.subarray((c * size.height + region.y + y) * size.width + region.x, (c * size.height + region.y + y) * size.width + region.x + region.width)]);
      }
    }
  });
  it('says how it is made', () => {
    expect([0.1, 0.5, 4.9, 5, 40, 200].map((sigma) => gaussianPhases(sigma).coarser)).toEqual([0, 0, 0, 1, 4, 6]);
    expect(gaussianPhases(0.1).sigmaPx).toBe(0);
    for (const sigma of [5, 17, 400]) {
      const { coarser, sigmaPx } = gaussianPhases(sigma);
      // Variances add up.
      expect(4 ** coarser * (sigmaPx ** 2 + 1 / 3) + (4 ** coarser - 1) / 4).toBeCloseTo(sigma ** 2, 6);
    }
    // Published weights: REFERENCES of tests, SciPy.
    expectClose(gaussianWeights(1).subarray(4), [0.39905028, 0.24203623, 0.05400558, 0.00443305, 0.00013383], 2e-4);
    expectClose(gaussianWeights(1.5).subarray(6), [0.26601172, 0.21300554, 0.10936069, 0.03600077, 0.00759876, 0.00102838, 0.0000892], 1e-4);
  });
});
