/**
 * How a Gaussian blur is made: small widths are convolved as they are. Larger ones are reduced first, so that the convolution stays small,
 * and enlarged again; the time does not grow with the width.
 *
 * Reducing by the weights 1 3 3 1 adds a variance of 3/4 of a pixel for each halving, enlarging by the cubic B-spline 1/3 of a pixel of
 * the reduced picture; the convolution between them has what is missing. Sum of variances: two Gaussians in turn are one of the summed
 * variance. @source R. Szeliski, “Computer Vision: Algorithms and Applications”, 2nd ed. 2022, 3.5 (pyramids); M. Unser, IEEE Signal
 * Processing Magazine 16(6), 1999 (B-splines)
 */
const LEAST_SIGMA = 2.5;
/** Neighbours of a pixel then weigh less than 4e-6. */
const NEGLIGIBLE_SIGMA = 0.2;
/** Sampled out to here; what is left out is 6e-5 of the whole. */
const REACH_IN_SIGMAS = 4;

export interface GaussianPhases {
  /** Halvings before the convolution. */
  readonly coarser: number;
  /** Of the convolution, in pixels of the reduced picture; 0 if nothing needs to be done. */
  readonly sigmaPx: number;
}

/** @param sigmaPx at the level that is computed */
export function gaussianPhases(sigmaPx: number): GaussianPhases {
  if (!(sigmaPx >= NEGLIGIBLE_SIGMA)) return { coarser: 0, sigmaPx: 0 };
  const coarser = Math.max(0, Math.floor(Math.log2(sigmaPx / LEAST_SIGMA)));
  if (coarser === 0) return { coarser, sigmaPx };
  const area = 4 ** coarser;
  return { coarser, sigmaPx: Math.sqrt((sigmaPx ** 2 - (area - 1) / 4) / area - 1 / 3) };
}

/** Weights of a sampled Gaussian that sum to 1, from the outermost to the middle and out again. */
export function gaussianWeights(sigmaPx: number): Float32Array {
  const radius = gaussianRadius(sigmaPx);
  const raw = Array.from({ length: 2 * radius + 1 }, (_, i) => Math.exp(-((i - radius) ** 2) / (2 * sigmaPx ** 2)));
  const total = raw.reduce((a, b) => a + b, 0);
  return Float32Array.from(raw, (weight) => weight / total);
}

/** How many pixels beyond its own a Gaussian reads; whole, for a σ of 0 or more. */
export const gaussianRadius = (sigmaPx: number): number => Math.ceil(REACH_IN_SIGMAS * sigmaPx);
