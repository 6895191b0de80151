/**
 * A smooth curve through points that neither overshoots them nor turns back between them.
 * @source M. Steffen, “A simple method for monotonic interpolation in one dimension”, Astronomy and Astrophysics 239, 1990; its slopes keep within three times
 * the secants, the condition of F. N. Fritsch, R. E. Carlson, “Monotone Piecewise Cubic Interpolation”, SIAM J. Numer. Anal. 17, 1980
 */

/** @param points x and y, x growing; at least one. Before the first and behind the last the curve is level. NaN gives NaN. */
export function monotoneCurve(points: readonly (readonly [x: number, y: number])[]): (x: number) => number {
  const last = points.length - 1;
  if (last === 0) return () => points[0][1];
  const secants = Array.from({ length: last }, (_, i) => (points[i + 1][1] - points[i][1]) / (points[i + 1][0] - points[i][0]));
  const inner = (i: number) => {
    const [before, after] = [secants[i - 1], secants[i]];
    const [h0, h1] = [points[i][0] - points[i - 1][0], points[i + 1][0] - points[i][0]];
    const parabola = (before * h1 + after * h0) / (h0 + h1);
    return (Math.sign(before) + Math.sign(after)) * Math.min(Math.abs(before), Math.abs(after), 0.5 * Math.abs(parabola));
  };
  const slopes = points.map((_, i) => (i === 0 || i === last ? 0 : inner(i)));
  // At the ends the curve leaves as a parabola would that has the slope of its neighbour.
  slopes[0] = last === 1 ? secants[0] : (3 * secants[0] - slopes[1]) / 2;
  slopes[last] = last === 1 ? secants[0] : (3 * secants[last - 1] - slopes[last - 1]) / 2;
  return (x) => {
    if (x <= points[0][0]) return points[0][1];
    if (x >= points[last][0]) return points[last][1];
    let i = 0;
    while (x > points[i + 1][0]) i++;
    const h = points[i + 1][0] - points[i][0];
    const t = (x - points[i][0]) / h;
    const u = 1 - t;
    return points[i][1] * (1 + 2 * t) * u * u + slopes[i] * h * t * u * u + points[i + 1][1] * (3 - 2 * t) * t * t - slopes[i + 1] * h * t * t * u;
  };
}
