/** Resampling filters, for layers that are placed and pictures that are delivered at another size: how much a sample weighs at a distance. */

export const RESAMPLING_FILTERS = ['mitchell', 'lanczos'] as const;
export type FilterId = (typeof RESAMPLING_FILTERS)[number];

export interface ResamplingFilter {
  readonly label: string;
  readonly hint: string;
  /** Samples farther away than this weigh nothing. */
  readonly radius: number;
  /** @param x distance in samples */
  readonly weight: (x: number) => number;
}

/** The family of Mitchell and Netravali. @source D. Mitchell, A. Netravali, “Reconstruction Filters in Computer Graphics”, SIGGRAPH 1988 */
export const cubic = (b: number, c: number) => (x: number) => {
  const t = Math.abs(x);
  if (t < 1) return ((12 - 9 * b - 6 * c) * t ** 3 + (-18 + 12 * b + 6 * c) * t ** 2 + (6 - 2 * b)) / 6;
  if (t < 2) return ((-b - 6 * c) * t ** 3 + (6 * b + 30 * c) * t ** 2 + (-12 * b - 48 * c) * t + (8 * b + 24 * c)) / 6;
  return 0;
};

const sinc = (x: number) => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x));

export const resamplingFilters: Readonly<Record<FilterId, ResamplingFilter>> = {
  mitchell: { label: 'Mitchell', hint: 'Soft, without rings around edges.', radius: 2, weight: cubic(1 / 3, 1 / 3) },
  // @source C. E. Duchon, “Lanczos Filtering in One and Two Dimensions”, Journal of Applied Meteorology 18, 1979
  lanczos: { label: 'Lanczos 3', hint: 'Sharper; hard edges may get a faint ring.', radius: 3, weight: (x) => (Math.abs(x) < 3 ? sinc(x) * sinc(x / 3) : 0) },
};

const STEPS = 256;

/** Weights for distances 0, 1/256, 2/256 … up to the radius, and a zero behind them: what lies between is read between. */
export function filterTable({ radius, weight }: ResamplingFilter): Float32Array {
  return Float32Array.from({ length: radius * STEPS + 2 }, (_, i) => (i >= radius * STEPS ? 0 : weight(i / STEPS)));
}

/** The weight at a distance, from its table. */
export function tableWeight(table: Float32Array, x: number): number {
  const at = Math.abs(x) * STEPS;
  const i = Math.floor(at);
  return i + 1 >= table.length ? 0 : table[i] + (at - i) * (table[i + 1] - table[i]);
}
