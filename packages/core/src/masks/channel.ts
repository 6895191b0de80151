import { choice, number } from './define.ts';
import { elementTerm } from './element-term.ts';
import { readChannel, viewOf } from './read.ts';

/** One channel of an element as a matte. */
export const channel = elementTerm({
  kind: 'channel',
  label: 'Element as a matte',
  summary: 'The numbers of one channel: an RGB matte, a shadow, an occlusion.',
  params: {
    channel: choice('Channel', ['First or red', 'Green', 'Blue'], 'Of the element.'),
    black: number('Nothing at', '', -10, 10, 0, 0.01, 3, 'Values up to this select nothing.'),
    white: number('Full at', '', -10, 10, 1, 0.01, 3, 'Values from this on select fully. Below “Nothing at” it is inverted.'),
  },
  roles: ['rgb-matte', 'shadow', 'raw-shadow', 'ambient-occlusion', 'alpha'],
  any: true,
  source: 'common practice, no published source',
  prepare: ({ channel: which, black, white }, term, inputs) => {
    const read = readChannel(viewOf(term, inputs), which);
    const scale = white === black ? 1e6 : 1 / (white - black);
    return (y, out) => {
      for (let x = 0; x < out.length; x++) out[x] = Math.min(1, Math.max(0, (read(x, y) - black) * scale));
    };
  },
});
