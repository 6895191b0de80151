import { correctionById, type PointCorrection, type ParamTable, srgbEncode } from '@tazzel/core';
import { differenceCiede2000 } from 'culori';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { builtRenderer, camera, ground, matt, scene } from '../../../../tests/scenes.ts';
import type { Renderer } from '../render/renderer.ts';
import type { MaterialDescription, Triple } from '../scene/model.ts';
import { resolveElement } from './resolve.ts';

const SIZE = { width: 48, height: 32 };
const repaint = correctionById('repaint') as PointCorrection<ParamTable>;

/** A panel in the sun and under the sky, beside a wall that lights it as well. */
const withPanel = (panel: MaterialDescription) =>
  scene({
    materials: [matt('Ground', [0.35, 0.33, 0.3], 1), { ...panel, name: 'Panel', number: 2 }, matt('Wall', [0.6, 0.58, 0.5], 3)],
    objects: [
      ground('Ground'),
      { name: 'Panel', material: 'Panel', shapes: [{ kind: 'box', min: [-1.6, 0, -1], max: [1.1, 2, -0.9] }] },
      { name: 'Wall', material: 'Wall', shapes: [{ kind: 'box', min: [1.1, 0, -1], max: [1.2, 1.6, 1] }] },
    ],
    sun: { place: 'angles', azimuthDegrees: 30, altitudeDegrees: 40, lux: 40_000, kelvin: 5200, angularDegrees: 0.53 },
    sky: { kind: 'daylight', turbidity: 3, lux: 9000, clouds: 0.2 },
    cameras: [camera({ exposure: { kind: 'settings', fNumber: 11, shutterSeconds: 1 / 100, iso: 100 } })],
  });

describe('repainting agrees with rendering in the other colour', () => {
  let renderer: Renderer;
  beforeAll(async () => {
    renderer = await builtRenderer();
  });
  afterAll(() => renderer.terminate());
  const render = async (panel: MaterialDescription) => {
    await renderer.openScene({ description: withPanel(panel) });
    const job = renderer.begin({ camera: 'camera', ...SIZE, elements: ['beauty', 'diffuse-filter', 'raw-lighting', 'raw-gi'], quality: { noisePercent: null, seconds: null, samples: 128 }, seed: 5, fog: false, region: null, denoise: 'none', aoMetres: 1, depthRange: null });
    await job.finished;
    return (id: string) => resolveElement(job.rendering, id, false)[0].channels.map(({ data }) => data);
  };
  const distance = differenceCiede2000();
  const shown = (light: readonly number[]) => ({ mode: 'rgb' as const, r: srgbEncode(light[0]), g: srgbEncode(light[1]), b: srgbEncode(light[2]) });

  it.each([
    ['grey to red', [0.3, 0.3, 0.3], [0.35, 0.06, 0.05]],
    ['green to white', [0.1, 0.25, 0.08], [0.7, 0.68, 0.62]],
    ['blue to brown', [0.08, 0.1, 0.3], [0.22, 0.12, 0.06]],
  ] as const)('%s', async (_, now, next) => {
    const before = await render(matt('Panel', now as Triple));
    const after = await render(matt('Panel', next as Triple));
    const [beauty, filter, raw, gi, expected] = [before('beauty'), before('diffuse-filter'), before('raw-lighting'), before('raw-gi'), after('beauty')];
    const prepared = repaint.prepare({ color: next, presentColor: now, texturePercent: 100, amountPercent: 100 }, SIZE);
    const at = (planes: readonly Float32Array[], i: number): Triple => [planes[0][i], planes[1][i], planes[2][i]];
    const errors: number[] = [];
    const changes: number[] = [];
    for (let i = 0; i < SIZE.width * SIZE.height; i++) {
      // Pixels that show the panel and nothing else.
      if (at(filter, i).some((v, c) => Math.abs(v - now[c]) > 1e-4)) continue;
      const painted = repaint.pixel(at(beauty, i), prepared, [0, 0], [at(filter, i), at(raw, i), at(gi, i), at(beauty, i)], 1);
      // Of a picture at half the light it makes half the light.
      const [bright, dim] = [at(beauty, i), at(beauty, i).map((v) => v / 2) as unknown as Triple].map((rgb) => repaint.pixel(rgb, prepared, [0, 0], [at(filter, i), at(raw, i), at(gi, i), at(beauty, i)], 1));
      for (let c = 0; c < 3; c++) expect(dim[c] * 2).toBeCloseTo(bright[c], 4);
      errors.push(distance(shown(painted), shown(at(expected, i))));
      changes.push(distance(shown(at(beauty, i)), shown(at(expected, i))));
    }
    errors.sort((a, b) => a - b);
    const mean = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length;
    expect(errors.length).toBeGreaterThan(200);
    // What remains is the light that the panel throws back onto itself by way of ground and wall, in its new colour.
    expect(mean(errors)).toBeLessThan(0.8);
    expect(errors[Math.floor(errors.length * 0.95)]).toBeLessThan(2);
    expect(mean(changes)).toBeGreaterThan(15);
  });
});
