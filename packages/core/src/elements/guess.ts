/** The role of an element from the artist's own rules, the words of its name, and what its pixels look like. */
import { type ContentFacts, roleByContent } from './content.ts';
import { type RoleGuess, type RoleId, roleNature, roles } from './roles.ts';
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

const BEAUTIES = new Set<RoleId>(['beauty', 'denoised-beauty']);

/** Words that may stand for several things when they are alone. */
const VAGUE = new Set(['diffuse', 'filter', 'light', 'lighting', 'ambient', 'id', 'mask', 'environment', 'alpha', 'denoised']);

/**
 * How many words all names of a set begin with, as far as these are a title and say nothing: the name of a project called “evening light” or “mirror
 * lake”. They are one if most of the names say what they are without them; else they are what the set is about, as in `light_sun`, `light_lamp`.
 */
export function titleLength(names: readonly string[]): number {
  if (names.length < 2) return 0;
  const [first, ...others] = names.map(wordsOf);
  let shared = 0;
  while (shared < first.length && others.every((words) => words[shared] === first[shared])) shared++;
  const telling = names.filter((name) => (roleByName(name, shared)?.confidence ?? 0) >= 0.6).length;
  return telling * 2 > names.length ? shared : 0;
}

/** What a name alone says behind its first `title` words. */
function roleByName(name: string, title = 0): RoleGuess | null {
  const { known, unknown } = vocabularyOf(name, title);
  const words = new Set(known);
  const fitting = roles.flatMap((role) => role.words.map((text) => ({ role: role.id, set: text.split(' ') })).filter(({ set }) => set.every((word) => words.has(word))));
  // A denoised reflection is a reflection: the beauty is what is denoised where nothing else is said.
  const told = fitting.some(({ role }) => !BEAUTIES.has(role)) ? fitting.filter(({ role }) => !BEAUTIES.has(role) || role === 'beauty') : fitting;
  const most = Math.max(0, ...told.map(({ set }) => set.length));
  const longest = told.filter(({ set }) => set.length === most);
  const best = longest.find(({ role }) => role !== 'beauty') ?? longest[0];
  if (!best) return null;
  const { role, set } = best;
  // Words of two roles that are equally far apart from each other are a question.
  const rivals = longest.filter((other) => other.role !== role && other.role !== 'beauty' && !other.set.some((word) => VAGUE.has(word) || set.includes(word)));
  if (rivals.length > 0 && set.length === 1 && !VAGUE.has(set[0])) return { role, reason: `the name says “${set[0]}” and “${rivals[0].set.join(' ')}”`, confidence: 0.4 };
  // `light_sun`: a light with a name of its own is one of several.
  if (role === 'direct-lighting' && set.join() === 'light' && (unknown > 0 || words.has('environment') || /\d/.test(name))) return { role: 'light-group', reason: 'the name says “light” and which one', confidence: 0.6 };
  // `render_gi`: “render” and the like stand beside anything.
  const others = [...words].filter((word) => !set.includes(word) && word !== 'beauty').length;
  const confidence = Math.max(0.3, (set.length === 1 && VAGUE.has(set[0]) ? 0.55 : 0.95) - 0.15 * others);
  return { role, reason: `the name says “${set.join(' ')}”`, confidence };
}

/**
 * Guesses a role: by the artist's own rules, by the words of the name in any order, and by what the pixels look like.
 * Pixels decide where the name says nothing, and raise or lower how sure one may be. The first `title` words of the name say nothing, see `titleLength`.
 */
export function guessRole(name: string, facts: ContentFacts | null = null, rules: readonly RoleRule[] = [], title = 0): RoleGuess {
  const ownWords = new Set(wordsOf(name));
  const rule = rules.filter(({ words }) => words.every((word) => ownWords.has(word))).sort((a, b) => b.words.length - a.words.length)[0];
  if (rule) return { role: rule.role, reason: `your rule for “${rule.words.join(' ')}”`, confidence: 1 };
  const byName = roleByName(name, title);
  const byContent = facts && roleByContent(facts);
  if (!byName) return byContent ?? { role: 'picture', reason: 'no word of the name is known', confidence: 0.3 };
  if (!byContent) return byName;
  if (byContent.role === byName.role) return { ...byName, reason: `${byName.reason}, and ${byContent.reason}`, confidence: Math.min(1, byName.confidence + 0.3) };
  // Dark light in eight bits looks like flat colours: a name that speaks of light is not overruled by what looks like numbers.
  const isClear = roleNature(byName.role) === 'light' && roleNature(byContent.role) === 'data' && !byName.reason.includes('“environment”');
  if (byName.confidence < 0.6 && byContent.confidence > byName.confidence && !isClear) return byContent;
  return byName;
}
