/** Which elements make up the sum that should equal the beauty. The choice is common practice, no published source. */
import { LIGHTS } from './vocabulary.ts';
import type { Source } from '../model/model.ts';
import { type RoleId, roleLabel } from './roles.ts';
import { wordsOf } from './words.ts';

/** One summand: an element, or a filter multiplied by its raw light. */
export interface RebuildTerm {
  readonly label: string;
  /** One source, or filter and raw. */
  readonly sourceIds: readonly string[];
}

export type RebuildSplit = 'elements' | 'lights';
/** For light that was delivered both ways: as the lit element, or as filter × raw. */
export type RebuildPairs = 'lit' | 'filter-raw';

export interface RebuildSet {
  readonly split: RebuildSplit;
  readonly target: Source;
  readonly terms: readonly RebuildTerm[];
  /** Summands that the set holds and that do not count by themselves. */
  readonly spare: readonly RebuildTerm[];
  /** Kinds of light that usually take part and are not there. */
  readonly missing: readonly MissingLight[];
}

export interface MissingLight {
  /** A role, or a kind of light group. */
  readonly id: RoleId | 'sun' | 'environment' | 'rest';
  readonly label: string;
}

/** Light that most scenes have, by the words that groups of it are called with. */
const USUAL_LIGHTS: readonly (MissingLight & { readonly words: readonly string[] })[] = [
  { id: 'sun', label: 'The group of the sun', words: LIGHTS.sun },
  { id: 'environment', label: 'The group of the sky or the environment', words: LIGHTS.environment },
  { id: 'self-illumination', label: 'The group of surfaces that shine', words: LIGHTS.emission },
  { id: 'rest', label: 'The rest group', words: LIGHTS.rest },
];

interface AdditiveRole {
  readonly role: RoleId;
  readonly filter?: RoleId;
  readonly raw?: RoleId;
  /** Laid over the light when it was there: whether it was, only pixels say. */
  readonly isLaidOver?: true;
  /** Renders of matt scenes do without the rest. */
  readonly usual: boolean;
}

const ADDITIVE: readonly AdditiveRole[] = [
  { role: 'direct-lighting', filter: 'diffuse-filter', raw: 'raw-lighting', usual: true },
  { role: 'gi', filter: 'diffuse-filter', raw: 'raw-gi', usual: true },
  { role: 'reflection', filter: 'reflection-filter', raw: 'raw-reflection', usual: true },
  { role: 'refraction', filter: 'refraction-filter', raw: 'raw-refraction', usual: true },
  { role: 'specular', usual: true },
  { role: 'self-illumination', usual: true },
  { role: 'subsurface', usual: false },
  { role: 'caustics', usual: false },
  { role: 'atmosphere', usual: false },
  { role: 'glare', isLaidOver: true, usual: false },
  { role: 'background', usual: true },
  { role: 'other-light', usual: false },
];

export const isAdditive = (role: RoleId): boolean => role === 'light-group' || ADDITIVE.some((row) => row.role === role || row.raw === role);

/** Finished renders that elements may sum to, noisy ones first: which one it is, the pixels say. */
const beauties = (sources: readonly Source[]): Source[] => (['beauty', 'denoised-beauty'] as const).flatMap((role) => sources.filter((source) => source.role === role));

/** What belongs into the sum, for each beauty that it may be compared with; empty without a beauty, or with nothing to add up. */
export const rebuildSets = (sources: readonly Source[], split: RebuildSplit, pairs: RebuildPairs = 'lit'): RebuildSet[] =>
  beauties(sources).flatMap((target) => setFor(target, sources, split, pairs) ?? []);

/** The first of them, which holds as long as no pixel was compared. */
export const rebuildSet = (sources: readonly Source[], split: RebuildSplit, pairs: RebuildPairs = 'lit'): RebuildSet | null => rebuildSets(sources, split, pairs)[0] ?? null;

/**
 * By roles and by what the artist said. Light from another render of the view (fog) cannot be told by its role: it does not count if the name of its
 * file says so.
 */
function setFor(target: Source, sources: readonly Source[], split: RebuildSplit, pairs: RebuildPairs): RebuildSet | null {
  const terms: RebuildTerm[] = [];
  const spare: RebuildTerm[] = [];
  const missing: MissingLight[] = [];
  const single = (source: Source): RebuildTerm => ({ label: source.name, sourceIds: [source.id] });
  const counts = (source: Source) => source.inSum !== 'out';
  if (split === 'lights') {
    for (const source of sources) if (source.role === 'light-group') (counts(source) ? terms : spare).push(single(source));
    const named = new Set([...terms, ...spare].flatMap(({ label }) => wordsOf(label)));
    missing.push(...USUAL_LIGHTS.filter(({ words }) => !words.some((word) => named.has(word))));
  } else {
    for (const { role, filter, raw, isLaidOver, usual } of ADDITIVE) {
      const lit = sources.filter((source) => source.role === role);
      const filters = filter ? sources.filter((source) => source.role === filter) : [];
      const raws = raw ? sources.filter((source) => source.role === raw) : [];
      const products = filters.length === 0 ? [] : raws.map((source) => ({ label: `${filters[0].name} × ${source.name}`, sourceIds: [filters[0].id, source.id], raw: source }));
      const litCounts = lit.some(counts);
      const byProduct = products.some((product) => counts(product.raw)) && (!litCounts || pairs === 'filter-raw');
      for (const source of lit) (counts(source) && !(byProduct && source.inSum === 'auto') && (source.inSum === 'in' || (!isLaidOver && (role !== 'atmosphere' || comesWith(source, target)))) ? terms : spare).push(single(source));
      for (const { raw: source, ...term } of products) (counts(source) && (byProduct || source.inSum === 'in') ? terms : spare).push(term);
      if (usual && lit.length === 0 && products.length === 0) missing.push({ id: role, label: roleLabel(role) });
    }
    // Elements whose name says nothing may be the light that is missing.
    for (const source of sources) if (source.role === 'picture' && source.encoding !== 'data' && source.colorChannels.length === 3) spare.push(single(source));
  }
  return terms.length === 0 ? null : { split, target, terms, spare, missing };
}

/** Fog is often rendered apart, and then says so in the name of its file. */
function comesWith({ file }: Source, target: Source): boolean {
  const speaksOfFog = (name: string) => wordsOf(name).some((word) => ['fog', 'mist', 'haze'].includes(word));
  return file.hash === target.file.hash || !speaksOfFog(file.name) || speaksOfFog(target.file.name);
}
