/** Light is linear: a render in other light is the mix of the old one, and what is forecast of its grain is what it has. The renderer is the independent side here. */
import { AS_RENDERED, gainOf, joinedMeasures, kelvinToLinearSrgb, luminanceOf, measureLight, mixFigures, type LightMeasure, type Triple } from '@tazzel/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { builtRenderer, ground, matt, scene, variedScene } from '../../../../tests/scenes.ts';
import { resolveElement } from '../elements/resolve.ts';
import type { Renderer } from '../render/renderer.ts';
import { sceneWithMix } from './mix.ts';
import type { SceneDescription } from './model.ts';
import { readScene } from './schema.ts';

const SIZE = { width: 96, height: 64 };
/** Large enough for parts of the picture in which neighbours can be compared. */
const LARGE = { width: 224, height: 168 };
/** A grey room with a warm and a cool lamp, and a sky. */
const room = (): SceneDescription =>
  scene({
    materials: [matt('Grey', 0.5), matt('Lighter', 0.56, 2)],
    objects: [ground('Grey'), { name: 'Wall', material: 'Lighter', shapes: [{ kind: 'box', min: [-3, 0, -1.2], max: [3, 3, -1] }] }],
    lamps: [
      { kind: 'sphere', name: 'Warm', group: 'warm lamp', lumens: 900, kelvin: 2700, center: [-1.2, 1.6, 0.6], radius: 0.15 },
      { kind: 'sphere', name: 'Cool', group: 'cool lamp', lumens: 700, kelvin: 6500, center: [1.4, 1.2, 0.4], radius: 0.2 },
    ],
    sky: { kind: 'uniform', luminance: 12, color: [0.8, 0.9, 1.2] },
  });

type Planes = readonly Float32Array[];
interface Shot {
  readonly beauty: Planes;
  readonly groups: Readonly<Record<string, Planes>>;
  readonly filter: Planes;
}

describe('a mix and a render in the same light', () => {
  let renderer: Renderer;
  beforeAll(async () => {
    renderer = await builtRenderer();
  });
  afterAll(() => renderer.terminate());
  const render = async (description: SceneDescription, seed: number, samples: number, size = SIZE): Promise<Shot> => {
    await renderer.openScene({ description });
    const job = renderer.begin({ camera: 'camera', ...size, elements: ['beauty', 'diffuse-filter', 'light-group'], quality: { noisePercent: null, seconds: null, samples }, seed, fog: false, region: null, denoise: 'none', aoMetres: 1, depthRange: null });
    await job.finished;
    const planes = (id: string) => resolveElement(job.rendering, id, false).map(({ name, channels }) => [name.replace('light_group_', ''), channels.map(({ data }) => data)] as const);
    return { beauty: planes('beauty')[0][1], filter: planes('diffuse-filter')[0][1], groups: Object.fromEntries(planes('light-group')) };
  };
  const summed = ({ groups }: Shot, gains: Readonly<Record<string, Triple>>): Float32Array[] =>
    [0, 1, 2].map((c) => Float32Array.from(groups.rest[c], (_, i) => Object.entries(groups).reduce((sum, [name, planes]) => sum + (gains[name]?.[c] ?? 1) * planes[c][i], 0)));
  const mean = (plane: Float32Array) => plane.reduce((sum, value) => sum + value, 0) / plane.length;

  const warm = { ...AS_RENDERED, intensityStops: 1, takes: 'chosen' as const, color: kelvinToLinearSrgb(4200) as Triple };
  const gains: Readonly<Record<string, Triple>> = { warm_lamp: gainOf(warm, kelvinToLinearSrgb(2700) as Triple), cool_lamp: [0, 0, 0], environment: [0.25, 0.25, 0.5] };

  it('written into the scene’s lamps and rendered again it is the old mix, within the noise of both', async () => {
    const old = await render(room(), 3, 96);
    const { scene: relit, missing } = sceneWithMix(room(), Object.entries(gains).map(([name, gain]) => ({ name: `light_group_${name}`, gain })));
    expect(missing).toEqual([]);
    const [mix, anew] = [summed(old, gains), (await render(readScene(JSON.parse(JSON.stringify(relit))), 4, 96)).beauty];
    for (const c of [0, 1, 2]) {
      // Standard errors of both pictures are below one percent of the mean, stated here as the bound.
      expect(mean(mix[c]) / mean(anew[c])).toBeCloseTo(1, 1.9);
      const apart = Math.sqrt(mix[c].reduce((sum, value, i) => sum + (value - anew[c][i]) ** 2, 0) / mix[c].length);
      expect(apart / mean(anew[c])).toBeLessThan(0.2);
    }
  });
  it('a lamp of twice the watts is the same group a stop brighter, in the same render', async () => {
    const alone: SceneDescription = { ...room(), sky: { kind: 'none' }, lamps: room().lamps.slice(0, 1) };
    const bright = { ...alone, lamps: alone.lamps.map((lamp) => ({ ...lamp, lumens: lamp.lumens * 2 })) };
    const [one, two] = [await render(alone, 5, 16), await render(bright, 5, 16)];
    for (const c of [0, 1, 2]) expect(mean(two.groups.warm_lamp[c]) / mean(one.groups.warm_lamp[c])).toBeCloseTo(2, 2);
  });

  const measured = ({ groups, filter }: Shot, name: string, size = SIZE): LightMeasure => {
    const read = (planes: Planes) => [0, 1, 2].map((c) => (x: number, y: number) => planes[c][y * size.width + x]) as never;
    return measureLight(read(groups[name]), read(filter), size);
  };
  it('the colour of a lamp is found in what it lights', async () => {
    const shot = await render(room(), 6, 64);
    for (const [name, kelvin] of [['warm_lamp', 2700], ['cool_lamp', 6500]] as const) {
      const { own } = measured(shot, name);
      for (const [c, value] of (own ?? [0, 0, 0]).entries()) expect(value).toBeCloseTo(kelvinToLinearSrgb(kelvin)[c], 1);
      expect(luminanceOf(own ?? [])).toBeCloseTo(1, 9);
    }
    expect(measured({ ...shot, groups: { none: [0, 1, 2].map(() => new Float32Array(SIZE.width * SIZE.height)) } }, 'none').own).toBeNull();
  });
  it('the grain of a mix is forecast within 15 % of that of many seeds', async () => {
    const shots: Shot[] = [];
    for (let seed = 10; seed < 16; seed++) shots.push(await render(room(), seed, 4, LARGE));
    const names = Object.keys(shots[0].groups);
    const measures = shots.slice(0, 3).map((shot) => joinedMeasures(names.map((name) => measured(shot, name, LARGE))));
    for (const mix of [{}, gains, { warm_lamp: [0.1, 0.1, 0.1], cool_lamp: [4, 4, 4] }] as Readonly<Record<string, Triple>>[]) {
      const forecasts = measures.map((measure) => mixFigures(measure, names.map((name) => mix[name] ?? [1, 1, 1])).totalNoise);
      const forecast = forecasts.reduce((sum, value) => sum + value, 0) / forecasts.length;
      const light = shots.map((shot) => {
        const [r, g, b] = summed(shot, mix);
        return r.map((_, i) => luminanceOf([r[i], g[i], b[i]]));
      });
      // What the figure means, over seeds instead of neighbours: parts of the picture, each by its own light.
      const squares: number[] = [];
      const [wide, high] = [LARGE.width / 16, LARGE.height / 12];
      for (let cell = 0; cell < 192; cell++) {
        let [variance, sum, count] = [0, 0, 0];
        for (let y = Math.floor(Math.floor(cell / 16) * high); y < Math.floor((Math.floor(cell / 16) + 1) * high); y++) {
          for (let x = (cell % 16) * wide; x < ((cell % 16) + 1) * wide; x++) {
            const values = light.map((picture) => picture[y * LARGE.width + x]);
            const middle = values.reduce((total, value) => total + value, 0) / values.length;
            variance += values.reduce((total, value) => total + (value - middle) ** 2, 0) / (values.length - 1);
            sum += middle;
            count++;
          }
        }
        squares.push(variance / count / (sum / count) ** 2);
      }
      const truth = Math.sqrt(squares.reduce((total, value) => total + value, 0) / squares.length);
      expect(Math.abs(forecast / truth - 1), `${forecast} for ${truth}`).toBeLessThan(0.15);
    }
  });
});

