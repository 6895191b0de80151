/** A sky as a layer: what is seen where, its kernel against its definition, and edges against mattes whose foreground is known. */
import { beforeAll, describe, expect, it } from 'vitest';
import * as THREE from 'three';
import { builtKernels } from '../../../../tests/built.ts';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { seeded } from '../../../../tests/random.ts';
import { type Camera, cameraOf } from '../camera/camera.ts';
import { horizonAt, rayThrough, viewOfCamera } from '../camera/view.ts';
import { luminanceOf } from '../color/luminance.ts';
import type { Backend } from '../evaluate/backend.ts';
import { planDocument } from '../evaluate/plan.ts';
import { referenceBackend } from '../evaluate/reference.ts';
import { lightOf } from '../evaluate/targets.ts';
import { needKey } from '../masks/define.ts';
import { evaluateMask } from '../masks/evaluate.ts';
import { newMask, newTerm } from '../document/mask-edits.ts';
import { emptyDocument, type PictureLayer, type TazzelDocument } from '../model/model.ts';
import type { KeptValues } from '../params/table.ts';
import { completeParams } from '../params/table.ts';
import type { SourceView } from '../raster/view.ts';
import { generalLook, SKY_UNIT } from '../sky/look.ts';
import { generalSky, preethamDaylight } from '../sky/sky.ts';
import { directionOf } from '../sun/position.ts';
import type { Triple } from '../vector.ts';
import { layerSpec } from './registry.ts';
import { plainSight, prepareSky, type SkyPicture, skyPixel } from '../sky/pixel.ts';
import { meanSkyLight, type SkyValues, skyPicture } from './sky-values.ts';

const RAD = Math.PI / 180;
const values = (patch: KeptValues = {}): SkyValues => completeParams(layerSpec('sky'), { sunFrom: 'own', altitudeDegrees: 35, azimuthDegrees: 40, ...patch }) as unknown as SkyValues;
const camera = (patch: KeptValues = {}): Camera => cameraOf({ from: 'hand', params: { tiltDegrees: 12, headingDegrees: 25, rollDegrees: 3, focalMillimetres: 24, ...patch } });
const SIZE = { width: 300, height: 200 };
const view = viewOfCamera(camera(), SIZE);
const plain = plainSight(view);
const NOTHING = [[0, 0, 0], [0, 0, 0], [0, 0, 0], [0, 0, 0], [0, 0, 0]];
const lightAt = (picture: SkyPicture, x: number, y: number) => skyPixel(prepareSky(picture, plain), [x, y], NOTHING, 1);

/** The direction that three's camera looks through a place. */
function threeDirection(x: number, y: number): Triple {
  const c = camera();
  const lens = new THREE.PerspectiveCamera((2 * Math.atan((c.sensorMillimetres * SIZE.height) / SIZE.width / 2 / c.focalMillimetres)) / RAD, SIZE.width / SIZE.height, 0.1, 1000);
  lens.rotation.set(c.tiltDegrees * RAD, -c.headingDegrees * RAD, -c.rollDegrees * RAD, 'YXZ');
  lens.updateMatrixWorld(true);
  const at = new THREE.Vector3((x / SIZE.width) * 2 - 1, 1 - (y / SIZE.height) * 2, 0.5).unproject(lens).normalize();
  return [at.x, at.y, at.z];
}
const PLACES = [[20, 15], [150, 40], [290, 90], [60, 100]] as const;

