import { choice } from '../params/choice.ts';
import { color } from '../params/color.ts';
import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';
import { maskIs, scatteredBy } from './scattered.ts';

const percent = (label: string, initial: number, help: string) => number({ label, unit: '%', min: 0, max: 100, default: initial, step: 5, digits: 0, help });

/** Rays around lamps by the opening of the lens: its blades, and dust and scratches on it. Nothing is cut off below, and no light is added. */
export const streaks = defineCorrection({
  work: 'neighbourhood',
  id: 'streaks',
  label: 'Streaks',
  summary: 'Rays around lamps, as the blades of the opening, dust and scratches bend light aside: no light is added.',
  group: 'Lens',
  params: {
    amountPercent: number({ label: 'Amount', unit: '%', min: 0, max: 100, default: 0, step: 1, digits: 1, usual: [0, 20], help: 'Share of the light that is bent aside.' }),
    reachPercent: number({ label: 'Reach', unit: '%', min: 0.5, max: 25, default: 12, step: 0.5, digits: 1, usual: [2, 25], help: 'How far it is bent, as a share of the picture’s longer side.' }),
    blades: number({ label: 'Blades', unit: '', min: 3, max: 16, default: 6, step: 1, digits: 0, help: 'Of the opening. An even number makes as many rays, an odd one twice as many.' }),
    roundnessPercent: percent('Roundness', 0, 'How far the blades bow out: rays become fans, and rings at 100.'),
    rotationDegrees: number({ label: 'Turned', unit: '°', min: -180, max: 180, default: 10, step: 1, digits: 0, help: 'Of the opening, clockwise.' }),
    dustPercent: percent('Dust', 0, 'Grains on the lens: a fine haze of specks around lamps.'),
    scratchesPercent: percent('Scratches', 0, 'Scratches on the lens: a long ray across each.'),
    seed: number({ label: 'Seed', unit: '', min: 0, max: 9999, default: 1, step: 1, digits: 0, usual: [0, 50], help: 'Other dust and scratches.' }),
    spectrumPercent: percent('Colours apart', 60, 'Red is bent farther than blue: at 100 as far as it is.'),
    stretch: number({ label: 'Wider', unit: '×', min: 1, max: 8, default: 1, step: 0.1, digits: 1, help: 'Drawn out to the sides, as by a lens that squeezes the picture.' }),
    tint: color({ label: 'Colour', of: 'light', default: [1, 1, 1], help: 'Which light is bent: white takes all alike.' }),
    shows: choice({ label: 'Shows', options: { whole: 'The picture', alone: 'Streaks alone' }, default: 'whole', help: 'The streaks alone are for a layer that is added: a light group whose lamps have rays, and nothing else.' }),
    maskIs,
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  prefers: 'scene',
  isNoOp: ({ amountPercent, shows }) => amountPercent === 0 && shows === 'whole',
  spread: ({ amountPercent, reachPercent, blades, roundnessPercent, rotationDegrees, dustPercent, scratchesPercent, seed, spectrumPercent, stretch, tint, shows, maskIs: mask }, { width, height }) => {
    return {
      kind: 'diffraction',
      ...scatteredBy({ share: amountPercent / 100, tint, shows, mask }),
      reachPx: (reachPercent / 100) * Math.max(width, height),
      streaks: { blades: Math.round(blades), roundness: roundnessPercent / 100, rotationRadians: (rotationDegrees * Math.PI) / 180, dust: dustPercent / 100, scratches: scratchesPercent / 100, seed: Math.round(seed), spectrum: spectrumPercent / 100, stretch },
    };
  },
  examples: [
    { amountPercent: 0, reachPercent: 12, blades: 6, roundnessPercent: 0, rotationDegrees: 10, dustPercent: 0, scratchesPercent: 0, seed: 1, spectrumPercent: 60, stretch: 1, tint: [1, 1, 1], shows: 'whole', maskIs: 'seen' },
    { amountPercent: 20, reachPercent: 20, blades: 5, roundnessPercent: 20, rotationDegrees: 0, dustPercent: 40, scratchesPercent: 50, seed: 3, spectrumPercent: 100, stretch: 1, tint: [1, 0.9, 0.7], shows: 'whole', maskIs: 'lit' },
    { amountPercent: 60, reachPercent: 25, blades: 8, roundnessPercent: 50, rotationDegrees: -30, dustPercent: 0, scratchesPercent: 0, seed: 1, spectrumPercent: 0, stretch: 4, tint: [0.5, 0.7, 1], shows: 'alone', maskIs: 'seen' },
  ],
  source: 'Goodman, “Introduction to Fourier Optics” (Fraunhofer diffraction); Ritschel et al., “Temporal Glare”, 2009; see raster/diffraction.ts',
});
