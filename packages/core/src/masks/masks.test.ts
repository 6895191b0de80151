/** Every term against what geometry, standards or arithmetic say; the whole recipe against its parts. */
import { converter } from 'culori';
import { describe, expect, it } from 'vitest';
import { after, material, smallDocument, source } from '../../../../tests/documents.ts';
import { seeded } from '../../../../tests/random.ts';
import { srgbDecode } from '../color/srgb.ts';
import { materialTerm, newMask, newTerm } from '../document/mask-edits.ts';
import type { Mask, MaskTerm, Point, Stroke, TazzelDocument } from '../model/model.ts';
import { addCoverage, beginCoverage } from '../elements/coverage-shares.ts';
import { maskKey } from '../evaluate/plan.ts';
import { floatToHalf } from '../raster/half.ts';
import { type Camera, camera } from '../camera/camera.ts';
import { applyEdit } from '../document/edits.ts';
import { defaultsOf, faultOf, type KeptValues } from '../params/table.ts';
import type { Plane } from '../raster/planes.ts';
import { type MaskInputs, type MaskView, needKey } from './define.ts';
import { evaluateMask, masksWithin, resolveMask } from './evaluate.ts';
import { dabsOf } from './paint.ts';
import { maskTerms, termSpec } from './registry.ts';
import { suggestedMasks } from '../document/suggest.ts';

const culoriOklab = converter('oklab');

const SIZE = { width: 64, height: 48 };
const plane = (value: (x: number, y: number) => number, size = SIZE): Plane => ({ type: 'f32', ...size, data: Float32Array.from({ length: size.width * size.height }, (_, i) => value(i % size.width, Math.floor(i / size.width))) });
const view = (...channels: readonly ((x: number, y: number) => number)[]): MaskView => ({ color: channels.map((channel) => plane(channel)), alpha: null, premultiplied: false, x: 0, y: 0, encoding: 'data', scale: 1, offset: 0 });
const inputs = (patch: Partial<MaskInputs> = {}): MaskInputs => ({ size: SIZE, level: 0, views: {}, mattes: {}, mixtures: {}, coverages: {}, pictures: {}, masks: {}, camera: null, materials: {}, ...patch });
const withView = (given: MaskView) => inputs({ views: { 'view s': given } });
const element = (type: string, params: KeptValues = {}): MaskTerm => ({ id: 'term-1', type, operation: 'add', muted: false, params: { source: 's', ...params } });
const shape = (type: string, points: readonly Point[], params: KeptValues = {}): MaskTerm => ({ id: 'term-1', type, operation: 'add', muted: false, params: { points, ...params } });
const mask = (...terms: readonly MaskTerm[]): Mask => newMask('m', 'm', terms);
const values = (made: Plane) => Float64Array.from(made.data, (v) => v / (made.type === 'u8' ? 255 : 65535));
const evaluate = (given: MaskInputs, ...terms: readonly MaskTerm[]) => values(evaluateMask(mask(...terms), given));
const at = (coverage: Float64Array, x: number, y: number, width = SIZE.width) => coverage[y * width + x];

describe('all terms', () => {
  it('declare what they are, with defaults that resolve and a source', () => {
    for (const spec of maskTerms) {
      expect(spec.label).toMatch(/^[A-Z]/);
      expect(spec.source.length).toBeGreaterThan(10);
      const term = newTerm(spec.id, 'add', smallDocument());
      expect(term.type).toBe(spec.id);
      expect(faultOf(spec.params)).toBeNull();
    }
    expect(() => termSpec('lasso')).toThrow(/There are: material, depth/);
  });
});

/** 90° wide, upright, the eye 1.6 m above the ground. */
const wide: Camera = { ...(defaultsOf(camera) as unknown as Camera), focalMillimetres: 18, heightMetres: 1.6 };

