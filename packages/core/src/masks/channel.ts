import { choice } from '../params/choice.ts';
import { number } from '../params/number.ts';
import { elementTerm } from './element-term.ts';
import { readChannel, viewOf } from './read.ts';

const CHANNELS = ['red', 'green', 'blue'];

/** One channel of an element as a matte. */
export const channel = elementTerm({
  id: 'channel',
  label: 'Element as a matte',
  summary: 'The numbers of one channel: an RGB matte, a shadow, an occlusion.',
  params: {
    channel: choice({ label: 'Channel', options: { red: 'First or red', green: 'Green', blue: 'Blue' }, default: 'red', help: 'Of the element.' }),
    black: number({ label: 'Nothing at', unit: '', min: -10, max: 10, default: 0, step: 0.01, digits: 3, help: 'Values up to this select nothing.' }),
    white: number({ label: 'Full at', unit: '', min: -10, max: 10, default: 1, step: 0.01, digits: 3, help: 'Values from this on select fully. Below “Nothing at” it is inverted.' }),
  },
  roles: ['rgb-matte', 'shadow', 'raw-shadow', 'ambient-occlusion', 'alpha'],
  any: true,
  source: 'common practice, no published source',
  prepare: ({ channel: which, black, white, ...reads }, inputs) => {
    const read = readChannel(viewOf(reads, inputs), CHANNELS.indexOf(which));
    const scale = white === black ? 1e6 : 1 / (white - black);
    return (y, out) => {
      for (let x = 0; x < out.length; x++) out[x] = Math.min(1, Math.max(0, (read(x, y) - black) * scale));
    };
  },
});
