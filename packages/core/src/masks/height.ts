import { rayThrough } from '../camera/view.ts';
import { choice } from '../params/choice.ts';
import { number } from '../params/number.ts';
import { band } from './define.ts';
import { viewAtLevel } from './camera.ts';
import { elementTerm } from './element-term.ts';
import { edgeAwareBand } from './far.ts';
import { readChannel, viewOf } from './read.ts';

/** A band of heights in metres. */
export const height = elementTerm({
  id: 'height',
  label: 'Height band',
  summary: 'What lies between two heights; from positions, or from depth and the camera.',
  params: {
    lowMetres: number({ label: 'From', unit: 'm', min: -1000, max: 10_000, default: 0, step: 0.25, digits: 2, usual: [-5, 30], help: 'Nothing lower is selected, but for the soft end.' }),
    highMetres: number({ label: 'To', unit: 'm', min: -1000, max: 10_000, default: 3, step: 0.25, digits: 2, usual: [-5, 30], help: 'Nothing higher is selected, but for the soft end.' }),
    softMetres: number({ label: 'Soft', unit: 'm', min: 0, max: 1000, default: 0.5, step: 0.1, digits: 2, usual: [0, 10], help: 'How long both ends take to fade.' }),
    holds: choice({ label: 'The element holds', options: { positions: 'Positions', depths: 'Depths' }, default: 'positions', help: 'Depths become heights by the document’s camera.' }),
    up: choice({ label: 'Up is', options: { y: 'Y', z: 'Z', x: 'X' }, default: 'y', help: 'The axis of positions that points up.', when: { holds: 'positions' } }),
  },
  roles: ['position', 'depth'],
  looksFrom: ({ holds }) => holds === 'depths',
  source: 'common practice, no published source',
  prepare: ({ lowMetres, highMetres, softMetres, holds, up, ...reads }, inputs) => {
    const element = viewOf(reads, inputs);
    const read = readChannel(element, holds === 'depths' ? 0 : 'xyz'.indexOf(up));
    const seen = holds === 'depths' ? viewAtLevel(inputs) : null;
    return edgeAwareBand(seen ? (x, y) => seen.eye[1] + read(x, y) * rayThrough(seen, x + 0.5, y + 0.5)[1] : read, band(lowMetres, highMetres, softMetres, softMetres), inputs);
  },
});