describe('what is seen in a direction', () => {
  // Perspective by three.js, the model by Preetham et al. 1999 (its values stand in sky.test.ts).
  it('is Preetham’s daylight there, but for one factor', () => {
    const picture = skyPicture(values({ turbidity: 3 }), { sun: null });
    const [sunX, sunY, sunZ] = picture.sun;
    const daylight = preethamDaylight(3, Math.acos(sunY));
    const factors = PLACES.map(([x, y]) => {
      const [dx, dy, dz] = threeDirection(x, y);
      expect(dy).toBeGreaterThan(0.02);
      const [Y] = daylight.at(Math.acos(dy), Math.acos(dx * sunX + dy * sunY + dz * sunZ));
      return luminanceOf(lightAt(picture, x, y).slice(0, 3) as unknown as Triple) / Y;
    });
    for (const factor of factors) expect(factor / factors[0]).toBeCloseTo(1, 2);
  });
  it('is one of the standard skies there, as bright as a clear sky on the ground', () => {
    for (const type of [1, 5, 8, 12, 15]) {
      const picture = skyPicture(values({ look: 'general', type: `type-${type}` }), { sun: null });
      const ratio = (x: number, y: number) => {
        const [dx, dy, dz] = threeDirection(x, y);
        const [sunX, sunY, sunZ] = picture.sun;
        return luminanceOf(lightAt(picture, x, y).slice(0, 3) as unknown as Triple) / generalSky(type, Math.acos(dy), Math.acos(dx * sunX + dy * sunY + dz * sunZ), Math.acos(sunY));
      };
      for (const [x, y] of PLACES) expect(ratio(x, y) / ratio(20, 15), `type ${type}`).toBeCloseTo(1, 3);
    }
    // IESNA RP-21: 800 + 15,500 √sin 35° lux, over π.
    expect(generalLook(5, 6500, directionOf({ altitudeDegrees: 35, azimuthDegrees: 0 })).mean * SKY_UNIT * Math.PI).toBeCloseTo(800 + 15_500 * Math.sqrt(Math.sin(35 * RAD)), 0);
  });
  it('has the sun where it stands, and half a degree wide', () => {
    const sun = threeDirection(120, 60);
    const picture = { ...skyPicture(values({ hasDisc: true }), { sun: null }), sun };
    const peak = lightAt(picture, 120, 60)[0];
    expect(peak).toBeGreaterThan(50 * lightAt(picture, 126, 60)[0]);
    let width = 0;
    for (let x = 110; x < 130; x += 0.05) if (lightAt(picture, x, 60)[0] > peak / 2) width += 0.05;
    expect((Math.atan(width / view.focalPx) / RAD) * (1 - ((120 - view.axisX) / view.focalPx) ** 2 * 0.5)).toBeCloseTo(0.533, 1);
  });
  it('goes on through sunset into the night: ever darker, warm over the sun, blue above', () => {
    const looks = [8, 2, -1, -4, -8, -14].map((altitudeDegrees) => skyPicture(values({ altitudeDegrees, azimuthDegrees: 25 }), { sun: null }));
    const up = looks.map((picture) => lightAt(picture, 150, 5));
    for (let i = 1; i < up.length; i++) expect(luminanceOf(up[i] as unknown as Triple)).toBeLessThan(luminanceOf(up[i - 1] as unknown as Triple));
    const low = looks.map((picture) => lightAt(picture, 150, 118));
    for (const i of [2, 3]) {
      expect(low[i][0] / low[i][2]).toBeGreaterThan(1.3 * (up[i][0] / up[i][2]));
      expect(up[i][2]).toBeGreaterThan(up[i][0]);
    }
    for (const light of [...up, ...low]) for (const value of light) expect(Number.isFinite(value) && value >= 0).toBe(true);
  });
});

describe('clouds', () => {
  const share = (patch: KeptValues) => {
    const [clear, clouded] = [skyPicture(values(), { sun: null }), skyPicture(values(patch), { sun: null })];
    const [a, b] = [prepareSky(clear, plain), prepareSky(clouded, plain)];
    let found = 0;
    let all = 0;
    for (let y = 4; y < 90; y += 6) {
      for (let x = 4; x < 300; x += 6) {
        const [before, after] = [a, b].map((prepared) => skyPixel(prepared, [x, y], NOTHING, 1));
        all++;
        if (Math.abs(after[2] - before[2]) > 0.03 * before[2]) found++;
      }
    }
    return found / all;
  };
  it('take as much of the sky as they are told to, and other seeds are others', () => {
    expect(share({ clouds: 'stratus', coverPercent: 0 })).toBe(0);
    expect(share({ clouds: 'stratus', coverPercent: 100 })).toBe(1);
    const some = [1, 2, 3, 4, 5, 6].map((seed) => share({ clouds: 'stratus', coverPercent: 40, seed }));
    expect(Math.abs(some.reduce((a, b) => a + b, 0) / some.length - 0.4)).toBeLessThan(0.15);
    expect(new Set(some).size).toBeGreaterThan(3);
  });
  it('are brighter than the sky in sunlight, darker at their feet, and fade with distance', () => {
    const picture = skyPicture(values({ clouds: 'cumulus', coverPercent: 100 }), { sun: null });
    const near = lightAt(picture, 150, 20);
    const horizon = [lightAt(picture, 150, 133), lightAt({ ...picture, clouds: null }, 150, 133)];
    expect(luminanceOf(near as unknown as Triple)).toBeGreaterThan(0.2);
    expect(horizon[0][1] / horizon[1][1]).toBeCloseTo(1, 0);
  });
});

