import { describe, expect, it } from 'vitest';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { planDocument } from '../evaluate/plan.ts';
import { gradedSigma } from '../evaluate/kinds/graded.ts';
import { referenceBackend } from '../evaluate/reference.ts';
import { lightOf } from '../evaluate/targets.ts';
import { emptyDocument } from '../model/model.ts';
import type { KeptValues } from '../params/table.ts';

const SIZE = { width: 64, height: 200 };
const AREA = SIZE.width * SIZE.height;
const edge = Float32Array.from({ length: AREA }, (_, i) => (i % SIZE.width < 32 ? 0 : 1));
function tilted(params: KeptValues): Float32Array {
  const document = after(emptyDocument('doc', 'Tilt', SIZE), { type: 'add-sources', sources: [source(1, { ...SIZE, role: 'beauty' })] }, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' }, { type: 'add-correction-layer', correction: 'tilt-blur', zone: 'scene' }, { type: 'set-params', layerId: 'layer-2', params });
  const plane = { type: 'f32' as const, ...SIZE, data: edge };
  const plan = planDocument(document);
  const { pixels } = draw(plan, { target: lightOf(plan), source: () => ({ color: [plane, plane, plane], alpha: null, premultiplied: false, x: 0, y: 0 }), mask: () => { throw new Error('There are no masks.'); }, backend: referenceBackend(), level: 0 } as never);
  return pixels.planes.slice(0, AREA);
}
/** Of a blurred step, from its slope in the middle. @source derivative of the cumulative normal distribution: 1 / (σ √2π) */
const sigmaOf = (row: Float32Array) => 1 / ((row[32] - row[31]) * Math.sqrt(2 * Math.PI));

describe('tilt blur', () => {
  it('is the picture bit by bit along its line, and a Gaussian of the stated width away from it, growing between', () => {
    const picture = tilted({ sigmaPercent: 2, sharpPercent: 20, fadePercent: 20 });
    const row = (y: number) => picture.slice(y * SIZE.width, (y + 1) * SIZE.width);
    for (const y of [61, 100, 138]) expect([...row(y)]).toEqual([...edge.slice(0, SIZE.width)]);
    const full = 0.02 * Math.hypot(64, 200);
    for (const y of [10, 190]) expect(sigmaOf(row(y)) / full).toBeCloseTo(1, 1);
    const between = [60, 50, 45, 40, 30, 20].map((y) => sigmaOf(row(y)));
    expect(between).toEqual(between.toSorted((a, b) => a - b));
    const work = { middle: [32, 100], across: [0, 1], begins: 40, full: 80, sigmas: [0, full] } as const;
    // Between two Gaussians it is nearly one of the width between.
    for (const y of [30, 26]) expect(sigmaOf(row(y)) / gradedSigma(work, 32, y + 0.5)).toBeGreaterThan(0.85);
  });
  it('turns with its line', () => {
    const picture = tilted({ sigmaPercent: 2, angleDegrees: 90, sharpPercent: 4, fadePercent: 10, centre: [50, 50] });
    // The edge lies on the sharp line now, everywhere.
    for (const y of [5, 100, 195]) expect(picture[y * SIZE.width + 32] - picture[y * SIZE.width + 31]).toBe(1);
  });
});
