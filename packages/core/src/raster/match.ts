/**
 * Two samples of pixels brought to agree by statistics: what must be done to one so that its white point, exposure, contrast and saturation are those of the other. The answer is a
 * colour decision (slope, power, saturation), so it can be read, changed and taken elsewhere.
 *
 * In logarithms a slope is a shift and a power a factor, so means and deviations tell both. Saturation is what else makes differences between channels larger than a power does: it is
 * taken out of the sample that is wanted, by bisection, until they agree.
 * @source E. Reinhard, M. Ashikhmin, B. Gooch, P. Shirley, “Color Transfer between Images”, IEEE Computer Graphics and Applications 21(5), 2001 (means and deviations in logarithms); ASC CDL 1.2,
 * 2009 (the order of slope, power, saturation)
 */
import { luminanceOf } from '../color/luminance.ts';
import type { Triple } from '../vector.ts';
import { counts, type Within } from './measure.ts';

export interface ColourMatch {
  readonly slope: Triple;
  readonly power: number;
  readonly saturation: number;
}

/** Darker than this logarithms say nothing. */
const DARKEST = 1e-4;
/** Fewer pixels are no sample. */
const FEWEST = 16;
const [LEAST_SATURATION, MOST_SATURATION] = [0.1, 4];

/** Pixels of a picture within a mask: red, green and blue of each in turn, not premultiplied. */
export function samplePixels(planes: Float32Array, mask: Within | null): Float32Array {
  const area = planes.length / 4;
  const isCounted = counts(planes, mask);
  const out = new Float32Array(3 * area);
  let count = 0;
  for (let i = 0; i < area; i++) {
    if (!isCounted(i)) continue;
    const alpha = planes[3 * area + i];
    for (let c = 0; c < 3; c++) out[count++] = planes[c * area + i] / alpha;
  }
  return out.subarray(0, count);
}

interface Logarithms {
  readonly count: number;
  readonly means: Triple;
  /** Of all three together, about their own means. */
  readonly deviation: number;
  /** Of red and of blue against green, together. */
  readonly differences: number;
}

/** @param saturation is taken out first: what is left had it before */
function logarithmsOf(pixels: Float32Array, saturation: number): Logarithms {
  let count = 0;
  const sums = [0, 0, 0];
  const squares = [0, 0, 0];
  const [apart, apartSquares] = [[0, 0], [0, 0]];
  for (let i = 0; i < pixels.length; i += 3) {
    const y = luminanceOf([pixels[i], pixels[i + 1], pixels[i + 2]]);
    const r = y + (pixels[i] - y) / saturation;
    const g = y + (pixels[i + 1] - y) / saturation;
    const b = y + (pixels[i + 2] - y) / saturation;
    if (!(r > DARKEST && g > DARKEST && b > DARKEST)) continue;
    const logs = [Math.log2(r), Math.log2(g), Math.log2(b)];
    for (let c = 0; c < 3; c++) {
      sums[c] += logs[c];
      squares[c] += logs[c] * logs[c];
    }
    const differences = [logs[0] - logs[1], logs[2] - logs[1]];
    for (let c = 0; c < 2; c++) {
      apart[c] += differences[c];
      apartSquares[c] += differences[c] * differences[c];
    }
    count++;
  }
  const variance = (square: number, sum: number) => Math.max(0, square / count - (sum / count) ** 2);
  return {
    count,
    means: [sums[0] / count, sums[1] / count, sums[2] / count],
    deviation: Math.sqrt(squares.reduce((total, square, c) => total + variance(square, sums[c]), 0) / 3),
    differences: Math.sqrt(apartSquares.reduce((total, square, c) => total + variance(square, apart[c]), 0)),
  };
}

/**
 * @param from pixels that are changed, red, green and blue in turn
 * @param to pixels that they shall agree with
 * @returns null if a sample holds too few pixels, or nothing but black
 */
export function colourMatch(from: Float32Array, to: Float32Array): ColourMatch | null {
  const own = logarithmsOf(from, 1);
  const at = (saturation: number): ColourMatch | null => {
    const wanted = logarithmsOf(to, saturation);
    if (own.count < FEWEST || wanted.count < FEWEST) return null;
    // Samples of one even colour each have no contrast to compare.
    const power = own.deviation > 0.02 && wanted.deviation > 0.02 ? Math.min(10, Math.max(0.1, wanted.deviation / own.deviation)) : 1;
    return { slope: [0, 1, 2].map((c) => 2 ** (wanted.means[c] / power - own.means[c])) as unknown as Triple, power, saturation };
  };
  // Above 0 the sample still differs more between channels than the power explains: it was saturated more.
  const excess = (saturation: number) => {
    const wanted = logarithmsOf(to, saturation);
    return wanted.differences / Math.max(1e-9, wanted.deviation) - own.differences / Math.max(1e-9, own.deviation);
  };
  if (!at(1)) return null;
  if (own.differences < 0.02 || logarithmsOf(to, 1).differences < 0.02) return at(1);
  let [low, high] = [LEAST_SATURATION, MOST_SATURATION];
  for (let i = 0; i < 18; i++) {
    const middle = Math.sqrt(low * high);
    if (excess(middle) > 0) low = middle;
    else high = middle;
  }
  return at(Math.sqrt(low * high)) ?? at(1);
}
