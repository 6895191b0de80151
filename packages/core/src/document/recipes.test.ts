import { describe, expect, it } from 'vitest';
import { after, material, source } from '../../../../tests/documents.ts';
import { emptyDocument, type Layer, type TazzelDocument } from '../model/model.ts';
import { layersInOrder } from '../model/query.ts';
import { beautyOnly, buildExact, buildRecipe, enhancement, readRecipe, rebuildDocument, recipeOf } from './recipes.ts';
import { materialTerm, newTerm } from './mask-edits.ts';
import { planRefresh } from './refresh.ts';
import { parseDocument } from './schema.ts';
import { rebuildSet } from '../elements/rebuild-set.ts';
import type { RoleId } from '../elements/roles.ts';

const ROLES: readonly RoleId[] = ['beauty', 'direct-lighting', 'raw-lighting', 'diffuse-filter', 'gi', 'reflection', 'refraction', 'specular', 'background', 'shadow', 'ambient-occlusion', 'light-group', 'light-group', 'material-id'];
const sources = ROLES.map((role, i) => source(i + 1, { role, name: role === 'light-group' ? `light ${i}` : role.replaceAll('-', ' '), encoding: role === 'material-id' ? 'data' : 'linear' }));
const materials = ['Glass', 'Water surface', 'Brick', 'Sky'].map((name, i) => ({ ...material(i + 1, 'source-14'), name }));
const start = after(emptyDocument('doc', 'Yard', { width: 8, height: 6 }), { type: 'add-sources', sources }, { type: 'set-materials', sourceId: 'source-14', materials });
const outline = (d: TazzelDocument) => layersInOrder(d).map(({ layer, zone, groupIds }) => `${zone === 'scene' ? '' : '| '}${'  '.repeat(groupIds.length)}${layer.visible ? '' : '('}${layer.name}${layer.visible ? '' : ')'}${layer.kind === 'correction' ? '' : `: ${layer.blend}`}`);
const sound = (d: TazzelDocument) => expect(parseDocument(JSON.parse(JSON.stringify(d)))).toEqual(d);

describe('exact rebuild', () => {
  it('lit elements are added over a beauty that is off; what is missing is said with its consequence', () => {
    const result = buildExact(start, 'elements', 'lit');
    if (!result) throw new Error('nothing was built');
    const built = after(start, result.edit);
    sound(built);
    expect(outline(built)).toEqual(['(beauty, for reference): normal', 'Elements: normal', '  direct lighting: add', '  gi: add', '  reflection: add', '  refraction: add', '  specular: add', '  background: add']);
    expect(result.missing).toEqual(['Self-illumination is missing: lamps will be dark.']);
    const without = { ...start, sources: start.sources.filter(({ role }) => role !== 'refraction') };
    expect(buildExact(without, 'elements', 'lit')?.missing).toContain('Refraction is missing: what stands behind glass will be black.');
  });
  it('filter × raw is a group that is multiplied by itself and then added', () => {
    const result = buildExact(start, 'elements', 'filter-raw');
    const built = after(start, ...(result ? [result.edit] : []));
    expect(outline(built).slice(2, 5)).toEqual(['  diffuse filter × raw lighting: add', '    raw lighting: normal', '    diffuse filter: multiply']);
    sound(built);
  });
  it('light groups as the other split; nothing without a beauty', () => {
    const result = buildExact(start, 'lights', 'lit');
    expect(outline(after(start, ...(result ? [result.edit] : []))).slice(1)).toEqual(['Light groups: normal', '  light 11: add', '  light 12: add']);
    expect(buildExact({ ...start, sources: sources.slice(1) }, 'elements', 'lit')).toBeNull();
  });
  it('the sum and the difference can be looked at', () => {
    const set = rebuildSet(start.sources, 'elements');
    if (!set) throw new Error('no set');
    expect(outline(rebuildDocument(start, set, 'difference', 4)).slice(-2)).toEqual(['beauty: difference', 'Gain']);
    sound({ ...rebuildDocument(start, set, 'sum'), masks: [] });
  });
});

