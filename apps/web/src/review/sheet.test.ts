import { describe, expect, it } from 'vitest';
import { fitted, placeAt, thinned, zoomed } from './sheet.ts';

const picture = { width: 1200, height: 800 };
const field = { width: 600, height: 600 };

describe('a picture in its field', () => {
  it('fits, in the middle', () => expect(fitted(picture, field)).toEqual({ scale: 0.5, x: 0, y: 100 }));
  it('zooms around a point, which stays where it is', () => {
    const view = zoomed(fitted(picture, field), picture, field, 2, { x: 150, y: 200 });
    expect(placeAt(view, picture, { x: 150, y: 200 })).toEqual(placeAt(fitted(picture, field), picture, { x: 150, y: 200 }));
    expect(view.scale).toBe(1);
  });
  it('is never dragged out of sight, nor zoomed without end', () => {
    const away = zoomed(fitted(picture, field), picture, field, 1, { x: 0, y: 0 }, { x: -1e5, y: 1e5 });
    expect([away.x, away.y]).toEqual([48 - 600, 600 - 48]);
    expect(zoomed(away, picture, field, 1e6, { x: 0, y: 0 }).scale).toBe(16);
    expect(zoomed(away, picture, field, 1e-6, { x: 0, y: 0 }).scale).toBe(0.5);
  });
  it('beside it there is no place', () => {
    expect(placeAt(fitted(picture, field), picture, { x: 300, y: 300 })).toEqual({ x: 0.5, y: 0.5 });
    expect(placeAt(fitted(picture, field), picture, { x: 300, y: 50 })).toBeNull();
  });
  it('a long line keeps its ends and few points', () => {
    const points = Array.from({ length: 5000 }, (_, i) => ({ x: i / 4999, y: 0.5 }));
    const line = thinned(points);
    expect(line.length).toBeLessThanOrEqual(800);
    expect([line[0], line.at(-2)]).toEqual([0, 1]);
    expect(thinned([{ x: 0.1, y: 0.1 }, { x: 0.1, y: 0.1 }])).toEqual([0.1, 0.1, 0.1, 0.1]);
    expect(thinned([{ x: -1, y: 2 }, { x: 0.5, y: 0.5 }])).toEqual([0, 1, 0.5, 0.5]);
  });
});