describe('bands of metres', () => {
  const depth = (params: Record<string, number>, metres: (x: number, y: number) => number) => evaluate(withView(view(metres)), element('depth', params));
  it('select between two depths, soft at the ends', () => {
    const coverage = depth({ nearMetres: 10, farMetres: 12, softNearMetres: 0.8, softFarMetres: 0 }, (x) => 6 + x * 0.1);
    expect([at(coverage, 42, 5), at(coverage, 58, 5), at(coverage, 50, 5), at(coverage, 30, 5), at(coverage, 62, 5)]).toEqual([1, 1, 1, 0, 0]);
    // Half-way up a smooth step is a half.
    expect(at(coverage, 36, 5)).toBeCloseTo(0.5, 3);
    // By the curve it begins later: as a power of that.
    const late = depth({ nearMetres: 10, farMetres: 12, softNearMetres: 0.8, softFarMetres: 0, curve: 2 }, (x) => 6 + x * 0.1);
    expect([at(late, 36, 5), at(late, 50, 5)]).toEqual([expect.closeTo(0.25, 3), 1]);
  });
  it('have no halo where a near thing stands before a far one', () => {
    // A slanted edge between 5 m and 100 m, averaged as renderers do; its exact coverage is known.
    const near = (x: number, y: number) => Math.min(1, Math.max(0, 30.3 + y * 0.3 - x + 0.5));
    const metres = (x: number, y: number) => 5 * near(x, y) + 100 * (1 - near(x, y));
    const between = depth({ nearMetres: 30, farMetres: 70, softNearMetres: 1, softFarMetres: 1 }, metres);
    expect(Math.max(...between)).toBeLessThan(0.01);
    const naive = Array.from({ length: SIZE.width * SIZE.height }, (_, i) => metres(i % SIZE.width, Math.floor(i / SIZE.width))).filter((v) => v > 30 && v < 70);
    expect(naive.length).toBeGreaterThan(10);
    const far = depth({ nearMetres: 50, farMetres: 200, softNearMetres: 1, softFarMetres: 1 }, metres);
    for (let y = 2; y < 46; y++) for (let x = 2; x < 62; x++) expect(Math.abs(at(far, x, y) - (1 - near(x, y)))).toBeLessThan(0.02);
  });
  it('distances from depth follow the ray: √(1 + tan²) of 45° at the edge', () => {
    const params = { holds: 'depths', softNearMetres: 0, softFarMetres: 0 };
    const ten = view(() => 10);
    const within = (nearMetres: number, farMetres: number) => evaluate({ ...withView(ten), camera: wide }, element('distance', { ...params, nearMetres, farMetres }));
    expect(at(within(9.9, 10.1), 32, 24)).toBe(1);
    expect(at(within(14, 14.2), 0, 24)).toBe(1);
    expect(at(within(9.9, 10.1), 0, 24)).toBe(0);
    expect(at(evaluate(withView(ten), element('distance', { nearMetres: 9.9, farMetres: 10.1 })), 0, 24)).toBe(1);
  });
  it('that are made of depths need the camera of the document, and say so', () => {
    const document: TazzelDocument = { ...smallDocument(), sources: smallDocument().sources.map((source, i) => (i === 0 ? { ...source, role: 'depth' } : source)) };
    for (const kind of ['distance', 'height'] as const) {
      const own = mask(element(kind, { holds: 'depths', source: '' }));
      expect(resolveMask(document, own)).toMatchObject({ mask: { terms: [] }, problems: [{ term: 0, sentence: expect.stringMatching(/needs the camera, which is not known. Set it/) }] });
      const seen = applyEdit(document, { type: 'set-camera', params: {} });
      expect(resolveMask(seen, own)).toMatchObject({ mask: { terms: [{ type: kind }] }, problems: [], needs: [{ what: 'view' }, { what: 'camera' }] });
      const nearer = applyEdit(seen, { type: 'set-camera', params: { focalMillimetres: 50 } });
      expect(new Set([document, seen, nearer].map((one) => maskKey(one, own))).size).toBe(3);
    }
  });
  it('heights from positions, and from depth below the horizon', () => {
    const position = view((x) => x, (_, y) => 4 - y * 0.05, (x) => -x);
    const low = evaluate(withView(position), element('height', { lowMetres: 0, highMetres: 3, softMetres: 0 }));
    expect([at(low, 5, 15), at(low, 5, 25), at(low, 5, 40)]).toEqual([0, 1, 1]);
    // On level ground the camera's height is depth × tangent: the ground is at 0.
    const focal = 32;
    const ground = view((_, y) => (y + 0.5 > 24 ? (1.6 * focal) / (y + 0.5 - 24) : 1000));
    const floor = evaluate({ ...withView(ground), camera: wide }, element('height', { holds: 'depths', lowMetres: -0.05, highMetres: 0.05, softMetres: 0 }));
    expect([at(floor, 10, 30), at(floor, 60, 46), at(floor, 10, 10)]).toEqual([1, 1, 0]);
  });
});

