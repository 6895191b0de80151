import { number } from '../params/number.ts';
import { channels } from '../params/tones.ts';
import { defineCorrection } from './define.ts';
import { powered, powerOf } from './power.ts';

const row = (label: string, initial: number, min: number, max: number, usual: readonly [number, number], help: string) => channels({ label, unit: '', min, max, usual, step: 0.01, digits: 3, default: [initial, initial, initial], help });

/** Slope, offset, power for each channel, then saturation, without clamping: what is not above 0 is not raised. Works on the values that it finds. */
export const cdl = defineCorrection({
  work: 'points',
  id: 'cdl',
  label: 'Slope, offset, power',
  summary: 'A colour decision list: scaled, moved and raised by channel, then saturated.',
  group: 'Colour',
  params: {
    slope: row('Slope', 1, 0, 10, [0, 2], 'Multiplies; highlights move most.'),
    offset: row('Offset', 0, -1, 1, [-0.25, 0.25], 'Is added; shadows show it most.'),
    power: row('Power', 1, 0.1, 10, [0.4, 2.5], 'Above 1 the middle becomes darker.'),
    saturation: number({ label: 'Saturation', unit: '', min: 0, max: 4, default: 1, step: 0.01, digits: 3, usual: [0, 2], help: 'About the luminance of Rec. 709.' }),
  },
  domain: 'as-found',
  zones: ['scene', 'picture'],
  isNoOp: ({ slope, offset, power, saturation }) => slope.every((v) => v === 1) && offset.every((v) => v === 0) && power.every((v) => v === 1) && saturation === 1,
  prepare: ({ slope, offset, power, saturation }) => powerOf([0, 1, 2].map((c) => ({ factor: slope[c], offset: offset[c], exponent: power[c] })), saturation),
  pixel: powered,
  kernel: 'power',
  match: ({ slope, power, saturation }) => ({ slope, offset: [0, 0, 0], power: [power, power, power], saturation }),
  examples: [
    { slope: [1, 1, 1], offset: [0, 0, 0], power: [1, 1, 1], saturation: 1 },
    { slope: [1.2, 1, 0.9], offset: [0.02, 0, -0.03], power: [1.1, 1, 0.9], saturation: 0.5 },
    { slope: [1.35, 1.1, 0.71], offset: [0.05, -0.23, 0.11], power: [0.93, 0.81, 1.27], saturation: 1.239 },
  ],
  source: 'ASC Color Decision List 1.2 (2009), without clamping',
});
