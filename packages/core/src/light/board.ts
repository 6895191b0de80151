/** The light board of a document: its groups, what they are set to, and the named mixes. */
import type { LightBoard, LightMix, LightScenario, Source, TazzelDocument } from '../model/model.ts';
import { remembered } from '../remembered.ts';
import { isSame, type KeptValues } from '../params/table.ts';
import type { Triple } from '../vector.ts';
import { lightKind } from './names.ts';
import { AS_RENDERED, gainOf, type LightValues, lightValues } from './group.ts';

const counts = ({ inSum }: Source) => inSum !== 'out';
const lightGroups = remembered((sources: TazzelDocument['sources']): readonly Source[] => {
  const groups = sources.filter((source) => source.role === 'light-group' && counts(source));
  // The sky as it is seen is part of the environment's light, unless it is a group of its own: it gets a row, so that it can be darker than the light that it gives.
  const seen = groups.some((group) => lightKind(group) === 'background') || environmentIn(groups) === null ? null : (sources.find((source) => source.role === 'background' && source.encoding !== 'data' && counts(source)) ?? null);
  return seen ? [...groups, seen] : groups;
});
const environmentIn = (groups: readonly Source[]): Source | null => groups.find((group) => group.role === 'light-group' && lightKind(group) === 'environment') ?? null;

/** The light groups that count, in the order of the elements, and the background as it is seen. */
export const groupsOf = ({ sources }: Pick<TazzelDocument, 'sources'>): readonly Source[] => lightGroups(sources);

/** The group whose light an element is part of: the environment, for the background that is seen. Null for a group of its own. */
export const partOf = (document: Pick<TazzelDocument, 'sources'>, { role }: Source): Source | null => (role === 'background' ? environmentIn(groupsOf(document)) : null);

/** Why nothing can be lit by the board, as words about it; null if it can. */
export const boardLack = (document: Pick<TazzelDocument, 'sources'>): string | null => (groupsOf(document).length === 0 ? 'the document has no light groups. Add those elements of the render.' : null);

export const findScenario = ({ light }: Pick<TazzelDocument, 'light'>, id: string): LightScenario | null => light.scenarios.find((scenario) => scenario.id === id) ?? null;

export const settingOf = (mix: LightMix, sourceId: string): LightValues => {
  const found = mix.find((setting) => setting.sourceId === sourceId);
  return found ? lightValues(found.params) : AS_RENDERED;
};

/** The colour of a group's light as rendered, luminance 1; null before it was measured. */
export const ownColour = ({ own }: LightBoard, sourceId: string): Triple | null => own.find((one) => one.sourceId === sourceId)?.color ?? null;

/** The groups that are changed together with one, itself among them. */
export const linkedWith = ({ links }: LightBoard, sourceId: string): readonly string[] => links.find((ids) => ids.includes(sourceId)) ?? [sourceId];

/** Groups that are one row: those linked with it that are there, in the order of the elements. */
export function rowsOf(document: Pick<TazzelDocument, 'sources' | 'light'>): readonly (readonly Source[])[] {
  const rows: Source[][] = [];
  const seen = new Set<string>();
  for (const source of groupsOf(document)) {
    if (seen.has(source.id)) continue;
    const row = linkedWith(document.light, source.id).flatMap((id) => groupsOf(document).find((each) => each.id === id) ?? []);
    for (const { id } of row) seen.add(id);
    rows.push(row);
  }
  return rows;
}

export interface MixedGroup {
  readonly source: Source;
  readonly values: LightValues;
  /** What its light is multiplied with. */
  readonly gain: Triple;
  /** What its pixels are multiplied with in the sum: what is part of another group is in there already. */
  readonly weight: Triple;
}

