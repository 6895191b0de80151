import { rayOf } from './camera.ts';
import { choice } from '../params/choice.ts';
import { number } from '../params/number.ts';
import { band } from './define.ts';
import { elementTerm } from './element-term.ts';
import { edgeAwareBand, metresBand } from './far.ts';
import { readChannel, viewOf } from './read.ts';

/** A band of distances from the camera, along the ray. */
export const distance = elementTerm({
  kind: 'distance',
  label: 'Distance band',
  summary: 'What lies between two distances from the camera; from an element of distances, or from depth and the angle of the view.',
  params: {
    ...metresBand,
    holds: choice({ label: 'The element holds', options: { distances: 'Distances', depths: 'Depths' }, default: 'distances', help: 'Depths become distances by the angle of the view.' }),
    viewDegrees: number({ label: 'Angle of view', unit: '°', min: 5, max: 150, default: 65, step: 1, digits: 1, help: 'Horizontal angle of the camera; only depths need it.' }),
    horizonPercent: number({ label: 'Horizon', unit: '%', min: 0, max: 100, default: 50, step: 1, digits: 1, help: 'How far below the upper edge the horizon of the camera lies; only depths need it.' }),
  },
  roles: ['distance', 'depth'],
  source: 'common practice, no published source',
  prepare: ({ nearMetres, farMetres, softNearMetres, softFarMetres, holds, viewDegrees, horizonPercent }, term, inputs) => {
    const read = readChannel(viewOf(term, inputs), 0);
    const ray = rayOf(inputs, viewDegrees, horizonPercent / 100);
    const metres = (x: number, y: number) => {
      const { right, up } = ray(x, y);
      return read(x, y) * Math.sqrt(1 + right * right + up * up);
    };
    return edgeAwareBand(holds === 'depths' ? metres : read, band(nearMetres, farMetres, softNearMetres, softFarMetres), inputs);
  },
});
