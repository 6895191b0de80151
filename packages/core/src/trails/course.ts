/** A course on level ground: a smooth curve through places, by the metres along it. */

/** On the plan: metres to the east and to the south. */
export type OnPlan = readonly [x: number, z: number];

/** A place on the course, and the direction in which one drives there, of length 1. */
export interface Driven {
  readonly at: OnPlan;
  readonly ahead: OnPlan;
}
export interface Course {
  readonly metres: number;
  /** Beyond its ends it goes straight on. */
  readonly at: (metres: number) => Driven;
}

/** So many straight pieces between two of its places. */
const PIECES = 32;
/** Places nearer than this are one. */
const LEAST_METRES = 1e-3;

/**
 * The curve passes through all places, never makes a loop between two, and has no corner.
 * @source P. J. Barry, R. N. Goldman, “A recursive evaluation algorithm for a class of Catmull-Rom splines” (SIGGRAPH 1988); centripetal knots: C. Yuksel, S. Schaefer, J. Keyser, “Parameterization and applications of Catmull–Rom curves” (2011)
 * @returns null if there are not two places
 */
export function courseThrough(places: readonly OnPlan[]): Course | null {
  const points = places.filter((place, i) => i === 0 || apart(place, places[i - 1]) > LEAST_METRES);
  if (points.length < 2) return null;
  const fine: OnPlan[] = [points[0]];
  // Beyond its ends the curve is led by mirrored neighbours.
  const beyond = (end: OnPlan, next: OnPlan): OnPlan => [2 * end[0] - next[0], 2 * end[1] - next[1]];
  const led = [beyond(points[0], points[1]), ...points, beyond(points[points.length - 1], points[points.length - 2])];
  for (let k = 1; k < led.length - 2; k++) for (let n = 1; n <= PIECES; n++) fine.push(between(led[k - 1], led[k], led[k + 1], led[k + 2], n / PIECES));
  const along = new Float64Array(fine.length);
  for (let i = 1; i < fine.length; i++) along[i] = along[i - 1] + apart(fine[i - 1], fine[i]);
  const metres = along[fine.length - 1];
  const at = (wanted: number): Driven => {
    let [low, high] = [0, fine.length - 1];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (along[middle] <= wanted) low = middle;
      else high = middle;
    }
    const [from, to] = [fine[low], fine[high]];
    const length = along[high] - along[low];
    const ahead: OnPlan = [(to[0] - from[0]) / length, (to[1] - from[1]) / length];
    const way = wanted - along[low];
    return { at: [from[0] + ahead[0] * way, from[1] + ahead[1] * way], ahead };
  };
  return { metres, at };
}

const apart = (one: OnPlan, other: OnPlan): number => Math.hypot(other[0] - one[0], other[1] - one[1]);
const mixed = (one: OnPlan, other: OnPlan, share: number): OnPlan => [one[0] + (other[0] - one[0]) * share, one[1] + (other[1] - one[1]) * share];

/** The piece from b to c at t of 0…1, by Barry and Goldman's pyramid with knots at roots of distances. */
function between(a: OnPlan, b: OnPlan, c: OnPlan, d: OnPlan, t: number): OnPlan {
  const knots = [0, 0, 0, 0];
  for (const [i, [from, to]] of [[a, b], [b, c], [c, d]].entries()) knots[i + 1] = knots[i] + Math.sqrt(apart(from, to));
  const [ta, tb, tc, td] = knots;
  const u = tb + (tc - tb) * t;
  const [one, two, three] = [mixed(a, b, (u - ta) / (tb - ta)), mixed(b, c, (u - tb) / (tc - tb)), mixed(c, d, (u - tc) / (td - tc))];
  return mixed(mixed(one, two, (u - ta) / (tc - ta)), mixed(two, three, (u - tb) / (td - tb)), (u - tb) / (tc - tb));
}
