/** Handles: points on the picture that are dragged, or moved with the arrow keys, and what becomes of that. */
import type { Point } from '@tazzel/core';

export interface Handle {
  readonly label: string;
  /** In pixels of the full picture. */
  readonly at: Point;
  readonly look?: 'square' | 'round';
}

export interface HandleSet {
  /** What they belong to: while it stays the same, a drag goes on. */
  readonly key: string;
  /** The layer in whose picture they lie; without one they lie in the render. */
  readonly layerId?: string;
  /** For screen readers. */
  readonly label: string;
  readonly handles: readonly Handle[];
  /** A path in the pixels in which it is drawn; `places` are those of the handles there. */
  readonly outline: (places: readonly Point[]) => string;
  /** `gesture` is the same for all steps of one drag, so that they undo as one. */
  readonly move: (handle: number, to: Point, gesture: string) => void;
  readonly doubleClick?: (handle: number, gesture: string) => void;
  /** A double click on the outline between the handles. */
  readonly insert?: (at: Point, gesture: string) => void;
}

export const crossPath = ([x, y]: Point, arm: number): string => `M${x - arm} ${y}L${x + arm} ${y}M${x} ${y - arm}L${x} ${y + arm}`;
export const linePath = (places: readonly Point[], closed = false): string => `M${places.map(([x, y]) => `${x} ${y}`).join('L')}${closed ? 'Z' : ''}`;
export const tenths = (value: number): number => Math.round(value * 10) / 10;

/** Which of some straight pieces lies nearest to a place. */
export function nearestPiece(pieces: readonly (readonly [Point, Point])[], [x, y]: Point): number {
  const distances = pieces.map(([[ax, ay], [bx, by]]) => {
    const length = (bx - ax) ** 2 + (by - ay) ** 2 || 1;
    const t = Math.min(1, Math.max(0, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length));
    return Math.hypot(ax + t * (bx - ax) - x, ay + t * (by - ay) - y);
  });
  return distances.indexOf(Math.min(...distances));
}
