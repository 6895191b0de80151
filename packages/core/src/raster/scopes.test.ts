import { describe, expect, it } from 'vitest';
import { binOf } from './measure.ts';
import { cellOf, colourDifference, SCOPE_COLUMNS, SCOPE_SIDE, scopesOf } from './scopes.ts';

/** Planes of a picture from its pixels. */
function planesOf(pixels: readonly (readonly [number, number, number, number])[]): Float32Array {
  return Float32Array.from([0, 1, 2, 3].flatMap((c) => pixels.map((pixel) => (c < 3 ? pixel[c] * pixel[3] : pixel[3]))));
}

describe('differences of colour', () => {
  // ITU-R BT.709-6, 3.3: full red has Cr 0.5, full blue Cb 0.5; the other one is −Y over its scale.
  it('are those of BT.709', () => {
    const [cb, cr] = colourDifference([1, 0, 0]);
    expect([cb, cr].map((v) => Number(v.toFixed(4)))).toEqual([-0.1146, 0.5]);
    expect(colourDifference([0, 0, 1])[0]).toBeCloseTo(0.5, 12);
    expect(colourDifference([0.3, 0.3, 0.3]).map((v) => Math.abs(v) < 1e-12)).toEqual([true, true]);
  });
});

describe('scopes', () => {
  it('count every pixel that is there once, in its column and at its value', () => {
    const pixels = [[0.5, 0.25, 1, 1], [0, 0, 0, 1], [0.5, 0.5, 0.5, 0.2], [1, 1, 1, 1]] as const;
    const { values, red, blue, luminance, encoded } = scopesOf(planesOf(pixels), { width: 2, height: 2 }, 'picture');
    const total = (counts: Uint32Array) => counts.reduce((sum, count) => sum + count, 0);
    expect([values, total(red), total(luminance), total(encoded)]).toEqual([256, 3, 3, 3]);
    expect(red[binOf(0.5, 'picture')]).toBe(1);
    expect(blue[(SCOPE_COLUMNS / 2) * values + 255]).toBe(1);
    // Greys lie in the middle of a vectorscope.
    expect(encoded[cellOf([0, 0])]).toBe(2);
    expect(cellOf([0, 0])).toBe((SCOPE_SIDE / 2 - 1) * SCOPE_SIDE + SCOPE_SIDE / 2);
  });
  it('of light stand in stops, as the histogram does', () => {
    const { values, green } = scopesOf(planesOf([[0.18, 0.18, 0.18, 1], [18, 0.36, 0, 1]]), { width: 1, height: 2 }, 'light');
    expect(values).toBe(144);
    expect([green[binOf(0.18, 'light')], green[binOf(0.36, 'light')]]).toEqual([1, 1]);
  });
});
