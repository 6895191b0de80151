/** How a way of reading the picture is declared: what its colours are turned into, to judge light instead of looking at it. One file each, and a line in the registry. */
import type { Triple } from '../vector.ts';

export interface LegendEntry {
  /** Picture values, as they are shown. */
  readonly color: Triple;
  readonly label: string;
}

export interface Reading {
  /** Kebab-case, never reused for something else. */
  readonly id: string;
  readonly label: string;
  readonly summary: string;
  /** What it reads: scene light under the tone line, or the values of the finished picture. */
  readonly of: 'light' | 'picture';
  /** One pixel to what is shown of it, as picture values. `place` is its centre in pixels of the full picture. */
  readonly pixel: (rgb: Triple, place: readonly [x: number, y: number]) => Triple;
  /** In which unit the legend's figures are, for its title. */
  readonly unit?: string;
  /** What the colours mean; empty if they need no words. */
  readonly legend: readonly LegendEntry[];
  readonly source: string;
}

export const defineReading = (reading: Reading): Reading => reading;
