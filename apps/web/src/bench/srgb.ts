import { clampUnit, srgbEncode } from '@tazzel/core';

/** Light as the colour to show. */
export const srgb = (light: readonly [number, number, number]): [number, number, number] => [clampUnit(srgbEncode(light[0])), clampUnit(srgbEncode(light[1])), clampUnit(srgbEncode(light[2]))];
