import { describe, expect, it } from 'vitest';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { planDocument } from '../evaluate/plan.ts';
import { referenceBackend } from '../evaluate/reference.ts';
import { lightOf } from '../evaluate/targets.ts';
import { emptyDocument } from '../model/model.ts';
import type { KeptValues } from '../params/table.ts';
import type { Plane } from '../raster/planes.ts';

const SIZE = { width: 128, height: 96 };
const AREA = SIZE.width * SIZE.height;
function drawn(picture: (x: number, y: number) => number, params: KeptValues, level = 0): Float32Array {
  const document = after(emptyDocument('doc', 'Motion', SIZE), { type: 'add-sources', sources: [source(1, { ...SIZE, role: 'beauty' })] }, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' }, { type: 'add-correction-layer', correction: 'motion-blur', zone: 'scene' }, { type: 'set-params', layerId: 'layer-2', params });
  // Sources lie there at the level that is drawn.
  const [width, height] = [SIZE.width >> level, SIZE.height >> level];
  const plane: Plane = { type: 'f32', width, height, data: Float32Array.from({ length: width * height }, (_, i) => picture((i % width) << level, Math.floor(i / width) << level)) };
  const plan = planDocument(document);
  const { pixels } = draw(plan, { target: lightOf(plan), source: () => ({ color: [plane, plane, plane], alpha: null, premultiplied: false, x: 0, y: 0 }), mask: () => { throw new Error('There are no masks.'); }, backend: referenceBackend(), level });
  return pixels.planes.slice(0, pixels.region.width * pixels.region.height);
}
const point = (x: number, y: number) => (x === 64 && y === 48 ? 1000 : 0);
/** Mean place of light, its deviations along and across a direction, and how much there is. */
function spreadOf(picture: Float32Array, degrees: number) {
  const [cos, sin] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  let [sum, along, across] = [0, 0, 0];
  for (let i = 0; i < AREA; i++) {
    const [x, y] = [(i % SIZE.width) - 64, Math.floor(i / SIZE.width) - 48];
    sum += picture[i];
    along += picture[i] * (x * cos + y * sin) ** 2;
    across += picture[i] * (y * cos - x * sin) ** 2;
  }
  return { sum, along: Math.sqrt(along / sum), across: Math.sqrt(across / sum) };
}

describe('motion blur', () => {
  it.each([[40, 0], [25, 90], [40, 30], [7, -60], [33.3, 17]])('draws a point out to a line of %s px at %s°: even, as long as stated, no wider than a pixel', (lengthPx, angleDegrees) => {
    const found = spreadOf(drawn(point, { lengthPx, angleDegrees }), angleDegrees);
    expect(found.sum).toBeCloseTo(1000, 1);
    // An even line of a length has a deviation of length / √12; a pixel's own share is added.
    expect(found.along / (lengthPx / Math.sqrt(12))).toBeGreaterThan(0.97);
    expect(found.along / (lengthPx / Math.sqrt(12))).toBeLessThan(1.08);
    expect(found.across).toBeLessThan(1);
  });
  it('is even along the line: an edge becomes a straight ramp', () => {
    const found = drawn((x) => (x < 64 ? 0 : 1), { lengthPx: 36 });
    const row = found.subarray(48 * SIZE.width, 49 * SIZE.width);
    for (let x = 0; x < SIZE.width; x++) expect(row[x]).toBeCloseTo(Math.min(1, Math.max(0, (x + 0.5 - 64) / 36 + 0.5)), 1.7);
  });
  it('leaves what is even along its direction as it is, at the edge of the picture, too', () => {
    const found = drawn((_, y) => 0.2 + 0.01 * y, { lengthPx: 60, angleDegrees: 0 });
    for (let i = 0; i < AREA; i++) expect(found[i]).toBeCloseTo(0.2 + 0.01 * Math.floor(i / SIZE.width), 5);
  });
  it('looks the same at half the size', () => {
    const edge = (x: number) => (x < 64 ? 0 : 1);
    const [whole, half] = [drawn(edge, { lengthPx: 36 }), drawn(edge, { lengthPx: 36 }, 1)];
    for (let x = 1; x < 63; x++) expect(half[24 * 64 + x]).toBeCloseTo((whole[48 * 128 + 2 * x] + whole[48 * 128 + 2 * x + 1]) / 2, 1);
  });
});