describe('the loop equals the definition', () => {
  it.each([
    ['clear', {}],
    ['with the sun in it', { hasDisc: true, altitudeDegrees: 14, azimuthDegrees: 22 }],
    ['twilight', { altitudeDegrees: -5 }],
    ['standard', { look: 'general', type: 'type-8', kelvin: 4000 }],
    ['cumulus', { clouds: 'cumulus', coverPercent: 55 }],
    ['cirrus', { clouds: 'cirrus', coverPercent: 70, hasDisc: true, altitudeDegrees: 14, azimuthDegrees: 22 }],
    ['read from a picture', { look: 'photograph', exposureStops: 1, tint: [1, 0.5, 0.25] }],
    ['stratus', { clouds: 'stratus', coverPercent: 80, windDegrees: 200 }],
  ] as const)('%s', async (_label, patch) => {
    const picture = skyPicture(values(patch), { sun: null });
    const isRead = 'look' in patch && patch.look === 'photograph';
    for (const sight of [{ hasAlpha: true }, { hasAlpha: true, exchanges: true }, { hasAlpha: true, exchanges: true, wrap: 0.3 }, ...(isRead ? [] : [{ mirrors: true }, { hasAlpha: true, wrap: 1, isLight: true }])]) {
      const prepared = prepareSky(picture, { ...plain, ...sight, isRead });
      const results = [referenceBackend(), await builtKernels()].map((backend: Backend) => {
        const random = seeded(5);
        const registers = Array.from({ length: 18 }, () => backend.register());
        const count = 250;
        for (let i = 0; i < count; i++) {
          registers[4].values[i] = Math.floor(random() * 300) + 0.5;
          registers[5].values[i] = Math.floor(random() * 200) + 0.5;
          for (let k = 6; k < 18; k++) registers[k].values[i] = random();
          registers[6].values[i] = i % 3 === 0 ? random() : i % 3 === 1 ? 0 : 1;
        }
        const triple = (from: number) => [registers[from], registers[from + 1], registers[from + 2]] as const;
        backend.generate('sky', prepared, triple(0), registers[3], count, [registers[4], registers[5]], [triple(6), triple(9), triple(12), triple('mirrors' in sight ? 12 : 9), triple(15)], 2);
        return registers.slice(0, 4).map(({ values: list }) => [...list.subarray(0, count)]);
      });
      // A place on the rim of a copy of the field, or of the sun, may fall to the other side in single precision.
      for (let c = 0; c < 4; c++) {
        const off = results[0][c].filter((value, i) => Math.abs(value - results[1][c][i]) > 2e-3 * Math.max(0.05, Math.abs(value)));
        expect(off.length, `${c}`).toBeLessThanOrEqual(patch && 'clouds' in patch ? 5 : 0);
      }
    }
  });
});

let kernels: Backend;
beforeAll(async () => {
  kernels = await builtKernels();
});

const flat = (value: number, size = SIZE) => ({ type: 'f32' as const, ...size, data: new Float32Array(size.width * size.height).fill(value) });
const planes = (value: (x: number, y: number, c: number) => number) => [0, 1, 2].map((c) => ({ type: 'f32' as const, ...SIZE, data: Float32Array.from({ length: SIZE.width * SIZE.height }, (_, i) => value(i % SIZE.width, Math.floor(i / SIZE.width), c)) }));
const viewOf = (color: SourceView['color']): SourceView => ({ color, alpha: null, premultiplied: false, x: 0, y: 0 });

