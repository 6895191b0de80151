/** Figures in plans, on planes whose light is known: what hides them, what they mirror in, what air lies before them, and that nothing else is changed. */
import { describe, expect, it } from 'vitest';
import { after, source } from '../../../../tests/documents.ts';
import { builtKernels } from '../../../../tests/built.ts';
import { draw } from '../../../../tests/pictures.ts';
import { cameraOf } from '../camera/camera.ts';
import { viewOfCamera, rayThrough } from '../camera/view.ts';
import { gathering, PLACE_NUMBERS } from '../figures/loops.ts';
import { emptyDocument, type Source, type TazzelDocument } from '../model/model.ts';
import type { PlacedFigure } from '../params/placed-figures.ts';
import type { KeptValues } from '../params/table.ts';
import { floatToHalf } from '../raster/half.ts';
import type { SourceView } from '../raster/view.ts';
import type { Backend } from './backend.ts';
import { planDocument } from './plan.ts';
import { referenceBackend } from './reference.ts';
import { cleaned, type FigureSampler, placesOf } from './standing.ts';

const SIZE = { width: 96, height: 64 };
const AREA = SIZE.width * SIZE.height;
const CAMERA = { focalMillimetres: 24, sensorMillimetres: 36, heightMetres: 1.6, southMetres: 10 };
const VIEW = viewOfCamera(cameraOf({ from: 'hand', params: CAMERA }), SIZE);
/** Level ground, and a wall 20 m away. */
const WALL_METRES = 20;
const depthAt = (i: number) => {
  const fall = -rayThrough(VIEW, (i % SIZE.width) + 0.5, Math.floor(i / SIZE.width) + 0.5)[1];
  return fall > 0 ? Math.min(WALL_METRES, 1.6 / fall) : WALL_METRES;
};
const at = (x: number, metres: number): readonly [number, number] => [VIEW.axisX + (x / metres) * VIEW.focalPx, VIEW.axisY + (1.6 / metres) * VIEW.focalPx];
const figure = (patch: Partial<PlacedFigure> = {}): PlacedFigure => ({ sourceId: 'source-9', at: at(0, 6), groundMetres: 0, heightMetres: 1.75, mirrored: false, leanDegrees: 0, foot: [0.5, 1], top: 0, ...patch });

