import { number } from '../params/number.ts';
import { defineTone } from './define.ts';

/** Light over one and itself, bent so that a chosen light is white. */
export const reinhard = defineTone({
  id: 'reinhard',
  label: 'Reinhard',
  summary: 'Holds bright light softly and leaves dark light; a chosen light is white.',
  params: {
    white: number({ label: 'White', unit: '', min: 0.5, max: 1000, default: 4, step: 0.1, digits: 2, usual: [1, 20], help: 'The least light that becomes white.' }),
  },
  curve: ({ white }) => (light) => (light * (1 + light / white ** 2)) / (1 + light),
  examples: [{ white: 4 }, { white: 11.2 }],
  source: 'E. Reinhard, M. Stark, P. Shirley, J. Ferwerda, “Photographic Tone Reproduction for Digital Images”, SIGGRAPH 2002, eq. 4',
});