describe('what the picture looks like', () => {
  it('facing takes the angle between the normal and a direction', () => {
    const normals = view((x) => Math.sin((x * Math.PI) / 126), (x) => Math.cos((x * Math.PI) / 126), () => 0);
    const up = evaluate(withView(normals), element('facing', { direction: [0, 1, 0], spreadDegrees: 30, softDegrees: 0 }));
    // At 30° exactly, rounding decides.
    for (let x = 0; x < 64; x++) if (x !== 21) expect(at(up, x, 3)).toBe((x * 180) / 126 < 30 ? 1 : 0);
    expect(Math.max(...evaluate(withView(view(() => 0, () => 0, () => 0)), element('facing')))).toBe(0);
  });
  it('tones are display-encoded luminance', () => {
    const grey = view(...[0, 1, 2].map(() => (x: number) => srgbDecode(x / 63)));
    const coverage = evaluate(withView({ ...grey, encoding: 'linear' }), element('tone', { lowPercent: 50, highPercent: 100, softLowPercent: 0, softHighPercent: 0 }));
    expect([at(coverage, 31, 0), at(coverage, 32, 0), at(coverage, 63, 0)]).toEqual([0, 1, 1]);
    // ITU-R BT.709-6: green is brighter than blue.
    const green = evaluate(withView({ ...view(() => 0, () => 1, () => 0), encoding: 'linear' }), element('tone', { lowPercent: 80, softLowPercent: 0 }));
    const blue = evaluate(withView({ ...view(() => 0, () => 0, () => 1), encoding: 'linear' }), element('tone', { lowPercent: 80, softLowPercent: 0 }));
    expect([green[0], blue[0]]).toEqual([1, 0]);
  });
  it('colours within a distance in OKLab, as culori measures it (seed 17)', () => {
    const random = seeded(17);
    const pixels = Array.from({ length: SIZE.width * SIZE.height }, () => [random(), random(), random()]);
    const read = (c: number) => (x: number, y: number) => pixels[y * SIZE.width + x][c];
    const coverage = evaluate(withView({ ...view(read(0), read(1), read(2)), encoding: 'display' }), element('colour', { color: [srgbDecode(128 / 255), srgbDecode(100 / 255), srgbDecode(90 / 255)], tolerance: 15, soft: 0 }));
    const wanted = culoriOklab({ mode: 'rgb', r: 128 / 255, g: 100 / 255, b: 90 / 255 });
    for (const [i, [r, g, b]] of pixels.entries()) {
      const lab = culoriOklab({ mode: 'rgb', r, g, b });
      const difference = Math.hypot(lab.l - wanted.l, lab.a - wanted.a, lab.b - wanted.b);
      if (Math.abs(difference - 0.15) > 1e-4) expect(coverage[i], `${r} ${g} ${b}`).toBe(difference < 0.15 ? 1 : 0);
    }
  });
  it('connected colours end where the colour ends', () => {
    const stripes = view(...[0, 1, 2].map(() => (x: number) => (x % 20 < 10 ? 0.2 : 0.8)));
    const params = { color: [srgbDecode(0.2), srgbDecode(0.2), srgbDecode(0.2)], tolerance: 3, soft: 0, at: [24, 10] };
    const everywhere = evaluate(withView({ ...stripes, encoding: 'display' }), element('colour', params));
    const connected = evaluate(withView({ ...stripes, encoding: 'display' }), element('colour', { ...params, extent: 'connected' }));
    expect([at(everywhere, 5, 5), at(everywhere, 25, 5), at(everywhere, 45, 5)]).toEqual([1, 1, 1]);
    expect([at(connected, 5, 5), at(connected, 25, 5), at(connected, 45, 5)]).toEqual([0, 1, 0]);
  });
  it('alpha and channels are taken as they are, from black to white or back', () => {
    const ramp = view((x) => x / 63);
    expect(at(evaluate(withView(ramp), element('alpha')), 63, 0)).toBe(1);
    expect(at(evaluate(withView({ ...ramp, alpha: plane(() => 0.25) }), element('alpha')), 63, 0)).toBeCloseTo(0.25, 2);
    expect(at(evaluate(withView(ramp), element('channel', { black: 0.5, white: 1 })), 47, 0)).toBeCloseTo((47 / 63 - 0.5) / 0.5, 4);
    expect(at(evaluate(withView(ramp), element('channel', { black: 1, white: 0 })), 63, 0)).toBe(0);
  });
});