function scene(color: SourceView['color'], alpha: SourceView['color'][0] | null, params: KeptValues = {}) {
  const sources = [source(1, { ...SIZE, role: 'beauty' }), ...(alpha ? [source(2, { ...SIZE, role: 'alpha', encoding: 'data' })] : [])];
  const document = after(
    emptyDocument('doc', 'Sky', SIZE),
    { type: 'add-sources', sources },
    { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' },
    { type: 'set-camera', from: 'hand', params: { tiltDegrees: 12, headingDegrees: 25, rollDegrees: 3, focalMillimetres: 24 } },
    { type: 'add-layer', layer: 'sky', params: { sunFrom: 'own', altitudeDegrees: 35, azimuthDegrees: 40, wrapPercent: 0, ...params }, zone: 'scene' },
  );
  const views: Record<string, SourceView> = { 'source-1': viewOf(color), ...(alpha ? { 'source-2': viewOf([alpha]) } : {}) };
  return { document, views };
}
function light({ document, views }: { document: TazzelDocument; views: Record<string, SourceView> }, backend: Backend = kernels) {
  const plan = planDocument(document);
  const mask = (key: string) => evaluateMask(plan.masks[key].mask, { size: SIZE, level: 0, views: Object.fromEntries(Object.entries(views).map(([sourceId, v]) => [needKey({ what: 'view', sourceId }), { ...v, encoding: 'data', scale: 1, offset: 0 }])), mattes: {}, coverages: {}, mixtures: {}, pictures: {}, masks: {}, camera: null, materials: {} } as never);
  const { pixels } = draw(plan, { target: lightOf(plan), source: (id: string) => views[id], mask, backend, level: 0 } as never);
  const area = SIZE.width * SIZE.height;
  return [0, 1, 2].map((c) => pixels.planes.subarray(c * area, (c + 1) * area));
}

describe('edges', () => {
  /** Leaves and cables before a sky with a gradient: what stands before it is known, and so is the picture with another sky. */
  const random = seeded(8);
  const discs = Array.from({ length: 60 }, () => [60 + random() * 180, 20 + random() * 130, 2 + random() * 5]);
  const cover = (x: number, y: number) => {
    let free = 1;
    for (const [cx, cy, radius] of discs) free *= 1 - Math.min(1, Math.max(0, radius - Math.hypot(x - cx, y - cy) + 0.5));
    // A cable, half a pixel thin.
    free *= 1 - 0.5 * Math.max(0, 1 - Math.abs(y - 30 - x * 0.1));
    return y > 150 ? 1 : 1 - free;
  };
  const leaf = (x: number, y: number, c: number) => [0.03, 0.05, 0.02][c] * (1 + 0.5 * Math.sin(x * 0.3) * Math.sin(y * 0.4));
  const old = (_x: number, y: number, c: number) => [1.4, 1.5, 1.7][c] - y * 0.003;
  const alpha = { type: 'f32' as const, ...SIZE, data: Float32Array.from({ length: SIZE.width * SIZE.height }, (_, i) => cover(i % SIZE.width, Math.floor(i / SIZE.width))) };
  const beauty = planes((x, y, c) => cover(x, y) * leaf(x, y, c) + (1 - cover(x, y)) * old(x, y, c));
  /** Mean error over pixels that are partly sky, against the right picture. */
  const errorOf = (found: readonly Float32Array[], fresh: readonly Float32Array[]) => {
    let sum = 0;
    let count = 0;
    for (let i = 0; i < alpha.data.length; i++) {
      const a = alpha.data[i];
      if (a <= 0.02 || a >= 0.98) continue;
      count++;
      for (let c = 0; c < 3; c++) sum += Math.abs(found[c][i] - (a * leaf(i % SIZE.width, Math.floor(i / SIZE.width), c) + (1 - a) * fresh[c][i]));
    }
    return sum / count;
  };
  const dusk = { exposureStops: -1 };
  let fresh: readonly Float32Array[];
  beforeAll(() => {
    fresh = light(scene(beauty, null, dusk));
  });
  it('are a quarter as wrong as alpha over, and as a choked mask; the same by both backends', () => {
    const exchanged = light(scene(beauty, alpha, dusk));
    const naive = light(scene(beauty, alpha, { ...dusk, edges: 'plain' }));
    // A choke: the mask of the sky grows over the edge by a pixel.
    const choked = [0, 1, 2].map((c) => Float32Array.from(beauty[c].data, (value, i) => {
      const [x, y] = [i % SIZE.width, Math.floor(i / SIZE.width)];
      let least = alpha.data[i];
      for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]]) least = Math.min(least, cover(x + dx, y + dy));
      return least * value + (1 - least) * fresh[c][i];
    }));
    const [ours, over, choke] = [exchanged, naive, choked].map((found) => errorOf(found, fresh));
    expect(ours, `${ours} of ${over}`).toBeLessThan(over / 4);
    expect(ours).toBeLessThan(choke / 4);
    const defined = light(scene(beauty, alpha, dusk), referenceBackend());
    for (let c = 0; c < 3; c++) for (let i = 0; i < alpha.data.length; i += 7) expect(Math.abs(defined[c][i] - exchanged[c][i])).toBeLessThan(2e-3);
  });
  it('what is all building stays bit by bit, what is all sky is the new one', () => {
    const found = light(scene(beauty, alpha, dusk));
    for (let i = 0; i < alpha.data.length; i++) {
      for (let c = 0; c < 3; c++) {
        if (alpha.data[i] === 1) expect(found[c][i]).toBe(beauty[c].data[i]);
        else if (alpha.data[i] === 0) expect(found[c][i]).toBeCloseTo(fresh[c][i], 5);
      }
    }
  });
  it('without an alpha the layer’s own mask of the old sky does the same, turned round or not', () => {
    const wanted = light(scene(beauty, alpha, { ...dusk, wrapPercent: 20 }));
    const { document, views } = scene(beauty, alpha, { ...dusk, wrapPercent: 20 });
    const nameless = { ...document, sources: document.sources.map((each) => (each.role === 'alpha' ? { ...each, role: 'picture' as const } : each)) };
    for (const inverted of [false, true]) {
      const mask = { ...newMask('mask-1', 'Old sky', [newTerm('alpha', 'add', nameless, { source: 'source-2' })]), inverted };
      const found = light({ document: { ...after({ ...nameless, masks: [mask] }, { type: 'set-layer', layerId: 'layer-2', patch: { mask: { maskId: 'mask-1', inverted: !inverted, enabled: true } } }) }, views });
      for (let c = 0; c < 3; c++) for (let i = 0; i < alpha.data.length; i += 5) expect(Math.abs(found[c][i] - wanted[c][i]), `${c} ${i}`).toBeLessThan(0.02);
      expect(errorOf(found, fresh)).toBeLessThan(errorOf(wanted, fresh) * 1.2 + 1e-4);
    }
  });
  it('what is done to the sky by itself leaves the building alone, also where light goes around it', () => {
    const { document, views } = scene(planes(() => 0.02), { ...alpha, data: alpha.data.map((_, i) => (i % SIZE.width < 150 ? 1 : 0)) }, { wrapPercent: 10, wrapPx: 6 });
    const darker = after(document, { type: 'add-chain-correction', layerId: 'layer-2', correction: 'exposure' }, { type: 'set-params', layerId: 'layer-2', correctionId: 'correction-1', params: { exposureStops: -3 } });
    const found = light({ document: darker, views });
    for (let x = 100; x < 150; x++) expect(found[1][60 * SIZE.width + x], `${x}`).toBeGreaterThan(0.0195 * 0.92);
  });
  it('light goes around them: as much as the sky there, by how near it is, and nothing farther in', () => {
    // A straight wall, dark: what is added is the sky itself, weighed by how much of it a Gaussian sees from there.
    const wall = { type: 'f32' as const, ...SIZE, data: Float32Array.from({ length: SIZE.width * SIZE.height }, (_, i) => (i % SIZE.width < 150 ? 1 : 0)) };
    const dark = planes(() => 0.02);
    const [without, wrapped] = [0, 30].map((wrapPercent) => light(scene(dark, wall, { wrapPercent, wrapPx: 6 })));
    const sky = light(scene(dark, null));
    // Φ of the distance in standard deviations: Abramowitz and Stegun, table 26.1.
    for (const [x, share] of [[143, 0.1394], [137, 0.0186], [148, 0.4013]] as const) {
      for (const y of [20, 90]) {
        const i = y * SIZE.width + x;
        for (const c of [0, 1, 2]) expect((wrapped[c][i] - without[c][i]) / (0.3 * sky[c][i]), `${x}, ${y}`).toBeCloseTo(share, 1.7);
      }
    }
    for (const x of [0, 40, 100, 120]) expect(wrapped[1][50 * SIZE.width + x]).toBe(without[1][50 * SIZE.width + x]);
    for (const x of [150, 200, 299]) expect(wrapped[1][50 * SIZE.width + x]).toBeCloseTo(without[1][50 * SIZE.width + x], 5);
  });
  it('inside a group, under a correction and at half opacity it goes on; over the tone line it is a plain sky', () => {
    const { document, views } = scene(beauty, alpha, dusk);
    const sky = document.buildUp.scene[1] as PictureLayer;
    const whole = light({ document, views });
    const grouped = after(document, { type: 'group-layer', layerId: sky.id });
    expect(light({ document: grouped, views })).toEqual(whole);
    const half = light({ document: after(document, { type: 'set-layer', layerId: sky.id, patch: { opacity: 0.5 } }), views });
    for (let i = 0; i < alpha.data.length; i += 13) expect(half[0][i]).toBeCloseTo((whole[0][i] + beauty[0].data[i]) / 2, 4);
    const darker = after(document, { type: 'add-correction-layer', correction: 'exposure', zone: 'scene', index: 1 }, { type: 'set-params', layerId: 'layer-3', params: { exposureStops: -2 } });
    // The sky is exchanged in what the correction made: its edges are a quarter as bright, not darker rims.
    const after2 = light({ document: darker, views });
    for (let i = 0; i < alpha.data.length; i += 11) if (alpha.data[i] === 1) expect(after2[0][i]).toBeCloseTo(beauty[0].data[i] / 4, 5);
  });
});

