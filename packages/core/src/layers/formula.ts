/** Formulas that pixels of layers come from: at their places, and with what is read of elements and pictures there. Each has a loop `generate_…` in the kernels. */
import type { PixelPlace } from '../corrections/define.ts';
import { airPixel } from './air-pixel.ts';
import { type FillColor, fillPixel } from './fill-pixel.ts';

/** Straight colour and alpha of a pixel; `others` are the three numbers of each that it reads, 0 where that is missing. */
export type Formula = (prepared: Float32Array, place: PixelPlace, others: readonly (readonly number[])[]) => FillColor;

export const formulas = { fill: fillPixel, air: airPixel } as const satisfies Readonly<Record<string, Formula>>;
export type FormulaId = keyof typeof formulas;
