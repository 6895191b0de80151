/** The rebuild check in sentences. */
import { type RebuildFigures, verdictOf } from './rebuild-figures.ts';
import type { RebuildGuess } from './rebuild-search.ts';
import type { RebuildSet } from './rebuild-set.ts';

const percent = (share: number) => `${(100 * share).toLocaleString('en', { maximumSignificantDigits: 2 })} %`;
const list = (items: readonly string[]) => (items.length < 3 ? items.join(' or ') : `${items.slice(0, -1).join(', ')} or ${items.at(-1)}`);

/** A change with what is left after it. */
export type MeasuredGuess = RebuildGuess & { readonly figures: RebuildFigures };

/** What a change says, as a sentence. It only says that the sum fits where it does. */
export function guessSentence({ kind, label, factor, shift, figures }: MeasuredGuess): string {
  const after = verdictOf(figures, false);
  const fits = after !== 'off';
  const then = fits ? `the sum ${after === 'nearly' ? 'nearly ' : ''}fits` : `the sum comes nearer, but ${percent(figures.meanError)} are left`;
  const because = (reason: string) => (fits ? `: ${reason}.` : `: ${reason}, and something else is wrong as well.`);
  switch (kind) {
    case 'without':
      return `Without ${label} ${then}${because('the beauty does not contain it, or another element contains it as well')}`;
    case 'double':
      return `With ${label} taken twice ${then}${because('it was saved at half its light, or a second one like it is missing')}`;
    case 'factor':
      return `With ${label} times ${factor.toFixed(3)} ${then}${because(`it was saved ${factor < 1 ? 'brighter' : 'darker'} than it took part in the beauty (by a factor of ${(1 / factor).toFixed(3)})`)}`;
    case 'encoding':
      return `With ${label} read in the other encoding ${then}${because('display values were taken for light, or light for display values')}`;
    case 'add':
      return `With ${label} in the sum ${fits ? `it ${after === 'nearly' ? 'nearly ' : ''}fits` : `it comes nearer, but ${percent(figures.meanError)} are left`}.`;
    case 'shift':
      return `With ${label} moved by ${shift.x}, ${shift.y} pixels ${then}${because('it was cropped, or rendered with another camera offset')}`;
    case 'glow':
      return `With glow around the lights ${then}: ${label} contains it already, and no element does. Render the beauty without glow, or build from the elements and add it last.`;
    default:
      return `The beauty is ${factor > 1 ? 'brighter' : 'darker'} than the sum everywhere, by ${Math.abs(Math.log2(factor)).toFixed(2)} stops: it was exposed after rendering.`;
  }
}

/** What may be missing, as far as the places where light is missing say it: background and what stands behind glass leave holes. */
function missingSentence({ missing, split }: RebuildSet, { inHoles }: RebuildFigures): string {
  const fitting = missing.filter(({ id }) => (id === 'background' ? inHoles > 0.5 : inHoles < 0.9 || id === 'refraction' || split === 'lights'));
  if (fitting.length === 0) return split === 'lights' ? 'A light group is missing.' : 'No single element explains it.';
  return `What is missing may be ${list(fitting.map(({ label }) => label.toLowerCase()))}: no ${split === 'lights' ? 'group is called so' : 'element has that role'}.`;
}

/** The verdict in words. `others`: beauties that the sum matches less. */
export function verdictSentence(set: RebuildSet, figures: RebuildFigures, guesses: readonly MeasuredGuess[], others: readonly { readonly label: string; readonly meanError: number }[] = []): string {
  const what = set.split === 'lights' ? `The ${set.terms.length} light groups` : `The ${set.terms.length} elements`;
  const verdict = verdictOf(figures, guesses.length > 0);
  const than = others.length === 0 ? '' : ` Less alike: ${others.map(({ label, meanError }) => `${label}, ${percent(meanError)} off`).join('; ')}.`;
  if (verdict === 'adds-up') return `${what} add up to ${set.target.name}: on average they differ by ${percent(figures.meanError)}.${than}`;
  const how = figures.bias < -0.0005 ? `too dark by ${percent(-figures.bias)}` : figures.bias > 0.0005 ? `too bright by ${percent(figures.bias)}` : 'off in places';
  if (guesses.length > 0) return `${what} ${verdict === 'nearly' ? 'nearly' : 'do not'} add up to ${set.target.name}: the sum is ${how}. ${guessSentence(guesses[0])}${than}`;
  if (verdict === 'nearly' && (set.missing.length === 0 || figures.bias > -0.0005)) return `${what} nearly add up to ${set.target.name}: on average they differ by ${percent(figures.meanError)}, which is normal with some materials.${than}`;
  const where = figures.meanError <= 0.03 ? ` It is off by up to ${percent(figures.largestError)}, at ${figures.largestAt.x}, ${figures.largestAt.y}.` : '';
  const why = figures.bias > 0.002 ? 'Something is in it twice.' : figures.bias < -0.0005 ? missingSentence(set, figures) : 'No single element explains it.';
  return `${what} do not ${verdict === 'nearly' ? 'quite ' : ''}add up to ${set.target.name}: the sum is ${how}.${where} ${why}${than}`;
}
