import { places } from '../params/places.ts';
import { edgeOf, shapeTerm, softPx } from './shapes.ts';

/** An ellipse by its centre and the ends of its half axes. */
export const ellipse = shapeTerm({
  id: 'ellipse',
  label: 'Ellipse',
  summary: 'An ellipse with a soft edge; inverted, it darkens the corners.',
  params: { softPx },
  points: places({ label: 'Points', least: 3, most: 3, names: ['Centre', 'First half axis', 'Second half axis'], help: 'Centre, and the ends of both half axes.' }),
  begin: [[0.5, 0.5], [0.8, 0.5], [0.5, 0.8]],
  shape: ([center, a, b], params, pixelPx) => {
    const [ux, uy, vx, vy] = [a[0] - center[0], a[1] - center[1], b[0] - center[0], b[1] - center[1]];
    const determinant = ux * vy - uy * vx;
    if (Math.abs(determinant) < 1e-6) return () => 0;
    const edge = edgeOf(params.softPx, pixelPx);
    return (x, y) => {
      const [dx, dy] = [x - center[0], y - center[1]];
      const [s, t] = [(dx * vy - dy * vx) / determinant, (ux * dy - uy * dx) / determinant];
      const radius = Math.hypot(s, t);
      if (radius === 0) return edge(Math.min(Math.hypot(ux, uy), Math.hypot(vx, vy)));
      // First-order distance: how far the value is from 1, over how fast it changes.
      const [gx, gy] = [(s * vy - t * uy) / (determinant * radius), (t * ux - s * vx) / (determinant * radius)];
      return edge((1 - radius) / Math.max(1e-9, Math.hypot(gx, gy)));
    };
  },
});
