import { luminosityOf } from '../blend/non-separable.ts';
import { choice } from '../params/choice.ts';
import { number } from '../params/number.ts';
import type { Triple } from '../vector.ts';
import { defineCorrection } from './define.ts';
import { looked, tableOf } from './tables.ts';

const STEPS = 1024;
const CHANNELS = ['red', 'green', 'blue'];
const percent = (label: string, initial: number, help: string) => number({ label, unit: '%', min: 0, max: 100, default: initial, step: 0.5, digits: 1, help });
/** A passage between black and white points, bent by gamma, onto an output range. */
const level = (x: number, black: number, white: number, gamma: number, low: number, high: number) => low + (high - low) * Math.min(1, Math.max(0, (x - black) / Math.max(1e-4, white - black))) ** (1 / gamma);

/** Picture values between a black and a white point, with the middle moved by gamma, spread over an output range: for all channels or for one. */
export const levels = defineCorrection({
  work: 'points',
  id: 'levels',
  label: 'Levels',
  summary: 'Sets what is black, what is white and where the middle lies, for all channels or for one.',
  group: 'Light and tone',
  params: {
    channel: choice({ label: 'Channel', options: { all: 'All', red: 'Red', green: 'Green', blue: 'Blue' }, default: 'all', help: 'Which channels it works on.' }),
    blackPercent: percent('Black', 0, 'What is darker becomes black.'),
    gamma: number({ label: 'Middle', unit: '', min: 0.1, max: 10, default: 1, step: 0.01, digits: 2, usual: [0.4, 2.5], help: 'Gamma: above 1 the middle becomes lighter.' }),
    whitePercent: percent('White', 100, 'What is lighter becomes white.'),
    lowPercent: percent('Black becomes', 0, 'Above 0 it is lifted to a grey; above the other end, the picture is inverted.'),
    highPercent: percent('White becomes', 100, 'Below 100 it is lowered to a grey.'),
  },
  domain: 'display',
  zones: ['picture'],
  isNoOp: ({ blackPercent, gamma, whitePercent, lowPercent, highPercent }) => blackPercent === 0 && gamma === 1 && whitePercent === 100 && lowPercent === 0 && highPercent === 100,
  prepare: ({ channel, blackPercent, gamma, whitePercent, lowPercent, highPercent }) => {
    const bent = tableOf(STEPS, (x) => level(x, blackPercent / 100, whitePercent / 100, gamma, lowPercent / 100, highPercent / 100));
    const straight = tableOf(STEPS, (x) => x);
    return Float32Array.from([0, STEPS, ...CHANNELS.flatMap((each) => (channel === 'all' || channel === each ? bent : straight)), ...straight]);
  },
  pixel: (rgb, prepared) => [0, 1, 2].map((c) => looked(prepared, 2 + c * (STEPS + 1), STEPS, rgb[c])) as unknown as Triple,
  kernel: 'curves',
  // Black, what becomes the middle, and white.
  marks: ({ blackPercent, gamma, whitePercent }) => [blackPercent / 100, (blackPercent + (whitePercent - blackPercent) * 0.5 ** gamma) / 100, whitePercent / 100],
  picks: [
    { label: 'Click what should be black', take: (values, { channel }) => ({ blackPercent: inPercent(channelOf(values, channel)) }) },
    { label: 'Click what should be white', take: (values, { channel }) => ({ whitePercent: inPercent(channelOf(values, channel)) }) },
  ],
  automatic: (entering, { channel }) => {
    const spread = entering[channel === 'all' ? 'luminance' : channel];
    const [black, white] = [inPercent(spread[0]), inPercent(spread[spread.length - 1])];
    return white > black ? { blackPercent: black, whitePercent: white } : null;
  },
  examples: [
    { channel: 'all', blackPercent: 0, gamma: 1, whitePercent: 100, lowPercent: 0, highPercent: 100 },
    { channel: 'all', blackPercent: 6, gamma: 1.3, whitePercent: 90, lowPercent: 0, highPercent: 100 },
    { channel: 'blue', blackPercent: 20, gamma: 0.6, whitePercent: 70, lowPercent: 10, highPercent: 95 },
    { channel: 'red', blackPercent: 50, gamma: 1, whitePercent: 50, lowPercent: 100, highPercent: 0 },
  ],
  source: 'common practice, no published source: a line between two points, then a power',
});

const channelOf = (values: Triple, channel: string) => (channel === 'all' ? luminosityOf(values) : values[CHANNELS.indexOf(channel)]);
const inPercent = (value: number) => Math.round(Math.min(1, Math.max(0, value)) * 1000) / 10;
