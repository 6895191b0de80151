import { describe, expect, it } from 'vitest';
import { after, material, source } from '../../../../tests/documents.ts';
import { emptyDocument, type TazzelDocument } from '../model/model.ts';
import { findLayer, layersInOrder } from '../model/query.ts';
import { planDocument } from '../evaluate/plan.ts';
import { applyEdit } from './edits.ts';
import { applyLook, lookOf, readLook } from './look.ts';
import { newTerm } from './mask-edits.ts';
import { parseDocument } from './schema.ts';

const named = (n: number, name: string, sourceId: string) => ({ ...material(n, sourceId), chip: [0.5, 0.5, 0.5] as const, area: 0.1, name });
/** A document with a base, depth and two named materials; the second one numbers everything otherwise. */
function place(first: number, names: readonly string[], size = { width: 80, height: 60 }): TazzelDocument {
  const [beauty, ids, depth] = [source(first, { ...size, role: 'beauty' }), source(first + 1, { ...size, role: 'material-id' }), source(first + 2, { ...size, role: 'depth', encoding: 'data' })];
  return after(
    emptyDocument('doc', 'Doc', size),
    { type: 'add-sources', sources: [beauty, ids, depth] },
    { type: 'set-materials', sourceId: ids.id, materials: names.map((name, i) => named(first + i, name, ids.id)) },
    { type: 'add-layer', layer: 'element', params: { source: beauty.id }, zone: 'scene' },
  );
}
const yard = place(1, ['Brick', 'Gravel']);
const worked = after(
  yard,
  { type: 'set-on-surface', materialIds: ['material-1'], correction: 'exposure', params: { exposureStops: -0.5 } },
  { type: 'set-on-surface', materialIds: ['material-2'], correction: 'hue-saturation', params: { saturationPercent: 60 } },
  { type: 'add-mask', name: 'Near brick', terms: [newTerm('depth', 'add', yard, { farMetres: 20, source: 'source-3' }), newTerm('mask', 'intersect', yard, { mask: 'mask-1' })] },
  { type: 'add-correction-layer', correction: 'gaussian-blur', zone: 'scene', maskId: 'mask-3' },
  { type: 'set-params', layerId: 'layer-4', params: { sigmaPx: 3 } },
  { type: 'add-chain-correction', layerId: 'layer-1', correction: 'exposure' },
  { type: 'set-tone', tone: 'reinhard' },
);

describe('a look', () => {
  it('holds corrections, their masks and what those name, and nothing of the picture', () => {
    const look = lookOf(worked, 'Evening');
    expect(look.scene.map(({ name }) => name)).toEqual(['Brick: exposure', 'Gravel: hue and saturation', 'Gaussian blur']);
    expect([look.masks.length, look.materials.map(({ name }) => name), look.elements.map(({ role }) => role), look.tone?.type, look.chains.length]).toEqual([3, ['Brick', 'Gravel'], ['beauty', 'depth'], 'reinhard', 1]);
    expect(readLook(JSON.parse(JSON.stringify(look)))).toEqual({ look, problems: [] });
  });
  it('of one layer holds that layer alone', () => {
    const look = lookOf(worked, 'Brick', 'layer-2');
    expect([look.scene.length, look.masks.length, look.tone, look.chains]).toEqual([1, 1, null, []]);
    expect(() => lookOf(yard, 'Nothing')).toThrow('There is no correction to keep as a look.');
  });
  it('finds its place in another document by names and roles, and grows with the picture', () => {
    const next = place(31, ['Roof', 'gravel', 'BRICK'], { width: 160, height: 120 });
    const { edit, missing } = applyLook(next, lookOf(worked, 'Evening'));
    expect(missing).toEqual([]);
    const done = applyEdit(next, edit);
    expect(parseDocument(JSON.parse(JSON.stringify(done)))).toEqual(done);
    const group = done.buildUp.scene.at(-1);
    expect(group).toMatchObject({ kind: 'group', name: 'Look: Evening' });
    const inside = group?.kind === 'group' ? group.layers : [];
    const rows = inside.map(({ mask }) => done.masks.find(({ id }) => id === mask?.maskId)?.terms.map(({ params }) => params.materials ?? params.mask ?? ''));
    expect(rows[0]).toEqual([['material-33']]);
    expect(rows[1]).toEqual([['material-32']]);
    expect(done.masks.some(({ id }) => id === rows[2]?.[1])).toBe(true);
    expect(inside[2]).toMatchObject({ correction: { params: { sigmaPx: 6 } } });
    expect(findLayer(done, next.buildUp.scene[0].id)?.layer).toMatchObject({ chain: [{ type: 'exposure' }] });
    expect([done.tone.type, planDocument(done).problems]).toEqual(['reinhard', []]);
  });
  it('says what is missing and applies the rest', () => {
    const other = after(place(31, ['Roof', 'Gravel']), { type: 'remove-source', sourceId: 'source-33' });
    const { edit, missing } = applyLook(other, lookOf(worked, 'Evening'));
    const done = applyEdit(other, edit);
    expect(missing).toEqual([
      'The mask “Brick” lacks the material “Brick”.',
      'The mask “Near brick” lacks the depth.',
      '“Brick: exposure” was left out with its mask.',
    ]);
    expect(layersInOrder(done).map(({ layer }) => layer.name)).toEqual(['element 31', 'Look: Evening', 'Gravel: hue and saturation', 'Gaussian blur']);
  });
  it('that is none gets a sentence; of a damaged one the rest is read', () => {
    expect(() => readLook({ format: 'tazzel-recipe' })).toThrow(/This is not a look/);
    expect(() => readLook({ ...lookOf(worked, 'E'), size: { width: 0, height: 3 } })).toThrow(/The look cannot be read: .*width/);
    expect(() => readLook({ ...lookOf(worked, 'E'), version: 99 })).toThrow(/newer version/);
    const broken = JSON.parse(JSON.stringify(lookOf(worked, 'E')));
    broken.scene[0].opacity = 'much';
    const { look, problems } = readLook(broken);
    expect([look.scene.length, problems.length]).toEqual([2, 1]);
  });
});