describe('clouds that are kept', () => {
  const wall = flat(0);
  wall.data.fill(1, 0, SIZE.width * 20);
  wall.data.fill(0.4, SIZE.width * 20, SIZE.width * 21);
  const made = (params: KeptValues) => scene(planes(() => 0.02), wall, { clouds: 'cumulus', coverPercent: 55, ...params });
  const keyOf = (params: KeptValues) => {
    const plan = planDocument(made(params).document);
    const [node, ...more] = plan.shared;
    expect(more).toEqual([]);
    const found = plan.nodes[node];
    return found.kind === 'points' ? found.keys.at(-1) : null;
  };
  it('are the same picture whatever is done with their light, and another one for other clouds', () => {
    const key = keyOf({});
    for (const params of [{ exposureStops: 2 }, { tint: [1, 0.7, 0.5] }, { edges: 'plain' }] as KeptValues[]) expect(keyOf(params), JSON.stringify(params)).toBe(key);
    expect(keyOf({ wrapPercent: 10 })).toBe(keyOf({ wrapPercent: 40 }));
    for (const params of [{ coverPercent: 30 }, { seed: 3 }, { azimuthDegrees: 80 }, { windDegrees: 10 }] as KeptValues[]) expect(keyOf(params), JSON.stringify(params)).not.toBe(key);
    expect(planDocument(made({ clouds: 'none' }).document).shared).toEqual([]);
  });
  it('look as they are defined, brighter and warmer', () => {
    const picture = skyPicture(values({ clouds: 'cumulus', coverPercent: 55, exposureStops: 1, tint: [1, 0.8, 0.6] }), { sun: null });
    const found = light(made({ exposureStops: 1, tint: [1, 0.8, 0.6], edges: 'plain' }), referenceBackend());
    for (const [x, y] of PLACES) {
      const expected = y < 20 ? [0.02, 0.02, 0.02] : lightAt(picture, x + 0.5, y + 0.5);
      for (let c = 0; c < 3; c++) expect(found[c][y * SIZE.width + x] / expected[c], `${x}, ${y}`).toBeCloseTo(1, 4);
    }
  });
});

