import { beforeAll, describe, expect, it } from 'vitest';
import { builtKernels } from '../../../../tests/built.ts';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { seeded } from '../../../../tests/random.ts';
import { emptyDocument } from '../model/model.ts';
import type { Plane } from '../raster/planes.ts';
import { referenceSmooth } from '../raster/smooth.ts';
import type { SourceView } from '../raster/view.ts';
import type { Backend } from './backend.ts';
import { planDocument } from './plan.ts';
import { lightOf } from './targets.ts';

let kernels: Backend;
beforeAll(async () => {
  kernels = await builtKernels();
});

describe('one pass', () => {
  it('is the same by the kernel and by its definition', () => {
    const random = seeded(7);
    for (const [width, height, distance] of [[1, 1, 1], [5, 3, 2], [13, 4, 1], [16, 9, 4]]) {
      const inside = (width + 4 * distance) * (height + 4 * distance);
      const planes = Float32Array.from({ length: 4 * inside }, (_, i) => (i % 97 === 5 ? Number.NaN : random() * 2 - 0.1));
      const guides = [{ planes: Float32Array.from({ length: 4 * inside }, () => random()), width: 0.4 }];
      const [a, b] = [kernels, referenceSmooth].map((loop) => {
        const out = new Float32Array(4 * width * height);
        loop.smooth(out, planes, guides, width, height, distance, 0.9);
        return out;
      });
      for (let i = 0; i < a.length; i++) expect(Math.abs(a[i] - b[i]), `${width} × ${height}, ${i}`).toBeLessThan(1e-4);
    }
  });
  // Dammertz et al. 2010: without edges it is a convolution with (1, 4, 6, 4, 1) / 16 in both directions, its taps apart by the distance.
  it('without edges spreads one point by the B-spline', () => {
    const [width, height, distance] = [9, 9, 2];
    const across = width + 4 * distance;
    const planes = new Float32Array(4 * across * across);
    planes[8 * across + 8] = 1;
    const out = new Float32Array(4 * 81);
    kernels.smooth(out, planes, [], width, height, distance, 1e6);
    const taps = [1, 4, 6, 4, 1].map((tap) => tap / 16);
    for (let y = 0; y < 9; y++) for (let x = 0; x < 9; x++) expect(out[y * 9 + x]).toBeCloseTo(x % 2 === 0 && y % 2 === 0 ? taps[x / 2] * taps[y / 2] : 0, 6);
  });
});

describe('noise reduction', () => {
  const size = { width: 96, height: 64 };
  const area = size.width * size.height;
  const random = seeded(21);
  /** Light that is even but for noise; the right half is another surface of the same light. */
  const noisy = Float32Array.from({ length: area }, () => 0.4 * (1 + 0.3 * (random() + random() + random() - 1.5)));
  const right = (i: number) => i % size.width >= size.width / 2;
  const plane = (data: Float32Array): Plane => ({ type: 'f32', ...size, data });
  const mask = () => {
    throw new Error('no mask here');
  };
  const element = source(1, { ...size, colorChannels: ['Y'] });
  const normals = source(2, { ...size, role: 'normals' });
  const document = (params: Record<string, number | boolean>) =>
    after(
      emptyDocument('doc', 'Test', size),
      { type: 'add-sources', sources: [element, normals] },
      { type: 'add-layer', layer: 'element', params: { source: element.id }, zone: 'scene' },
      { type: 'add-correction-layer', correction: 'noise-reduction', zone: 'scene' },
      { type: 'set-params', layerId: 'layer-2', params },
    );
  const light = (data: Float32Array, params: Record<string, number | boolean>) => {
    const plan = planDocument(document(params));
    const flat = (value: (i: number) => number) => plane(Float32Array.from({ length: area }, (_, i) => value(i)));
    const views: Record<string, SourceView> = {
      [element.id]: { color: [plane(data)], alpha: null, premultiplied: false, x: 0, y: 0 },
      [normals.id]: { color: [flat((i) => (right(i) ? 1 : 0)), flat(() => 0), flat((i) => (right(i) ? 0 : 1))], alpha: null, premultiplied: false, x: 0, y: 0 },
    };
    return draw(plan, { source: (id) => views[id], mask, target: lightOf(plan), backend: kernels }).pixels.planes.subarray(0, area);
  };
  const spread = (values: Float32Array) => {
    const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
    return Math.sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / values.length);
  };

  it('takes most of even noise away and leaves the mean', () => {
    const made = light(noisy, { strengthPercent: 80, reachPx: 14 });
    expect(spread(made)).toBeLessThan(spread(noisy) / 4);
    expect(made.reduce((sum, value) => sum + value, 0) / area).toBeCloseTo(noisy.reduce((sum, value) => sum + value, 0) / area, 2);
  });
  it('stops at a strong edge of light, and at another surface where the light says nothing', () => {
    const edge = noisy.map((value, i) => value * (right(i) ? 20 : 1));
    const made = light(edge, { strengthPercent: 40, followsSurfaces: false });
    const near = (column: number) => Array.from({ length: size.height }, (_, y) => made[y * size.width + column]).reduce((a, b) => a + b, 0) / size.height;
    expect(near(47) / 0.4).toBeCloseTo(1, 1);
    expect(near(48) / 8).toBeCloseTo(1, 1);
    // A weak step of light between the surfaces stays only if their normals are followed.
    const weak = noisy.map((value, i) => value * (right(i) ? 1.25 : 1));
    const jump = (followsSurfaces: boolean) => {
      const values = light(weak, { strengthPercent: 100, reachPx: 30, followsSurfaces });
      return Array.from({ length: size.height }, (_, y) => values[y * size.width + 48] / values[y * size.width + 47]).reduce((a, b) => a + b, 0) / size.height;
    };
    expect(jump(true)).toBeGreaterThan(1.2);
    expect(jump(false)).toBeLessThan(1.1);
  });
});
