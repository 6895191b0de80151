import { channels } from '../params/tones.ts';
import { defineCorrection } from './define.ts';
import { mixed, mixOf } from './matrix.ts';

const row = (label: string, initial: readonly [number, number, number]) => channels({ label: `${label} of`, unit: '%', min: -1000, max: 1000, usual: [-200, 200], step: 1, digits: 0, default: initial, help: `How much of each channel the new ${label.toLowerCase()} is made of.` });

/** Every channel made anew of all three. */
export const channelMix = defineCorrection({
  work: 'points',
  id: 'channel-mix',
  label: 'Channel mix',
  summary: 'Makes red, green and blue anew of shares of all three.',
  group: 'Colour',
  params: { red: row('Red', [100, 0, 0]), green: row('Green', [0, 100, 0]), blue: row('Blue', [0, 0, 100]) },
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ red, green, blue }) => [...red, ...green, ...blue].every((value, i) => value === (i % 4 === 0 ? 100 : 0)),
  prepare: ({ red, green, blue }) => mixOf([red, green, blue].map((each) => each.map((value) => value / 100)) as never),
  pixel: mixed,
  kernel: 'matrix',
  examples: [{ red: [100, 0, 0], green: [0, 100, 0], blue: [0, 0, 100] }, { red: [80, 20, 0], green: [0, 90, 10], blue: [-20, 0, 120] }],
  source: 'common practice, no published source: a matrix of light',
});
