import { band } from './define.ts';
import { elementTerm } from './element-term.ts';
import { edgeAwareBand, metresBand } from './far.ts';
import { readChannel, viewOf } from './read.ts';

/** A band of depth in metres along the view axis, with soft ends. */
export const depth = elementTerm({
  id: 'depth',
  label: 'Depth band',
  summary: 'What lies between two depths, in metres along the view axis.',
  params: metresBand,
  roles: ['depth', 'distance'],
  source: 'common practice, no published source',
  prepare: ({ nearMetres, farMetres, softNearMetres, softFarMetres, ...reads }, inputs) => edgeAwareBand(readChannel(viewOf(reads, inputs), 0), band(nearMetres, farMetres, softNearMetres, softFarMetres), inputs),
});
