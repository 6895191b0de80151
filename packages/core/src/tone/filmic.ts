import { number } from '../params/number.ts';
import { defineTone } from './define.ts';

/** Toe of the published curve: its numerator and denominator. */
const [TOE_UP, TOE_DOWN] = [0.02, 0.3];

/** A toe, a straight part and a shoulder, as film has them; a chosen light becomes white. */
export const filmic = defineTone({
  id: 'filmic',
  label: 'Filmic',
  summary: 'Toe, slope and shoulder as film has them; a chosen light is white.',
  params: {
    exposureStops: number({ label: 'Exposure', unit: 'EV', min: -6, max: 6, default: 1, step: 0.05, digits: 2, usual: [-2, 4], help: 'Before the curve, which darkens the middle.' }),
    white: number({ label: 'White', unit: '', min: 1, max: 100, default: 11.2, step: 0.1, digits: 2, usual: [1, 20], help: 'The light that becomes white, after exposure.' }),
    shoulder: number({ label: 'Shoulder', unit: '', min: 0.01, max: 1, default: 0.15, step: 0.01, digits: 3, usual: [0.05, 0.5], help: 'How strongly bright light is held.' }),
    slope: number({ label: 'Slope', unit: '', min: 0.05, max: 2, default: 0.5, step: 0.01, digits: 3, usual: [0.1, 1], help: 'Of the straight part between toe and shoulder.' }),
    angle: number({ label: 'Angle', unit: '', min: 0, max: 1, default: 0.1, step: 0.01, digits: 3, usual: [0, 0.5], help: 'How the straight part meets the toe: more brightens the darks.' }),
    toe: number({ label: 'Toe', unit: '', min: 0.01, max: 1, default: 0.2, step: 0.01, digits: 3, usual: [0.05, 0.6], help: 'How strongly dark light is held down.' }),
  },
  curve: ({ exposureStops, white, shoulder, slope, angle, toe }) => {
    const held = (x: number) => (x * (shoulder * x + angle * slope) + toe * TOE_UP) / (x * (shoulder * x + slope) + toe * TOE_DOWN) - TOE_UP / TOE_DOWN;
    const [bias, most] = [2 ** exposureStops, held(white)];
    return (light) => held(bias * light) / most;
  },
  examples: [
    { exposureStops: 1, white: 11.2, shoulder: 0.15, slope: 0.5, angle: 0.1, toe: 0.2 },
    { exposureStops: 0, white: 4, shoulder: 0.3, slope: 0.3, angle: 0.2, toe: 0.1 },
  ],
  source: 'J. Hable, “Filmic Tonemapping Operators”, 2010 (constants from memory)',
});
