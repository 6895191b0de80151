/** The opening of a lens as the picture of a point that is out of focus: which neighbours a pixel is made of, and to which share. */

export interface Aperture {
  readonly blades: number;
  /** How far the blades bow out: 0 is a polygon, 1 a circle. */
  readonly roundness: number;
  readonly rotationRadians: number;
  /** How much the barrel cuts off in the corners: by this part of its radius the opening is seen shifted behind the rim. */
  readonly catsEye: number;
}

/** Neighbours by their distance, and shares that sum to 1. The first `full` of them have the same one. */
export interface Taps {
  readonly full: number;
  readonly dx: Int32Array;
  readonly dy: Int32Array;
  readonly weights: Float32Array;
}

/** How many pixels away the farthest neighbour lies. */
export const reachOf = (radius: number): number => Math.max(0, Math.ceil(Math.abs(radius) - 0.5));

/** How far out the blades leave it open, of a radius of 1, at an angle clockwise from the top. */
export function edgeOf({ blades, roundness, rotationRadians }: Pick<Aperture, 'blades' | 'roundness' | 'rotationRadians'>, angle: number): number {
  const part = (2 * Math.PI) / blades;
  const turned = angle - rotationRadians;
  const within = turned - Math.floor(turned / part) * part;
  const side = Math.cos(part / 2) / Math.cos(within - part / 2);
  return side + (1 - side) * roundness;
}

/** Within the blades, which are open to a radius of 1. */
export function isOpen(blades: Pick<Aperture, 'blades' | 'roundness' | 'rotationRadians'>, x: number, y: number): boolean {
  const radius = Math.hypot(x, y);
  return radius <= 1 && (blades.roundness >= 1 || radius <= edgeOf(blades, Math.atan2(x, -y)));
}

/** Sides that a round opening is drawn with, at least. */
const SIDES = 96;

/** Corners of an opening of radius 1 around its middle; `field` is where the picture's place lies: 1 in the corners. Corners of blades are among them. */
function cornersOf(aperture: Aperture, [fieldX, fieldY]: readonly [number, number]): readonly (readonly [x: number, y: number])[] {
  const { blades, roundness, rotationRadians, catsEye } = aperture;
  const count = blades * Math.ceil(SIDES / blades);
  const [cx, cy] = [(catsEye * fieldX) / 2, (catsEye * fieldY) / 2];
  return Array.from({ length: count }, (_, n) => {
    const angle = rotationRadians + (n / count) * 2 * Math.PI;
    const [x, y] = [Math.sin(angle), -Math.cos(angle)];
    // The rim of the barrel, shifted one way in front and the other way behind.
    const along = Math.abs(cx * x + cy * y);
    const rim = Math.sqrt(1 - (cx ** 2 + cy ** 2) + along ** 2) - along;
    const r = Math.min(rim, roundness >= 1 ? 1 : edgeOf(aperture, angle));
    return [x * r, y * r];
  });
}

/**
 * Which part of each pixel of a square lies inside a polygon, in rows: exact areas, by what each side adds to all pixels on its right.
 * @source signed areas under edges, as outlines of letters are filled; common practice, e.g. R. Levien, font-rs, 2016
 */
function coverageOf(corners: readonly (readonly [x: number, y: number])[], side: number): Float64Array {
  const sums = new Float64Array(side * side);
  for (let n = 0; n < corners.length; n++) {
    const [from, to] = [corners[n], corners[n + 1 === corners.length ? 0 : n + 1]];
    const isDown = from[1] < to[1];
    const [upper, lower] = isDown ? [from, to] : [to, from];
    if (upper[1] === lower[1]) continue;
    const perRow = (lower[0] - upper[0]) / (lower[1] - upper[1]);
    for (let row = Math.floor(upper[1]); row < lower[1]; row++) {
      const [top, bottom] = [Math.max(row, upper[1]), Math.min(row + 1, lower[1])];
      const height = isDown ? top - bottom : bottom - top;
      const [first, last] = [upper[0] + (top - upper[1]) * perRow, upper[0] + (bottom - upper[1]) * perRow];
      const [left, right] = first < last ? [first, last] : [last, first];
      // What lies right of the side, pixel by pixel: its share, and from the next pixel on the rest.
      let before = 0;
      let x = Math.floor(left);
      do {
        const share = right > left ? rightOf(left, right, x) : x + 1 - left;
        if (x < side) sums[row * side + x] += height * (share - before);
        before = share;
        x++;
      } while (x < right);
      if (x < side) sums[row * side + x] += height * (1 - before);
    }
  }
  for (let row = 0; row < side; row++) for (let x = 1; x < side; x++) sums[row * side + x] += sums[row * side + x - 1];
  return sums;
}

/** Of a side that runs evenly from one place to another: which part of a pixel, `x` to `x + 1`, lies to its right. */
function rightOf(left: number, right: number, x: number): number {
  // The integral, over the pixel, of how much of the side lies left of a place.
  const until = (at: number) => (at <= left ? 0 : at >= right ? at - (left + right) / 2 : (at - left) ** 2 / (2 * (right - left)));
  return until(x + 1) - until(x);
}

/** Less of a pixel is none of it, and what differs by less is the same. */
const LEAST_SHARE = 1e-9;

/**
 * @param radius in pixels; 0 is the pixel itself. Behind what is sharp a point is seen as the opening is, before it (`isNear`) upside down
 * @source geometrical optics: the blurred picture of a point is the exit pupil, evenly lit; e.g. Ray, Applied Photographic Optics
 */
export function apertureTaps(aperture: Aperture, radius: number, isNear: boolean, field: readonly [x: number, y: number]): Taps {
  const reach = reachOf(radius);
  const side = 2 * reach + 1;
  // A pixel sees what lies where the opening, seen from there, holds the pixel.
  const by = isNear ? radius : -radius;
  const inSide = (place: number) => Math.min(side, Math.max(0, place + side / 2));
  const covered = radius === 0 ? null : coverageOf(cornersOf(aperture, field).map(([x, y]) => [inSide(by * x), inSide(by * y)]), side);
  const found = [...(covered ?? [])].flatMap((inside, i) => (inside > LEAST_SHARE ? [{ dx: (i % side) - reach, dy: Math.floor(i / side) - reach, inside }] : []));
  if (found.length === 0) found.push({ dx: 0, dy: 0, inside: 1 });
  const most = Math.max(...found.map(({ inside }) => inside)) - LEAST_SHARE;
  const sorted = [...found.filter(({ inside }) => inside >= most), ...found.filter(({ inside }) => inside < most)];
  const total = found.reduce((sum, { inside }) => sum + inside, 0);
  return { full: sorted.filter(({ inside }) => inside >= most).length, dx: Int32Array.from(sorted, ({ dx }) => dx), dy: Int32Array.from(sorted, ({ dy }) => dy), weights: Float32Array.from(sorted, ({ inside }) => inside / total) };
}
