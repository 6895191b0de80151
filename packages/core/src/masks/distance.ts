import { distancePerDepth } from '../camera/view.ts';
import { choice } from '../params/choice.ts';
import { viewAtLevel } from './camera.ts';
import { elementTerm } from './element-term.ts';
import { bandOf, edgeAwareBand, metresBand } from './far.ts';
import { readChannel, viewOf } from './read.ts';

/** A band of distances from the camera, along the ray. */
export const distance = elementTerm({
  id: 'distance',
  label: 'Distance band',
  summary: 'What lies between two distances from the camera; from an element of distances, or from depth and the camera.',
  params: {
    ...metresBand,
    holds: choice({ label: 'The element holds', options: { distances: 'Distances', depths: 'Depths' }, default: 'distances', help: 'Depths become distances by the document’s camera.' }),
  },
  roles: ['distance', 'depth'],
  looksFrom: ({ holds }) => holds === 'depths',
  source: 'common practice, no published source',
  prepare: ({ holds, ...values }, inputs) => {
    const read = readChannel(viewOf(values, inputs), 0);
    const seen = holds === 'depths' ? viewAtLevel(inputs) : null;
    const metres = seen ? (x: number, y: number) => read(x, y) * distancePerDepth(seen, x + 0.5, y + 0.5) : read;
    return edgeAwareBand(metres, bandOf(values), inputs);
  },
});
