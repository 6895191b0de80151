import { describe, expect, it } from 'vitest';
import { after, smallDocument, source } from '../../../../tests/documents.ts';
import { elementDocument, elementValues } from '../model/query.ts';
import { measure } from '../raster/measure.ts';
import type { RoleId } from './roles.ts';
import { elementLook } from './look.ts';

/** Four planes of grey values, opaque. */
const planesOf = (...values: number[]) => Float32Array.from([...values, ...values, ...values, ...values.map(() => 1)]);
const look = (role: RoleId, ...values: number[]) => elementLook({ role, encoding: role === 'depth' || role === 'normals' || role === 'material-id' || role === 'position' || role === 'alpha' ? 'data' : 'linear' }, measure(planesOf(...values), 'light', null));

describe('looking at one element', () => {
  it('depth fills the range from black to white, and what is infinitely far does not count', () => {
    const depth = look('depth', ...Array.from({ length: 600 }, (_, i) => 2 + i / 10), ...Array.from({ length: 400 }, () => 65504));
    if (!depth) throw new Error('It has a range.');
    expect(2 * depth.scale + depth.offset).toBeCloseTo(0, 1);
    expect(depth.sentence).toMatch(/^2\.\d+ m is black, \d\d\.\d m white$/);
    // At least three quarters of the scene's own depths lie inside.
    const white = (1 - depth.offset) / depth.scale;
    expect(white).toBeGreaterThan(45);
    expect(white).toBeLessThan(62);
  });
  it('directions are shown from −1 to 1, colours of ids and light as they are', () => {
    expect(look('normals', -1, 0, 1)).toMatchObject({ scale: 0.5, offset: 0.5 });
    expect([look('material-id', 0.2, 0.8), look('beauty', 0.1, 4), look('alpha', 0, 1)]).toEqual([null, null, null]);
  });
  it('what is empty says why, what is the same everywhere says what', () => {
    expect(look('atmosphere', 0, 0)?.sentence).toBe('It is empty: the scene has no fog, or it was rendered without it.');
    expect(look('light-group', 0, 0)?.sentence).toMatch(/these lamps were off/);
    expect(look('beauty', 0, 0)?.sentence).toBe('It is empty: nothing of that kind is in view.');
    expect(look('depth', 5, 5, 5)?.sentence).toBe('All of it is 5.00.');
  });
  it('is measured as it is and shown in its range', () => {
    const document = after(smallDocument(), { type: 'add-sources', sources: [source(9, { role: 'depth', encoding: 'data', scale: 2, offset: 1 })] });
    const depth = document.sources[3];
    expect(elementValues(document, depth).buildUp).toMatchObject({ scene: [{ params: { source: 'source-9' } }], picture: [] });
    const shown = elementDocument(document, depth, { scale: 0.1, offset: -0.5 });
    // 2 × stored + 1 are metres; a tenth of them less a half is seen.
    expect(shown.sources[3]).toMatchObject({ scale: 0.2, offset: -0.4 });
    expect(shown.buildUp.picture).toHaveLength(1);
    expect(document.sources[3]).toMatchObject({ scale: 2, offset: 1 });
  });
});
