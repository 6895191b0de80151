/** What shapes have in common: they are given in pixels of the full picture and read at the centres of a level's pixels. */
import type { ShapeTerm } from '../document/model.ts';
import type { ParamTable } from '../corrections/define.ts';
import { type FillRow, type MaskInputs, number, paramsOf, type TermOf, type TermSpec } from './define.ts';

export const softPx = number('Soft', 'px', 0, 20_000, 60, 5, 0, 'How wide the edge is, in pixels of the full picture.', [0, 600]);

interface ShapeSpec<K extends ShapeTerm['kind']> {
  readonly kind: K;
  readonly label: string;
  readonly summary: string;
  readonly params: ParamTable;
  readonly points: { readonly least: number; readonly most: number };
  /** Coverage at a place of the full picture. `pixelPx` is how large a pixel of the level is there. */
  readonly shape: (points: ShapeTerm['points'], params: Readonly<Record<string, number>>, pixelPx: number) => (x: number, y: number) => number;
}

export function shapeTerm<K extends ShapeTerm['kind']>({ points, shape, ...spec }: ShapeSpec<K>): TermSpec<K> {
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
      const coverage = shape(term.points, paramsOf(spec, term.params), scale);
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
