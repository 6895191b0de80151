import { choice } from '../params/choice.ts';
import { places } from '../params/places.ts';
import { shapeTerm } from './shapes.ts';

/** A linear gradient from full to nothing. */
export const gradient = shapeTerm({
  id: 'gradient',
  label: 'Gradient',
  summary: 'Full on one side, nothing on the other, and a straight passage between two points.',
  params: { passage: choice({ label: 'Passage', options: { straight: 'Straight', smooth: 'Smooth' }, default: 'straight', help: 'Smooth passages begin and end without a visible line.' }) },
  points: places({ label: 'Points', least: 2, most: 2, names: ['Full here', 'Nothing here'], help: 'From full to nothing.' }),
  begin: [[0.5, 0.25], [0.5, 0.75]],
  shape: ([from, to], { passage }) => {
    const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
    const length = dx * dx + dy * dy || 1;
    return (x, y) => {
      const t = 1 - Math.min(1, Math.max(0, ((x - from[0]) * dx + (y - from[1]) * dy) / length));
      return passage === 'smooth' ? t * t * (3 - 2 * t) : t;
    };
  },
});
