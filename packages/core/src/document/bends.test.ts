import { describe, expect, it } from 'vitest';
import { after, smallDocument, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { planDocument } from '../evaluate/plan.ts';
import { lightOf } from '../evaluate/targets.ts';
import { bentCoverage } from '../masks/bent.ts';
import { evaluateMask } from '../masks/evaluate.ts';
import type { Edit } from './edits.ts';
import { newTerm } from './mask-edits.ts';
import type { TazzelDocument } from '../model/model.ts';
import type { KeptValues } from '../params/table.ts';
import { placeBehind, placeSeen } from '../raster/bend.ts';
import { bendsAround, unbent } from './bends.ts';
import { emptyDocument } from '../model/model.ts';

const SIZE = { width: 96, height: 64 };
const [WIDTH, HEIGHT] = [SIZE.width, SIZE.height];
const AREA = WIDTH * HEIGHT;

/** A render, `edits`, and corrections of all below, one over the other. */
const built = (corrections: readonly (readonly [id: string, params: KeptValues])[], ...edits: readonly Edit[]): TazzelDocument =>
  corrections.reduce(
    (document, [correction, params], i) => after(document, { type: 'add-correction-layer', correction, zone: 'scene' }, { type: 'set-params', layerId: `layer-${i + 2}`, params }),
    after(emptyDocument('doc', 'Bent', SIZE), { type: 'add-sources', sources: [source(1, { ...SIZE, role: 'beauty', alphaChannel: null, alpha: 'none' })] }, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' }, ...edits),
  );
const BARREL = ['distortion', { firstPercent: -12, secondPercent: 3, edges: 'show' }] as const;
const UPRIGHT = ['verticals', { verticalDegrees: 8, rollDegrees: 2 }] as const;
const ellipse: Edit = { type: 'add-mask', name: 'Oval', terms: [newTerm('ellipse', 'add', smallDocument(), { points: [[60, 24], [82, 24], [60, 38]], softPx: 6 })] };

describe('what bends a picture', () => {
  const bends = (document: TazzelDocument, layerId: string | null = null) => {
    const { below, above } = bendsAround(document, layerId);
    return [below.length, above.length];
  };
  it('lies below or above a layer', () => {
    const document = built([BARREL, ['exposure', { exposureStops: 1 }], UPRIGHT]);
    expect(bends(document)).toEqual([2, 0]);
    expect(['layer-1', 'layer-2', 'layer-3', 'layer-4'].map((id) => bends(document, id))).toEqual([[0, 2], [0, 2], [1, 1], [1, 1]]);
  });
  it('is none that does nothing, is switched off, is seen in part only, or moves colours apart', () => {
    const document = built([BARREL]);
    const changed = (...edits: readonly Edit[]) => bends(after(document, ...edits))[0];
    expect(changed({ type: 'set-params', layerId: 'layer-2', params: { firstPercent: 0, secondPercent: 0 } })).toBe(0);
    expect(changed({ type: 'set-layer', layerId: 'layer-2', patch: { visible: false } })).toBe(0);
    expect(changed({ type: 'set-layer', layerId: 'layer-2', patch: { opacity: 0.5 } })).toBe(0);
    expect(changed(ellipse, { type: 'set-layer', layerId: 'layer-2', patch: { mask: { maskId: 'mask-1', inverted: false, enabled: true } } })).toBe(0);
    expect(bends(built([['colour-fringes', { redPercent: 1 }]]))).toEqual([0, 0]);
    expect(bends(built([['exposure', { exposureStops: 1 }]]))).toEqual([0, 0]);
  });
  it('in a group that changes nothing it bends what lies over the group, in any other only what is in it', () => {
    const grouped = after(built([BARREL, ['exposure', { exposureStops: 1 }]]), { type: 'group-layer', layerId: 'layer-2' });
    const isolated = after(grouped, { type: 'set-layer', layerId: 'layer-4', patch: { isolated: true } });
    expect([bends(grouped), bends(grouped, 'layer-3'), bends(grouped, 'layer-4'), bends(grouped, 'layer-1')]).toEqual([[1, 0], [1, 0], [0, 1], [0, 1]]);
    expect([bends(isolated), bends(isolated, 'layer-3'), bends(isolated, 'layer-1')]).toEqual([[0, 0], [0, 0], [0, 0]]);
    expect(bends(isolated, 'layer-2')).toEqual([0, 1]);
    expect(unbent(isolated)).toBe(isolated);
    expect(bends(unbent(grouped))).toEqual([0, 0]);
  });
  it('is left out of what masks read, and nothing else is', () => {
    const document = built([BARREL, ['exposure', { exposureStops: 1 }]]);
    expect(bends(unbent(document))).toEqual([0, 0]);
    expect(unbent(unbent(document))).toBe(unbent(document));
    expect(unbent(document).buildUp.scene.map(({ visible }) => visible)).toEqual([true, false, true]);
    const straight = built([['exposure', { exposureStops: 1 }]]);
    expect(unbent(straight)).toBe(straight);
  });
});

describe('places', () => {
  const { below } = bendsAround(built([BARREL, UPRIGHT]), null);
  it('are found there and back within 0.02 pixels, one bend after the other', () => {
    for (let x = 4; x < WIDTH; x += 11) {
      for (let y = 4; y < HEIGHT; y += 9) {
        const [u, v] = placeBehind(below, placeSeen(below, [x, y]));
        expect(Math.hypot(u - x, v - y)).toBeLessThan(0.02);
      }
    }
    expect(placeBehind(below, [20, 20])).toEqual(placeBehind([below[0]], placeBehind([below[1]], [20, 20])));
    expect(Math.hypot(...placeBehind(below, [4, 4]).map((value) => value - 4))).toBeGreaterThan(1);
  });
  it('without a bend are where they are, and one that is seen nowhere gets numbers', () => {
    expect([placeSeen([], [3, 4]), placeBehind([], [3, 4])]).toEqual([[3, 4], [3, 4]]);
    for (const value of placeSeen(below, [-5000, 9000])) expect(Number.isFinite(value)).toBe(true);
  });
});

describe('masks go along', () => {
  const plane = { type: 'f32' as const, ...SIZE, data: new Float32Array(AREA).fill(0.25) };
  function drawn(document: TazzelDocument): Float32Array {
    const plan = planDocument(document);
    const mask = (key: string) => {
      const { mask: recipe, bends } = plan.masks[key];
      const made = evaluateMask(recipe, { size: SIZE, level: 0, views: {}, mattes: {}, coverages: {}, mixtures: {}, pictures: {}, masks: {}, camera: null, materials: {} });
      return bends.length === 0 ? made : bentCoverage(made, bends, 0);
    };
    const { planes } = draw(plan, { target: lightOf(plan), source: () => ({ color: [plane, plane, plane], alpha: null, premultiplied: false, x: 0, y: 0 }), mask }).pixels;
    return planes.subarray(0, AREA);
  }
  /** An exposure within the oval, and a bend, in either order. */
  const ordered = (...ids: readonly ('exposure' | 'bend')[]) => {
    const document = built(ids.map((id) => (id === 'bend' ? BARREL : (['exposure', { exposureStops: 2 }] as const))), ellipse);
    return after(document, { type: 'set-layer', layerId: `layer-${ids.indexOf('exposure') + 2}`, patch: { mask: { maskId: 'mask-1', inverted: false, enabled: true } } });
  };
  it('what is corrected within a mask over a bend is what is corrected within it below', () => {
    const [below, above] = [drawn(ordered('exposure', 'bend')), drawn(ordered('bend', 'exposure'))];
    let most = 0;
    for (let i = 0; i < below.length; i++) most = Math.max(most, Math.abs(below[i] - above[i]));
    // Weights of an edge of six pixels, filtered as light by a cubic or as coverage by straight lines.
    expect(most).toBeLessThan(0.02);
    const stays = drawn(ordered('exposure'));
    expect(Math.max(...below.map((value, i) => Math.abs(value - stays[i])))).toBeGreaterThan(0.2);
  });
  it('the plan says how, and equal coverage keeps its key', () => {
    const keys = (document: TazzelDocument) => Object.entries(planDocument(document).masks).map(([key, { bends }]) => [key, bends.length] as const);
    const [[straight, none], [bent, one]] = [keys(ordered('exposure', 'bend'))[0], keys(ordered('bend', 'exposure'))[0]];
    expect([none, one, straight === bent]).toEqual([0, 1, false]);
    expect(keys(ordered('exposure'))[0][0]).toBe(straight);
  });
  it('in bytes as in sixteen bits; what is beyond goes on', () => {
    const { below } = bendsAround(built([BARREL]), null);
    const full = { type: 'u8' as const, ...SIZE, data: new Uint8Array(AREA).fill(255) };
    expect(bentCoverage(full, below, 0).data.every((value) => value === 255)).toBe(true);
    const half = { type: 'u16' as const, ...SIZE, data: Uint16Array.from({ length: AREA }, (_, i) => (i % WIDTH < WIDTH / 2 ? 0 : 65535)) };
    const { data, type } = bentCoverage(half, below, 0);
    expect([type, data[0], data[AREA - 1], data.length]).toEqual(['u16', 0, 65535, AREA]);
    // At half the size a place lies at half as many pixels.
    const small = { type: 'u8' as const, width: 48, height: 32, data: new Uint8Array(48 * 32).map((_, i) => (i % 48) * 4) };
    const [u] = placeBehind(below, [(40 + 0.5) * 2, (4 + 0.5) * 2]);
    expect(Math.abs(bentCoverage(small, below, 1).data[4 * 48 + 40] - (u / 2 - 0.5) * 4)).toBeLessThan(1);
  });
});
