import { rayOf } from './camera.ts';
import { band, choice, number } from './define.ts';
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
    isDepth: choice('The element holds', ['Distances', 'Depths'], 'Depths become distances by the angle of the view.'),
    viewDegrees: number('Angle of view', '°', 5, 150, 65, 1, 1, 'Horizontal angle of the camera; only depths need it.'),
    horizonPercent: number('Horizon', '%', 0, 100, 50, 1, 1, 'How far below the upper edge the horizon of the camera lies; only depths need it.'),
  },
  roles: ['distance', 'depth'],
  source: 'common practice, no published source',
  prepare: ({ nearMetres, farMetres, softNearMetres, softFarMetres, isDepth, viewDegrees, horizonPercent }, term, inputs) => {
    const read = readChannel(viewOf(term, inputs), 0);
    const ray = rayOf(inputs, viewDegrees, horizonPercent / 100);
    const metres = (x: number, y: number) => {
      const { right, up } = ray(x, y);
      return read(x, y) * Math.sqrt(1 + right * right + up * up);
    };
    return edgeAwareBand(isDepth === 1 ? metres : read, band(nearMetres, farMetres, softNearMetres, softFarMetres), inputs);
  },
});
