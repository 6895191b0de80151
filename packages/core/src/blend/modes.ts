/** The blend modes: one row each. Documents store the id; interface and docs are made from these rows. */
import type { Zone } from '../color/zones.ts';
import { CoreError } from '../errors.ts';
import * as nonSeparable from './non-separable.ts';
import * as separable from './separable.ts';

/** What a mode does in one zone: its formula (the definition) and the kernel that runs it over spans. */
export type ZoneBlend =
  | { readonly kind: 'separable'; readonly formula: separable.SeparableBlend; readonly kernel: string }
  | { readonly kind: 'non-separable'; readonly formula: nonSeparable.NonSeparableBlend; readonly kernel: string }
  /** W3C plus-lighter: co = αs·Cs + αb·Cb. The picture is bounded, so there the sum stops at white. */
  | { readonly kind: 'lighter'; readonly bounded: boolean; readonly kernel: string };

export interface BlendMode {
  readonly id: string;
  readonly label: string;
  readonly group: 'Plain' | 'Darken' | 'Lighten' | 'Contrast' | 'Difference' | 'Colour' | 'Arithmetic';
  /** One sentence: what the mode does. */
  readonly summary: string;
  /** Under the tone line: what happens above 1, or why the mode is not offered there. */
  readonly aboveOne: string;
  readonly picture: ZoneBlend;
  readonly scene: ZoneBlend | null;
}

const sep = (formula: separable.SeparableBlend, kernel: string): ZoneBlend => ({ kind: 'separable', formula, kernel });
const mix = (formula: nonSeparable.NonSeparableBlend, kernel: string): ZoneBlend => ({ kind: 'non-separable', formula, kernel });

const bothZones = (formula: separable.SeparableBlend, kernel: string) => ({ picture: sep(formula, kernel), scene: sep(formula, kernel) });
const pictureOnly = (blend: ZoneBlend) => ({ picture: blend, scene: null });

const FLIPS = 'Not offered: its formula assumes that white is 1 and turns brighter light darker.';
const CLIPS = 'Not offered: the standard clips colours to 1, which would cut highlights off.';

