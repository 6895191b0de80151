/** What shapes have in common: they are given in pixels of the full picture and read at the centres of a level's pixels. */
import type { ShapeTerm } from '../document/model.ts';
import { number } from '../params/number.ts';
import { completeParams, type ParamTable, type ParamValues } from '../params/table.ts';
import type { FillRow, MaskInputs, TermOf, TermSpec } from './define.ts';

export const softPx = number({ label: 'Soft', unit: 'px', min: 0, max: 20_000, default: 60, step: 5, digits: 0, usual: [0, 600], help: 'How wide the edge is, in pixels of the full picture.' });

interface ShapeSpec<K extends ShapeTerm['kind'], P extends ParamTable> {
  readonly kind: K;
  readonly label: string;
  readonly summary: string;
  readonly params: P;
  readonly points: { readonly least: number; readonly most: number };
  /** Coverage at a place of the full picture. `pixelPx` is how large a pixel of the level is there. */
  readonly shape: (points: ShapeTerm['points'], params: ParamValues<P>, pixelPx: number) => (x: number, y: number) => number;
}

export function shapeTerm<K extends ShapeTerm['kind'], const P extends ParamTable>({ points, shape, ...spec }: ShapeSpec<K, P>): TermSpec<K> {
  const fits = (term: TermOf<K>) => term.points.length >= points.least && term.points.length <= points.most;
  return {
    ...spec,
    reads: null,
    areShares: false,
    needs: () => [],
    problem: (term) => (fits(term) ? null : `It has ${term.points.length} points, expected ${points.least === points.most ? points.least : `at least ${points.least}`}. Draw it again.`),
    prepare: (term, inputs: MaskInputs): FillRow => {
      if (!fits(term)) return (_, out) => void out.fill(0);
      const scale = 2 ** inputs.level;
      const coverage = shape(term.points, completeParams(spec, term.params) as ParamValues<P>, scale);
      return (y, out) => {
        for (let x = 0; x < out.length; x++) out[x] = coverage((x + 0.5) * scale, (y + 0.5) * scale);
      };
    },
    source: 'analytic geometry; common practice, no published source',
  };
}

/** Coverage from a distance to an edge (above 0 inside): a pixel wide at least, so that hard edges are smooth. */
export function edgeOf(soft: number, pixelPx: number): (distance: number) => number {
  const width = Math.max(soft, pixelPx);
  return (distance) => {
    const t = Math.min(1, Math.max(0, distance / width + 0.5));
    return soft > pixelPx ? t * t * (3 - 2 * t) : t;
  };
}
