import { band, number } from './define.ts';
import { elementTerm } from './element-term.ts';
import { lightness, readLooks } from './read.ts';

/** A band of tones: lights or darks of an element, or of the picture after a layer. */
export const tone = elementTerm({
  kind: 'tone',
  label: 'Tone band',
  summary: 'Lights, darks or what lies between, by the brightness of an element or of the picture so far.',
  params: {
    lowPercent: number('From', '%', 0, 100, 60, 1, 1, 'As it looks: 0 is black, 100 white.'),
    highPercent: number('To', '%', 0, 100, 100, 1, 1, 'As it looks: 0 is black, 100 white and everything brighter.'),
    softLowPercent: number('Soft below', '%', 0, 100, 20, 1, 1, 'How long the dark end takes to fade in.'),
    softHighPercent: number('Soft above', '%', 0, 100, 20, 1, 1, 'How long the bright end takes to fade out.'),
  },
  roles: ['denoised-beauty', 'beauty', 'picture'],
  any: true,
  picture: true,
  source: 'ITU-R BT.709-6, luminance weights; IEC 61966-2-1, transfer function',
  prepare: ({ lowPercent, highPercent, softLowPercent, softHighPercent }, term, inputs) => {
    const [r, g, b] = readLooks(term, inputs);
    const within = band(lowPercent / 100, highPercent / 100, softLowPercent / 100, softHighPercent / 100);
    return (y, out) => {
      for (let x = 0; x < out.length; x++) out[x] = within(Math.min(1, lightness(r(x, y), g(x, y), b(x, y))));
    };
  },
});
