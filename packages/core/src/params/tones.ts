import { clamp, figure, isList, numbersIn, type ParamHead, type ParamKind, Unfit } from './define.ts';

/** A number for shadows, middles and highlights. */
export interface TonesParam extends ParamHead<'tones', readonly [shadows: number, middles: number, highlights: number]> {
  readonly unit: string;
  readonly min: number;
  readonly max: number;
  readonly step: number;
  readonly digits: number;
}

export const TONES = ['Shadows', 'Middles', 'Highlights'] as const;

export const tones = (param: Omit<TonesParam, 'kind'>): TonesParam => ({ kind: 'tones', ...param });

export const tonesKind: ParamKind<TonesParam> = {
  read: ({ min, max }, given) => (isList(given, 3) ? [clamp(given[0], min, max), clamp(given[1], min, max), clamp(given[2], min, max)] : new Unfit('three numbers: shadows, middles, highlights')),
  write: (_, value) => value.join(','),
  parse: (_, text) => numbersIn(text),
  summary: ({ label, digits, unit }, value) => `${label.toLowerCase()} ${value.map((v) => figure(v, digits)).join('/')} ${unit}`.trim(),
  range: ({ min, max, unit }) => `shadows, middles, highlights, each ${min} … ${max} ${unit}`.trim(),
  fault: ({ min, max, step, default: initial }) => (initial.every((v) => min <= v && v <= max) && step > 0 ? null : 'the defaults must lie in the range and the step must be positive'),
};
