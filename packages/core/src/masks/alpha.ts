import { elementTerm } from './element-term.ts';
import { readAlpha, readChannel, viewOf } from './read.ts';

/** The alpha channel of an element, or an element that is alpha: the building against the sky. */
export const alpha = elementTerm({
  id: 'alpha',
  label: 'Alpha',
  summary: 'What is there: the alpha of an element. Inverted, it is the sky.',
  params: {},
  roles: ['alpha', 'denoised-beauty', 'beauty'],
  any: true,
  source: 'ISO/IEC 15948 (PNG) §13.16, OpenEXR: alpha is the share of a pixel that is covered',
  prepare: (reads, inputs) => {
    const view = viewOf(reads, inputs);
    const read = view.alpha ? readAlpha(view) : readChannel(view, 0);
    return (y, out) => {
      for (let x = 0; x < out.length; x++) out[x] = Math.min(1, Math.max(0, read(x, y)));
    };
  },
});
