import { HUE_FAMILIES } from '../color/hue-families.ts';
import { clamp, figure, isList, isNumber, numberIn, numbersIn, type ParamHead, type ParamKind, Unfit } from './define.ts';

/** A number for each family of hues, in the order of `HUE_FAMILIES`. */
export interface BandsParam extends ParamHead<'bands', readonly number[]> {
  readonly unit: string;
  readonly min: number;
  readonly max: number;
  readonly step: number;
  readonly digits: number;
}

export const bands = ({ default: initial, ...param }: Omit<BandsParam, 'kind' | 'default'> & { default: number }): BandsParam => ({ kind: 'bands', default: HUE_FAMILIES.map(() => initial), ...param });

export const bandsKind: ParamKind<BandsParam> = {
  read: ({ min, max }, given) => (isList(given, HUE_FAMILIES.length) ? given.map((v) => clamp(v, min, max)) : new Unfit(`${HUE_FAMILIES.length} numbers, one for each family of hues`)),
  write: (_, value) => value.join(','),
  /** All in turn, or some by name: `red=10 blue=-20`. */
  parse: (param, text) => {
    if (!text.includes('=')) return numbersIn(text);
    const value = [...param.default];
    for (const part of text.trim().split(/[\s,]+/)) {
      const [name, given] = part.split('=');
      const at = HUE_FAMILIES.findIndex(({ id }) => id === name);
      const said = numberIn(given ?? '');
      if (at < 0 || !isNumber(said)) return text;
      value[at] = said;
    }
    return value;
  },
  summary: ({ digits, unit, default: initial }, value) => HUE_FAMILIES.flatMap(({ label }, i) => (value[i] === initial[i] ? [] : [`${label.toLowerCase()} ${figure(value[i], digits)} ${unit}`.trim()])).join(', '),
  range: ({ min, max, unit }) => `${HUE_FAMILIES.map(({ id }) => `\`${id}\``).join(', ')}, each ${min} … ${max} ${unit}`.trim(),
  fault: ({ min, max, step, default: initial }) => (initial.every((v) => min <= v && v <= max) && step > 0 ? null : 'the defaults must lie in the range and the step must be positive'),
};
