/** Air as a layer: what it does to light, by depths, distances and camera; its edges. */
import { describe, expect, it } from 'vitest';
import { builtKernels } from '../../../../tests/built.ts';
import { expectClose } from '../../../../tests/close.ts';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { extinctionOf, opticalDepth } from '../air/air.ts';
import { rayThrough, vanishingPoint, viewOfCamera } from '../camera/view.ts';
import { problemOf } from '../document/layers.ts';
import { planDocument } from '../evaluate/plan.ts';
import type { Backend } from '../evaluate/backend.ts';
import { referenceBackend } from '../evaluate/reference.ts';
import { lightOf } from '../evaluate/targets.ts';
import { cameraOf } from '../camera/camera.ts';
import { directionOf } from '../sun/position.ts';
import { emptyDocument, type PictureLayer, type TazzelDocument } from '../model/model.ts';
import type { KeptValues } from '../params/table.ts';
import type { SourceView } from '../raster/view.ts';

const SIZE = { width: 48, height: 32 };
const AREA = SIZE.width * SIZE.height;
const LIGHT = [0.2, 0.1, 0.05] as const;
const flat = (value: number) => ({ type: 'f32' as const, ...SIZE, data: new Float32Array(AREA).fill(value) });
const view = (planes: SourceView['color']): SourceView => ({ color: planes, alpha: null, premultiplied: false, x: 0, y: 0 });
const of = (value: (x: number, y: number) => number) => ({ type: 'f32' as const, ...SIZE, data: Float32Array.from({ length: AREA }, (_, i) => value(i % SIZE.width, Math.floor(i / SIZE.width))) });

