import { CORRECTION_BLENDS, type CorrectionBlendId, isOfferedIn } from '../blend/correction-blends.ts';
import type { Zone } from '../color/zones.ts';
import { CoreError } from '../errors.ts';
import { blackAndWhite } from './black-and-white.ts';
import { brightnessContrast } from './brightness-contrast.ts';
import { cdl } from './cdl.ts';
import { cameraExposure } from './camera-exposure.ts';
import { channelMix } from './channel-mix.ts';
import { colourBalance } from './colour-balance.ts';
import { colourFringes } from './colour-fringes.ts';
import { contrast } from './contrast.ts';
import { curves } from './curves.ts';
import type { Correction } from './define.ts';
import { distortion } from './distortion.ts';
import { exposure } from './exposure.ts';
import { fireflies } from './fireflies.ts';
import { focus } from './focus.ts';
import { gaussianBlur } from './gaussian-blur.ts';
import { glow } from './glow.ts';
import { grain } from './grain.ts';
import { highlightLimit } from './highlight-limit.ts';
import { hueFamilies } from './hue-families.ts';
import { hueSaturation } from './hue-saturation.ts';
import { invert } from './invert.ts';
import { levels } from './levels.ts';
import { localContrast } from './local-contrast.ts';
import { lutFile } from './lut-file.ts';
import { noiseReduction } from './noise-reduction.ts';
import { outputSharpening } from './output-sharpening.ts';
import { repaint } from './repaint.ts';
import { shadowsHighlights } from './shadows-highlights.ts';
import { sharpen } from './sharpen.ts';
import { motionBlur } from './motion-blur.ts';
import { streaks } from './streaks.ts';
import { tiltBlur } from './tilt-blur.ts';
import { toneColours } from './tone-colours.ts';
import { verticals } from './verticals.ts';
import { vibrance } from './vibrance.ts';
import { vignette } from './vignette.ts';
import { whiteBalance } from './white-balance.ts';

/** Every correction, in the order in which it is offered. A new one is a file, its test and a line here. */
export const corrections: readonly Correction[] = [exposure, hueSaturation, repaint, whiteBalance, cameraExposure, highlightLimit, contrast, brightnessContrast, levels, curves, shadowsHighlights, localContrast, vibrance, hueFamilies, colourBalance, blackAndWhite, channelMix, cdl, toneColours, lutFile, invert, sharpen, outputSharpening, noiseReduction, fireflies, gaussianBlur, focus, glow, streaks, tiltBlur, motionBlur, vignette, verticals, distortion, colourFringes, grain];

const byId = new Map<string, Correction>();
for (const correction of corrections) {
  if (byId.has(correction.id)) throw new CoreError('unknown-operation', `Two corrections share the id “${correction.id}”.`);
  byId.set(correction.id, correction);
}

/** @throws CoreError `unknown-operation` */
export function correctionById(id: string): Correction {
  const correction = byId.get(id);
  if (!correction) throw new CoreError('unknown-operation', `There is no correction “${id}”. Known: ${[...byId.keys()].join(', ')}.`);
  return correction;
}

/** Blends that a correction may have: as a layer in the numbers of its side of the tone line, in a chain in those it computes in. */
export function blendsOf({ domain }: Pick<Correction, 'domain'>, zone: Zone, isInChain: boolean): readonly CorrectionBlendId[] {
  const numbers = !isInChain || domain === 'as-found' ? zone : domain === 'light' ? 'scene' : 'picture';
  return CORRECTION_BLENDS.filter((id) => isOfferedIn(id, numbers));
}

/** Whether a correction computes in light on a side of the tone line; else in picture values. */
export const computesInLight = ({ domain }: Pick<Correction, 'domain'>, zone: Zone): boolean => domain === 'light' || (domain === 'as-found' && zone === 'scene');

export const isCorrectionId = (id: string): boolean => byId.has(id);

/** What a correction is called; one of a later version by its id. */
export const correctionLabel = (id: string): string => byId.get(id)?.label ?? `“${id}”, not known here`;
