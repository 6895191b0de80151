/** Grain: how strong it is, that light stays on the mean, and that it is the same picture at every zoom. */
import { describe, expect, it } from 'vitest';
import { after, source } from '../../../../tests/documents.ts';
import { builtKernels } from '../../../../tests/built.ts';
import { draw } from '../../../../tests/pictures.ts';
import { planDocument } from '../evaluate/plan.ts';
import { lightOf } from '../evaluate/targets.ts';
import { emptyDocument } from '../model/model.ts';
import type { KeptValues } from '../params/table.ts';

const SIZE = { width: 512, height: 256 };
/** Every level of an even picture holds the same. */
async function grained(light: number, params: KeptValues, level = 0): Promise<Float32Array[]> {
  const document = after(emptyDocument('doc', 'Grain', SIZE), { type: 'add-sources', sources: [source(1, { ...SIZE, role: 'beauty' })] }, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' }, { type: 'add-correction-layer', correction: 'grain', zone: 'scene' }, { type: 'set-params', layerId: 'layer-2', params });
  const [width, height] = [SIZE.width >> level, SIZE.height >> level];
  const plane = { type: 'f32' as const, width, height, data: new Float32Array(width * height).fill(light) };
  const plan = planDocument(document);
  const { pixels } = draw(plan, { target: lightOf(plan), source: () => ({ color: [plane, plane, plane], alpha: null, premultiplied: false, x: 0, y: 0 }), mask: () => { throw new Error('There are no masks.'); }, backend: await builtKernels(), level } as never);
  return [0, 1, 2].map((c) => pixels.planes.slice(c * width * height, (c + 1) * width * height));
}
const mean = (values: ArrayLike<number>) => Array.from(values).reduce((sum, value) => sum + value, 0) / values.length;
const stops = (values: Float32Array, of: number) => Float32Array.from(values, (value) => Math.log2(value / of));
const rms = (values: Float32Array) => Math.sqrt(mean(values.map((value) => value ** 2)));
const correlation = (a: Float32Array, b: Float32Array) => mean(a.map((value, i) => value * b[i])) / (rms(a) * rms(b));

describe('grain', () => {
  it.each([0.1, 0.3, 0.6])('of %f stops varies by that in the middle tones; the mean of the light stays', async (amountStops) => {
    const [r] = await grained(0.18, { amountStops, sizePx: 4, colourPercent: 0 });
    const even = (Math.LN2 / 2) * amountStops ** 2;
    expect(rms(stops(r, 0.18).map((value) => value + even)) / amountStops).toBeCloseTo(1, 1);
    expect(mean(r) / 0.18).toBeCloseTo(1, 2);
  });
  it('has its shares in shadows and lights', async () => {
    const params = { amountStops: 0.2, sizePx: 3, colourPercent: 0, shadowsPercent: 50, lightsPercent: 0 };
    const at = async (light: number) => rms(stops((await grained(light, params))[0], light));
    expect((await at(0.18 / 16)) / (await at(0.18))).toBeCloseTo(0.5, 1);
    expect(await at(0.18 * 16)).toBeLessThan(1e-4);
    expect([...(await grained(0, params))[0]].every((value) => value === 0)).toBe(true);
  });
  it('is the same at every zoom: what is drawn at half and a quarter is the mean of what is drawn in full', async () => {
    const params = { amountStops: 0.3, sizePx: 5, colourPercent: 0 };
    const [full] = await grained(0.18, params);
    for (const level of [1, 2]) {
      const [seen] = await grained(0.18, params, level);
      const side = 2 ** level;
      const width = SIZE.width / side;
      const means = Float32Array.from(seen, (_, i) => {
        const [x, y] = [(i % width) * side, Math.floor(i / width) * side];
        let sum = 0;
        for (let j = 0; j < side; j++) for (let k = 0; k < side; k++) sum += full[(y + j) * SIZE.width + x + k];
        return sum / side ** 2;
      });
      const [a, b] = [stops(seen, mean(seen)), stops(means, mean(means))];
      expect(rms(a) / rms(b), `level ${level}`).toBeGreaterThan(0.85);
      expect(rms(a) / rms(b), `level ${level}`).toBeLessThan(1.2);
      expect(correlation(a, b), `level ${level}`).toBeGreaterThan(0.9);
    }
  });
  it('is as wide as it says: neighbours within a grain are alike, those beyond two are not', async () => {
    for (const sizePx of [3, 6]) {
      const values = stops((await grained(0.18, { amountStops: 0.2, sizePx, colourPercent: 0 }))[0], 0.18);
      const alike = (apart: number) => {
        const pairs = Array.from({ length: 60_000 }, (_, n) => Math.floor(n / 400) * SIZE.width + (n % 400));
        return correlation(Float32Array.from(pairs, (i) => values[i]), Float32Array.from(pairs, (i) => values[i + apart]));
      };
      expect(alike(Math.round(sizePx / 2))).toBeCloseTo(0.5, 0);
      expect(Math.abs(alike(2 * sizePx))).toBeLessThan(0.05);
    }
  });
  it('colour is of each channel by itself, another seed is other grains', async () => {
    const params = { amountStops: 0.2, sizePx: 4 };
    const [r, g] = (await grained(0.18, { ...params, colourPercent: 100 })).map((channel) => stops(channel, 0.18));
    expect(Math.abs(correlation(r, g))).toBeLessThan(0.05);
    const [half, other] = (await grained(0.18, { ...params, colourPercent: 50 })).map((channel) => stops(channel, 0.18));
    expect(correlation(half, other)).toBeCloseTo(0.5, 1);
    const again = stops((await grained(0.18, { ...params, colourPercent: 100, seed: 2 }))[0], 0.18);
    expect(Math.abs(correlation(r, again))).toBeLessThan(0.05);
  });
});
