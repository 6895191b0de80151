/** What light groups are called, and what that says of them. */
import { LIGHTS } from '../elements/vocabulary.ts';
import { wordsOf } from '../elements/words.ts';
import type { Source } from '../model/model.ts';

/** What a group holds, as far as its name says; a group that says nothing is of lamps. */
export type LightKind = 'sun' | 'environment' | 'background' | 'emission' | 'rest' | 'lamps';

/** Words that say that it is a group, and no more. */
const HEAD = /^(.*[ _.:-])?(light[ _.-]?(groups?|select|mix)|lg)[ _.:-]+/i;

/** `light_group_interior_lamps` as “Interior lamps”. */
export function groupName({ name, role }: Pick<Source, 'name'> & Partial<Pick<Source, 'role'>>): string {
  if (role === 'background') return 'Background, as seen';
  const own = name.replace(HEAD, '').replace(/[_.]+/g, ' ').trim();
  return own === '' ? name : own.charAt(0).toUpperCase() + own.slice(1);
}

export function lightKind(source: Pick<Source, 'name'> & Partial<Pick<Source, 'role'>>): LightKind {
  if (source.role === 'background') return 'background';
  const words = wordsOf(groupName(source));
  const says = (list: readonly string[]) => list.some((word) => words.includes(word));
  if (says(['background', 'backplate'])) return 'background';
  if (says(LIGHTS.sun)) return 'sun';
  if (says(LIGHTS.environment)) return 'environment';
  if (says(LIGHTS.rest)) return 'rest';
  return says(LIGHTS.emission) ? 'emission' : 'lamps';
}

/** Two names of the same group in different documents. */
export const sameGroup = (a: string, b: string): boolean => normalized(a) === normalized(b);
const normalized = (name: string) => groupName({ name }).toLowerCase().replace(/[\s_.-]+/g, ' ');

/** Groups of one lamp, copied about the scene: names that differ by the number at their end alone. */
export function instancesIn(groups: readonly Source[]): readonly (readonly string[])[] {
  const byStem = new Map<string, string[]>();
  for (const group of groups) {
    const name = groupName(group);
    const stem = name.replace(/[\s_.#-]*\(?\d+\)?$/, '');
    if (stem !== name && stem !== '') byStem.set(stem.toLowerCase(), [...(byStem.get(stem.toLowerCase()) ?? []), group.id]);
  }
  return [...byStem.values()].filter((ids) => ids.length > 1);
}
