/**
 * Elements under the light of the board. Light groups and elements are two splits of one beauty: a share of the element in the sum of all of them is its share of the relit picture, pixel by pixel and channel by
 * channel. The sum is exact; that each kind of light follows the whole is an estimate, since a lamp that is raised may be seen more in reflections than the mean of all lamps is.
 *
 * relit element = (element + FLOOR ⁄ n) × relit ⁄ (Σ elements + FLOOR), for n elements
 *
 * so that the sum is the relit picture also where the elements hold no light to divide by: there all have equal parts. Common practice (ratio images), no published source for the floor.
 */
import { rebuildSet, type RebuildTerm } from '../elements/rebuild-set.ts';
import type { TazzelDocument } from '../model/model.ts';
import { groupsOf } from './board.ts';
import { remembered } from '../remembered.ts';

/** Far below what a picture shows, and above what counts as black where light is divided. */
export const FLOOR = 2 ** -18;

const termsOf = remembered((sources: TazzelDocument['sources']): readonly RebuildTerm[] => rebuildSet(sources, 'elements')?.terms ?? []);

/** The elements that sum to the beauty, filter and raw as one summand. */
export const elementTerms = ({ sources }: Pick<TazzelDocument, 'sources'>): readonly RebuildTerm[] => termsOf(sources);

/**
 * The part of FLOOR that an element gets; null if it is not in the sum. Raw light gets none: what it is multiplied with is not known to be there.
 */
export function partInSum(document: Pick<TazzelDocument, 'sources'>, sourceId: string): number | null {
  const terms = elementTerms(document);
  const own = terms.find(({ sourceIds }) => sourceIds.at(-1) === sourceId);
  if (!own) return null;
  return own.sourceIds.length > 1 ? 0 : FLOOR / terms.filter(({ sourceIds }) => sourceIds.length === 1).length;
}

/** All elements that lighting one by the board reads: the groups, and what adds up to the beauty. */
export const litBy = (document: Pick<TazzelDocument, 'sources'>): readonly string[] => [...groupsOf(document).map(({ id }) => id), ...elementTerms(document).flatMap(({ sourceIds }) => sourceIds)];
