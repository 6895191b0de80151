import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { seeded } from '../../../../tests/random.ts';
import type { Triple } from '../vector.ts';
import { composite, type Rgba } from './composite.ts';
import { blendMode, blendModes, blendModesFor, isBlendModeId, zoneBlend } from './modes.ts';

interface Case {
  readonly b: Triple;
  readonly ab: number;
  readonly s: Triple;
  readonly as: number;
}
const cases: readonly Case[] = [
  { b: [0.2, 0.4, 0.8], ab: 1, s: [0.8, 0.6, 0.2], as: 1 },
  { b: [0.2, 0.4, 0.8], ab: 0.8, s: [0.8, 0.6, 0.2], as: 0.4 },
  { b: [0.1, 0.05, 0.15], ab: 1, s: [0.9, 0.5, 0.1], as: 1 },
  { b: [0, 1, 0.5], ab: 1, s: [1, 0, 0.5], as: 1 },
  { b: [0.25, 0.5, 0.75], ab: 0.5, s: [0.75, 0.75, 0.25], as: 0.75 },
  { b: [0.6, 0.2, 0.1], ab: 1, s: [0.3, 0.9, 0.7], as: 1 },
];

/**
 * Straight results of the six cases per mode. Source: formulas of W3C Compositing and Blending Level 1 §10, computed
 * independently and matched by Chromium's float16 canvas to 0.0015.
 */
const published: Readonly<Record<string, string>> = {
  normal: '.8 .6 .2 | .4727 .4909 .5273 | .9 .5 .1 | 1 0 .5 | .6786 .7143 .3214 | .3 .9 .7',
  multiply: '.16 .24 .16 | .24 .36 .5127 | .09 .025 .015 | 0 0 .25 | .4375 .5536 .2946 | .18 .18 .07',
  screen: '.84 .76 .84 | .4873 .5491 .76 | .91 .525 .235 | 1 1 .75 | .7054 .7679 .5625 | .72 .92 .73',
  'hard-light': '.68 .52 .32 | .4291 .4618 .5709 | .82 .05 .03 | 1 0 .5 | .625 .7143 .375 | .36 .84 .46',
  overlay: '.32 .48 .68 | .2982 .4473 .7018 | .18 .05 .03 | 0 1 .5 | .5179 .7143 .4821 | .44 .36 .14',
  darken: '.2 .4 .2 | .2545 .4182 .5273 | .1 .05 .1 | 0 0 .5 | .4643 .6071 .3214 | .3 .2 .1',
  lighten: '.8 .6 .8 | .4727 .4909 .7455 | .9 .5 .15 | 1 1 .5 | .6786 .7143 .5357 | .6 .9 .7',
  'color-dodge': '1 1 1 | .5455 .6364 .8182 | 1 .1 .1667 | 0 1 1 | .7857 .8214 .6429 | .8571 1 .3333',
  'color-burn': '0 0 0 | .1818 .2727 .4545 | 0 0 0 | 0 1 0 | .3571 .5357 .2143 | 0 .1111 0',
  'soft-light': '.3488 .4465 .7040 | .3087 .4351 .7105 | .2568 .05 .0480 | 0 1 .5 | .5179 .6515 .4955 | .5040 .3984 .1784',
  difference: '.6 .2 .6 | .4 .3455 .6727 | .8 .45 .05 | 1 1 0 | .5714 .5 .4286 | .3 .7 .6',
  exclusion: '.68 .52 .68 | .4291 .4618 .7018 | .82 .5 .22 | 1 1 .5 | .625 .6071 .4821 | .54 .74 .66',
  hue: '.5538 .3692 0 | .3832 .4070 .4545 | .1165 .0665 .0165 | 1 .4496 .7248 | .5746 .6104 .2175 | 0 .4658 .3106',
  saturation: '.2 .4 .8 | .2545 .4182 .7455 | .1462 0 .2923 | 0 1 .5 | .4643 .6071 .5357 | .6582 .1782 .0582',
  color: '.5538 .3692 0 | .3832 .4070 .4545 | .1277 .0639 0 | 1 .4496 .7248 | .5746 .6104 .2175 | 0 .4658 .3106',
  luminosity: '.4462 .6308 1 | .3441 .5021 .8182 | .6 .55 .65 | 0 .5504 .2752 | .5682 .7111 .6396 | .9890 .5890 .4890',
};

const straight = ([r, g, b, a]: Rgba): Triple => [r / a, g / a, b / a];
const over = (mode: string, { b, ab, s, as }: Case) => composite(zoneBlend(mode, 'picture'), [b[0] * ab, b[1] * ab, b[2] * ab, ab], s, as);

