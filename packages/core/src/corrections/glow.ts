import { choice } from '../params/choice.ts';
import { color } from '../params/color.ts';
import { number } from '../params/number.ts';
import type { Triple } from '../vector.ts';
import { defineCorrection, type GaussianPart } from './define.ts';
import { maskIs, scatteredBy } from './scattered.ts';
import { seenUnder, tangentOfPixel } from './seen-under.ts';

/** The widest Gaussian, as a share of the diagonal: beyond it there is as good as no picture. */
const WIDEST = 0.25;
/** Half of a Gaussian's light lies within so many of its standard deviations. */
const MEDIAN_RADIUS = 1.1774;
const RADIANS = Math.PI / 180;

/**
 * Light that an eye scatters around a glare source, per steradian, at an angle in degrees: for an age and an eye of brown pigmentation.
 * @source CIE 146:2002, general disability glare equation; valid from 0.1° to 100°
 */
export function eyeScatter(degrees: number, ageYears: number): number {
  const p = 0.5;
  return 10 / degrees ** 3 + (5 / degrees ** 2 + (0.1 * p) / degrees) * (1 + (ageYears / 62.5) ** 4) + 0.0025 * p;
}

/** Share of all light that is scattered to angles between these. */
const scattered = (from: number, to: number, ageYears: number): number => {
  const STEPS = 16;
  let sum = 0;
  // Even in the logarithm: most of it lies close by.
  for (let i = 0; i < STEPS; i++) {
    const degrees = from * (to / from) ** ((i + 0.5) / STEPS);
    sum += eyeScatter(degrees, ageYears) * 2 * Math.PI * Math.sin(degrees * RADIANS) * degrees * RADIANS * (Math.log(to / from) / STEPS);
  }
  return sum;
};

/**
 * A point of light spread over ever wider Gaussians, each twice as wide as the one before: their sum falls off as the eye scatters, or by a power of the distance. All light that is
 * spread is taken from where it was.
 */
export const glow = defineCorrection({
  work: 'neighbourhood',
  id: 'glow',
  label: 'Glow',
  summary: 'Light around what is bright, as lens and eye scatter it: nothing is cut off below, and no light is added.',
  group: 'Lens',
  params: {
    amountPercent: number({ label: 'Amount', unit: '%', min: 0, max: 100, default: 0, step: 1, digits: 1, usual: [0, 30], help: 'Share of the light that is scattered. As in the eye, 100 % is what an eye does.' }),
    form: choice({ label: 'Falls off', options: { power: 'By a power', eye: 'As in the eye' }, default: 'power', help: 'By a power of the distance, or as the human eye scatters, by the angle under which the picture is seen.' }),
    power: number({ label: 'Power', unit: '', min: 1.5, max: 4, default: 2.4, step: 0.05, digits: 2, help: '2 spreads as much light at every scale: wide and soft. 3 keeps close.', when: { form: 'power' } }),
    acrossDegrees: number({ label: 'Seen under', unit: '°', min: 2, max: 150, default: 65, step: 1, digits: 0, help: 'The angle over which the width of the picture is seen: that of the camera, unless another is set.', when: { form: 'eye' } }),
    ageYears: number({ label: 'Age', unit: 'years', min: 10, max: 90, default: 30, step: 5, digits: 0, help: 'Older eyes scatter more and wider.', when: { form: 'eye' } }),
    sizePercent: number({ label: 'From', unit: '%', min: 0.02, max: 5, default: 0.15, step: 0.05, digits: 2, byFactors: true, usual: [0.05, 2], help: 'Where it begins, as a share of the picture’s diagonal.' }),
    tint: color({ label: 'Colour', of: 'light', default: [1, 1, 1], help: 'Which light is scattered: white takes all alike, red leaves green and blue where they are.' }),
    shows: choice({ label: 'Shows', options: { whole: 'The picture', alone: 'Glow alone' }, default: 'whole', help: 'The glow alone is for a layer that is added: a light group whose lamps glow, and nothing else.' }),
    maskIs,
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  begin: seenUnder,
  isNoOp: ({ amountPercent, shows }) => amountPercent === 0 && shows === 'whole',
  spread: ({ amountPercent, form, power, acrossDegrees, ageYears, sizePercent, tint, shows, maskIs: mask }, { width, height }) => {
    const diagonal = Math.hypot(width, height);
    const first = (sizePercent / 100) * diagonal;
    const sigmas = Array.from({ length: Math.max(1, 1 + Math.floor(Math.log2((WIDEST * diagonal) / first))) }, (_, k) => first * 2 ** k);
    const degreesOf = (px: number) => Math.min(100, Math.max(0.1, Math.atan(px * tangentOfPixel(acrossDegrees, width)) / RADIANS));
    const raw = sigmas.map((sigma) => {
      const radius = sigma * MEDIAN_RADIUS;
      if (form === 'power') return (sigma / first) ** (2 - power);
      const [from, to] = [degreesOf(radius / Math.SQRT2), degreesOf(radius * Math.SQRT2)];
      return to > from ? scattered(from, to, ageYears) : 0;
    });
    const total = raw.reduce((sum, share) => sum + share, 0);
    const amount = form === 'eye' ? Math.min(1, (amountPercent / 100) * total) : amountPercent / 100;
    const { gain, ...scattering } = scatteredBy({ share: amount, tint, shows, mask });
    const parts = sigmas.map((sigmaPx, k): GaussianPart => ({ sigmaPx, gain: gain.map((one) => (one * raw[k]) / Math.max(1e-12, total)) as unknown as Triple }));
    return { kind: 'mixture', ...scattering, parts };
  },
  examples: [
    { amountPercent: 0, form: 'power', power: 2.4, acrossDegrees: 65, ageYears: 30, sizePercent: 0.15, tint: [1, 1, 1], shows: 'whole', maskIs: 'seen' },
    { amountPercent: 20, form: 'power', power: 2, acrossDegrees: 65, ageYears: 30, sizePercent: 0.5, tint: [1, 0.8, 0.6], shows: 'whole', maskIs: 'lit' },
    { amountPercent: 60, form: 'eye', power: 2.4, acrossDegrees: 54, ageYears: 70, sizePercent: 0.3, tint: [1, 1, 1], shows: 'alone', maskIs: 'seen' },
  ],
  source: 'CIE 146:2002 (scatter in the eye); as sums of Gaussians: common practice, no published source',
});
