/** Widths as shares of the picture, so that they suit pictures of any size. */
import { number } from '../params/number.ts';

export const sizeInPercent = (label: string, initial: number, help: string) =>
  number({ label, unit: '%', min: 0.02, max: 20, default: initial, step: 0.01, digits: 2, usual: [0.05, 6], help });
