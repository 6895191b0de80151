/** What shapes have in common: they are given in pixels of the full picture and read at the centres of a level's pixels. */
import { number } from '../params/number.ts';
import type { Place, PlacesParam } from '../params/places.ts';
import type { ParamTable, ParamValues } from '../params/table.ts';
import { defineTerm, type FillRow, type TermSpec } from './define.ts';

export const softPx = number({ label: 'Soft', unit: 'px', min: 0, max: 20_000, default: 60, step: 5, digits: 0, usual: [0, 600], help: 'How wide the edge is, in pixels of the full picture.' });

interface ShapeSpec<P extends ParamTable> {
  readonly id: string;
  readonly label: string;
  readonly summary: string;
  readonly params: P;
  readonly points: PlacesParam;
  /** Where a new one lies, as shares of the picture's sides. */
  readonly begin: readonly Place[];
  /** Coverage at a place of the full picture. `pixelPx` is how large a pixel of the level is there. */
  readonly shape: (points: readonly Place[], params: ParamValues<P>, pixelPx: number) => (x: number, y: number) => number;
}

export function shapeTerm<const P extends ParamTable>({ points, begin, shape, params, ...spec }: ShapeSpec<P>): TermSpec {
  const pointsOf = (values: unknown) => (values as { points: readonly Place[] }).points;
  const { least, most } = points;
  const fits = (drawn: readonly Place[]) => drawn.length >= least && drawn.length <= most;
  return defineTerm<ParamTable>({
    ...spec,
    params: { points, ...params },
    reads: null,
    areShares: false,
    isSmooth: true,
    begin: ({ size }) => ({ points: begin.map(([x, y]) => [x * size.width, y * size.height] as const) }),
    needs: () => [],
    problem: (values) => (fits(pointsOf(values)) ? null : `It has ${pointsOf(values).length} points, expected ${least === most ? least : `at least ${least}`}. Draw it again.`),
    prepare: (values, inputs): FillRow => {
      if (!fits(pointsOf(values))) return (_, out) => void out.fill(0);
      const scale = 2 ** inputs.level;
      const coverage = shape(pointsOf(values), values as ParamValues<P>, scale);
      return (y, out) => {
        for (let x = 0; x < out.length; x++) out[x] = coverage((x + 0.5) * scale, (y + 0.5) * scale);
      };
    },
    source: 'analytic geometry; common practice, no published source',
  });
}

/** Coverage from a distance to an edge (above 0 inside): a pixel wide at least, so that hard edges are smooth. */
export function edgeOf(soft: number, pixelPx: number): (distance: number) => number {
  const width = Math.max(soft, pixelPx);
  return (distance) => {
    const t = Math.min(1, Math.max(0, distance / width + 0.5));
    return soft > pixelPx ? t * t * (3 - 2 * t) : t;
  };
}
