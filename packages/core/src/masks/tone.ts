import { number } from '../params/number.ts';
import { band } from './define.ts';
import { elementTerm } from './element-term.ts';
import { lightness, readLooks } from './read.ts';

/** A band of tones: lights or darks of an element, or of the picture after a layer. */
export const tone = elementTerm({
  id: 'tone',
  label: 'Tone band',
  summary: 'Lights, darks or what lies between, by the brightness of an element or of the picture so far.',
  params: {
    lowPercent: number({ label: 'From', unit: '%', min: 0, max: 100, default: 60, step: 1, digits: 1, help: 'As it looks: 0 is black, 100 white.' }),
    highPercent: number({ label: 'To', unit: '%', min: 0, max: 100, default: 100, step: 1, digits: 1, help: 'As it looks: 0 is black, 100 white and everything brighter.' }),
    softLowPercent: number({ label: 'Soft below', unit: '%', min: 0, max: 100, default: 20, step: 1, digits: 1, help: 'How long the dark end takes to fade in.' }),
    softHighPercent: number({ label: 'Soft above', unit: '%', min: 0, max: 100, default: 20, step: 1, digits: 1, help: 'How long the bright end takes to fade out.' }),
  },
  roles: ['denoised-beauty', 'beauty', 'picture'],
  any: true,
  picture: true,
  source: 'ITU-R BT.709-6, luminance weights; IEC 61966-2-1, transfer function',
  prepare: ({ lowPercent, highPercent, softLowPercent, softHighPercent, ...reads }, inputs) => {
    const [r, g, b] = readLooks(reads, inputs);
    const within = band(lowPercent / 100, highPercent / 100, softLowPercent / 100, softHighPercent / 100);
    return (y, out) => {
      for (let x = 0; x < out.length; x++) out[x] = within(Math.min(1, lightness(r(x, y), g(x, y), b(x, y))));
    };
  },
});
