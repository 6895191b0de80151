import { describe, expect, it } from 'vitest';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { planDocument } from '../evaluate/plan.ts';
import { referenceBackend } from '../evaluate/reference.ts';
import { lightOf } from '../evaluate/targets.ts';
import { emptyDocument } from '../model/model.ts';
import type { KeptValues } from '../params/table.ts';
import type { Plane } from '../raster/planes.ts';

const SIZE = { width: 120, height: 90 };
const AREA = SIZE.width * SIZE.height;
const LAMP = 45 * SIZE.width + 60;
function drawn(params: KeptValues): readonly Float32Array[] {
  const document = after(emptyDocument('doc', 'Streaks', SIZE), { type: 'add-sources', sources: [source(1, { ...SIZE, role: 'beauty' })] }, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' }, { type: 'add-correction-layer', correction: 'streaks', zone: 'scene' }, { type: 'set-params', layerId: 'layer-2', params });
  const plane: Plane = { type: 'f32', ...SIZE, data: Float32Array.from({ length: AREA }, (_, i) => (i === LAMP ? 900 : 0)) };
  const plan = planDocument(document);
  const { pixels } = draw(plan, { target: lightOf(plan), source: () => ({ color: [plane, plane, plane], alpha: null, premultiplied: false, x: 0, y: 0 }), mask: () => { throw new Error('There are no masks.'); }, backend: referenceBackend() });
  return [0, 1, 2].map((c) => pixels.planes.slice(c * AREA, (c + 1) * AREA));
}
const sum = (plane: Float32Array) => plane.reduce((all, value) => all + value, 0);

describe('streaks', () => {
  it('add no light: what is bent is taken from the lamp, to a thousandth', () => {
    for (const plane of drawn({ amountPercent: 30, reachPercent: 20, spectrumPercent: 100 })) {
      expect(sum(plane) / 900).toBeGreaterThan(0.999);
      expect(sum(plane) / 900).toBeLessThan(1.001);
      expect(plane[LAMP] / 900).toBeCloseTo(0.7, 1);
    }
  });
  it('are bent by their tint, and can be seen alone', () => {
    const [red, , blue] = drawn({ amountPercent: 40, tint: [1, 0.5, 0] });
    expect(sum(blue)).toBeCloseTo(900, 2);
    expect(blue[LAMP]).toBeCloseTo(900, 2);
    expect(red[LAMP]).toBeLessThan(600);
    for (const plane of drawn({ amountPercent: 40, shows: 'alone' })) expect(sum(plane) / 900).toBeCloseTo(0.4, 2);
  });
  it('end where their reach does', () => {
    const [plane] = drawn({ amountPercent: 50, reachPercent: 10, spectrumPercent: 0 });
    for (let i = 0; i < AREA; i++) if (Math.hypot((i % SIZE.width) - 60, Math.floor(i / SIZE.width) - 45) > 14) expect(Math.abs(plane[i])).toBeLessThan(1e-3);
  });
});