describe('shapes', () => {
  const area = (coverage: Float64Array) => coverage.reduce((a, b) => a + b, 0);
  it('have the area that geometry says, also turned', () => {
    expect(area(evaluate(inputs(), shape('ellipse', [[32, 24], [52, 24], [32, 34]], { softPx: 0 })))).toBeCloseTo(Math.PI * 20 * 10, -1);
    expect(area(evaluate(inputs(), shape('ellipse', [[32, 24], [44, 36], [26, 30]], { softPx: 0 })))).toBeCloseTo(Math.PI * Math.hypot(12, 12) * Math.hypot(6, 6), -1);
    expect(area(evaluate(inputs(), shape('rectangle', [[32, 24], [42.5, 24], [32, 30.5]], { softPx: 0 })))).toBeCloseTo(21 * 13, 0);
    expect(area(evaluate(inputs(), shape('polygon', [[10.2, 10.4], [50.1, 12], [30, 40]], { softPx: 0 })))).toBeCloseTo(Math.abs((50.1 - 10.2) * (40 - 10.4) - (30 - 10.2) * (12 - 10.4)) / 2, 0);
  });
  it('soft edges keep the area of a straight edge, and are a half on it', () => {
    const soft = evaluate(inputs(), shape('rectangle', [[32, 24], [52, 24], [32, 200]], { softPx: 16 }));
    expect((at(soft, 51, 24) + at(soft, 52, 24)) / 2).toBeCloseTo(0.5, 2);
    expect(soft.subarray(24 * 64, 25 * 64).reduce((a, b) => a + b)).toBeCloseTo(40, 1);
  });
  it('a gradient falls from its first point to its second', () => {
    const fall = evaluate(inputs(), shape('gradient', [[10, 0], [50, 0]]));
    expect([at(fall, 3, 9), at(fall, 60, 9)]).toEqual([1, 0]);
    expect(at(fall, 29, 40)).toBeCloseTo(1 - 19.5 / 40, 4);
  });
  it('are the same shape at every level', () => {
    const whole = evaluate(inputs(), shape('ellipse', [[32, 24], [52, 24], [32, 34]], { softPx: 12 }));
    const half = evaluate(inputs({ level: 1 }), shape('ellipse', [[32, 24], [52, 24], [32, 34]], { softPx: 12 }));
    for (let y = 2; y < 22; y++) for (let x = 2; x < 30; x++) {
      const mean = (at(whole, 2 * x, 2 * y) + at(whole, 2 * x + 1, 2 * y) + at(whole, 2 * x, 2 * y + 1) + at(whole, 2 * x + 1, 2 * y + 1)) / 4;
      expect(Math.abs(at(half, x, y, 32) - mean)).toBeLessThan(0.02);
    }
  });
  it('with too few points select nothing, and say so', () => {
    const broken = shape('polygon', [[1, 1]]);
    expect(Math.max(...evaluate(inputs(), broken))).toBe(0);
    expect(resolveMask(smallDocument(), mask(broken)).problems[0].sentence).toMatch(/has 1 points, expected at least 3/);
  });
});