const rows = [
  { id: 'normal', label: 'Normal', group: 'Plain', summary: 'Covers what is below.', aboveOne: 'Values above 1 are kept.', ...bothZones(separable.normal, 'normal') },
  { id: 'darken', label: 'Darken', group: 'Darken', summary: 'Keeps the darker of the two, per channel.', aboveOne: 'The smaller value wins; above 1 as below.', ...bothZones(separable.darken, 'darken') },
  { id: 'multiply', label: 'Multiply', group: 'Darken', summary: 'Multiplies: filter × raw, shadow, occlusion.', aboveOne: 'The true product: factors above 1 brighten.', ...bothZones(separable.multiply, 'multiply') },
  { id: 'color-burn', label: 'Color burn', group: 'Darken', summary: 'Darkens the backdrop to reflect the layer.', aboveOne: FLIPS, ...pictureOnly(sep(separable.colorBurn, 'color-burn')) },
  { id: 'lighten', label: 'Lighten', group: 'Lighten', summary: 'Keeps the lighter of the two, per channel.', aboveOne: 'The larger value wins; above 1 as below.', ...bothZones(separable.lighten, 'lighten') },
  { id: 'screen', label: 'Screen', group: 'Lighten', summary: 'Multiplies the complements: light over light without burning out.', aboveOne: `${FLIPS} Use add.`, ...pictureOnly(sep(separable.screen, 'screen')) },
  { id: 'color-dodge', label: 'Color dodge', group: 'Lighten', summary: 'Brightens the backdrop to reflect the layer.', aboveOne: FLIPS, ...pictureOnly(sep(separable.colorDodge, 'color-dodge')) },
  { id: 'overlay', label: 'Overlay', group: 'Contrast', summary: 'Multiplies darks, screens lights of the backdrop.', aboveOne: FLIPS, ...pictureOnly(sep(separable.overlay, 'overlay')) },
  { id: 'soft-light', label: 'Soft light', group: 'Contrast', summary: 'A gentle darken or lighten around mid grey.', aboveOne: FLIPS, ...pictureOnly(sep(separable.softLight, 'soft-light')) },
  { id: 'hard-light', label: 'Hard light', group: 'Contrast', summary: 'Multiplies or screens, by the layer.', aboveOne: FLIPS, ...pictureOnly(sep(separable.hardLight, 'hard-light')) },
  { id: 'difference', label: 'Difference', group: 'Difference', summary: 'The distance between the two; black where equal.', aboveOne: 'The true distance, however large.', ...bothZones(separable.difference, 'difference') },
  { id: 'exclusion', label: 'Exclusion', group: 'Difference', summary: 'As difference, with less contrast.', aboveOne: FLIPS, ...pictureOnly(sep(separable.exclusion, 'exclusion')) },
  { id: 'hue', label: 'Hue', group: 'Colour', summary: 'Hue of the layer, saturation and luminosity of the backdrop.', aboveOne: CLIPS, ...pictureOnly(mix(nonSeparable.hue, 'hue')) },
  { id: 'saturation', label: 'Saturation', group: 'Colour', summary: 'Saturation of the layer on the backdrop.', aboveOne: CLIPS, ...pictureOnly(mix(nonSeparable.saturation, 'saturation')) },
  { id: 'color', label: 'Color', group: 'Colour', summary: 'Hue and saturation of the layer on the backdrop.', aboveOne: CLIPS, ...pictureOnly(mix(nonSeparable.color, 'color')) },
  { id: 'luminosity', label: 'Luminosity', group: 'Colour', summary: 'Luminosity of the layer, colour of the backdrop.', aboveOne: CLIPS, ...pictureOnly(mix(nonSeparable.luminosity, 'luminosity')) },
  { id: 'add', label: 'Add', group: 'Arithmetic', summary: 'Adds light to light: additive elements and light groups.', aboveOne: 'The true sum, without limit. Over the tone line it stops at white.', picture: { kind: 'lighter', bounded: true, kernel: 'add-picture' }, scene: { kind: 'lighter', bounded: false, kernel: 'add-light' } },
  { id: 'subtract', label: 'Subtract', group: 'Arithmetic', summary: 'Takes the layer’s light away.', aboveOne: 'The true difference, which may fall below 0. Over the tone line it stops at black.', picture: sep(separable.subtractPicture, 'subtract-picture'), scene: sep(separable.subtractLight, 'subtract-light') },
  { id: 'divide', label: 'Divide', group: 'Arithmetic', summary: 'Divides by the layer: lit ÷ filter = raw.', aboveOne: 'The true quotient; where the layer is black the result is black. Over the tone line it stops at white.', picture: sep(separable.dividePicture, 'divide-picture'), scene: sep(separable.divideLight, 'divide-light') },
] as const satisfies readonly BlendMode[];

export type BlendModeId = (typeof rows)[number]['id'];
export const blendModes: readonly BlendMode[] = rows;
const byId = new Map<string, BlendMode>(blendModes.map((mode) => [mode.id, mode]));

/** @throws CoreError `unknown-operation` */
export function blendMode(id: string): BlendMode {
  const mode = byId.get(id);
  if (!mode) throw new CoreError('unknown-operation', `There is no blend mode “${id}”. Known: ${[...byId.keys()].join(', ')}.`);
  return mode;
}

export const isBlendModeId = (id: string): id is BlendModeId => byId.has(id);

/** The modes that make sense in a zone, in the order in which they are offered. */
export const blendModesFor = (zone: Zone): readonly BlendMode[] => blendModes.filter((mode) => mode[zone] !== null);

/** @throws CoreError `unknown-operation` if the mode is unknown or not offered in that zone */
export function zoneBlend(id: string, zone: Zone): ZoneBlend {
  const mode = blendMode(id);
  const blend = mode[zone];
  if (!blend) throw new CoreError('unknown-operation', `${mode.label} is not offered under the tone line. ${mode.aboveOne}`);
  return blend;
}
