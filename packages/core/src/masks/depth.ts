import { band, number } from './define.ts';
import { elementTerm } from './element-term.ts';
import { edgeAwareBand } from './far.ts';
import { readChannel, viewOf } from './read.ts';

/** A band of depth in metres along the view axis, with soft ends. */
export const depth = elementTerm({
  kind: 'depth',
  label: 'Depth band',
  summary: 'What lies between two depths, in metres along the view axis.',
  params: {
    nearMetres: number('From', 'm', 0, 10_000, 5, 0.5, 2, 'Nothing nearer is selected, but for the soft end.', [0, 100]),
    farMetres: number('To', 'm', 0, 10_000, 25, 0.5, 2, 'Nothing farther is selected, but for the soft end.', [0, 100]),
    softNearMetres: number('Soft before', 'm', 0, 10_000, 2, 0.25, 2, 'How long the near end takes to fade in.', [0, 50]),
    softFarMetres: number('Soft behind', 'm', 0, 10_000, 5, 0.25, 2, 'How long the far end takes to fade out.', [0, 50]),
  },
  roles: ['depth', 'distance'],
  source: 'common practice, no published source',
  prepare: ({ nearMetres, farMetres, softNearMetres, softFarMetres }, term, inputs) => edgeAwareBand(readChannel(viewOf(term, inputs), 0), band(nearMetres, farMetres, softNearMetres, softFarMetres), inputs),
});
