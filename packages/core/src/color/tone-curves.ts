/** Tone curves: how scene light becomes picture values at the tone line. One row each; documents store the id. */
import { srgbEncode } from './srgb.ts';

export const TONE_CURVES = ['srgb'] as const;
export type ToneCurveId = (typeof TONE_CURVES)[number];

export interface ToneCurve {
  readonly label: string;
  /** The definition, for one channel: light, unbounded, to 0…1. */
  readonly encode: (light: number) => number;
  readonly kernel: string;
}

export const toneCurves: Readonly<Record<ToneCurveId, ToneCurve>> = {
  // The straight curve: light from 0 to 1 is shown as it is, and what is brighter is white. @source IEC 61966-2-1
  srgb: { label: 'Straight', encode: srgbEncode, kernel: 'srgb' },
};
