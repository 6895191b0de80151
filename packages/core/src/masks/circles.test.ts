import { describe, expect, it } from 'vitest';
import { after, smallDocument } from '../../../../tests/documents.ts';
import { newMask, newTerm } from '../document/mask-edits.ts';
import { emptyDocument, type Layer, type Mask, type MaskTerm, type TazzelDocument } from '../model/model.ts';
import { findMask } from '../model/query.ts';
import { emptiedFor } from '../evaluate/mask-keys.ts';
import { maskKey, planDocument } from '../evaluate/plan.ts';
import { stepsTo } from '../evaluate/steps.ts';
import { pictureCircles, referenceCircles } from './circles.ts';
import { resolveMask } from './evaluate.ts';

const refer = (mask: string): MaskTerm => newTerm('mask', 'add', emptyDocument('d', 'D', { width: 8, height: 6 }), { mask });
const tonesAfter = (document: TazzelDocument, layerId: string): MaskTerm => newTerm('tone', 'add', document, { after: layerId });
const correction = (n: number, maskId: string | null): Layer => ({ id: `c${n}`, kind: 'correction', name: `c${n}`, visible: true, opacity: 1, mask: maskId === null ? null : { maskId, inverted: false, enabled: true }, correction: { type: 'exposure', blend: 'all', params: { exposureStops: n / 10 + 0.1 } } });

/** Corrections one over the other, each masked by the tones of the picture below it. */
function tower(height: number): TazzelDocument {
  const base = smallDocument();
  const below = (n: number) => (n === 0 ? 'layer-1' : `c${n - 1}`);
  const masks = Array.from({ length: height }, (_, n) => newMask(`m${n}`, `m${n}`, [tonesAfter(base, below(n))]));
  return { ...base, masks, buildUp: { scene: [...base.buildUp.scene, ...masks.map((_, n) => correction(n, `m${n}`))], picture: [] } };
}

describe('planning takes as long as there is to plan', () => {
  // Each of these was looked into twice for every mask on top of it: at 20 it never came to an end.
  it('200 corrections, each masked by the tones of the picture below', () => {
    const document = tower(200);
    const plan = planDocument(document);
    expect(stepsTo(plan, plan.result).filter(({ kind }) => kind === 'correct')).toHaveLength(200);
    expect(Object.keys(plan.masks)).toHaveLength(200);
    const changed = after(document, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.5 } });
    expect(Object.keys(planDocument(changed).masks).filter((key) => key in plan.masks)).toEqual([]);
    const above = after(document, { type: 'set-layer', layerId: 'c100', patch: { opacity: 0.5 } });
    // What lies below the change keeps its keys: m0 … m100.
    expect(Object.keys(planDocument(above).masks).filter((key) => key in plan.masks)).toHaveLength(101);
  });
  it('ladders of masks, each naming the two below it', () => {
    const base = smallDocument();
    const masks: Mask[] = Array.from({ length: 2000 }, (_, n) => newMask(`m${n}`, `m${n}`, n === 0 ? [newTerm('ellipse', 'add', base)] : [refer(`m${n - 1}`), refer(`m${Math.max(0, n - 2)}`)]));
    const document = { ...base, masks };
    const key = maskKey(document, masks[1999]);
    const other = { ...document, masks: masks.with(0, { ...masks[0], strength: 0.5 }) };
    expect(maskKey(other, other.masks[1999])).not.toBe(key);
    expect(resolveMask(document, masks[1999]).problems).toEqual([]);
  });
});

describe('masks that read a picture they have a part in', () => {
  it('read it as it is without that part, whoever asks', () => {
    const base = smallDocument();
    const own = newMask('own', 'own', [tonesAfter(base, 'c1')]);
    const other = newMask('other', 'other', [newTerm('ellipse', 'add', base)]);
    const document = { ...base, masks: [own, other], buildUp: { scene: [...base.buildUp.scene, correction(0, 'other'), correction(1, 'own')], picture: [] } };
    expect([...pictureCircles(document).keys()]).toEqual(['own']);
    expect([...emptiedFor(document, own, 'c1')]).toEqual(['own']);
    expect(emptiedFor(document, own, 'c0').size).toBe(0);
    expect(emptiedFor(document, other, 'c1').size).toBe(0);
    const plan = planDocument(document, { upto: 'c1', emptied: new Set(['own']) });
    expect(Object.values(plan.masks).map(({ mask: { terms } }) => terms.length)).toEqual([1, 0]);
    expect(maskKey(document, own)).not.toBe(maskKey(document, other));
  });
  it('an emptied mask that is inverted covers everything, so its key says so', () => {
    const base = smallDocument();
    const make = (inverted: boolean) => ({ ...base, masks: [{ ...newMask('own', 'own', [tonesAfter(base, 'c1')]), inverted }], buildUp: { scene: [...base.buildUp.scene, correction(1, 'own')], picture: [] } });
    expect(maskKey(make(true), make(true).masks[0])).not.toBe(maskKey(make(false), make(false).masks[0]));
  });
  it('two masks that read each other’s layers are one circle, and a third beside them is not', () => {
    const base = smallDocument();
    const masks = [newMask('a', 'a', [tonesAfter(base, 'c2')]), newMask('b', 'b', [tonesAfter(base, 'c1')]), newMask('free', 'free', [refer('a')])];
    const document = { ...base, masks, buildUp: { scene: [...base.buildUp.scene, correction(1, 'a'), correction(2, 'b')], picture: [] } };
    expect([...(pictureCircles(document).get('a') ?? [])].sort()).toEqual(['a', 'b']);
    expect(pictureCircles(document).has('free')).toBe(false);
    for (const mask of masks) expect(maskKey(document, mask)).toMatch(/^[0-9a-f]{32}$/);
    const plan = planDocument(document);
    expect(stepsTo(plan, plan.result)).toHaveLength(4);
  });
  it('a picture inside a group counts what the group holds up to there; a group counts all of it', () => {
    const base = smallDocument();
    const group = { ...correction(9, 'g'), kind: 'group' as const, isolated: true, blend: 'normal' as const, layers: [correction(1, 'a'), correction(2, 'b')] };
    const make = (layerId: string) => ({ ...base, masks: [newMask('a', 'a', []), newMask('b', 'b', [tonesAfter(base, layerId)]), newMask('g', 'g', [])], buildUp: { scene: [...base.buildUp.scene, group as unknown as Layer], picture: [] } });
    expect(pictureCircles(make('c1')).size).toBe(0);
    expect([...pictureCircles(make('c9')).keys()]).toEqual(['b']);
  });
  it('masks that name each other', () => {
    const document = { ...smallDocument(), masks: [newMask('a', 'a', [refer('b')]), newMask('b', 'b', [refer('a')]), newMask('c', 'c', [refer('c')]), newMask('d', 'd', [refer('a')])] };
    expect([...referenceCircles(document).keys()].sort()).toEqual(['a', 'b', 'c']);
    expect(resolveMask(document, document.masks[3]).problems).toEqual([]);
    expect(maskKey(document, findMask(document, 'd') as Mask)).toMatch(/\w/);
  });
});