/** Even light on a ground of half the reflectance; the figure is red to its left and green to its right. */
function place({ params = {}, figures = [figure()], extra = [], roles = {} }: { params?: KeptValues; figures?: readonly PlacedFigure[]; extra?: readonly ['air' | 'fill', KeptValues][]; roles?: Readonly<Record<string, number>> } = {}) {
  const views: Record<string, SourceView> = {};
  const sources: Source[] = [];
  const even = (id: number, value: (i: number) => number, size: { width: number; height: number }, more: Partial<Source>, alpha: ((i: number) => number) | null = null, channels: ((i: number) => number)[] = [value, value, value]) => {
    const plane = (of: (i: number) => number) => ({ type: 'f16' as const, ...size, data: Uint16Array.from({ length: size.width * size.height }, (_, i) => floatToHalf(of(i))) });
    sources.push(source(id, { ...size, ...more, alphaChannel: alpha ? 'A' : null, alpha: alpha ? 'straight' : 'none' }));
    views[`source-${id}`] = { color: channels.map(plane), alpha: alpha && plane(alpha), premultiplied: false, x: 0, y: 0 };
  };
  even(1, () => 0.5, SIZE, { role: 'beauty' });
  even(2, () => 0.5, SIZE, { role: 'diffuse-filter' });
  even(3, depthAt, SIZE, { role: 'depth', encoding: 'data' });
  for (const [i, [role, value]] of Object.entries(roles).entries()) even(4 + i, () => value, SIZE, { role: role as Source['role'], inSum: 'out' });
  const box = { width: 32, height: 96 };
  const isLeft = (i: number) => i % box.width < box.width / 2;
  even(9, () => 0, box, { role: 'picture', inSum: 'out' }, () => 1, [(i) => (isLeft(i) ? 0.8 : 0), (i) => (isLeft(i) ? 0 : 0.8), () => 0]);
  let document = after(emptyDocument('figures', 'Figures', SIZE), { type: 'add-sources', sources }, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' }, { type: 'set-camera', params: CAMERA }, { type: 'add-figures', figures });
  const layerId = document.buildUp.scene[1].id;
  document = after(document, { type: 'set-params', layerId, params: { contactPercent: 0, ...params } });
  for (const [layer, values] of extra) document = after(document, { type: 'add-layer', layer, zone: 'scene', params: values });
  return { document, views, layerId };
}

function drawn({ document, views }: { document: TazzelDocument; views: Record<string, SourceView> }, backend: Backend = referenceBackend(), level = 0): Float32Array {
  const plan = planDocument(document);
  const noMask = () => {
    throw new Error('There is none.');
  };
  return draw(plan, { target: { place: plan.light, tone: null, focus: null }, source: (id) => views[id], mask: noMask, backend, level }).pixels.planes;
}
const pixel = (planes: Float32Array, [x, y]: readonly [number, number]) => [0, 1, 2].map((c) => planes[c * AREA + Math.floor(y) * SIZE.width + Math.floor(x)]);
/** A place on a figure that stands `metres` away, so high up. */
const on = (x: number, metres: number, up: number): readonly [number, number] => [VIEW.axisX + (x / metres) * VIEW.focalPx, VIEW.axisY + ((1.6 - up) / metres) * VIEW.focalPx];

describe('a figure', () => {
  it('is its own reflectance in the light of the place, left to the left; mirrored the other way round', () => {
    const planes = drawn(place());
    // Ground of 0.5 that is seen as 0.5 is in a light of 1.
    expect(pixel(planes, on(-0.15, 6, 0.9)).map((value) => Math.round(value * 100) / 100)).toEqual([0.8, 0, 0]);
    expect(pixel(planes, on(0.15, 6, 0.9)).map((value) => Math.round(value * 100) / 100)).toEqual([0, 0.8, 0]);
    expect(pixel(drawn(place({ figures: [figure({ mirrored: true })] })), on(-0.15, 6, 0.9))[1]).toBeCloseTo(0.8, 2);
  });
  it('leaves every other pixel as it is, bit for bit', () => {
    const planes = drawn(place());
    const changed = Array.from({ length: AREA }, (_, i) => i).filter((i) => planes[i] !== 0.5 || planes[AREA + i] !== 0.5);
    const [left, right] = [Math.min(...changed.map((i) => i % SIZE.width)), Math.max(...changed.map((i) => i % SIZE.width))];
    // 32 of 96 parts of 1.75 m, 6 m away.
    expect(right - left + 1).toBeLessThan(((1.75 / 3 / 6) * VIEW.focalPx) + 4);
    expect(changed.length).toBeGreaterThan(40);
  });
  it('stands behind the wall unseen, and before one that is nearer', () => {
    const planes = drawn(place({ figures: [figure({ at: at(0, 24) }), figure({ at: at(1.5, 12) }), figure({ at: at(1.5, 6), heightMetres: 1.2 })] }));
    expect(pixel(planes, on(-0.1, 24, 1.4))).toEqual([0.5, 0.5, 0.5]);
    // The nearer one covers the other's legs.
    expect(pixel(planes, on(1.4, 6, 0.6))[0]).toBeCloseTo(0.8, 1);
  });
  it('whose feet are below the picture has the light of its lower edge', () => {
    const near = figure({ at: at(0, 2) });
    expect(near.at[1]).toBeGreaterThan(SIZE.height + 10);
    // Another one stands beside it, half in the picture.
    const aside = figure({ at: [-20, 50] });
    expect(pixel(drawn(place({ figures: [near, aside], params: { contactPercent: 100 } })), on(-0.1, 2, 1.4)).map((value) => Math.round(value * 100) / 100)).toEqual([0.8, 0, 0]);
  });
  it('as a silhouette is its colour alone, in tones has none', () => {
    expect(pixel(drawn(place({ params: { style: 'silhouette', styleColor: [0.1, 0.2, 0.3] } })), on(0.15, 6, 0.9)).map((value) => Math.round(value * 100) / 100)).toEqual([0.1, 0.2, 0.3]);
    const [r, g, b] = pixel(drawn(place({ params: { style: 'tone' } })), on(0.15, 6, 0.9));
    expect([g, b]).toEqual([r, r]);
  });
  it('has the air between it and the camera before it, no more', () => {
    const visibilityMetres = 20;
    const hidden = (metres: number) => 1 - Math.exp((-Math.log(50) * metres) / visibilityMetres);
    const planes = drawn(place({ params: { style: 'silhouette', styleColor: [0, 0, 0] }, extra: [['air', { visibilityMetres, fallOffMetres: 0, color: [1, 1, 1] }]] }));
    const [x, y] = on(0.1, 6, 0.9);
    const distance = 6 * Math.hypot(...rayThrough(VIEW, Math.floor(x) + 0.5, Math.floor(y) + 0.5));
    expect(pixel(planes, [x, y])[0]).toBeCloseTo(hidden(distance), 2);
    // Beside it, the wall.
    const [wx, wy] = on(2.5, 6, 1.6);
    const far = WALL_METRES * Math.hypot(...rayThrough(VIEW, Math.floor(wx) + 0.5, Math.floor(wy) + 0.5));
    expect(pixel(planes, [wx, wy])[0]).toBeCloseTo(hidden(far) + 0.5 * (1 - hidden(far)), 2);
  });
  it('before the sky it is no sky, for the air', () => {
    const params = { style: 'silhouette', styleColor: [0, 0, 0] };
    // All is sky, as an alpha says, and far away.
    const air = (skyPercent: number) => drawn(place({ params, figures: [figure({ heightMetres: 4 })], roles: { alpha: 0 }, extra: [['air', { visibilityMetres: 40, fallOffMetres: 0, color: [1, 1, 1], skyPercent }]] }));
    const [chest, sky] = [on(0.1, 6, 2.6), on(3, 6, 3)];
    const metres = 6 * Math.hypot(...rayThrough(VIEW, Math.floor(chest[0]) + 0.5, Math.floor(chest[1]) + 0.5));
    for (const skyPercent of [0, 100]) {
      const planes = air(skyPercent);
      expect(pixel(planes, chest)[0]).toBeCloseTo(1 - Math.exp((-Math.log(50) * metres) / 40), 2);
      expect(pixel(planes, sky)[0]).toBeCloseTo(skyPercent === 0 ? 0.5 : 1, 2);
    }
  });
  it('is mirrored upside down in a floor, as its filter says, in the place of what was mirrored there', () => {
    const shiny = place({ roles: { 'reflection-filter': 0.5, reflection: 0.25 }, params: { style: 'silhouette', styleColor: [0.9, 0.1, 0.1] } });
    const planes = drawn(shiny);
    // What stands 0.9 m up is seen as deep below its foot.
    expect(pixel(planes, on(0.1, 6, -0.5))[0]).toBeCloseTo(0.5 + 0.5 * 0.9 - 0.25, 2);
    expect(pixel(planes, on(0.1, 6, -0.5))[1]).toBeCloseTo(0.5 + 0.5 * 0.1 - 0.25, 2);
    expect(pixel(drawn(place({ ...shiny, params: { mirrorPercent: 0 }, roles: { 'reflection-filter': 0.5, reflection: 0.25 } })), on(0.1, 6, -0.5))).toEqual([0.5, 0.5, 0.5]);
  });
  it('takes light of the sky at its feet, most where it touches the ground', () => {
    const planes = drawn(place({ params: { contactPercent: 100 } }));
    const near = pixel(planes, [at(0.4, 5.9)[0], at(0.4, 5.9)[1]])[0];
    const aside = pixel(planes, [at(1.1, 5.9)[0], at(1.1, 5.9)[1]])[0];
    expect(near).toBeLessThan(0.46);
    expect(aside).toBeGreaterThan(near);
    expect(pixel(planes, at(-3.5, 5.9))[0]).toBe(0.5);
  });
});

describe('a photographed thing', () => {
  // The first role has the id source-4.
  it('has the shadow that a stand-in caught, as dark as that, instead of a thrown one; the rest stays', () => {
    const sun = { type: 'set-sun', params: { place: 'angles', altitudeDegrees: 30, azimuthDegrees: 90 } } as const;
    const shadowed = (params: KeptValues) => {
      const made = place({ params, roles: { shadow: 0.25 } });
      return drawn({ ...made, document: after(made.document, sun) });
    };
    const caught = shadowed({ shadowFrom: 'caught', caught: 'source-4' });
    // 75 % of all light is taken everywhere: that is what the element says.
    expect(pixel(caught, at(-2, 6))[0]).toBeCloseTo(0.125, 3);
    expect(pixel(shadowed({ shadowFrom: 'caught', caught: 'source-4', shadowPercent: 40 }), at(-2, 6))[0]).toBeCloseTo(0.5 * (1 - 0.4 * 0.75), 3);
    expect(pixel(shadowed({ shadowFrom: 'caught', caught: '' }), at(-2, 6))[0]).toBe(0.5);
    // The sun stands in the east: a thrown shadow lies at its left, one of its own nowhere.
    expect([shadowed({ shadowFrom: 'thrown' }), shadowed({ shadowFrom: 'own' })].map((planes) => pixel(planes, at(-0.8, 6))[0] < 0.5)).toEqual([true, false]);
  });
  it('mirrors what its stand-in did, inside of its alpha only', () => {
    const planes = drawn(place({ roles: { reflection: 0.3 }, params: { shines: 'source-4', shinesPercent: 50, mirrorPercent: 0 } }));
    expect(pixel(planes, on(0.15, 6, 0.9)).map((value) => Math.round(value * 100) / 100)).toEqual([0.15, 0.95, 0.15]);
    expect(pixel(planes, at(-2, 6))[0]).toBe(0.5);
  });
  it('pulled by a corner is drawn where that lies', () => {
    // Its upper right corner goes half its width farther out.
    const planes = drawn(place({ figures: [figure({ corners: [[0, 0], [1.5, 0], [0, 1], [1, 1]] })] }));
    const half = 1.75 / 3 / 2;
    expect(pixel(planes, on(half * 1.5, 6, 1.55))[1]).toBeGreaterThan(0.6);
    expect(pixel(drawn(place()), on(half * 1.5, 6, 1.55))[1]).toBe(0.5);
  });
});

describe('edges of a cut-out', () => {
  // Red inside, blue where it is half covered: u from 0 to 100, alpha falls from 1 at 50 to 0 at 60.
  const raw: FigureSampler = {
    hold: () => undefined,
    alpha: ({ u, moved }, out) => out.set(u.map((at) => Math.min(1, Math.max(0, (60 - at - moved.u) / 10)))),
    color: (places, out) => {
      const count = places.u.length;
      out.fill(0);
      raw.alpha(places, out.subarray(3 * count));
      for (let i = 0; i < count; i++) out[out[3 * count + i] === 1 ? i : 2 * count + i] = out[3 * count + i];
    },
  };
  const places = (...u: number[]) => {
    const list = new Float32Array(PLACE_NUMBERS * u.length);
    const { add, found } = gathering(list);
    for (const at of u) add(at, 5, 1, 0, 0);
    return placesOf(list, found());
  };
  const rounded = (values: Float32Array) => [...values].map((value) => Math.round(value * 1000) / 1000);
  const at55 = (work: { drawnInPx: number; fringePx: number }) => {
    const out = new Float32Array(4);
    cleaned(raw, work, referenceBackend()).color(places(55), out);
    return rounded(out);
  };
  const alphas = (work: { drawnInPx: number; fringePx: number }, ...u: number[]) => {
    const out = new Float32Array(u.length);
    cleaned(raw, work, referenceBackend()).alpha(places(...u), out);
    return rounded(out);
  };
  it('stay as they are, take their colour from inside, or are drawn in', () => {
    expect(at55({ drawnInPx: 0, fringePx: 0 })).toEqual([0, 0, 0.5, 0.5]);
    expect(at55({ drawnInPx: 0, fringePx: 8 })).toEqual([0.5, 0, 0, 0.5]);
    expect(at55({ drawnInPx: 3, fringePx: 8 })).toEqual([0.2, 0, 0, 0.2]);
    expect(alphas({ drawnInPx: 3, fringePx: 0 }, 55)).toEqual([0.2]);
    expect(alphas({ drawnInPx: 3, fringePx: 8 }, 20, 90)).toEqual([1, 0]);
  });
});

describe('plans with figures', () => {
  it('are the same with the kernels, and nearly the same at half the size', async () => {
    const made = place({ params: { contactPercent: 100 }, roles: { 'reflection-filter': 0.2, reflection: 0.05 }, extra: [['air', { visibilityMetres: 60 }]] });
    const [one, other] = [drawn(made), drawn(made, await builtKernels())];
    expect(Math.max(...one.map((value, i) => Math.abs(value - other[i])))).toBeLessThan(1e-4);
    const views = Object.fromEntries(Object.entries(made.views).map(([id, view]) => [id, halved(view)]));
    const half = drawn({ document: made.document, views }, referenceBackend(), 1);
    const mean = (planes: Float32Array, area: number) => planes.subarray(0, area).reduce((sum, value) => sum + value, 0) / area;
    expect(mean(half, AREA / 4)).toBeCloseTo(mean(one, AREA), 2);
  });
  it.each<KeptValues>([{ edgePx: 1.5, fringePx: 4 }, { style: 'tone', softPercent: 300 }, { style: 'silhouette', edgePx: 2 }])('%o: are the same with the kernels, in the sun, mirrored and under air', async (params) => {
    const made = place({ params: { contactPercent: 80, ...params }, figures: [figure({ at: at(-1, 6) }), figure({ at: at(0.5, 4), leanDegrees: 12, mirrored: true, corners: [[0, 0], [1.2, 0.1], [0, 1], [1, 1]] }), figure({ at: at(1, 9) })], roles: { 'reflection-filter': 0.2, reflection: 0.05 }, extra: [['air', { visibilityMetres: 60 }]] });
    const document = after(made.document, { type: 'set-sun', params: { place: 'angles', altitudeDegrees: 30, azimuthDegrees: 120 } });
    const [one, other] = [drawn({ ...made, document }), drawn({ ...made, document }, await builtKernels())];
    expect(Math.max(...one.map((value, i) => Math.abs(value - other[i])))).toBeLessThan(1e-3);
    expect(one).not.toEqual(drawn({ ...made, document: after(document, { type: 'set-params', layerId: made.layerId, params: { edgePx: 0, fringePx: 0, style: 'as-is', softPercent: 100 } }) }));
  });
  it('say what is missing instead of drawing something wrong', () => {
    const { document } = place();
    expect(planDocument({ ...document, camera: null }).problems[0]).toMatch(/the camera is not known/);
    // A later camera may see no ground where they stand.
    expect(planDocument(after(document, { type: 'set-camera', params: { ...CAMERA, tiltDegrees: 40 } })).problems[0]).toMatch(/above the horizon/);
    expect(() => after(document, { type: 'set-params', layerId: document.buildUp.scene[1].id, params: { figures: [] } })).toThrow(/nothing stands there yet/);
  });
});

/** Every second pixel: the planes are even, or lines that are. */
function halved(view: SourceView): SourceView {
  const plane = (of: SourceView['color'][number]) => ({ ...of, width: of.width / 2, height: of.height / 2, data: (of.data as Uint16Array).filter((_, i) => i % of.width % 2 === 0 && Math.floor(i / of.width) % 2 === 0) });
  return { ...view, color: view.color.map(plane), alpha: view.alpha && plane(view.alpha) };
}