function scene({ depth, alpha, role = 'depth', camera = true }: { depth: SourceView['color'][0]; alpha?: SourceView['color'][0]; role?: 'depth' | 'distance'; camera?: boolean }) {
  const sources = [source(1, { ...SIZE, role: 'beauty' }), source(2, { ...SIZE, role, encoding: 'data' }), ...(alpha ? [source(3, { ...SIZE, role: 'alpha', encoding: 'data' })] : [])];
  const document = after(
    emptyDocument('doc', 'Air', SIZE),
    { type: 'add-sources', sources },
    { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' },
    ...(camera ? [{ type: 'set-camera' as const, from: 'hand' as const, params: { heightMetres: 1.6, tiltDegrees: 4, focalMillimetres: 24 } }] : []),
    { type: 'add-layer', layer: 'air', zone: 'scene' },
  );
  const views: Record<string, SourceView> = { 'source-1': view(LIGHT.map(flat)), 'source-2': view([depth]), ...(alpha ? { 'source-3': view([alpha]) } : {}) };
  return { document, views };
}
type Scene = ReturnType<typeof scene>;
const airOf = (document: TazzelDocument) => document.buildUp.scene[1] as PictureLayer;
const withAir = ({ document, views }: Scene, params: KeptValues): Scene => ({ views, document: after(document, { type: 'set-params', layerId: airOf(document).id, params }) });
const lightIn = ({ document, views }: Scene, backend: Backend = referenceBackend()) => {
  const plan = planDocument(document);
  const { pixels } = draw(plan, { target: lightOf(plan), source: (id: string) => views[id], mask: () => { throw new Error('There are no masks.'); }, backend, level: 0 } as never);
  return [0, 1, 2].map((c) => pixels.planes.subarray(c * AREA, (c + 1) * AREA));
};
const both = async () => [referenceBackend(), await builtKernels()];
const EVEN = { fallOffMetres: 0, visibilityMetres: 1000, color: [0.7, 0.8, 0.9] } as const;

describe('air', () => {
  // Airlight in linear light: C = J·T + A·(1 − T), visibility 1 km (2 %), distance 250 m.
  it('mixes its light in by what it lets through', async () => {
    for (const backend of await both()) {
      const [r, g, b] = lightIn(withAir(scene({ depth: flat(250), role: 'distance' }), EVEN), backend);
      for (const [c, channel] of [r, g, b].entries()) expectClose([...channel], new Array(AREA).fill([0.51197, 0.536758, 0.580349][c]), 1e-5);
    }
  });
  it('depths become distances by the camera; height makes it thinner, start and ceiling end it', async () => {
    const of24 = scene({ depth: flat(60) });
    const settings = { ...EVEN, visibilityMetres: 200, fallOffMetres: 12, startMetres: 15, ceilingMetres: 9 };
    const camera = cameraOf(of24.document.camera as NonNullable<TazzelDocument['camera']>);
    const seen = viewOfCamera(camera, SIZE);
    for (const backend of await both()) {
      const [r] = lightIn(withAir(of24, settings), backend);
      for (const [x, y] of [[0, 0], [47, 31], [24, 3], [24, 16], [5, 30]]) {
        const ray = rayThrough(seen, x + 0.5, y + 0.5);
        const long = Math.hypot(...ray);
        // The same in small steps.
        let tau = 0;
        for (let i = 0; i < 40_000; i++) {
          const along = ((i + 0.5) / 40_000) * 60 * long;
          const height = 1.6 + (ray[1] / long) * along;
          if (along > 15 && height < 9) tau += extinctionOf(200) * Math.exp(-height / 12) * ((60 * long) / 40_000);
        }
        expect(r[y * SIZE.width + x]).toBeCloseTo(0.2 * Math.exp(-tau) + 0.7 * (1 - Math.exp(-tau)), 4);
      }
    }
  });
  it('is as thick before the sky as wanted; what is nowhere is sky', async () => {
    for (const backend of await both()) {
      for (const nowhere of [Number.POSITIVE_INFINITY, 0, 1e10]) {
        expectClose([...lightIn(withAir(scene({ depth: flat(nowhere) }), EVEN), backend)[0]], new Array(AREA).fill(0.7), 1e-5);
        expectClose([...lightIn(withAir(scene({ depth: flat(nowhere) }), { ...EVEN, skyPercent: 0 }), backend)[0]], new Array(AREA).fill(0.2), 1e-5);
      }
      // A pixel that is half sky by its alpha gets half of either.
      const [r] = lightIn(withAir(scene({ depth: flat(250), role: 'distance', alpha: flat(0.5) }), { ...EVEN, skyPercent: 0 }), backend);
      expectClose([...r], new Array(AREA).fill((0.51197 + 0.2) / 2), 1e-5);
    }
  });
  it('glows towards the sun, which it needs for that', async () => {
    const lit = scene({ depth: flat(Number.POSITIVE_INFINITY) });
    const glowing = (document: TazzelDocument) => withAir({ ...lit, document }, { ...EVEN, glowPercent: 40, glowColor: [1, 1, 1] });
    const [without] = lightIn(glowing(lit.document));
    expectClose([...without], [...lightIn(withAir(lit, EVEN))[0]], 1e-6);
    for (const backend of await both()) {
      const [r] = lightIn(glowing(after(lit.document, { type: 'set-sun', from: 'hand', params: { place: 'angles', azimuthDegrees: 20, altitudeDegrees: 12 } })), backend);
      const brightest = r.indexOf(Math.max(...r));
      // Where the sun stands: 20° to the right, 8° above the axis, at 24 mm on 36 mm.
      expect([brightest % SIZE.width, Math.floor(brightest / SIZE.width)]).toEqual([35, 11]);
    }
  });
  it('glows in shafts past what stands before the sky: as the mean of all that lies between a pixel and the sun, near more than far', async () => {
    // A wall with a gap to the left of the middle; the sun stands in the gap.
    const wall = of((x, y) => (x < 15 || x > 21 || y > 20 ? 1 : 0));
    const lit = scene({ depth: flat(100), alpha: wall, role: 'distance' });
    const towards = { azimuthDegrees: -9, altitudeDegrees: 6 };
    const document = after(lit.document, { type: 'set-sun', from: 'hand', params: { place: 'angles', ...towards } });
    const settings = { ...EVEN, visibilityMetres: 200, glowPercent: 100, glowColor: [1, 1, 1], forwardness: 0, skyPercent: 0 };
    const glowing = (params: KeptValues) => withAir({ ...lit, document }, { ...settings, ...params });
    const plain = (backend: Backend) => lightIn(withAir({ ...lit, document }, { ...settings, glowPercent: 0 }), backend)[0];
    const camera = viewOfCamera(cameraOf(document.camera as NonNullable<TazzelDocument['camera']>), SIZE);
    const [sunX, sunY] = vanishingPoint(camera, directionOf(towards)) as readonly [number, number];
    expect(wall.data[Math.floor(sunY) * SIZE.width + Math.floor(sunX)]).toBe(0);
    const reach = 0.5 * SIZE.height;
    for (const backend of await both()) {
      const [whole, shafts, none] = [glowing({}), glowing({ shaftsPercent: 100, reachPercent: 50 }), plain(backend)].map((each) => (each instanceof Float32Array ? each : lightIn(each, backend)[0]));
      for (const [x, y] of [[5, 10], [18, 12], [30, 10], [18, 28], [40, 5]]) {
        const i = y * SIZE.width + x;
        const length = Math.hypot(sunX - x - 0.5, sunY - y - 0.5);
        const part = Math.min(1, reach / length);
        let [sum, weights] = [0, 0];
        for (let k = 0; k < 216; k++) {
          const along = ((k + 0.5) / 216) * part;
          const [sx, sy] = [x + 0.5 + (sunX - x - 0.5) * along, y + 0.5 + (sunY - y - 0.5) * along];
          const weight = Math.exp((-2 * (k + 0.5)) / 216);
          sum += weight * wall.data[Math.floor(sy) * SIZE.width + Math.floor(sx)];
          weights += weight;
        }
        const seen = (whole[i] - none[i] === 0 ? 0 : (shafts[i] - none[i]) / (whole[i] - none[i])) || 0;
        expect(Math.abs(seen - (wall.data[i] === 1 ? 1 - sum / weights : seen)), `${x} ${y}`).toBeLessThan(0.12);
      }
      // Beside the gap there is none, in it there is all of it.
      expect(shafts[5 * SIZE.width + 46] - none[5 * SIZE.width + 46]).toBeLessThan(1e-4);
    }
    // Behind the camera it shines from nowhere in the picture.
    const behind = after(glowing({ shaftsPercent: 100 }).document, { type: 'set-sun', from: 'hand', params: { place: 'angles', azimuthDegrees: 170, altitudeDegrees: 10 } });
    expect(planDocument(behind).nodes.some(({ kind }) => kind === 'smear')).toBe(false);
  });
  it('ends where it ends: smoke over one place', async () => {
    for (const backend of await both()) {
      const within = (distance: number) => lightIn(withAir(scene({ depth: flat(distance), role: 'distance' }), { ...EVEN, startMetres: 20, endMetres: 30 }), backend)[0][0];
      expectClose([within(10), within(500), within(1e9)], [0.2, within(30), within(30)], 1e-6);
      expect(within(25)).toBeLessThan(within(30));
    }
  });
  it('has no halo: half a pixel near and half far hides what both hide (a fence before a hill, mean error a fifth of the naive)', async () => {
    // Stripes whose edges fall anywhere between pixels: the true share of the near is known.
    const share = (x: number, y: number) => Math.min(1, Math.max(0, Math.abs(((x + y * 0.37) % 12) - 6) - 2.5));
    const depth = of((x, y) => share(x, y) * 8 + (1 - share(x, y)) * 900);
    const hides = (metres: number) => 1 - Math.exp(-opticalDepth(extinctionOf(1000), null, 0, 0, metres));
    const truth = of((x, y) => 0.2 + 0.5 * (share(x, y) * hides(8) + (1 - share(x, y)) * hides(900))).data;
    const naive = of((x, y) => 0.2 + 0.5 * hides(depth.data[y * SIZE.width + x])).data;
    const mean = (values: Float32Array) => values.reduce((sum, value, i) => sum + Math.abs(value - truth[i]), 0) / AREA;
    for (const backend of await both()) expect(mean(lightIn(withAir(scene({ depth, role: 'distance' }), EVEN), backend)[0])).toBeLessThan(mean(naive) / 5);
  });
  it('says what it lacks, and does without a camera what it can', () => {
    const { document } = scene({ depth: flat(250), camera: false });
    expect(problemOf(document, airOf(document))).toBeNull();
    expectClose([...lightIn(withAir(scene({ depth: flat(250), camera: false }), EVEN))[0]], new Array(AREA).fill(0.51197), 1e-5);
    const without = after(document, { type: 'set-source', sourceId: 'source-2', patch: { role: 'picture' } });
    expect(problemOf(without, airOf(without))).toMatch(/no element of depths or distances/);
    expect(planDocument(without).problems.join()).toMatch(/no element of depths/);
  });
  it('several lie one over the other, and any order of even ones is as thick', () => {
    const { document, views } = scene({ depth: flat(100), role: 'distance' });
    const two = (first: number, second: number) => {
      const one = withAir({ document, views }, { ...EVEN, visibilityMetres: first });
      const more = after(one.document, { type: 'add-layer', layer: 'air', zone: 'scene' });
      return lightIn({ views, document: after(more, { type: 'set-params', layerId: (more.buildUp.scene[2] as PictureLayer).id, params: { ...EVEN, visibilityMetres: second } }) })[0];
    };
    expectClose([...two(500, 2000)], [...two(2000, 500)], 1e-6);
    expectClose([...two(500, 2000)], new Array(AREA).fill(0.7 - 0.5 * Math.exp(-100 * (extinctionOf(500) + extinctionOf(2000)))), 1e-6);
  });
});

describe('blue with distance', () => {
  // Rayleigh 1871: light is scattered by λ⁻⁴. Dominant wavelengths 611, 549, 464 nm of BT.709's primaries give 0.652, 1, 1.960.
  it('takes each channel by its own wavelength, and gives it back as light of the air', async () => {
    const depth = (Math.log(50) / 1000) * 250;
    for (const backend of await both()) {
      const found = lightIn(withAir(scene({ depth: flat(250), role: 'distance' }), { ...EVEN, bluePercent: 100 }), backend);
      for (const [c, more] of [0.652, 1, 1.96].entries()) {
        const wanted = EVEN.color[c] + (LIGHT[c] - EVEN.color[c]) * Math.exp(-depth * more);
        expectClose([...found[c]], new Array(AREA).fill(wanted), 1e-3);
      }
      // Near things keep their colour; without it nothing is read below.
      expectClose([...lightIn(withAir(scene({ depth: flat(1e-3), role: 'distance' }), { ...EVEN, bluePercent: 100 }), backend)[2]], new Array(AREA).fill(LIGHT[2]), 1e-4);
    }
  });
  it('goes through a mask and half the opacity as any layer does, and on inside a group', () => {
    const whole = withAir(scene({ depth: flat(250), role: 'distance' }), { ...EVEN, bluePercent: 150 });
    const [full] = lightIn(whole);
    const layerId = airOf(whole.document).id;
    const half = lightIn({ ...whole, document: after(whole.document, { type: 'set-layer', layerId, patch: { opacity: 0.5 } }) })[0];
    expectClose([...half], [...full].map((value) => (value + LIGHT[0]) / 2), 1e-4);
    expectClose([...lightIn({ ...whole, document: after(whole.document, { type: 'group-layer', layerId }) })[0]], [...full], 1e-6);
  });
});

describe('drifting mist', () => {
  const mist = { ...EVEN, visibilityMetres: 120, mistPercent: 100, mistMetres: 8 };
  /** Optical depths of what is 60 m away. */
  const depths = (params: KeptValues, camera: KeptValues = {}) => {
    const made = withAir(scene({ depth: flat(60), role: 'distance' }), params);
    const moved = { ...made, document: after(made.document, { type: 'set-camera', from: 'hand', params: { heightMetres: 1.6, tiltDegrees: 4, focalMillimetres: 24, ...camera } }) };
    // Light that is taken from 0.2 to 0.7.
    return lightIn(moved)[0].map((value) => -Math.log((0.7 - value) / 0.5));
  };
  const mean = (values: Float32Array) => values.reduce((sum, value) => sum + value, 0) / values.length;
  it('is as much of it on the mean, between nothing and twice as much at a place; other seeds are others', () => {
    const even = depths({ ...mist, mistPercent: 0 });
    expectClose([...even], new Array(AREA).fill((Math.log(50) / 120) * 60), 1e-4);
    const seeds = [1, 2, 3, 4, 5, 6].map((seed) => depths({ ...mist, seed }));
    expect(seeds.reduce((sum, found) => sum + mean(found), 0) / seeds.length / mean(even)).toBeCloseTo(1, 0.8);
    for (const found of seeds) {
      const shares = [...found].map((value, i) => value / even[i]);
      expect([Math.min(...shares) >= 0, Math.max(...shares) <= 2.001, Math.max(...shares) - Math.min(...shares) > 0.3]).toEqual([true, true, true]);
    }
    expect(seeds[0]).not.toEqual(seeds[1]);
    expect(depths({ ...mist, mistPercent: 50, seed: 1 }).map((value, i) => value / even[i] - 1)[7]).toBeCloseTo((seeds[0][7] / even[7] - 1) / 2, 3);
  });
  it('stays where it is when the camera moves: what repeats after four banks looks the same from there', () => {
    const here = depths(mist);
    const there = depths(mist, { eastMetres: 4 * 8 });
    expectClose([...there], [...here], 2e-3);
    expect(Math.max(...depths(mist, { eastMetres: 9 }).map((value, i) => Math.abs(value - here[i])))).toBeGreaterThan(0.1);
  });
  it('needs the camera', () => {
    const level = lightIn(withAir(scene({ depth: flat(60), camera: false }), mist));
    expectClose([...level[0]], [...lightIn(withAir(scene({ depth: flat(60), camera: false }), { ...mist, mistPercent: 0 }))[0]], 1e-6);
  });
});
