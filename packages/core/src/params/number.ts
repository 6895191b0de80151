import { clamp, figure, isNumber, numberIn, type ParamHead, type ParamKind, Unfit } from './define.ts';

export interface NumberParam extends ParamHead<'number', number> {
  /** `px` are pixels of the full picture: they grow with it. */
  readonly unit: string;
  readonly min: number;
  readonly max: number;
  /** One nudge of the arrow keys; Shift makes it ten, Alt a tenth. */
  readonly step: number;
  /** Digits shown behind the point. */
  readonly digits: number;
  /** The range that is usually needed, where far more is allowed. */
  readonly usual?: readonly [number, number];
  /** Its scale and its nudges go by factors: a nudge is a twentieth of the value. */
  readonly byFactors?: boolean;
}

export const number = (param: Omit<NumberParam, 'kind'>): NumberParam => ({ kind: 'number', ...param });

export const numberKind: ParamKind<NumberParam> = {
  read: ({ min, max }, given) => (isNumber(given) ? clamp(given, min, max) : new Unfit('a number')),
  write: (_, value) => String(value),
  parse: (_, text) => numberIn(text),
  summary: ({ digits, unit }, value) => `${figure(value, digits)} ${unit}`.trim(),
  range: ({ min, max, unit }) => `${min} … ${max} ${unit}`.trim(),
  scaled: ({ unit, min, max }, value, { across, down }) => (unit === 'px' ? clamp(value * Math.sqrt(across * down), min, max) : value),
  fault: ({ min, max, step, default: initial, byFactors, usual = [min, max] }) => (min <= initial && initial <= max && step > 0 && !(byFactors && usual[0] <= 0) ? null : 'the default must lie in the range, the step must be positive, and what goes by factors must be above 0'),
};