describe('recipes', () => {
  it('enhancement: modes, opacities, inversion, and masks where materials are known by name', () => {
    const { edit, missing } = buildRecipe(start, enhancement);
    const built = after(start, edit);
    sound(built);
    expect(outline(built)).toEqual(['Beauty: normal', '| Enhancement: normal', '|   Diffuse filter: overlay', '|   Ambient occlusion: multiply', '|   Raw GI: screen', '|   Shadow, inverted: soft-light', '|   Raw lighting: overlay', '|   Reflection: overlay', '|   Specular: screen', '|   Refraction: lighten']);
    expect(missing).toEqual([]);
    const layer = (name: string) => layersInOrder(built).find((place) => place.layer.name === name)?.layer as Layer & { chain: { type: string }[] };
    expect(layer('Shadow, inverted')).toMatchObject({ opacity: 0.25, chain: [{ type: 'invert' }], mask: { inverted: true } });
    const glazing = built.masks.find(({ id }) => id === layer('Reflection').mask?.maskId);
    expect(glazing?.terms).toEqual([materialTerm(['material-1', 'material-2'])]);
    // Layers that may only be seen in places share one mask for equal places.
    expect(built.masks).toHaveLength(3);
  });
  it('without names of materials, what would spoil the picture is off and says so', () => {
    const bare = { ...start, materials: [] };
    const { edit, missing } = buildRecipe(bare, enhancement);
    expect(layersInOrder(after(bare, edit)).find(({ layer }) => layer.name === 'Reflection')?.layer.visible).toBe(false);
    expect(missing).toContain('Reflection is off: no material is called glass, glazing, window or the like. Rename the materials and build again, or mask it by hand.');
  });
  it('a build-up becomes a recipe, and the recipe fits the next set', () => {
    const built = after(start, buildRecipe(start, enhancement).edit, { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' });
    const recipe = readRecipe(JSON.parse(JSON.stringify(recipeOf(built, 'own', 'Mine'))));
    const next = { ...start, sources: sources.map((s) => ({ ...s, id: `next-${s.id}` })), materials: materials.map((m) => ({ ...m, id: `next-${m.id}`, sourceId: 'next-source-14' })) };
    const again = after(next, buildRecipe(next, recipe).edit);
    expect(outline(again)).toEqual(outline(built));
    sound(again);
    const poor = { ...next, sources: next.sources.filter(({ role }) => role !== 'specular') };
    expect(buildRecipe(poor, recipe).missing).toEqual(['Specular is missing.']);
    expect(outline(after(start, buildRecipe(start, beautyOnly).edit))).toEqual(['Beauty: normal']);
  });
  it('what is no recipe is refused with the place', () => {
    expect(() => readRecipe({ id: 'x', name: 'x', summary: '', scene: [{ kind: 'element', name: 'a' }], picture: [] })).toThrow(/This is not a recipe: scene\[0\]/);
    expect(() => readRecipe({ ...recipeOf(start, 'a', 'b'), scene: [{ kind: 'correction', name: 'a', visible: true, opacity: 1, mask: null, correction: { type: 'exposure', params: { wrong: 1 } } }] })).toThrow(/not a recipe/);
    expect(() => readRecipe(null)).toThrow(/not a recipe/);
  });
});

describe('a newer render', () => {
  const built = after(start, buildRecipe(start, enhancement).edit);
  const newer = (n: number) => ({ ...sources[n], id: `new-${n}`, file: { ...sources[n].file, hash: `${n}`.padStart(64, 'f') }, width: 16, height: 12 });
  it('takes the place of the old one by role, name and part; layers, masks and names stay', () => {
    const colors = [material(2, 'new-13'), material(3, 'new-13'), { ...material(9, 'new-13'), id: 'material-1' }];
    const plan = planRefresh(built, [0, 1, 2, 3, 4, 5, 11, 12, 13].map(newer), colors, { width: 16, height: 12 });
    expect(plan.replaced).toHaveLength(9);
    expect(plan.kept).toEqual(['refraction (used by a layer)', 'specular (used by a layer)', 'background', 'shadow (used by a layer)', 'ambient occlusion (used by a layer)']);
    expect(plan.size).toEqual({ from: { width: 8, height: 6 }, to: { width: 16, height: 12 } });
    expect(plan.newMaterials).toEqual(['M09']);
    expect(plan.goneMaterials.map(({ name }) => name)).toEqual(['Glass', 'Sky']);
    const after1 = after(built, plan.edit);
    sound(after1);
    expect(outline(after1)).toEqual(outline(built));
    expect(after1.sources.find(({ id }) => id === 'source-1')).toMatchObject({ name: 'beauty', width: 16, file: { hash: '0'.padStart(64, 'f') } });
    expect(after1.materials.map(({ id, name, area }) => [id, name, area])).toEqual([['material-2', 'Water surface', 0.5], ['material-3', 'Brick', 0.5], [expect.stringMatching(/material-5/), 'M09', 0.5], ['material-1', 'Glass', 0], ['material-4', 'Sky', 0]]);
  });
  it('what was drawn by hand is kept, and scaled with the picture if that is wanted', () => {
    const stroke = { erase: false, sizePx: 4, hardness: 1, opacity: 1, flow: 1, spacing: 0.1, path: [2, 3, 1] };
    const drawn = after(built, { type: 'add-mask', name: 'Drawn', terms: [newTerm('paint', 'add', built, { strokes: [stroke] }), newTerm('gradient', 'add', built)] });
    const plan = planRefresh(drawn, [newer(0)], [], { width: 16, height: 24 });
    expect(plan.drawnMasks).toEqual(['Drawn']);
    expect(after(drawn, plan.edit).masks).toEqual(drawn.masks);
    const scaled = after(drawn, { ...plan.edit, scales: true }).masks.at(-1);
    expect(scaled?.terms[0]).toMatchObject({ params: { strokes: [{ path: [4, 12, 1], sizePx: 4 * Math.sqrt(8) }] } });
    expect(scaled?.terms[1]).toMatchObject({ params: { points: [[8, 6], [8, 18]] } });
    expect(planRefresh(drawn, [newer(0)], [], drawn.size).drawnMasks).toEqual([]);
  });
  it('a file of one unnamed picture is the beauty that the file of that name held', () => {
    const named = { ...sources[0].file, name: 'yard_1.exr' };
    const old = after(emptyDocument('d', 'd', { width: 8, height: 6 }), { type: 'add-sources', sources: [source(1, { name: 'denoised', role: 'denoised-beauty', file: named }), source(2, { name: 'gi', role: 'gi', file: named })] });
    expect(planRefresh(old, [source(11, { name: 'yard_1', role: 'picture', file: { ...named, hash: 'e'.repeat(64) } })], [], { width: 8, height: 6 }).replaced).toEqual([{ from: 'denoised', to: 'yard_1' }]);
  });
  it('version and frame numbers do not matter, light groups are told by their names alone', () => {
    const numbered = after(emptyDocument('d', 'd', { width: 8, height: 6 }), { type: 'add-sources', sources: [source(1, { name: 'yard_v02_photo.0001' }), source(2, { role: 'light-group', name: 'light kitchen' }), source(3, { role: 'light-group', name: 'light hall' })] });
    const plan = planRefresh(numbered, [source(11, { name: 'yard_v03_photo.0007' }), source(12, { role: 'light-group', name: 'light hall' }), source(13, { role: 'light-group', name: 'light attic' })], [], { width: 8, height: 6 });
    expect(plan.replaced.map(({ from, to }) => `${from} → ${to}`).sort()).toEqual(['light hall → light hall', 'yard_v02_photo.0001 → yard_v03_photo.0007']);
    expect([plan.kept, plan.added, plan.size]).toEqual([['light kitchen'], ['light attic'], null]);
  });
});
