import { sizeAtLevel } from '../raster/region.ts';
import { direction } from '../params/direction.ts';
import { number } from '../params/number.ts';
import type { Triple } from '../vector.ts';
import { rise } from './define.ts';
import { elementTerm } from './element-term.ts';
import { readChannel, viewOf } from './read.ts';

/** Of shorter normals: nothing was hit, or the average of an edge says nothing. */
const LEAST_LENGTH = 0.2;

/** Surfaces that face a direction, within an angle. */
export const facing = elementTerm({
  id: 'facing',
  label: 'Facing',
  summary: 'Surfaces whose normal points into a direction: floors, roofs, walls towards the sun.',
  params: {
    direction: direction({ label: 'Direction', default: [0, 1, 0], help: 'In the axes of the normals.' }),
    spreadDegrees: number({ label: 'Within', unit: '°', min: 0, max: 180, default: 30, step: 1, digits: 1, help: 'The angle up to which surfaces are fully selected.' }),
    softDegrees: number({ label: 'Soft', unit: '°', min: 0, max: 180, default: 15, step: 1, digits: 1, help: 'How many degrees more it takes to fade out.' }),
  },
  roles: ['normals'],
  source: 'common practice, no published source',
  pick: {
    label: 'Pick a surface',
    take: ({ values }) => {
      const length = Math.hypot(...(values ?? [0]));
      return values && length > LEAST_LENGTH ? { direction: values.map((v) => Math.round((v / length) * 1000) / 1000) as unknown as Triple } : null;
    },
  },
  prepare: ({ direction: [dx, dy, dz], spreadDegrees, softDegrees, ...reads }, inputs) => {
    const view = viewOf(reads, inputs);
    const [nx, ny, nz] = [0, 1, 2].map((c) => readChannel(view, c));
    const length = Math.hypot(dx, dy, dz) || 1;
    const fall = rise(spreadDegrees + softDegrees, spreadDegrees);
    const { width } = sizeAtLevel(inputs.size, inputs.level);
    return (row, out) => {
      for (let column = 0; column < width; column++) {
        const [a, b, c] = [nx(column, row), ny(column, row), nz(column, row)];
        const own = Math.hypot(a, b, c);
        if (own < LEAST_LENGTH) {
          out[column] = 0;
          continue;
        }
        const degrees = (Math.acos(Math.min(1, Math.max(-1, (a * dx + b * dy + c * dz) / (own * length)))) * 180) / Math.PI;
        out[column] = softDegrees === 0 ? (degrees <= spreadDegrees ? 1 : 0) : fall(degrees);
      }
    };
  },
});
