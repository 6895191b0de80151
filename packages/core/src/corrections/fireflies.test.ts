/** Fireflies: planted ones are found and taken out, nothing else is. The shares are the project's own goals; no published source. */
import { describe, expect, it } from 'vitest';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { seeded } from '../../../../tests/random.ts';
import { emptyDocument } from '../model/model.ts';
import type { KeptValues } from '../params/table.ts';
import { planDocument } from '../evaluate/plan.ts';

const SIZE = { width: 120, height: 80 };
const AREA = SIZE.width * SIZE.height;

function corrected(light: Float32Array, params: KeptValues): Float32Array {
  const plane = { type: 'f32' as const, ...SIZE, data: light };
  let document = after(emptyDocument('fireflies', 'Fireflies', SIZE), { type: 'add-sources', sources: [source(1, { ...SIZE, role: 'beauty' })] }, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' }, { type: 'add-correction-layer', correction: 'fireflies', zone: 'scene' });
  document = after(document, { type: 'set-params', layerId: 'layer-2', params });
  const plan = planDocument(document);
  const none = () => {
    throw new Error('There is none.');
  };
  return draw(plan, { target: { place: plan.light, tone: null, focus: null }, source: () => ({ color: [plane, plane, plane], alpha: null, premultiplied: false, x: 0, y: 0 }), mask: none }).pixels.planes.subarray(0, AREA);
}

/** A wall with grain, a lamp of a few pixels, a bright edge; and single pixels up to fifty times as bright, with their places. */
function noisy(seed: number) {
  const random = seeded(seed);
  const clean = Float32Array.from({ length: AREA }, (_, i) => {
    const [x, y] = [i % SIZE.width, Math.floor(i / SIZE.width)];
    if (Math.hypot(x - 30, y - 20) < 2.5) return 8;
    return (x > 80 ? 1.2 : 0.15 + y * 0.003) * (0.85 + 0.3 * random());
  });
  const light = clean.slice();
  const planted: number[] = [];
  while (planted.length < 120) {
    const i = Math.floor(random() * AREA);
    const [x, y] = [i % SIZE.width, Math.floor(i / SIZE.width)];
    if (Math.hypot(x - 30, y - 20) < 5 || Math.abs(x - 80) < 3 || planted.includes(i)) continue;
    light[i] = clean[i] * (8 + 42 * random());
    planted.push(i);
  }
  return { clean, light, planted };
}

describe('fireflies', () => {
  it('planted ones are found to 95 %, and no more than one other pixel of a thousand (seeds 1–4)', () => {
    for (let seed = 1; seed <= 4; seed++) {
      const { clean, light, planted } = noisy(seed);
      const found = corrected(light, { times: 4 });
      expect(planted.filter((i) => Math.abs(found[i] / clean[i] - 1) < 0.4).length / planted.length).toBeGreaterThan(0.95);
      const others = Array.from({ length: AREA }, (_, i) => i).filter((i) => !planted.includes(i) && found[i] !== light[i]);
      expect(others.length / AREA).toBeLessThan(0.001);
    }
  });
  it('a lamp, an edge and grain stay as they are, bit for bit', () => {
    const { clean } = noisy(5);
    expect(corrected(clean, { times: 4 })).toEqual(clean);
  });
  it('two beside each other are both found; three are something', () => {
    const light = new Float32Array(AREA).fill(0.2);
    for (const i of [500, 501, 3000, 3001, 3120]) light[i] = 5;
    const found = corrected(light, { times: 4 });
    expect([found[500], found[501]].map((value) => Math.round(value * 1e5) / 1e5)).toEqual([0.2, 0.2]);
    expect([found[3000], found[3001], found[3120]]).toEqual([5, 5, 5]);
  });
  it('shown, they alone are as bright as they were', () => {
    const { light, planted } = noisy(6);
    const found = corrected(light, { times: 4, work: 'show' });
    const isPlanted = new Set(planted);
    expect(planted.filter((i) => found[i] === light[i]).length / planted.length).toBeGreaterThan(0.95);
    expect(Array.from({ length: AREA }, (_, i) => i).filter((i) => !isPlanted.has(i) && found[i] > light[i] * 0.06).length).toBeLessThan(AREA / 1000);
  });
  it('in the dark nothing is looked for', () => {
    const light = new Float32Array(AREA).fill(0.0001);
    light[700] = 0.01;
    expect(corrected(light, { times: 4, floor: 0.05 })[700]).toBe(Math.fround(0.01));
  });
});
