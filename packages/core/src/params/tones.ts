import { clamp, figure, isList, numbersIn, type ParamHead, type ParamKind, Unfit } from './define.ts';

/** A number for each of three parts: shadows, middles and highlights, or red, green and blue. */
export interface TonesParam extends ParamHead<'tones', readonly [number, number, number]> {
  /** What the parts are called. */
  readonly parts: readonly [string, string, string];
  readonly unit: string;
  readonly min: number;
  readonly max: number;
  /** The range that is usually needed, where far more is allowed. */
  readonly usual?: readonly [number, number];
  readonly step: number;
  readonly digits: number;
}

const TONES = ['Shadows', 'Middles', 'Highlights'] as const;
const CHANNELS = ['Red', 'Green', 'Blue'] as const;

/** By tones. */
export const tones = (param: Omit<TonesParam, 'kind' | 'parts'>): TonesParam => ({ kind: 'tones', parts: TONES, ...param });
/** By channels. */
export const channels = (param: Omit<TonesParam, 'kind' | 'parts'>): TonesParam => ({ kind: 'tones', parts: CHANNELS, ...param });

const listed = (parts: readonly string[]) => parts.join(', ').toLowerCase();

export const tonesKind: ParamKind<TonesParam> = {
  read: ({ min, max, parts }, given) => (isList(given, 3) ? [clamp(given[0], min, max), clamp(given[1], min, max), clamp(given[2], min, max)] : new Unfit(`three numbers: ${listed(parts)}`)),
  write: (_, value) => value.join(','),
  parse: (_, text) => numbersIn(text),
  summary: ({ label, digits, unit }, value) => `${label.toLowerCase()} ${value.map((v) => figure(v, digits)).join('/')} ${unit}`.trim(),
  range: ({ min, max, unit, parts }) => `${listed(parts)}, each ${min} … ${max} ${unit}`.trim(),
  fault: ({ min, max, usual = [min, max], step, default: initial }) => (initial.every((v) => min <= v && v <= max) && min <= usual[0] && usual[0] < usual[1] && usual[1] <= max && step > 0 ? null : 'the defaults and what is usual must lie in the range and the step must be positive'),
};
