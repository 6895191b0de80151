/** The role of an element from the artist's own rules, the words of its name, and what its pixels look like. */
import { type ContentFacts, roleByContent } from './content.ts';
import { type RoleGuess, type RoleId, roles } from './roles.ts';
import { vocabularyOf, wordsOf } from './words.ts';

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
  for (const role of roles) {
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
