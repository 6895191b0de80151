import { rayOf } from './camera.ts';
import { band, choice, number } from './define.ts';
import { elementTerm } from './element-term.ts';
import { edgeAwareBand } from './far.ts';
import { readChannel, viewOf } from './read.ts';

/** A band of heights in metres. */
export const height = elementTerm({
  kind: 'height',
  label: 'Height band',
  summary: 'What lies between two heights; from positions, or from depth and an upright camera.',
  params: {
    lowMetres: number('From', 'm', -1000, 10_000, 0, 0.25, 2, 'Nothing lower is selected, but for the soft end.', [-5, 30]),
    highMetres: number('To', 'm', -1000, 10_000, 3, 0.25, 2, 'Nothing higher is selected, but for the soft end.', [-5, 30]),
    softMetres: number('Soft', 'm', 0, 1000, 0.5, 0.1, 2, 'How long both ends take to fade.', [0, 10]),
    isDepth: choice('The element holds', ['Positions', 'Depths'], 'Depths become heights by the camera.'),
    upAxis: choice('Up is', ['Y', 'Z', 'X'], 'The axis of positions that points up.'),
    eyeMetres: number('Height of the camera', 'm', -100, 1000, 1.6, 0.1, 2, 'Above the ground; only depths need it.', [0, 20]),
    viewDegrees: number('Angle of view', '°', 5, 150, 65, 1, 1, 'Horizontal angle of the camera; only depths need it.'),
    horizonPercent: number('Horizon', '%', 0, 100, 50, 1, 1, 'How far below the upper edge the horizon lies; only depths need it.'),
  },
  roles: ['position', 'depth'],
  source: 'common practice, no published source',
  prepare: ({ lowMetres, highMetres, softMetres, isDepth, upAxis, eyeMetres, viewDegrees, horizonPercent }, term, inputs) => {
    const view = viewOf(term, inputs);
    const read = readChannel(view, isDepth === 1 ? 0 : [1, 2, 0][upAxis]);
    const ray = rayOf(inputs, viewDegrees, horizonPercent / 100);
    return edgeAwareBand(isDepth === 1 ? (x, y) => eyeMetres + read(x, y) * ray(x, y).up : read, band(lowMetres, highMetres, softMetres, softMetres), inputs);
  },
});
