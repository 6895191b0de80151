/** The roles of render elements, and how a name and the contents give one away. */
import type { Encoding } from '../color/zones.ts';
import { type ContentFacts, roleByContent } from './content.ts';
import { vocabularyOf, wordsOf } from './words.ts';

interface RoleRow {
  readonly id: string;
  readonly label: string;
  /** `light` follows the file's own encoding; `data` is never colour managed. */
  readonly nature: 'light' | 'data';
  /** All words of one set must occur in the name, in any order. The largest set wins, then the first. See words.ts for spellings. */
  readonly words: readonly string[];
}

const rows = [
  { id: 'denoised-beauty', label: 'Denoised beauty', nature: 'light', words: ['denoised', 'denoised beauty'] },
  { id: 'material-id', label: 'Material ID', nature: 'data', words: ['material id', 'material mask', 'id'] },
  { id: 'object-id', label: 'Object ID', nature: 'data', words: ['object id', 'object mask', 'beauty id'] },
  { id: 'coverage-matte', label: 'Coverage matte', nature: 'data', words: ['crypto', 'crypto material', 'crypto object', 'crypto matte'] },
  { id: 'rgb-matte', label: 'RGB matte', nature: 'data', words: ['matte', 'beauty matte', 'beauty mask', 'mask'] },
  { id: 'light-group', label: 'Light group', nature: 'light', words: ['light group', 'lighting group', 'light environment group', 'light emission group', 'light ambient group', 'light self group', 'light background group'] },
  { id: 'diffuse-filter', label: 'Diffuse filter', nature: 'light', words: ['diffuse filter', 'albedo', 'diffuse albedo', 'filter', 'diffuse filter raw', 'diffuse'] },
  { id: 'reflection-filter', label: 'Reflection filter', nature: 'light', words: ['reflection filter', 'reflection filter raw', 'specular filter', 'specular reflection filter'] },
  { id: 'refraction-filter', label: 'Refraction filter', nature: 'light', words: ['refraction filter', 'refraction filter raw'] },
  { id: 'raw-gi', label: 'Raw GI', nature: 'light', words: ['raw gi', 'raw global lighting', 'raw diffuse gi', 'raw gi lighting'] },
  { id: 'raw-lighting', label: 'Raw lighting', nature: 'light', words: ['raw lighting', 'raw light', 'raw direct', 'raw diffuse', 'raw direct lighting', 'raw direct light', 'raw diffuse direct', 'raw total lighting', 'raw total light'] },
  { id: 'raw-reflection', label: 'Raw reflection', nature: 'light', words: ['raw reflection', 'raw specular reflection'] },
  { id: 'raw-refraction', label: 'Raw refraction', nature: 'light', words: ['raw refraction'] },
  { id: 'raw-shadow', label: 'Raw shadow', nature: 'light', words: ['raw shadow'] },
  { id: 'gi', label: 'GI', nature: 'light', words: ['gi', 'global lighting', 'diffuse gi', 'gi lighting', 'gi light'] },
  { id: 'direct-lighting', label: 'Direct lighting', nature: 'light', words: ['lighting', 'direct', 'diffuse lighting', 'direct lighting', 'direct light', 'diffuse direct', 'diffuse light', 'diffuse direct lighting', 'total lighting', 'total light', 'light'] },
  { id: 'reflection', label: 'Reflection', nature: 'light', words: ['reflection', 'specular gi', 'reflection gi', 'specular reflection'] },
  { id: 'refraction', label: 'Refraction', nature: 'light', words: ['refraction'] },
  { id: 'specular', label: 'Specular', nature: 'light', words: ['specular', 'specular direct'] },
  { id: 'self-illumination', label: 'Self-illumination', nature: 'light', words: ['self lighting', 'emission', 'self emission', 'emission lighting'] },
  { id: 'subsurface', label: 'Subsurface', nature: 'light', words: ['subsurface', 'subsurface direct', 'subsurface gi'] },
  { id: 'caustics', label: 'Caustics', nature: 'light', words: ['caustics'] },
  { id: 'shadow', label: 'Shadow', nature: 'light', words: ['shadow'] },
  { id: 'ambient-occlusion', label: 'Ambient occlusion', nature: 'light', words: ['occlusion', 'ambient occlusion', 'ambient'] },
  { id: 'atmosphere', label: 'Atmosphere', nature: 'light', words: ['atmosphere', 'atmosphere light', 'atmosphere lighting'] },
  { id: 'background', label: 'Background', nature: 'light', words: ['background', 'environment', 'background environment'] },
  { id: 'depth', label: 'Depth', nature: 'data', words: ['depth'] },
  { id: 'distance', label: 'Distance', nature: 'data', words: ['distance'] },
  { id: 'normals', label: 'Normals', nature: 'data', words: ['normals'] },
  { id: 'position', label: 'Position', nature: 'data', words: ['position'] },
  { id: 'alpha', label: 'Alpha', nature: 'data', words: ['alpha'] },
  { id: 'wireframe', label: 'Wireframe', nature: 'light', words: ['wireframe'] },
  { id: 'beauty', label: 'Beauty', nature: 'light', words: ['beauty', 'beauty total'] },
  { id: 'other-light', label: 'Other light', nature: 'light', words: [] },
  { id: 'picture', label: 'Picture', nature: 'light', words: [] },
] as const satisfies readonly RoleRow[];

