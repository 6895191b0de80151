import { elementTerm } from './element-term.ts';
import { bandOf, edgeAwareBand, metresBand } from './far.ts';
import { readChannel, viewOf } from './read.ts';

/** A band of depth in metres along the view axis, with soft ends. */
export const depth = elementTerm({
  id: 'depth',
  label: 'Depth band',
  summary: 'What lies between two depths, in metres along the view axis.',
  params: metresBand,
  roles: ['depth', 'distance'],
  source: 'common practice, no published source',
  pick: {
    label: 'Pick the middle',
    take: ({ values }, { nearMetres, farMetres }) => {
      if (!values) return null;
      const half = (farMetres - nearMetres) / 2;
      return { nearMetres: Math.max(0, values[0] - half), farMetres: values[0] + half };
    },
  },
  prepare: (values, inputs) => edgeAwareBand(readChannel(viewOf(values, inputs), 0), bandOf(values), inputs),
});
