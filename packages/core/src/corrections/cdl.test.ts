import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { correct } from '../../../../tests/correct.ts';
import type { Triple } from '../vector.ts';
import { cdl } from './cdl.ts';

const even = (value: number): Triple => [value, value, value];

describe('slope, offset, power', () => {
  // ASC CDL 1.2, without clamping: computed by OpenColorIO 2.1's CDLTransform in its no-clamp style.
  it.each<[Triple, Triple, Triple, number, Triple, Triple]>([
    [[1.2, 1, 0.9], [0.02, 0, -0.03], [1.1, 1, 0.9], 1, [0.2, 0.4, 0.6], [0.227233, 0.4, 0.545523]],
    [[1.2, 1, 0.9], [0.02, 0, -0.03], [1.1, 1, 0.9], 0.5, [0.2, 0.4, 0.6], [0.300505, 0.386888, 0.45965]],
    [even(1.1), even(-0.05), even(0.8), 1.3, even(0.18), even(0.216875)],
    [even(1.1), even(-0.05), even(0.8), 1.3, [0.8, 0.5, 0.1], [0.939508, 0.566193, -0.043542]],
    [even(2), even(0), even(1), 1, [0.7, 0.4, 0.02], [1.4, 0.8, 0.04]],
    [even(1), even(-0.1), even(1.5), 1.2, [0.05, 0.4, 0.9], [-0.09171, 0.16547, 0.82694]],
    [even(1), even(0), even(1), 0, [1, 0, 0], even(0.2126)],
    [[1.35, 1.1, 0.71], [0.05, -0.23, 0.11], [0.93, 0.81, 1.27], 1.239, [0.4, 0.5, 0.6], [0.651672, 0.385472, 0.454349]],
  ])('%o %o %o %d', (slope, offset, power, saturation, rgb, expected) => {
    expectClose(correct(cdl, rgb, { slope, offset, power, saturation }), expected, 1.5e-6);
  });
  it('refuses what no decision list holds', () => {
    expect(() => correct(cdl, [0, 0, 0], { slope: [1, 2] })).toThrow(/Slope: expected three numbers/);
  });
});