export type RoleId = (typeof rows)[number]['id'];
export const roles: readonly (RoleRow & { readonly id: RoleId })[] = rows;
const byId = new Map<string, RoleRow>(rows.map((role) => [role.id, role]));

export const isRoleId = (id: string): id is RoleId => byId.has(id);
export const roleLabel = (id: RoleId): string => byId.get(id)?.label ?? id;
export const roleNature = (id: RoleId): 'light' | 'data' => byId.get(id)?.nature ?? 'light';

export interface RoleGuess {
  readonly role: RoleId;
  /** For people: what decided. */
  readonly reason: string;
  /** 0…1; below a half somebody should look. */
  readonly confidence: number;
}

/** A role that was corrected once: names with all of these words have it from then on. */
export interface RoleRule {
  readonly words: readonly string[];
  readonly role: RoleId;
}

/** The rule that a correction teaches: the words of the name without numbers. Null if the name has none. */
export function ruleFor(name: string, role: RoleId): RoleRule | null {
  const words = [...new Set(wordsOf(name).filter((word) => !/^\d+$/.test(word)))];
  return words.length === 0 ? null : { words, role };
}

/** Rules with one more; it takes the place of one for the same words. */
export const withRule = (rules: readonly RoleRule[], rule: RoleRule): RoleRule[] => [...rules.filter((other) => other.words.toSorted().join() !== rule.words.toSorted().join()), rule];

/** Words that may stand for several things when they are alone. */
const VAGUE = new Set(['diffuse', 'filter', 'light', 'lighting', 'ambient', 'id', 'mask', 'environment', 'alpha', 'denoised']);

/** What a name alone says. */
function roleByName(name: string): RoleGuess | null {
  const { known, unknown } = vocabularyOf(name);
  const words = new Set(known);
  let best: { role: RoleId; set: readonly string[] } | null = null;
  for (const role of rows) {
    for (const text of role.words) {
      const set = text.split(' ');
      if (set.every((word) => words.has(word)) && (best === null || set.length > best.set.length)) best = { role: role.id, set };
    }
  }
  if (!best) return null;
  const { role, set } = best;
  // `light_sun`: a light with a name of its own is one of several.
  if (role === 'direct-lighting' && set.join() === 'light' && (unknown > 0 || words.has('environment') || /\d/.test(name))) return { role: 'light-group', reason: 'the name says “light” and which one', confidence: 0.6 };
  // `render_gi`: “render” and the like stand beside anything.
  const others = [...words].filter((word) => !set.includes(word) && word !== 'beauty').length;
  const confidence = Math.max(0.3, (set.length === 1 && VAGUE.has(set[0]) ? 0.55 : 0.95) - 0.15 * others);
  return { role, reason: `the name says “${set.join(' ')}”`, confidence };
}

/**
 * Guesses a role: by the artist's own rules, by the words of the name in any order, and by what the pixels look like.
 * Pixels decide where the name says nothing, and raise or lower how sure one may be.
 */
export function guessRole(name: string, facts: ContentFacts | null = null, rules: readonly RoleRule[] = []): RoleGuess {
  const ownWords = new Set(wordsOf(name));
  const rule = rules.filter(({ words }) => words.every((word) => ownWords.has(word))).sort((a, b) => b.words.length - a.words.length)[0];
  if (rule) return { role: rule.role, reason: `your rule for “${rule.words.join(' ')}”`, confidence: 1 };
  const byName = roleByName(name);
  const byContent = facts && roleByContent(facts);
  if (!byName) return byContent ?? { role: 'picture', reason: 'no word of the name is known', confidence: 0.3 };
  if (!byContent) return byName;
  if (byContent.role === byName.role) return { ...byName, reason: `${byName.reason}, and ${byContent.reason}`, confidence: Math.min(1, byName.confidence + 0.3) };
  if (byName.confidence < 0.6 && byContent.confidence > byName.confidence) return byContent;
  return byName;
}

/** The encoding an element most likely has: data by role, otherwise light in float files and display in integer ones. */
export function guessEncoding(role: RoleId, samples: 'float' | 'integer'): Encoding {
  if (roleNature(role) === 'data') return 'data';
  return samples === 'float' ? 'linear' : 'display';
}