describe('the sky in what mirrors it', () => {
  const level: KeptValues = { tiltDegrees: 0, headingDegrees: 25, rollDegrees: 0, focalMillimetres: 24 };
  const mirrored = (params: KeptValues, normal: Triple, sky: KeptValues = {}) => {
    const { document, views } = scene(planes(() => 0.25), flat(1), sky);
    const found = after(document, { type: 'set-camera', from: 'hand', params: level }, { type: 'add-sources', sources: [source(8, { ...SIZE, role: 'reflection' }), source(9, { ...SIZE, role: 'normals', encoding: 'data' })] }, { type: 'add-layer', layer: 'mirrored-sky', zone: 'scene', blend: 'add', params: { old: [0.5, 0.8, 1.25], ...params } });
    return { document: found, views: { ...views, 'source-8': viewOf(planes((x) => 0.1 + x / 3000)), 'source-9': viewOf(normal.map((value) => flat(value))) } };
  };
  const viewLevel = viewOfCamera(camera(level), SIZE);
  const horizon = horizonAt(viewLevel, SIZE.width / 2);
  it('of level water is what lies as far above the horizon as the water below it, as a share of the old one', () => {
    const found = light(mirrored({}, [0, 1, 0]));
    const picture = skyPicture(values(), { sun: null });
    for (const [x, y] of [[20, 120], [150, 150], [290, 199]] as const) {
      const above = skyPixel(prepareSky(picture, plainSight(viewLevel)), [x + 0.5, 2 * horizon - (y + 0.5)], NOTHING, 1);
      for (const c of [0, 1, 2]) expect(found[c][y * SIZE.width + x], `${x}, ${y}`).toBeCloseTo(0.25 + (0.1 + x / 3000) * (above[c] / [0.5, 0.8, 1.25][c] - 1), 3);
    }
  });
  it('of what faces the ground, or of nothing, is what was rendered; the same by both backends', () => {
    for (const normal of [[0, 0, 0], [0.3, -0.95, 0.1]] as const) {
      const found = light(mirrored({}, normal));
      expect(found[1][5 * SIZE.width + 150]).toBeCloseTo(0.25, 5);
    }
    const [kernel, defined] = [kernels, referenceBackend()].map((backend) => light(mirrored({}, [0.1, 0.9, 0.2], { clouds: 'stratus', coverPercent: 60 }), backend));
    for (let i = 0; i < kernel[0].length; i += 37) expect(Math.abs(kernel[1][i] - defined[1][i])).toBeLessThan(3e-3);
  });
  it('as a mean, without normals: every reflection in the same proportion; a picture by what was measured of it', () => {
    const mean = meanSkyLight(values(), mirrored({}, [0, 1, 0]).document) ?? [0, 0, 0];
    const found = light(mirrored({ takes: 'mean' }, [0, 1, 0]));
    for (const c of [0, 1, 2]) expect(found[c][100 * SIZE.width + 30]).toBeCloseTo(0.25 + 0.11 * (mean[c] / [0.5, 0.8, 1.25][c] - 1), 3);
    const pictured = mirrored({ takes: 'mean', fresh: [1, 0.8, 0.625] }, [0, 1, 0], { look: 'photograph', photograph: 'source-1' });
    expect(light(pictured)[0][100 * SIZE.width + 30]).toBeCloseTo(0.25 + 0.11, 3);
  });
  it('says what it lacks', () => {
    const { document } = mirrored({}, [0, 1, 0]);
    const problem = (changed: TazzelDocument) => planDocument(changed).problems.join();
    expect(problem(document)).toBe('');
    expect(problem(after(document, { type: 'remove-layer', layerId: 'layer-2' }))).toMatch(/has no sky of its own/);
    expect(problem({ ...document, sources: document.sources.filter(({ role }) => role !== 'normals') })).toMatch(/no element of normals.*as its mean/);
    expect(problem({ ...document, sources: document.sources.filter(({ role }) => role !== 'reflection') })).toMatch(/no element of reflections/);
    expect(problem(after(document, { type: 'set-params', layerId: 'layer-2', params: { look: 'photograph', photograph: 'source-1' } }))).toMatch(/mirrored as its mean only/);
  });
});

