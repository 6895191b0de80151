import { number } from '../params/number.ts';
import { defineTone } from './define.ts';

/** Contrasty film: a rational fit to the reference rendering of the ACES system. */
export const filmFit = defineTone({
  id: 'film-fit',
  label: 'Film, ACES-like',
  summary: 'Deep darks and a strong shoulder: a fit to the reference rendering of ACES.',
  params: {
    exposureStops: number({ label: 'Exposure', unit: 'EV', min: -6, max: 6, default: -0.7, step: 0.05, digits: 2, usual: [-3, 3], help: 'Before the curve. Its author suggests about −0.7.' }),
  },
  curve: ({ exposureStops }) => {
    const bias = 2 ** exposureStops;
    return (light) => {
      const x = bias * light;
      return (x * (2.51 * x + 0.03)) / (x * (2.43 * x + 0.59) + 0.14);
    };
  },
  examples: [{ exposureStops: -0.7 }, { exposureStops: 0 }],
  source: 'K. Narkowicz, “ACES Filmic Tone Mapping Curve”, 2015 (a fit; constants from memory)',
});
