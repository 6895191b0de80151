/** Planes seen from somewhere else: maps of the plane onto itself that keep lines straight. */

/** Nine numbers row by row: (x, y, 1) becomes (a, b, c), which is the place (a ÷ c, b ÷ c). */
export type Homography = readonly number[];
type Point = readonly [x: number, y: number];

/** Determinants below this share of the largest number are none. */
const LEAST = 1e-12;
/** A map that makes a square of about one as small as this has none. */
const LEAST_AREA = 1e-9;

/** Solves rows · x = right by elimination with pivots; null if the rows do not say enough. */
function solved(rows: number[][], right: number[]): number[] | null {
  const n = rows.length;
  for (let k = 0; k < n; k++) {
    let best = k;
    for (let i = k + 1; i < n; i++) if (Math.abs(rows[i][k]) > Math.abs(rows[best][k])) best = i;
    if (!(Math.abs(rows[best][k]) > LEAST)) return null;
    [rows[k], rows[best], right[k], right[best]] = [rows[best], rows[k], right[best], right[k]];
    for (let i = k + 1; i < n; i++) {
      const by = rows[i][k] / rows[k][k];
      for (let j = k; j < n; j++) rows[i][j] -= by * rows[k][j];
      right[i] -= by * right[k];
    }
  }
  for (let k = n - 1; k >= 0; k--) right[k] = (right[k] - rows[k].slice(k + 1).reduce((sum, value, j) => sum + value * right[k + 1 + j], 0)) / rows[k][k];
  return right.every(Number.isFinite) ? right : null;
}

/**
 * The map that takes some places to others: of four pairs with no three in a line a homography, of three an affine map. Null if there is none.
 * @source R. Hartley and A. Zisserman, Multiple View Geometry in Computer Vision, 2nd ed., 2004, 4.1 (inhomogeneous solution)
 */
export function homographyOf(from: readonly Point[], to: readonly Point[]): Homography | null {
  const isWhole = from.length === 4;
  if (from.length !== to.length || (from.length !== 3 && !isWhole)) return null;
  // Numbers of about one are solved well, whatever the places are measured in.
  const [before, after] = [spreadOf(from), spreadOf(to)];
  if (!before || !after) return null;
  const rows: number[][] = [];
  const right: number[] = [];
  for (const [i, place] of from.entries()) {
    const [x, y] = applied(before.to, place) as Point;
    const [u, v] = applied(after.to, to[i]) as Point;
    rows.push([x, y, 1, 0, 0, 0, ...(isWhole ? [-u * x, -u * y] : [])], [0, 0, 0, x, y, 1, ...(isWhole ? [-v * x, -v * y] : [])]);
    right.push(u, v);
  }
  const made = solved(rows, right);
  if (!made) return null;
  const near = [...made, ...(isWhole ? [] : [0, 0]), 1];
  // Places in a line have maps, too, but no way back.
  if (!(Math.abs(determinant(near)) > LEAST_AREA)) return null;
  return chained(after.back, chained(near, before.to));
}

/** Moves places about their middle into a square of about one, and back. */
function spreadOf(places: readonly Point[]): { readonly to: Homography; readonly back: Homography } | null {
  const middle = [0, 1].map((c) => places.reduce((sum, place) => sum + place[c], 0) / places.length);
  const wide = Math.max(...places.flatMap(([x, y]) => [Math.abs(x - middle[0]), Math.abs(y - middle[1])]));
  return wide > 0 && Number.isFinite(wide) ? { to: [1 / wide, 0, -middle[0] / wide, 0, 1 / wide, -middle[1] / wide, 0, 0, 1], back: [wide, 0, middle[0], 0, wide, middle[1], 0, 0, 1] } : null;
}

/** Where a place goes; null if that is beyond the line that is infinitely far. */
export function applied(map: Homography, [x, y]: Point): Point | null {
  const share = map[6] * x + map[7] * y + map[8];
  return share > 0 ? [(map[0] * x + map[1] * y + map[2]) / share, (map[3] * x + map[4] * y + map[5]) / share] : null;
}

/** First the inner map, then the outer one. */
export const chained = (outer: Homography, inner: Homography): Homography => [0, 3, 6].flatMap((row) => [0, 1, 2].map((column) => outer[row] * inner[column] + outer[row + 1] * inner[column + 3] + outer[row + 2] * inner[column + 6]));

const determinant = (m: Homography): number => m[0] * (m[4] * m[8] - m[5] * m[7]) - m[1] * (m[3] * m[8] - m[5] * m[6]) + m[2] * (m[3] * m[7] - m[4] * m[6]);

/** The way back. Its last number has the sign that keeps places before the line that is infinitely far. */
export function inverted(m: Homography): Homography {
  const by = 1 / determinant(m);
  return [m[4] * m[8] - m[5] * m[7], m[2] * m[7] - m[1] * m[8], m[1] * m[5] - m[2] * m[4], m[5] * m[6] - m[3] * m[8], m[0] * m[8] - m[2] * m[6], m[2] * m[3] - m[0] * m[5], m[3] * m[7] - m[4] * m[6], m[1] * m[6] - m[0] * m[7], m[0] * m[4] - m[1] * m[3]].map((value) => value * by);
}

/** Whether four places, given as upper left, upper right, lower left and lower right, lie around an area without a dent. Either way round. */
export function isConvex([a, b, c, d]: readonly Point[]): boolean {
  const round = [a, b, d, c];
  const turns = round.map(([x, y], i) => {
    const [x1, y1] = round[(i + 1) % 4];
    const [x2, y2] = round[(i + 2) % 4];
    return (x1 - x) * (y2 - y1) - (y1 - y) * (x2 - x1);
  });
  return turns.every((turn) => turn > 0) || turns.every((turn) => turn < 0);
}
