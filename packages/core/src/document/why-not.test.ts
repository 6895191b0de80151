import { describe, expect, it } from 'vitest';
import { after, smallDocument } from '../../../../tests/documents.ts';
import { builtKernels } from '../../../../tests/built.ts';
import { seeded } from '../../../../tests/random.ts';
import { draw } from '../../../../tests/pictures.ts';
import { randomParams } from '../../../../tests/random-params.ts';
import { corrections } from '../corrections/registry.ts';
import { planDocument } from '../evaluate/plan.ts';
import { applyEdit, type Edit } from './edits.ts';
import { correctionPlace, findLayer, layersInOrder } from '../model/query.ts';
import { whyNot } from './why-not.ts';

const base = after(smallDocument(), { type: 'group-layer', layerId: 'layer-1' });
const group = findLayer(base, 'layer-1')?.groupIds[0] as string;
const plane = { type: 'f32' as const, ...base.size, data: Float32Array.from({ length: 48 }, (_, i) => ((i * 7) % 13) / 10) };
const kernels = await builtKernels();

describe.each(corrections.map((correction) => [correction.label, correction] as const))('%s', (_label, correction) => {
  const places: Readonly<Record<string, Edit>> = {
    'under the tone line': { type: 'add-correction-layer', correction: correction.id, zone: 'scene' },
    'over the tone line': { type: 'add-correction-layer', correction: correction.id, zone: 'picture' },
    'in a group': { type: 'add-correction-layer', correction: correction.id, zone: 'scene', groupId: group },
    'in the chain of a layer under it': { type: 'add-chain-correction', layerId: 'layer-1', correction: correction.id },
    'in the chain of a layer over it': { type: 'add-chain-correction', layerId: 'layer-2', correction: correction.id },
    'on materials under it': { type: 'correct-material', materialIds: ['material-1'], correction: correction.id, zone: 'scene' },
    'on materials over it': { type: 'correct-material', materialIds: ['material-1'], correction: correction.id, zone: 'picture' },
  };
  it.each(Object.entries(places))('%s works, or says why not', (_place, edit) => {
    const reason = whyNot(base, edit);
    if (reason !== null) {
      expect(reason).toMatch(/^[A-Z“].*\.$/);
      expect(() => applyEdit(base, edit)).toThrow(reason);
      return;
    }
    // It is planned and drawn with any of its values, and whatever it lacks is said.
    const added = applyEdit(base, edit);
    const place = layersInOrder(added).find(({ layer }) => (layer.kind === 'correction' && layer.correction.type === correction.id) || ('chain' in layer && layer.chain.length > 0));
    if (!place) throw new Error('It is not there.');
    const { layer } = place;
    const link = 'chain' in layer ? layer.chain[0].id : undefined;
    const made = applyEdit(added, { type: 'set-params', layerId: layer.id, ...(link ? { correctionId: link } : {}), params: randomParams(correction.params, seeded(9)) });
    const plan = planDocument(made);
    const { pixels } = draw(plan, { source: () => ({ color: [plane], alpha: null, premultiplied: false, x: 0, y: 0 }), mask: () => plane, backend: kernels });
    expect(pixels.planes.every(Number.isFinite)).toBe(true);
    for (const problem of plan.problems) expect(problem).toMatch(/\.$/);
  });
  it('of all below goes after the selected layer, or to the near end of the side where it works', () => {
    for (const { layer } of layersInOrder(base)) expect(whyNot(base, { type: 'add-correction-layer', correction: correction.id, ...correctionPlace(correction, findLayer(base, layer.id)) })).toBeNull();
    expect(whyNot(base, { type: 'add-correction-layer', correction: correction.id, ...correctionPlace(correction, null) })).toBeNull();
  });
});

describe('why not', () => {
  it('is the sentence with which the edit is refused', () => {
    expect(whyNot(base, { type: 'add-chain-correction', layerId: 'layer-1', correction: 'invert' })).toBe('Invert does not work under the tone line.');
    expect(whyNot(base, { type: 'remove-source', sourceId: 'source-1' })).toMatch(/is used by a layer/);
    expect(whyNot(base, { type: 'set-params', layerId: 'layer-1', params: { source: 'source-99' } })).toBe('element 1: its element is missing.');
    expect(whyNot(base, { type: 'remove-layer', layerId: 'layer-1' })).toBeNull();
  });
});
