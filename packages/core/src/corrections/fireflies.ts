import { choice } from '../params/choice.ts';
import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';

/** Single pixels that are far brighter than all around them: a path of light that was found by chance. */
export const fireflies = defineCorrection({
  work: 'neighbourhood',
  id: 'fireflies',
  label: 'Fireflies',
  summary: 'Finds single pixels that are far brighter than those around them, shows them, and takes them out.',
  group: 'Detail',
  params: {
    times: number({ label: 'Brighter than', unit: '×', min: 1.5, max: 100, default: 4, step: 0.1, digits: 1, usual: [2, 20], byFactors: true, help: 'So many times as bright as what lies around it, a pixel is one: 4 finds most, less takes grain for it.' }),
    floor: number({ label: 'Above', unit: '', min: 0, max: 10, default: 0.05, step: 0.01, digits: 3, usual: [0, 1], help: 'What is darker than that, in light, is left alone.' }),
    work: choice({ label: 'Does', options: { remove: 'Take them out', show: 'Show them' }, default: 'remove', help: 'They become as what lies around them; or everything else becomes dark, to see them.' }),
  },
  domain: 'light',
  zones: ['scene'],
  actsAtOnce: true,
  isNoOp: () => false,
  spread: ({ times, floor, work }) => ({ kind: 'despeckle', times, floor, shows: work === 'show' }),
  examples: [
    { times: 100, floor: 0.05, work: 'remove' },
    { times: 4, floor: 0.05, work: 'remove' },
    { times: 2, floor: 0, work: 'show' },
  ],
  source: 'Comparison with the neighbours of a pixel, after the conditional median; common practice, no published source for its limits',
});