describe('paint', () => {
  const stroke = (patch: Partial<Stroke> = {}): Stroke => ({ erase: false, sizePx: 12, hardness: 1, opacity: 1, flow: 1, spacing: 0.1, path: [10, 24, 1, 50, 24, 1], ...patch });
  const paint = (filled: boolean, ...strokes: readonly Stroke[]): MaskTerm => newTerm('paint', 'add', smallDocument(), { filled, strokes });
  it('a hard straight stroke is a bar with round ends', () => {
    const coverage = evaluate(inputs(), paint(false, stroke()));
    expect([at(coverage, 30, 24), at(coverage, 30, 19), at(coverage, 30, 31), at(coverage, 2, 24)]).toEqual([1, 1, 0, 0]);
    expect(coverage.reduce((a, b) => a + b)).toBeCloseTo(40 * 12 + Math.PI * 36, -1);
  });
  it('erasing takes away, from what is filled as well; opacity is what a stroke reaches at most', () => {
    const erased = evaluate(inputs(), paint(true, stroke({ erase: true })));
    expect([at(erased, 30, 24), at(erased, 30, 40)]).toEqual([0, 1]);
    expect(at(evaluate(inputs(), paint(false, stroke({ opacity: 0.4 }))), 30, 24)).toBeCloseTo(0.4, 4);
    expect(at(evaluate(inputs(), paint(false, stroke({ opacity: 0.4 }), stroke({ opacity: 0.4 }))), 30, 24)).toBeCloseTo(0.64, 4);
    expect(at(evaluate(inputs(), paint(false, stroke({ path: [30, 24, 1], flow: 0.3 }))), 30, 24)).toBeCloseTo(0.3, 4);
  });
  it('a soft brush falls off, pressure makes it thinner, dabs lie a share of the size apart', () => {
    const soft = evaluate(inputs(), paint(false, stroke({ hardness: 0, path: [30, 24, 1], sizePx: 20 })));
    expect(at(soft, 30, 24)).toBeGreaterThan(at(soft, 35, 24));
    expect(at(soft, 35, 24)).toBeGreaterThan(at(soft, 38, 24));
    const thin = evaluate(inputs(), paint(false, stroke({ path: [30, 24, 0.2], sizePx: 20 })));
    expect(at(thin, 36, 24)).toBe(0);
    expect(dabsOf(stroke({ spacing: 0.5 })).map(({ x }) => x)).toEqual([10, 16, 22, 28, 34, 40, 46]);
    expect(dabsOf(stroke({ path: [] }))).toEqual([]);
  });
  it('is the same at every level', () => {
    const strokes = [stroke({ hardness: 0.3, sizePx: 24 }), stroke({ erase: true, sizePx: 10, path: [30, 5, 1, 30, 45, 1], hardness: 0.5 })];
    const whole = evaluate(inputs(), paint(false, ...strokes));
    const half = evaluate(inputs({ level: 1 }), paint(false, ...strokes));
    let error = 0;
    for (let y = 0; y < 24; y++) for (let x = 0; x < 32; x++) error += Math.abs(at(half, x, y, 32) - (at(whole, 2 * x, 2 * y) + at(whole, 2 * x + 1, 2 * y) + at(whole, 2 * x, 2 * y + 1) + at(whole, 2 * x + 1, 2 * y + 1)) / 4);
    expect(error / (24 * 32)).toBeLessThan(0.01);
  });
});

