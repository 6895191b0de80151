import { describe, expect, it } from 'vitest';
import { after, material, smallDocument, source } from '../../../../tests/documents.ts';
import { findLayer } from '../model/query.ts';
import { documentAgainst, documentIn } from './against.ts';
import { applyEdit } from './edits.ts';
import { parseDocument, readDocument } from './schema.ts';

const small = smallDocument();
const kept = after(small, { type: 'keep-state', name: 'As delivered' });

describe('a state', () => {
  it('needs its elements: they stay while it does', () => {
    const grown = after(small, { type: 'add-sources', sources: [source(8)] }, { type: 'add-layer', layer: 'element', params: { source: 'source-8' }, zone: 'scene' });
    const id = grown.buildUp.scene.at(-1)?.id ?? '';
    const state = after(grown, { type: 'keep-state', name: 'With it' }, { type: 'remove-layer', layerId: id });
    expect(() => applyEdit(state, { type: 'remove-source', sourceId: 'source-8' })).toThrow('element 8 is shown in the state “With it”. Remove the state first.');
    expect(after(state, { type: 'remove-state', stateId: 'state-1' }, { type: 'remove-source', sourceId: 'source-8' }).sources).toHaveLength(small.sources.length);
  });
  it('that is damaged is read as far as it can be, and what was left out is named', () => {
    const broken = JSON.parse(JSON.stringify(kept)) as { states: { buildUp: { scene: { blend: string; name: string }[] } }[] };
    broken.states[0].buildUp.scene[0].blend = 'sparkle';
    const { document, problems } = readDocument(broken);
    expect(problems).toHaveLength(1);
    expect(problems[0]).toMatch(/^In the state “As delivered”: The layer “.*” was left out: /);
    expect(document.states[0].buildUp.scene).toHaveLength(small.buildUp.scene.length - 1);
    expect(document.buildUp).toEqual(small.buildUp);
  });
  it('and colour samplers are there in documents of earlier versions: none', () => {
    const { states: _, samplers: __, ...before } = { ...small, version: 3 };
    expect(parseDocument(before)).toMatchObject({ version: 5, states: [], samplers: [] });
    expect(readDocument({ ...small, samplers: [[1, 'x']] })).toMatchObject({ document: { samplers: [] }, problems: [expect.stringMatching(/^The list of colour samplers was left out/)] });
  });
  it('grows with the picture', () => {
    const sampled = after(kept, { type: 'set-samplers', samplers: [[3, 2]] });
    const { samplers, states } = after(sampled, { type: 'refresh', sources: sampled.sources, materials: null, size: { width: sampled.size.width * 2, height: sampled.size.height * 2 }, scales: true });
    expect([samplers, states.length]).toEqual([[[6, 4]], 1]);
  });
});

describe('what a picture is compared with', () => {
  it('a state, the picture without a layer, or nothing if they are gone', () => {
    const changed = after(kept, { type: 'set-tone', tone: 'reinhard' });
    expect(documentAgainst(changed, { kind: 'state', stateId: 'state-1' })?.tone).toEqual(small.tone);
    expect(documentAgainst(changed, { kind: 'state', stateId: 'state-9' })).toBeNull();
    const without = documentAgainst(changed, { kind: 'layer', layerId: 'layer-1' });
    expect(without && findLayer(without, 'layer-1')?.layer.visible).toBe(false);
    expect(documentAgainst(changed, { kind: 'layer', layerId: 'nothing' })).toBeNull();
    expect(documentIn(changed, changed.states[0]).buildUp).toBe(small.buildUp);
  });
  it('a surface without its own corrections, and nobody else’s', () => {
    const base = after(
      small,
      { type: 'set-materials', sourceId: small.sources[2].id, materials: [material(1, small.sources[2].id), material(2, small.sources[2].id)] },
      { type: 'correct-material', materialIds: ['material-1'], correction: 'exposure', zone: 'scene' },
      { type: 'correct-material', materialIds: ['material-2'], correction: 'exposure', zone: 'scene' },
      { type: 'correct-material', materialIds: ['material-1', 'material-2'], correction: 'exposure', zone: 'scene' },
    );
    const shown = (materialIds: string[]) => documentAgainst(base, { kind: 'surface', materialIds })?.buildUp.scene.slice(-3).map(({ visible }) => visible);
    expect(shown(['material-1'])).toEqual([false, true, true]);
    expect(shown(['material-1', 'material-2'])).toEqual([false, false, false]);
  });
});
