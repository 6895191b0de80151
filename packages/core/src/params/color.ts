import type { Triple } from '../vector.ts';
import { clampUnit, srgbDecode, srgbEncode } from '../color/srgb.ts';
import { clamp, isList, numbersIn, type ParamHead, type ParamKind, Unfit } from './define.ts';

/** Linear light, sRGB primaries. */
export interface ColorParam extends ParamHead<'color', Triple> {
  /** A surface throws back a share of the light, at most all of it; light has no upper end. */
  readonly of: 'surface' | 'light';
}

const MOST_LIGHT = 65504;

export const color = (param: Omit<ColorParam, 'kind'>): ColorParam => ({ kind: 'color', ...param });

/** Light as the hex code of the colour to show. */
export const hexOf = (light: readonly number[]): string => `#${light.map((v) => Math.round(clampUnit(srgbEncode(v)) * 255).toString(16).padStart(2, '0')).join('')}`;
/** `#rgb`, `rrggbb` and so on as `#rrggbb`; null if it is none. */
export function readHex(text: string): string | null {
  const digits = /^#?([0-9a-f]{3}|[0-9a-f]{6})$/i.exec(text.trim())?.[1];
  if (!digits) return null;
  return `#${(digits.length === 3 ? [...digits].map((d) => d + d).join('') : digits).toLowerCase()}`;
}
/** The light of a code `#rrggbb`, to five digits: finer than a code tells. */
export const lightOfHex = (hex: string): Triple => [1, 3, 5].map((at) => Math.round(srgbDecode(Number.parseInt(hex.slice(at, at + 2), 16) / 255) * 1e5) / 1e5) as unknown as Triple;

export const colorKind: ParamKind<ColorParam> = {
  read: ({ of }, given) => (isList(given, 3) ? (given.map((v) => clamp(v, 0, of === 'surface' ? 1 : MOST_LIGHT)) as unknown as Triple) : new Unfit('three numbers of light')),
  write: (_, value) => value.join(','),
  parse: (_, text) => {
    const hex = text.trim().startsWith('#') || /^[0-9a-f]{6}$/i.test(text.trim()) ? readHex(text) : null;
    return hex ? lightOfHex(hex) : numbersIn(text);
  },
  summary: (_, value) => hexOf(value),
  range: ({ of }) => (of === 'surface' ? 'red, green, blue as shares of light, 0 … 1, or a hex code' : 'red, green, blue as light, or a hex code'),
};
