import { places } from '../params/places.ts';
import { edgeOf, shapeTerm, softPx } from './shapes.ts';

/** A rectangle, turned or not, by its centre and the middles of two sides. */
export const rectangle = shapeTerm({
  id: 'rectangle',
  label: 'Rectangle',
  summary: 'A rectangle with a soft edge.',
  params: { softPx },
  points: places({ label: 'Points', least: 3, most: 3, names: ['Centre', 'Middle of a side', 'Middle of the other side'], help: 'Centre, and the middles of two sides.' }),
  begin: [[0.5, 0.5], [0.8, 0.5], [0.5, 0.8]],
  shape: ([center, a, b], params, pixelPx) => {
    const [ux, uy, vx, vy] = [a[0] - center[0], a[1] - center[1], b[0] - center[0], b[1] - center[1]];
    const [wide, high] = [Math.hypot(ux, uy), Math.hypot(vx, vy)];
    if (wide === 0 || high === 0) return () => 0;
    const edge = edgeOf(params.softPx, pixelPx);
    return (x, y) => {
      const [dx, dy] = [x - center[0], y - center[1]];
      const across = wide - Math.abs((dx * ux + dy * uy) / wide);
      const down = high - Math.abs((dx * vx + dy * vy) / high);
      return edge(across) * edge(down);
    };
  },
});