/** What every group of a document contributes in a mix. */
export function mixedGroups(document: Pick<TazzelDocument, 'sources' | 'light'>, mix: LightMix = document.light.mix): readonly MixedGroup[] {
  const gainIn = ({ id }: Source) => gainOf(settingOf(mix, id), ownColour(document.light, id));
  return groupsOf(document).map((source) => {
    const gain = gainIn(source);
    const whole = partOf(document, source);
    const around = whole ? gainIn(whole) : [0, 0, 0];
    return { source, values: settingOf(mix, source.id), gain, weight: gain.map((value, c) => value - around[c]) as unknown as Triple };
  });
}

/** Gains by the names of elements, for lamps that are to carry the mix; the background that is seen only where it differs from the light it is part of. */
export const lampGains = (document: Pick<TazzelDocument, 'sources' | 'light'>): readonly { readonly name: string; readonly gain: Triple }[] =>
  mixedGroups(document).flatMap(({ source, gain, weight }) => (partOf(document, source) && weight.every((value) => value === 0) ? [] : [{ name: source.name, gain }]));

/** Only what differs from how it was rendered. */
const kept = (values: LightValues): KeptValues => Object.fromEntries(Object.entries(values).filter(([name, value]) => !isSame(value, AS_RENDERED[name as keyof LightValues] as typeof value)));

/** A mix with another setting of one group. One that is as rendered is not kept. */
export function withSetting(mix: LightMix, sourceId: string, values: LightValues): LightMix {
  const params = kept(values);
  const others = mix.filter((setting) => setting.sourceId !== sourceId);
  if (Object.keys(params).length === 0) return others;
  const at = mix.findIndex((setting) => setting.sourceId === sourceId);
  return at < 0 ? [...mix, { sourceId, params }] : mix.with(at, { sourceId, params });
}

/** The document with another mix on its board. */
export const withMix = (document: TazzelDocument, mix: LightMix): TazzelDocument => ({ ...document, light: { ...document.light, mix } });

/** The document with only some groups lit, for a look at them. */
export const soloOf = (document: TazzelDocument, sourceIds: readonly string[]): TazzelDocument =>
  withMix(document, groupsOf(document).reduce<LightMix>((mix, { id }) => withSetting(mix, id, { ...settingOf(mix, id), on: sourceIds.includes(id) }), document.light.mix));

/** Both ways of lighting at once: the first by 1 − share, the second by share, as their pictures would be cross-faded in light. */
export function blended(document: Pick<TazzelDocument, 'sources' | 'light'>, from: LightMix, to: LightMix, share: number): LightMix {
  if (share <= 0) return from;
  if (share >= 1) return to;
  return groupsOf(document).reduce<LightMix>((mix, { id }) => {
    const own = ownColour(document.light, id);
    const [a, b] = [settingOf(from, id), settingOf(to, id)];
    const [one, other] = [gainOf(a, own), gainOf(b, own)];
    const gain = one.map((value, c) => (1 - share) * value + share * other[c]) as unknown as Triple;
    const denoisePercent = Math.round((1 - share) * a.denoisePercent + share * b.denoisePercent);
    const flickerPercent = Math.round((1 - share) * a.flickerPercent + share * b.flickerPercent);
    return withSetting(mix, id, { ...settingFor(gain, own), denoisePercent, flickerPercent });
  }, []);
}

/** The setting that multiplies a group's light by a gain, as far as one does. */
export function settingFor(gain: Triple, own: Triple | null): LightValues {
  if (gain.every((value) => value <= 0)) return { ...AS_RENDERED, on: false };
  const [r, g, b] = gain;
  if (Math.max(r, g, b) - Math.min(r, g, b) <= 1e-9 * Math.max(r, g, b)) return { ...AS_RENDERED, intensityStops: Math.log2(r) };
  const light = (own ?? [1, 1, 1]).map((value, c) => value * gain[c]) as unknown as Triple;
  const chosen: LightValues = { ...AS_RENDERED, takes: 'chosen', color: light };
  // What the colour alone does leaves the rest to the intensity.
  const alone = gainOf(chosen, own);
  const at = alone.indexOf(Math.max(...alone));
  return { ...chosen, intensityStops: Math.log2(gain[at] / alone[at]) };
}
