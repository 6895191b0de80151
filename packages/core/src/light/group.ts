/** How one light group is set, and what that does to its light. */
import { luminanceOf } from '../color/luminance.ts';
import { choice } from '../params/choice.ts';
import { color } from '../params/color.ts';
import { flag } from '../params/flag.ts';
import { number } from '../params/number.ts';
import { completeParams, defaultsOf, type KeptValues } from '../params/table.ts';
import type { Triple } from '../vector.ts';

export const lightGroup = {
  label: 'Light group',
  params: {
    on: flag({ label: 'On', default: true, help: 'Off is as if its lamps had not been lit.' }),
    intensityStops: number({ label: 'Intensity', unit: 'EV', min: -20, max: 20, default: 0, step: 0.05, digits: 2, usual: [-6, 6], help: '+1 EV is twice the watts, −1 EV half of them.' }),
    takes: choice({ label: 'Colour', options: { rendered: 'As rendered', chosen: 'Another' }, default: 'rendered', help: 'As the lamp was rendered, or as if it had another colour.' }),
    color: color({ label: 'Light', of: 'light', default: [1, 1, 1], help: 'The colour of the lamp’s light; how bright the swatch is plays no part.', when: { takes: 'chosen' } }),
    denoisePercent: number({ label: 'Denoise', unit: '%', min: 0, max: 100, default: 0, step: 1, digits: 0, help: 'Smooths the grain of this group alone, before it is added; normals and diffuse filter show it where surfaces end.' }),
    flickerPercent: number({ label: 'Flicker', unit: '%', min: 0, max: 100, default: 0, step: 1, digits: 0, help: 'In frames only: how far its light trembles.' }),
  },
} as const;

export interface LightValues {
  readonly on: boolean;
  readonly intensityStops: number;
  readonly takes: 'rendered' | 'chosen';
  readonly color: Triple;
  readonly denoisePercent: number;
  readonly flickerPercent: number;
}

export const AS_RENDERED = defaultsOf(lightGroup) as unknown as LightValues;

export const lightValues = (params: KeptValues): LightValues => completeParams(lightGroup, params) as unknown as LightValues;

/** No channel is raised further than this (4 stops) for a colour: beyond it there is more noise than light. Common practice, no published source. */
export const MOST_COLOUR_GAIN = 16;
/** A channel with less than this share of the light has none to give. */
const NONE = 1e-4;

/** The same colour with luminance 1; null for what is no light. */
export function chromatic(light: Triple): Triple | null {
  const luminance = luminanceOf(light);
  return luminance > 0 && Number.isFinite(luminance) ? [light[0] / luminance, light[1] / luminance, light[2] / luminance] : null;
}

/** What another colour of a lamp costs. */
export interface Recolouring {
  /** What each channel of the group is multiplied with. */
  readonly gain: Triple;
  /** The channel that is raised most, 0…2. */
  readonly channel: number;
  /** Stops by which that channel would be raised for the colour at the same brightness: its noise grows with it. */
  readonly wantedStops: number;
  /** The same as far as it is done. */
  readonly costStops: number;
  /** Stops that the light loses, because no channel is raised beyond MOST_COLOUR_GAIN. */
  readonly darkerStops: number;
  /** Channels of the wanted colour of which the lamp has no light at all. */
  readonly lacks: readonly number[];
  /** The colour nearest to the wanted one that is reached as bright as rendered, luminance 1. */
  readonly nearest: Triple;
}

/**
 * From the colour that a lamp's light has to another one, with the same luminance. Light that was not rendered cannot be made: a channel that holds little of it is raised only so far, and all
 * channels with it, so that the hue is right and the light darker.
 * @param own colour of the light as rendered, any brightness
 */
export function recoloured(own: Triple, wanted: Triple): Recolouring {
  const [from, to] = [chromatic(own) ?? [1, 1, 1], chromatic(wanted) ?? [1, 1, 1]];
  const lacks = [0, 1, 2].filter((c) => from[c] < NONE && to[c] >= NONE);
  const ratio = from.map((light, c) => (light < NONE ? 0 : to[c] / light));
  const most = Math.max(...ratio);
  const held = most > MOST_COLOUR_GAIN ? MOST_COLOUR_GAIN / most : 1;
  // Between as rendered and as wanted brightness is the same everywhere, and gains grow evenly.
  const share = most > MOST_COLOUR_GAIN ? (MOST_COLOUR_GAIN - 1) / (most - 1) : 1;
  return {
    gain: ratio.map((gain) => gain * held) as unknown as Triple,
    channel: ratio.indexOf(most),
    wantedStops: Math.log2(Math.max(1, most)),
    costStops: Math.log2(Math.max(1, most * held)),
    darkerStops: -Math.log2(held),
    lacks,
    nearest: from.map((light, c) => (lacks.includes(c) ? 0 : light + share * (to[c] - light))) as unknown as Triple,
  };
}

/**
 * What each channel of a group's light is multiplied with.
 * @param own colour of its light as rendered; null counts as white
 */
export function gainOf({ on, intensityStops, takes, color: wanted }: LightValues, own: Triple | null): Triple {
  if (!on) return [0, 0, 0];
  const by = 2 ** intensityStops;
  const { gain } = takes === 'chosen' ? recoloured(own ?? [1, 1, 1], wanted) : { gain: [1, 1, 1] };
  return [gain[0] * by, gain[1] * by, gain[2] * by];
}
