import { describe, expect, it } from 'vitest';
import { after, material, smallDocument, source } from '../../../../tests/documents.ts';
import { planDocument } from '../evaluate/plan.ts';
import { correctionsOn } from './uses.ts';
import { applyEdit } from './edits.ts';
import { readyGroups } from './ready-groups.ts';
import { parseDocument } from './schema.ts';

const ids = smallDocument().sources[2].id;
const equipped = after(smallDocument(), { type: 'add-sources', sources: [source(9, { role: 'depth', encoding: 'data' }), source(14, { role: 'atmosphere', encoding: 'linear' }), source(15, { role: 'glare', encoding: 'linear' })] }, { type: 'set-materials', sourceId: ids, materials: [{ ...material(1, ids), name: 'Glass panes' }, { ...material(2, ids), name: 'Pool' }] });

describe('ready groups', () => {
  it.each(readyGroups.map((group) => [group.id, group] as const))('%s does something, can be stored and taken apart', (id, group) => {
    expect(group.lack(equipped)).toBeNull();
    const done = applyEdit(equipped, { type: 'add-ready-group', group: id });
    expect(parseDocument(JSON.parse(JSON.stringify(done)))).toEqual(done);
    const added = done.buildUp[group.zone].at(-1);
    if (added?.kind !== 'group') throw new Error('no group');
    const count = added.layers.length;
    const plan = planDocument(done);
    expect(plan.problems).toEqual([]);
    expect(plan.nodes.flatMap((node) => (node.kind === 'points' ? node.steps : [])).filter(({ kind }) => kind === 'correct' || kind === 'layer').length).toBeGreaterThanOrEqual(count);
    expect(applyEdit(done, { type: 'ungroup', layerId: added.id }).buildUp[group.zone].slice(-count).map(({ kind }) => kind)).toEqual(added.layers.map(({ kind }) => kind));
  });
  it('say what they lack', () => {
    const sentences = readyGroups.flatMap((group) => group.lack(smallDocument()) ?? []);
    expect(sentences).toEqual([/add the depth element/, /No material is called glass/, /add the depth element/, /no element of the atmosphere/, /no element of the glare/, /No material is called water/].map((words) => expect.stringMatching(words)));
    expect(() => applyEdit(smallDocument(), { type: 'add-ready-group', group: 'depth-cues' })).toThrow(/add the depth element/);
  });
});

describe('the corrections of a surface', () => {
  it('are one column: the same control goes on with the same correction', () => {
    const set = (stops: number) => ({ type: 'set-on-surface', materialIds: ['material-1'], correction: 'exposure', params: { exposureStops: stops } }) as const;
    const done = after(equipped, set(0.5), { type: 'set-on-surface', materialIds: ['material-1'], correction: 'repaint', params: { color: [0.5, 0.1, 0.1] } }, set(0.75));
    expect(correctionsOn(done, ['material-1']).map(({ layer }) => [layer.correction.type, layer.correction.params.exposureStops ?? layer.correction.params.color])).toEqual([['exposure', 0.75], ['repaint', [0.5, 0.1, 0.1]]]);
    expect(correctionsOn(done, ['material-1', 'material-2'])).toEqual([]);
    const copied = after(done, { type: 'copy-corrections', from: ['material-1'], to: ['material-2'] });
    expect(correctionsOn(copied, ['material-2']).map(({ layer }) => layer.correction)).toEqual(correctionsOn(done, ['material-1']).map(({ layer }) => layer.correction));
    const folded = after(copied, { type: 'fold-corrections', materialIds: ['material-1'] });
    expect(correctionsOn(folded, ['material-1']).map(({ groupIds }) => groupIds.length)).toEqual([1, 1]);
    expect(() => applyEdit(equipped, { type: 'copy-corrections', from: ['material-1'], to: ['material-2'] })).toThrow('These materials have no corrections of their own.');
  });
  it('repainted, it is repainted in glass and in mirrors, too', () => {
    const ids2 = source(10, { role: 'material-id', name: 'material_id_through_glass' });
    const base = after(smallDocument(), { type: 'set-source', sourceId: ids, patch: { role: 'material-id' } });
    const render = after(base, { type: 'add-sources', sources: [{ ...ids2, width: base.sources[2].width, height: base.sources[2].height }, source(11, { role: 'refraction' }), source(12, { role: 'diffuse-filter' }), source(13, { role: 'raw-lighting' })] }, { type: 'set-materials', sourceId: ids, materials: [material(1, ids), material(2, ids)] });
    const repainted = after(render, { type: 'set-on-surface', materialIds: ['material-1'], correction: 'repaint', params: { color: [0.4, 0.1, 0.05], presentColor: [0.2, 0.2, 0.2] } });
    const layer = correctionsOn(repainted, ['material-1'])[0].layer;
    const done = applyEdit(repainted, { type: 'repaint-there-too', layerId: layer.id });
    expect(parseDocument(JSON.parse(JSON.stringify(done)))).toEqual(done);
    expect(done.buildUp.scene.at(-1)).toMatchObject({ name: 'M01: seen through glass', blend: 'add', params: { source: 'source-11' }, chain: [{ type: 'channel-mix', params: { red: [100, 0, 0], green: [0, -50, 0], blue: [0, 0, -75] } }] });
    expect(done.masks.at(-1)?.terms).toMatchObject([{ type: 'material', params: { from: 'behind', materials: ['material-1'] } }]);
    expect(() => applyEdit(after(equipped, { type: 'set-on-surface', materialIds: ['material-1'], correction: 'repaint', params: {} }), { type: 'repaint-there-too', layerId: 'layer-3' })).toThrow(/does not say where it is seen/);
  });
  it('a pair stands inside and outside of one mask', () => {
    const one = after(equipped, { type: 'set-on-surface', materialIds: ['material-1'], correction: 'exposure', params: { exposureStops: 1 } });
    const { layer } = correctionsOn(one, ['material-1'])[0];
    const pair = after(one, { type: 'pair-correction', layerId: layer.id });
    expect(pair.masks).toEqual(one.masks);
    const chained = after(equipped, { type: 'add-chain-correction', layerId: 'layer-1', correction: 'exposure' }, { type: 'mask-with-material', materialIds: ['material-1'], layerId: 'layer-1', correctionId: 'correction-1' }, { type: 'pair-correction', layerId: 'layer-1', correctionId: 'correction-1' });
    expect(chained.buildUp.scene[0]).toMatchObject({ chain: [{ id: 'correction-1', mask: { inverted: false } }, { id: 'correction-2', mask: { inverted: true } }] });
    expect(() => applyEdit(after(equipped, { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' }), { type: 'pair-correction', layerId: 'layer-4' })).toThrow(/it works everywhere already|is not a correction|There is no layer/);
  });
});
