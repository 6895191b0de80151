import type { Plane } from './planes.ts';

/** A source reduced to a level, with its place in the picture at that level. */
export interface SourceView {
  readonly color: readonly Plane[];
  readonly alpha: Plane | null;
  readonly premultiplied: boolean;
  readonly x: number;
  readonly y: number;
}
