import { describe, expect, it } from 'vitest';
import { after, smallDocument } from '../../../../tests/documents.ts';
import { type Address, isSameAddress, type ParamAddress, paramsAt, titleAt } from './address.ts';
import { applyEdit } from './edits.ts';
import { newTerm } from './mask-edits.ts';

const document = after(
  smallDocument(),
  { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' },
  { type: 'add-chain-correction', layerId: 'layer-1', correction: 'hue-saturation' },
  { type: 'add-mask', name: 'Near', terms: [newTerm('depth', 'add', smallDocument())] },
  { type: 'set-camera', params: {} },
  { type: 'set-sun', params: {} },
);
const places: readonly [ParamAddress, string, string, number][] = [
  [{ layerId: 'layer-3' }, 'Exposure', 'exposureStops', 0.5],
  [{ layerId: 'layer-1', correctionId: 'correction-1' }, 'element 1: Hue and saturation', 'hueDegrees', 20],
  [{ maskId: 'mask-1', termId: 'term-1' }, 'Near: Depth band', 'nearMetres', 7],
  [{ part: 'camera' }, 'Camera', 'focalMillimetres', 50],
  [{ part: 'sun' }, 'Sun', 'altitudeDegrees', 12],
];

describe('addresses', () => {
  it.each(places)('%j has a name and parameters, and one edit changes them', (at, title, name, value) => {
    expect(titleAt(document, at)).toBe(title);
    expect(paramsAt(document, at)?.of.params).toHaveProperty(name);
    const changed = applyEdit(document, { type: 'set-params', ...at, params: { [name]: value } });
    expect(paramsAt(changed, at)?.values[name]).toBe(value);
    // Everything else stays.
    expect({ ...paramsAt(changed, at)?.values, [name]: 0 }).toEqual({ ...paramsAt(document, at)?.values, [name]: 0 });
    expect(() => applyEdit(document, { type: 'set-params', ...at, params: { nonsense: 1 } })).toThrow(/no parameter “nonsense”/);
    expect(() => applyEdit(document, { type: 'set-params', ...at, params: { [name]: 'much' } })).toThrow(/expected/);
  });
  it('of a layer with a picture of its own', () => expect(paramsAt(document, { layerId: 'layer-1' })?.values).toEqual({ source: 'source-1', isRelit: false }));
  it('name elements, materials and masks as well', () => {
    const named: readonly [Address, string][] = [[{ sourceId: 'source-1' }, 'element 1'], [{ materialId: 'material-1' }, 'M01'], [{ maskId: 'mask-1' }, 'Near'], [{ layerId: 'layer-1' }, 'element 1']];
    for (const [at, title] of named) expect(titleAt(document, at)).toBe(title);
  });
  it('of what is not there lead nowhere, and say so', () => {
    const gone: readonly Address[] = [{ layerId: 'x' }, { layerId: 'layer-1', correctionId: 'x' }, { maskId: 'x' }, { maskId: 'mask-1', termId: 'x' }, { sourceId: 'x' }, { materialId: 'x' }];
    for (const at of gone) expect(titleAt(document, at)).toBeNull();
    expect(titleAt(smallDocument(), { part: 'camera' })).toBeNull();
    const lost: readonly [ParamAddress, RegExp][] = [[{ layerId: 'x' }, /There is no layer x/], [{ layerId: 'layer-1', correctionId: 'x' }, /There is no correction x in element 1/], [{ maskId: 'mask-1', termId: 'x' }, /Near has no line x/], [{ maskId: 'x', termId: 'x' }, /There is no mask x/]];
    for (const [at, sentence] of lost) {
      expect(paramsAt(document, at)).toBeNull();
      expect(() => applyEdit(document, { type: 'set-params', ...at, params: {} })).toThrow(sentence);
    }
  });
  it('are the same by what they say', () => {
    expect(isSameAddress({ maskId: 'a', termId: 'b' }, { termId: 'b', maskId: 'a' })).toBe(true);
    expect(isSameAddress({ layerId: 'a' }, { layerId: 'a', correctionId: 'b' })).toBe(false);
  });
});
