/** Formulas that pixels of layers come from: at their places, and with what is read of elements and pictures there. Each has a loop `generate_…` in the kernels. */
import type { PixelPlace } from '../corrections/define.ts';
import { skyPixel, skyTable } from '../sky/pixel.ts';
import { airPixel, airTable } from './air-pixel.ts';
import { type FillColor, fillPixel } from './fill-pixel.ts';

export interface Formula {
  /**
   * Straight colour and alpha of a pixel; `others` are the three numbers of each that it reads, 0 where that is missing. `step` is how many pixels of the full picture it is wide.
   */
  readonly pixel: (prepared: Float32Array, place: PixelPlace, others: readonly (readonly number[])[], step: number) => FillColor;
  /** What it looks up, for its loop, which gets it once for each key; null if nothing. */
  readonly table?: (prepared: Float32Array) => { readonly key: string; readonly values: Float32Array } | null;
}

export const formulas = { fill: { pixel: fillPixel }, air: { pixel: airPixel, table: airTable }, sky: { pixel: skyPixel, table: skyTable } } as const satisfies Readonly<Record<string, Formula>>;
export type FormulaId = keyof typeof formulas;