describe('the sixteen modes of the standard', () => {
  for (const [mode, row] of Object.entries(published)) {
    it(mode, () => {
      for (const [i, text] of row.split('|').entries()) {
        const result = over(mode, cases[i]);
        expectClose(straight(result), text.trim().split(' ').map(Number), 6e-5, `case ${i}`);
        expect(result[3]).toBeCloseTo(cases[i].ab + cases[i].as * (1 - cases[i].ab), 12);
      }
    });
  }

  it('leave the backdrop alone where the source is transparent', () => {
    for (const { id } of blendModes) expectClose(over(id, { ...cases[4], as: 0 }), [0.125, 0.25, 0.375, 0.5], 1e-12, id);
  });

  // W3C, soft light in other programs: the polynomial gives .1720, the square root alone .2730 (see the standard's note on variants).
  it('soft light keeps its branch for dark backdrops', () => {
    expect(over('soft-light', { b: [0.1, 0.1, 0.1], ab: 1, s: [0.9, 0.9, 0.9], as: 1 })[0]).toBeCloseTo(0.2568, 4);
  });
});

describe('add, subtract, divide', () => {
  it('add is the standard’s plus-lighter: it stops at white over the tone line and nowhere under it', () => {
    // W3C Compositing §9.1.14, results after the clamp: C .48 .56 .72, and F .6875 .8125 .5625 over ao = 1.
    expectClose(over('add', cases[1]), [0.48, 0.56, 0.72, 1], 1e-9);
    expectClose(over('add', cases[4]), [0.6875, 0.8125, 0.5625, 1], 1e-9);
    expectClose(composite(zoneBlend('add', 'scene'), [3, 0.5, 0, 1], [2, 0.25, 7], 1), [5, 0.75, 7, 1], 1e-12);
  });

  it('divide undoes multiply on light, and black divisors give black (common practice, no published source)', () => {
    const random = seeded(4);
    for (let i = 0; i < 100; i++) {
      const raw: Triple = [random() * 9, random() * 9, random() * 9];
      const filter: Triple = [0.01 + random(), 0.01 + random(), 0.01 + random()];
      const lit = composite(zoneBlend('multiply', 'scene'), [...raw, 1], filter, 1);
      expectClose(straight(composite(zoneBlend('divide', 'scene'), lit, filter, 1)), raw, 1e-9);
    }
    expect(composite(zoneBlend('divide', 'scene'), [1, 1, 1, 1], [0, 0, 0.5], 1)).toEqual([0, 0, 2, 1]);
  });

  it('subtract may fall below black on light and not on the picture', () => {
    expect(composite(zoneBlend('subtract', 'scene'), [0.25, 1, 0, 1], [0.5, 0.25, 0], 1)).toEqual([-0.25, 0.75, 0, 1]);
    expect(composite(zoneBlend('subtract', 'picture'), [0.25, 1, 0, 1], [0.5, 0.25, 0], 1)).toEqual([0, 0.75, 0, 1]);
  });
});

describe('the table of modes', () => {
  it('offers under the tone line what makes sense on unbounded light, and says why not the rest', () => {
    expect(blendModesFor('scene').map(({ id }) => id)).toEqual(['normal', 'darken', 'multiply', 'lighten', 'difference', 'add', 'subtract', 'divide']);
    expect(blendModesFor('picture')).toHaveLength(19);
    for (const mode of blendModes) {
      expect(mode.aboveOne.length, mode.id).toBeGreaterThan(20);
      if (mode.scene === null) expect(mode.aboveOne).toMatch(/^Not offered/);
    }
    expect(() => zoneBlend('screen', 'scene')).toThrow(/not offered under the tone line/);
    expect(() => blendMode('glow')).toThrow(/no blend mode “glow”/);
    expect(isBlendModeId('overlay')).toBe(true);
  });

  it('keeps light above 1 true in every mode offered there', () => {
    const light: Rgba = [4, 2, 8, 1];
    const expected: Record<string, readonly number[]> = { normal: [2, 3, 0.5], darken: [2, 2, 0.5], multiply: [8, 6, 4], lighten: [4, 3, 8], difference: [2, 1, 7.5], add: [6, 5, 8.5], subtract: [2, -1, 7.5], divide: [2, 2 / 3, 16] };
    for (const { id } of blendModesFor('scene')) expectClose(composite(zoneBlend(id, 'scene'), light, [2, 3, 0.5], 1).slice(0, 3), expected[id], 1e-12, id);
  });
});