describe('the recipe', () => {
  const left = shape('rectangle', [[16, 24], [32, 24], [16, 100]], { softPx: 0 });
  const all = (coverage: Float64Array, x: number) => at(coverage, x, 20);
  it('joins, takes away, intersects in order; what overlaps by chance does not exceed one', () => {
    const half = shape('gradient', [[0, 0], [64, 0]]);
    const joined = evaluate(inputs(), { ...half }, { ...half, operation: 'add' });
    expect(all(joined, 31)).toBeCloseTo(1 - (1 - (1 - 31.5 / 64)) ** 2, 3);
    expect(all(evaluate(inputs(), left, { ...half, operation: 'subtract' }), 8)).toBeCloseTo(8.5 / 64, 3);
    expect(all(evaluate(inputs(), left, { ...half, operation: 'intersect' }), 8)).toBeCloseTo(1 - 8.5 / 64, 3);
    expect(all(evaluate(inputs(), { ...left, operation: 'subtract' }), 50)).toBe(1);
    expect(Math.max(...evaluate(inputs()))).toBe(0);
  });
  it('is then grown, softened, inverted, weakened', () => {
    const made = (patch: Partial<Mask>) => values(evaluateMask({ ...mask(left), ...patch }, inputs()));
    expect([all(made({ growPx: 4 }), 34), all(made({ growPx: 4 }), 38), all(made({ growPx: -4 }), 30)]).toEqual([1, 0, 0]);
    // A Gaussian over a straight edge is the error function; a half on the edge, 0.841 one standard deviation inside (handbook tables).
    const soft = made({ featherPx: 6 });
    expect((all(soft, 31) + all(soft, 32)) / 2).toBeCloseTo(0.5, 2);
    expect((all(soft, 25) + all(soft, 26)) / 2).toBeCloseTo(0.8413, 1);
    expect([all(made({ inverted: true }), 8), all(made({ inverted: true }), 50), all(made({ strength: 0.3 }), 8)]).toEqual([0, 1, 77 / 255].map((v, i) => (i === 2 ? expect.closeTo(v, 2) : v)));
  });
  it('follows the edges of the picture where that is asked', () => {
    const picture: MaskView = { ...view(...[0, 1, 2].map(() => (x: number) => (x < 36 ? 0.1 : 0.9))), encoding: 'display' };
    const plain = values(evaluateMask({ ...mask(left), featherPx: 5 }, inputs()));
    const followed = values(evaluateMask({ ...mask(left), featherPx: 5, followEdges: true }, inputs({ views: { 'view s': picture } }), 's'));
    expect(all(followed, 35) - all(followed, 36)).toBeGreaterThan(2 * (all(plain, 35) - all(plain, 36)));
  });
});

