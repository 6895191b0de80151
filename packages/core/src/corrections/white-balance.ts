import { LINEAR_TO_XYZ, LOCI, type LocusId, temperatureOf, whiteOf } from '../color/locus.ts';
import { adaptation, invertMatrix, timesMatrix } from '../color/primaries.ts';
import { choice } from '../params/choice.ts';
import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';
import { mixed, mixOf } from './matrix.ts';

const TO_LIGHT = invertMatrix(LINEAR_TO_XYZ);
/** The temperature of the picture's own white, which is daylight. */
const WHITE = 6504;

/**
 * What was lit by light of a temperature becomes neutral: its white is adapted to that of the picture (daylight of 6504 K) in a space of sharpened cones, as one matrix.
 * Unbounded light; saturated colours may leave the gamut.
 */
export const whiteBalance = defineCorrection({
  work: 'points',
  id: 'white-balance',
  label: 'White balance',
  summary: 'Makes light of a temperature neutral: higher is warmer, lower is colder.',
  group: 'Colour',
  params: {
    kelvin: number({ label: 'Temperature', unit: 'K', min: 1700, max: 25_000, default: WHITE, step: 50, digits: 0, usual: [2000, 12_000], help: 'Of the light that becomes neutral; Daylight of 6504 K leaves the picture as it was.' }),
    tint: number({ label: 'Tint', unit: '', min: -100, max: 100, default: 0, step: 1, digits: 1, help: 'Of that light beside the locus: above 0 takes green away, below 0 magenta.' }),
    locus: choice({ label: 'Locus', options: LOCI, default: 'daylight', help: 'Temperatures are those of daylight (CIE), or of glowing bodies (Planck), which are more magenta where both exist.' }),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ kelvin, tint, locus }) => kelvin === WHITE && tint === 0 && locus === 'daylight',
  prepare: ({ kelvin, tint, locus }) => mixOf(timesMatrix(TO_LIGHT, timesMatrix(adaptation(whiteOf(locus as LocusId, kelvin, tint), whiteOf('daylight', WHITE, 0)), LINEAR_TO_XYZ))),
  pixel: mixed,
  kernel: 'matrix',
  atHand: ['kelvin'],
  picks: [{ label: 'Click what should be neutral', take: (light, { locus }) => temperatureOf(locus as LocusId, light) }],
  examples: [{ kelvin: 6504, tint: 0, locus: 'daylight' }, { kelvin: 3200, tint: 0, locus: 'glow' }, { kelvin: 10_000, tint: 20, locus: 'daylight' }, { kelvin: 1700, tint: -60, locus: 'daylight' }],
  source: 'K. M. Lam 1985 (Bradford), ICC.1:2010 annex E; CIE 15:2004 (loci)',
});