describe('a picture as a sky', () => {
  const AROUND = { width: 720, height: 360 };
  const shown = (size: { width: number; height: number }, value: (x: number, y: number, c: number) => number, params: KeptValues) => {
    const { document, views } = scene([flat(0.5), flat(0.5), flat(0.5)], null);
    const sky = document.buildUp.scene[1] as PictureLayer;
    const color = [0, 1, 2].map((c) => ({ type: 'f32' as const, ...size, data: Float32Array.from({ length: size.width * size.height }, (_, i) => value(i % size.width, Math.floor(i / size.width), c)) }));
    const pictured = after(document, { type: 'add-sources', sources: [source(9, { ...size, role: 'picture' })] }, { type: 'set-params', layerId: sky.id, params });
    return { document: pictured, views: { ...views, 'source-9': viewOf(color) } };
  };
  const channel = (direction: Triple, c: number) => [1 + 0.5 * direction[0], 1.2 + 0.4 * direction[1], 0.8 - 0.3 * direction[2]][c];
  const directionAt = (x: number, y: number): Triple => {
    const [azimuth, up] = [((x + 0.5) / AROUND.width - 0.5) * 2 * Math.PI, (0.5 - (y + 0.5) / AROUND.height) * Math.PI];
    return [Math.sin(azimuth) * Math.cos(up), Math.sin(up), -Math.cos(azimuth) * Math.cos(up)];
  };
  const environment = (params: KeptValues = {}) => shown(AROUND, (x, y, c) => channel(directionAt(x, y), c), { look: 'environment', environment: 'source-9', ...params });
  // The layout is that of latitude-longitude maps of OpenEXR (top row at the zenith); perspective by three.js.
  it.each([0, 90, 155, -120])('all around, turned by %i°: each pixel is what lies in its direction', (turnDegrees) => {
    const found = light(environment({ turnDegrees, exposureStops: 1 }));
    for (const [x, y] of [[3, 3], [150, 100], [297, 197], [20, 150], [299, 0]]) {
      const [dx, dy, dz] = threeDirection(x + 0.5, y + 0.5);
      const [cos, sin] = [Math.cos(turnDegrees * RAD), Math.sin(turnDegrees * RAD)];
      // The environment turns over +x: what it has at −z is seen at the turn.
      const inside: Triple = [dx * cos + dz * sin, dy, dz * cos - dx * sin];
      for (const c of [0, 1, 2]) expect(found[c][y * SIZE.width + x], `${x}, ${y}, ${c}`).toBeCloseTo(2 * channel(inside, c), 2);
    }
  });
  it('between the places that are worked out nothing is off by a fortieth of a pixel', () => {
    const found = light(shown(AROUND, (x, y, c) => (c === 0 ? x : y), { look: 'environment', environment: 'source-9', turnDegrees: 155, exposureStops: 0 }));
    const [cos, sin] = [Math.cos(155 * RAD), Math.sin(155 * RAD)];
    let most = 0;
    for (let y = 0; y < SIZE.height; y++) {
      for (let x = 0; x < SIZE.width; x++) {
        const [dx, dy, dz] = threeDirection(x + 0.5, y + 0.5);
        const u = (Math.atan2(dx * cos + dz * sin, -(dz * cos - dx * sin)) / (2 * Math.PI) + 0.5) * AROUND.width - 0.5;
        const v = (0.5 - Math.asin(dy) / Math.PI) * AROUND.height - 0.5;
        // Across the seam it goes from the last column to the first.
        if (u < 1 || u > AROUND.width - 2) continue;
        most = Math.max(most, Math.abs(found[0][y * SIZE.width + x] - u), Math.abs(found[1][y * SIZE.width + x] - v));
      }
    }
    expect(most).toBeLessThan(0.025);
  });
  it('up to the zenith, whatever the tiles', () => {
    const { document, views } = environment();
    const up = after(document, { type: 'set-camera', from: 'hand', params: { tiltDegrees: 80, focalMillimetres: 18 } });
    const found = light({ document: up, views });
    for (const c of [0, 1, 2]) for (const value of found[c]) expect(value).toBeGreaterThan(0.4);
    const view80 = viewOfCamera(cameraOf(up.camera as NonNullable<TazzelDocument['camera']>), SIZE);
    for (const [x, y] of [[0, 0], [150, 100], [299, 199], [151, 60]]) {
      const ray = rayThrough(view80, x + 0.5, y + 0.5);
      const length = Math.hypot(...ray);
      for (const c of [0, 1, 2]) expect(found[c][y * SIZE.width + x]).toBeCloseTo(channel([ray[0] / length, ray[1] / length, ray[2] / length], c), 2);
    }
  });
  it('one that is not twice as wide as high is refused, without one nothing is shown', () => {
    expect(() => shown({ width: 300, height: 200 }, () => 1, { look: 'environment', environment: 'source-9' })).toThrow('twice as wide as high; take it as a photograph');
    // Until its picture is chosen it shows nothing.
    for (const look of ['environment', 'photograph']) expect(light(shown(AROUND, () => 1, { look }))[0][700]).toBe(0.5);
  });
  it('a photograph lies with its horizon on that of the camera, as wide as it is told, mirrored if wanted', () => {
    const PHOTO = { width: 400, height: 300 };
    const level = (params: KeptValues) => {
      const { document, views } = shown(PHOTO, (x, y) => (y < 240 ? 1 + x / 400 : 0.1), { look: 'photograph', photograph: 'source-9', horizonPercent: 80, ...params });
      const steady = after(document, { type: 'set-camera', from: 'hand', params: { tiltDegrees: -9, rollDegrees: 0, focalMillimetres: 24 } });
      return { found: light({ document: steady, views }), horizon: horizonAt(viewOfCamera(cameraOf(steady.camera as NonNullable<TazzelDocument['camera']>), SIZE), 150) };
    };
    const { found, horizon } = level({});
    const at = (list: readonly Float32Array[], x: number, y: number) => list[0][y * SIZE.width + x];
    expect(at(found, 150, Math.floor(horizon) - 3)).toBeGreaterThan(1);
    expect(at(found, 150, Math.ceil(horizon) + 3)).toBeCloseTo(0.1, 2);
    expect([at(found, 30, 20), at(found, 270, 20)]).toEqual([expect.closeTo(1.1, 1), expect.closeTo(1.9, 1)]);
    const mirrored = level({ isMirrored: true }).found;
    expect(at(mirrored, 30, 20)).toBeCloseTo(at(found, 269, 20), 2);
    // Twice as wide, its left half is what is seen of it.
    const wide = level({ widthPercent: 200, asidePercent: 50 }).found;
    expect([at(wide, 1, 20), at(wide, 298, 20)]).toEqual([expect.closeTo(1, 1), expect.closeTo(1.5, 1)]);
  });
});

it('without an alpha it covers everything, and its own mask says where the sky is', () => {
  const { document, views } = scene([flat(0.5), flat(0.5), flat(0.5)], null);
  const found = light({ document, views });
  expect(found[2][10]).not.toBeCloseTo(0.5, 2);
});
