import { defineTone } from './define.ts';

/** Light from 0 to 1 is shown as it is, and what is brighter is white. */
export const straight = defineTone({
  id: 'straight',
  label: 'Straight',
  summary: 'Light from 0 to 1 is shown as it is; what is brighter is white.',
  params: {},
  curve: null,
  examples: [{}],
  source: 'IEC 61966-2-1:1999',
});