describe('what is wrong with a mask', () => {
  const document: TazzelDocument = smallDocument();
  const sentences = (given: Mask, on = document) => resolveMask(on, given).problems;
  it('is said at its term, and the rest works', () => {
    const depth = newTerm('depth', 'intersect', document);
    const { mask: resolved, problems } = resolveMask(document, mask(materialTerm(['material-1']), depth));
    expect(problems).toEqual([{ term: 1, sentence: 'There is no element with the role depth or distance. Add one, or choose the element here.' }]);
    expect(resolved.terms.map(({ type }) => type)).toEqual(['material']);
    expect(sentences(mask(element('depth', { source: 'source-99' })))[0].sentence).toMatch(/is gone/);
    expect(sentences(mask(element('tone', { after: 'layer-99' })))[0].sentence).toMatch(/layer whose picture/);
    expect(sentences(mask(materialTerm([])))[0].sentence).toMatch(/No material is chosen/);
    expect(sentences(mask(materialTerm(['material-1', 'material-77'])))[0].sentence).toMatch(/1 of its 2 materials/);
    const gone = { ...document, materials: document.materials.map((row) => (row.id === 'material-1' ? { ...row, area: 0 } : row)) };
    expect(sentences(mask(materialTerm(['material-1'])), gone)[0].sentence).toBe('M01: not in the new render.');
    expect(sentences(mask(newTerm('paint', 'add', document)))[0].sentence).toMatch(/Nothing is painted yet/);
  });
  it('circles end, whatever a file says', () => {
    const refer = (maskId: string): MaskTerm => newTerm('mask', 'add', document, { mask: maskId });
    const circular = { ...document, masks: [newMask('mask-1', 'One', [refer('mask-2')]), newMask('mask-2', 'Two', [refer('mask-1')]), newMask('mask-3', 'Three', [refer('mask-3')])] };
    for (const one of circular.masks) {
      expect(sentences(one, circular)[0].sentence).toMatch(/refers back to this mask/);
      expect(maskKey(circular, one)).toMatch(/\w/);
    }
    expect([...masksWithin(circular, circular.masks[0])]).toEqual(['mask-2', 'mask-1']);
  });
  it('keys tell everything apart that changes the coverage, and no names', () => {
    const key = (given: Mask, on = document) => maskKey(on, given);
    const base = mask(materialTerm(['material-1']));
    expect(key({ ...base, name: 'other', id: 'mask-9' })).toBe(key(base));
    for (const other of [{ ...base, growPx: 1 }, { ...base, inverted: true }, mask(materialTerm(['material-2'])), mask(materialTerm(['material-1'], 'subtract'))]) expect(key(other)).not.toBe(key(base));
    const refreshed = { ...document, sources: document.sources.map((s) => ({ ...s, file: { ...s.file, hash: 'f'.repeat(64) } })) };
    expect(key(base, refreshed)).not.toBe(key(base));
    expect(key(mask(element('tone', { source: '', after: 'layer-1' })), after(document, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.5 } }))).not.toBe(key(mask(element('tone', { source: '', after: 'layer-1' }))));
  });
});

