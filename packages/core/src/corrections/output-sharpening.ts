import { choice } from '../params/choice.ts';
import { number } from '../params/number.ts';
import type { ParamValues } from '../params/table.ts';
import { defineCorrection } from './define.ts';
import { unsharp } from './unsharp.ts';

const MM_PER_INCH = 25.4;
/** What an eye resolves: one minute of arc. @source visual acuity 1.0, ISO 8596 (Landolt rings with a gap of 1′) */
const RESOLVED_RADIANS = Math.PI / 180 / 60;
/** A screen's pixels are about as small as an eye resolves: it lacks what the interpolation took. */
const SCREEN_PX = 1.2;
/** The blur that is taken back, as a share of what is resolved; common practice. */
const RADIUS_SHARE = 0.6;

/** Grain is left as it is. */
const THRESHOLD_STOPS = 0.02;

const params = {
  amountPercent: number({ label: 'Amount', unit: '%', min: 0, max: 300, default: 0, step: 1, digits: 0, usual: [0, 120], help: 'How much of what is finer than the radius is added.' }),
  medium: choice({ label: 'For', options: { screen: 'Screens', paper: 'Paper' }, default: 'screen', help: 'Paper is sharpened by how it is printed and looked at, for pixels that are printed one by one.' }),
  dpi: number({ label: 'Printed at', unit: 'dpi', min: 20, max: 1200, default: 300, step: 10, digits: 0, usual: [72, 400], help: 'Pixels of the picture to the inch.', when: { medium: 'paper' } }),
  seenFromMetres: number({ label: 'Seen from', unit: 'm', min: 0.1, max: 20, default: 0.4, step: 0.1, digits: 2, usual: [0.2, 3], help: 'Where one stands before it: about its diagonal.', when: { medium: 'paper' } }),
} as const;

/** How many pixels an eye does not tell apart. */
const resolvedPx = ({ medium, dpi, seenFromMetres }: ParamValues<typeof params>) => (medium === 'screen' ? SCREEN_PX : (seenFromMetres * 1000 * Math.tan(RESOLVED_RADIANS) * dpi) / MM_PER_INCH);
const radiusOf = (values: ParamValues<typeof params>) => Math.min(8, Math.max(0.5, RADIUS_SHARE * resolvedPx(values)));

/** The last sharpening before a picture leaves: by what it is looked at on. */
export const outputSharpening = defineCorrection({
  work: 'neighbourhood',
  id: 'output-sharpening',
  label: 'Sharpen for output',
  summary: 'The last sharpening before a picture leaves: as wide as an eye resolves on a screen, or on paper by its resolution and how far away it hangs.',
  group: 'Detail',
  params,
  domain: 'light',
  zones: ['scene', 'picture'],
  prefers: 'picture',
  isNoOp: ({ amountPercent }) => amountPercent === 0,
  facts: (values) => `${values.medium === 'screen' ? 'On a screen' : `At ${values.dpi} dpi from ${values.seenFromMetres} m`} an eye resolves ${resolvedPx(values).toFixed(1)} pixels: the radius is ${radiusOf(values).toFixed(2)} pixels.`,
  spread: (values) => unsharp(values.amountPercent / 100, radiusOf(values), THRESHOLD_STOPS),
  examples: [
    { amountPercent: 0, medium: 'screen', dpi: 300, seenFromMetres: 0.4 },
    { amountPercent: 60, medium: 'screen', dpi: 300, seenFromMetres: 0.4 },
    { amountPercent: 120, medium: 'paper', dpi: 150, seenFromMetres: 1.5 },
  ],
  source: 'Acuity of one minute of arc: ISO 8596:2017; the rest: common practice, no published source',
});
