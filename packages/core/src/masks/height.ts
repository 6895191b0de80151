import { rayOf } from './camera.ts';
import { choice } from '../params/choice.ts';
import { number } from '../params/number.ts';
import { band } from './define.ts';
import { elementTerm } from './element-term.ts';
import { edgeAwareBand } from './far.ts';
import { readChannel, viewOf } from './read.ts';

/** A band of heights in metres. */
export const height = elementTerm({
  kind: 'height',
  label: 'Height band',
  summary: 'What lies between two heights; from positions, or from depth and an upright camera.',
  params: {
    lowMetres: number({ label: 'From', unit: 'm', min: -1000, max: 10_000, default: 0, step: 0.25, digits: 2, usual: [-5, 30], help: 'Nothing lower is selected, but for the soft end.' }),
    highMetres: number({ label: 'To', unit: 'm', min: -1000, max: 10_000, default: 3, step: 0.25, digits: 2, usual: [-5, 30], help: 'Nothing higher is selected, but for the soft end.' }),
    softMetres: number({ label: 'Soft', unit: 'm', min: 0, max: 1000, default: 0.5, step: 0.1, digits: 2, usual: [0, 10], help: 'How long both ends take to fade.' }),
    holds: choice({ label: 'The element holds', options: { positions: 'Positions', depths: 'Depths' }, default: 'positions', help: 'Depths become heights by the camera.' }),
    up: choice({ label: 'Up is', options: { y: 'Y', z: 'Z', x: 'X' }, default: 'y', help: 'The axis of positions that points up.' }),
    eyeMetres: number({ label: 'Height of the camera', unit: 'm', min: -100, max: 1000, default: 1.6, step: 0.1, digits: 2, usual: [0, 20], help: 'Above the ground; only depths need it.' }),
    viewDegrees: number({ label: 'Angle of view', unit: '°', min: 5, max: 150, default: 65, step: 1, digits: 1, help: 'Horizontal angle of the camera; only depths need it.' }),
    horizonPercent: number({ label: 'Horizon', unit: '%', min: 0, max: 100, default: 50, step: 1, digits: 1, help: 'How far below the upper edge the horizon lies; only depths need it.' }),
  },
  roles: ['position', 'depth'],
  source: 'common practice, no published source',
  prepare: ({ lowMetres, highMetres, softMetres, holds, up, eyeMetres, viewDegrees, horizonPercent }, term, inputs) => {
    const view = viewOf(term, inputs);
    const read = readChannel(view, holds === 'depths' ? 0 : 'xyz'.indexOf(up));
    const ray = rayOf(inputs, viewDegrees, horizonPercent / 100);
    return edgeAwareBand(holds === 'depths' ? (x, y) => eyeMetres + read(x, y) * ray(x, y).up : read, band(lowMetres, highMetres, softMetres, softMetres), inputs);
  },
});