describe('coverage mattes and channels', () => {
  const floats = (...bits: readonly number[]) => new Float32Array(Uint32Array.from(bits).buffer);
  const size = { width: 2, height: 1 };
  const f32 = (data: Float32Array): Plane => ({ type: 'f32', ...size, data });
  // Cryptomatte specification 1.2: hashes of “hello” and “bunny”; a matte is the sum of the coverages of its ids over all ranks.
  const [hello, bunny] = [0x248bfa47, 0x13851a76];
  it('sum the ranks of their names', () => {
    const first = [f32(floats(hello, bunny)), f32(Float32Array.of(0.7, 0.6)), f32(floats(bunny, hello)), f32(Float32Array.of(0.3, 0.25))];
    const more = [f32(floats(0, hello)), f32(Float32Array.of(0, 0.15)), f32(floats(0, 0)), f32(new Float32Array(2))];
    const coverage = { ...addCoverage(beginCoverage(first, 2), more, 1), x: 0, y: 0 };
    const place = (hash: number) => ({ sourceId: 'c', index: 0, colorKey: hash, what: 'coverage' as const, behindId: null, coverage: { sourceId: 'c', hash } });
    const given = inputs({ size, coverages: { [needKey({ what: 'coverage', sourceId: 'c' })]: coverage }, materials: { a: place(hello), b: place(bunny) } });
    expect([...values(evaluateMask(mask(materialTerm(['a'])), given))].map((v) => Math.round(v * 100))).toEqual([70, 40]);
    expect([...values(evaluateMask(mask(materialTerm(['a', 'b'])), given))]).toEqual([1, 1]);
  });
  it('numbers that are none count as nothing, as everywhere where files are read', () => {
    const matte = { planes: [f32(Float32Array.of(Number.NaN, 1))], x: 0, y: 0 };
    const given = inputs({ size, mattes: { 'matte r': matte }, materials: { a: { sourceId: 'r', index: 0, colorKey: 0, what: 'channel', behindId: null, coverage: null } } });
    expect([...values(evaluateMask(mask(materialTerm(['a'])), given))]).toEqual([0, 1]);
    expect([...values(evaluateMask({ ...mask(materialTerm(['a'])), inverted: true }, given))]).toEqual([1, 0]);
  });
  it('RGB mattes are read by their channel', () => {
    const matte = { planes: [f32(Float32Array.of(1, 0)), f32(Float32Array.of(0, 0.5)), f32(Float32Array.of(0, 0.5))], x: 0, y: 0 };
    const given = inputs({ size, mattes: { 'matte r': matte }, materials: { a: { sourceId: 'r', index: 1, colorKey: 1, what: 'channel', behindId: null, coverage: null } } });
    expect([...values(evaluateMask(mask(materialTerm(['a'])), given))].map((v) => Math.round(v * 100))).toEqual([0, 50]);
  });
  it('half floats and bytes are read alike', () => {
    const half: Plane = { type: 'f16', ...SIZE, data: Uint16Array.from({ length: 64 * 48 }, (_, i) => floatToHalf((i % 64) / 64)) };
    const coverage = evaluate(withView({ ...view(() => 0), color: [half] }), element('channel'));
    expect(at(coverage, 32, 7)).toBeCloseTo(0.5, 4);
  });
});

it('thousands of ids are no trouble', () => {
  const many = { ...smallDocument(), sources: [source(1), source(3, { role: 'material-id' })], materials: Array.from({ length: 4000 }, (_, i) => ({ ...material(1, 'source-3'), id: `material-${i}`, colorKey: i })) };
  expect(resolveMask(many, mask(materialTerm(many.materials.map(({ id }) => id)))).needs).toEqual([{ what: 'mixture', sourceId: 'source-3' }]);
});

describe('suggestions', () => {
  const names = (document: TazzelDocument) => suggestedMasks(document).map(({ name }) => name);
  const start = smallDocument();
  const called = (...given: readonly string[]) => ({ ...start, materials: start.materials.map((row, i) => ({ ...row, name: given[i] ?? row.name })) });
  it('come from the names of materials, in several languages, and go once they are on the shelf', () => {
    expect(names(called('Window glass', 'Kies'))).toEqual(['Glazing', 'Ground']);
    expect(names(after(called('Window glass', 'Kies'), { type: 'mask-with-material', materialIds: ['material-1'], layerId: 'layer-1' }))).toEqual(['Ground']);
    expect(names(start)).toEqual([]);
  });
  it('come from alpha, directions and depth, where the render has them', () => {
    const rich = { ...called('Brick', 'Roof'), sources: [...start.sources, source(5, { role: 'alpha' }), source(6, { role: 'normals' }), source(7, { role: 'depth' })] };
    expect(names(rich)).toEqual(['Sky', 'Level surfaces', 'In front']);
    for (const { name, terms } of suggestedMasks(rich)) expect(resolveMask(rich, newMask('m', name, terms)).problems).toEqual([]);
    expect(names({ ...rich, masks: [newMask('m', 'Sky', [])] })).toEqual(['Level surfaces', 'In front']);
  });
  it('materials are preferred to objects of the same name: both would be the same pixels twice', () => {
    const both = called('Water', 'Brick');
    const doubled = { ...both, materials: [...both.materials, { ...both.materials[0], id: 'object-1', kind: 'object' as const }] };
    expect(suggestedMasks(doubled)[0].terms).toEqual([materialTerm(['material-1'])]);
  });
});
