/** Mixes in a file of their own, apart from corrections: for the other camera, or another document with groups of the same names. */
import * as yup from 'yup';
import { CoreError } from '../errors.ts';
import { LIMITS, shortened } from '../limits.ts';
import type { LightMix, LightScenario, TazzelDocument } from '../model/model.ts';
import { findSource } from '../model/query.ts';
import type { KeptValues } from '../params/table.ts';
import { groupsOf, withSetting } from './board.ts';
import { lightValues } from './group.ts';
import { groupName, sameGroup } from './names.ts';

export const LIGHTS_FORMAT = 'tazzel-lights';
export const LIGHTS_VERSION = 1;

/** A mix by the names of its groups. */
export interface NamedMix {
  readonly name: string;
  readonly groups: readonly { readonly group: string; readonly params: KeptValues }[];
}
export interface LightsFile {
  readonly format: typeof LIGHTS_FORMAT;
  readonly version: number;
  readonly scenarios: readonly NamedMix[];
}

export const lightsFile = (document: TazzelDocument, scenarios: readonly Pick<LightScenario, 'name' | 'mix'>[]): LightsFile => ({
  format: LIGHTS_FORMAT,
  version: LIGHTS_VERSION,
  // A group that is gone has no name any more.
  scenarios: scenarios.map(({ name, mix }) => ({ name, groups: mix.flatMap(({ sourceId, params }) => (findSource(document, sourceId) ? [{ group: groupName(findSource(document, sourceId) as { name: string }), params }] : [])) })),
});

const name = () => yup.string().strict().defined().min(1).max(LIMITS.elementName);
const schema = yup.object({ name: name(), groups: yup.array(yup.object({ group: name(), params: yup.object().defined() }).noUnknown().strict()).strict().defined().max(LIMITS.sources) }).noUnknown().strict();

/** Reads a file of mixes. What of it cannot be read is left out and named. @throws CoreError `bad-document`, `newer-document` */
export function readLights(json: unknown): { readonly scenarios: readonly NamedMix[]; readonly problems: readonly string[] } {
  const given = json as Partial<LightsFile> | null;
  if (typeof given !== 'object' || given === null || given.format !== LIGHTS_FORMAT || !Array.isArray(given.scenarios)) throw new CoreError('bad-document', 'This is no file of light mixes: the mark “tazzel-lights” is missing.');
  if (typeof given.version === 'number' && given.version > LIGHTS_VERSION) throw new CoreError('newer-document', `The light mixes were written by a newer version (${given.version}, this program reads up to ${LIGHTS_VERSION}). Update to open them.`);
  const problems: string[] = [];
  const scenarios = given.scenarios.slice(0, LIMITS.scenarios).flatMap((item: unknown, i): NamedMix[] => {
    const called = typeof (item as NamedMix | null)?.name === 'string' ? `“${shortened((item as NamedMix).name, 60)}”` : `number ${i + 1}`;
    try {
      const mix = schema.validateSync(item, { strict: true }) as NamedMix;
      for (const { params } of mix.groups) lightValues(params);
      return [mix];
    } catch (error) {
      problems.push(`The mix ${called} was left out: ${error instanceof Error ? error.message.replace(/\.$/, '') : String(error)}.`);
      return [];
    }
  });
  return { scenarios, problems };
}

/** A mix for a document: groups are found by their names, and those that are missing are named. */
export function mixFor(document: Pick<TazzelDocument, 'sources'>, { name: called, groups }: NamedMix): { readonly mix: LightMix; readonly missing: readonly string[] } {
  const missing: string[] = [];
  const mix = groups.reduce<LightMix>((made, { group, params }) => {
    const source = groupsOf(document).find((each) => sameGroup(each.name, group));
    if (source) return withSetting(made, source.id, lightValues(params));
    missing.push(`“${called}” sets the group “${group}”, which this document does not have.`);
    return made;
  }, []);
  return { mix, missing };
}