describe('a mix in a scene', () => {
  it('reaches lamps, surfaces that shine, sun, sky and the rest; names groups that are not there', () => {
    const varied = { ...variedScene(), sun: { place: 'angles' as const, azimuthDegrees: 0, altitudeDegrees: 30, lux: null, kelvin: 5000, angularDegrees: 0.53 } };
    const { scene: relit, missing } = sceneWithMix(varied, [
      { name: 'light_group_bulbs', gain: [2, 2, 2] },
      { name: 'light_group_screens', gain: [0.5, 0.5, 0.5] },
      { name: 'rest', gain: [0, 0, 0] },
      { name: 'Sun', gain: [1, 0.8, 0.5] },
      { name: 'light group environment', gain: [0.1, 0.2, 0.4] },
      { name: 'candles', gain: [3, 3, 3] },
    ]);
    expect(relit.lamps.map(({ lumens, filter }) => [lumens, filter])).toEqual([[1600, undefined], [0, undefined]]);
    expect(relit.materials.at(-1)?.surface).toMatchObject({ luminance: 200 });
    expect([relit.sun?.filter, relit.skyFilter]).toEqual([[1, 0.8, 0.5], [0.1, 0.2, 0.4]]);
    expect(missing).toEqual(['candles']);
    expect(readScene(JSON.parse(JSON.stringify(relit)))).toEqual(relit);
  });
  it('nothing is changed by a mix that changes nothing, and filters go on from filters', () => {
    expect(sceneWithMix(variedScene(), [{ name: 'bulbs', gain: [1, 1, 1] }]).scene).toEqual(variedScene());
    const red = sceneWithMix(variedScene(), [{ name: 'bulbs', gain: [1, 0.5, 0.25] }]).scene;
    const back = sceneWithMix(red, [{ name: 'bulbs', gain: [1, 2, 4] }]).scene;
    expect(back.lamps[0].lumens).toBeCloseTo(800, 9);
    expect(back.lamps[0].filter).toBeUndefined();
    expect(sceneWithMix(variedScene(), [], { kind: 'automatic', stops: 1 }).scene.cameras[0].exposure).toEqual({ kind: 'automatic', stops: 1 });
  });
});
