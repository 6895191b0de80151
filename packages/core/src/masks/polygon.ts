import { places } from '../params/places.ts';
import { edgeOf, shapeTerm, softPx } from './shapes.ts';

/** A polygon by its corners. */
export const polygon = shapeTerm({
  id: 'polygon',
  label: 'Polygon',
  summary: 'An area between corners, with a soft edge.',
  params: { softPx: { ...softPx, default: 8 } },
  points: places({ label: 'Points', least: 3, most: 500, help: 'Its corners.' }),
  begin: [[0.3, 0.7], [0.7, 0.7], [0.5, 0.3]],
  shape: (points, params, pixelPx) => {
    const edge = edgeOf(params.softPx, pixelPx);
    return (x, y) => {
      let isInside = false;
      let least = Number.POSITIVE_INFINITY;
      for (let i = 0, j = points.length - 1; i < points.length; j = i++) {
        const [ax, ay] = points[i];
        const [bx, by] = points[j];
        if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) isInside = !isInside;
        const length = (bx - ax) ** 2 + (by - ay) ** 2;
        const along = length === 0 ? 0 : Math.min(1, Math.max(0, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length));
        least = Math.min(least, (ax + along * (bx - ax) - x) ** 2 + (ay + along * (by - ay) - y) ** 2);
      }
      return edge(isInside ? Math.sqrt(least) : -Math.sqrt(least));
    };
  },
});
