import { expect, it } from 'vitest';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { emptyDocument } from '../model/model.ts';
import type { SourceView } from '../raster/view.ts';
import { planDocument } from './plan.ts';
import { lightOf } from './targets.ts';

const size = { width: 3, height: 1 };
const view: SourceView = { color: [{ type: 'f32', ...size, data: Float32Array.of(0.09, 0.18, 0.36) }], alpha: null, premultiplied: false, x: 0, y: 0 };
const settings = { exposure: { exposureStops: 1 }, contrast: { contrastPercent: 100 } } as const;
const element = source(1, { ...size, colorChannels: ['Y'] });
const base = after(emptyDocument('doc', 'Test', size), { type: 'add-sources', sources: [element] }, { type: 'add-layer', layer: 'element', params: { source: element.id }, zone: 'scene' });

/** Light after corrections in that order, for all below or in the chain of the layer. */
function light(place: 'above' | 'chain', ...types: readonly (keyof typeof settings)[]): number[] {
  const document = types.reduce((made, type, i) => {
    if (place === 'chain') return after(made, { type: 'add-chain-correction', layerId: 'layer-1', correction: type }, { type: 'set-params', layerId: 'layer-1', correctionId: `correction-${i + 1}`, params: settings[type] });
    return after(made, { type: 'add-correction-layer', correction: type, zone: 'scene' }, { type: 'set-params', layerId: `layer-${i + 2}`, params: settings[type] });
  }, base);
  const plan = planDocument(document);
  const mask = () => {
    throw new Error('no mask here');
  };
  return [...draw(plan, { source: () => view, mask, target: lightOf(plan) }).pixels.planes.subarray(0, 3)].map((value) => Number(value.toFixed(4)));
}

// Contrast doubled about 0.18: a stop from it becomes two. After an exposure of one stop that stop is doubled with the rest; before it, it is added as it is.
it.each(['above', 'chain'] as const)('corrections work in their order, %s: the first one first', (place) => {
  expect(light(place, 'exposure', 'contrast')).toEqual([0.18, 0.72, 2.88]);
  expect(light(place, 'contrast', 'exposure')).toEqual([0.09, 0.36, 1.44]);
});
