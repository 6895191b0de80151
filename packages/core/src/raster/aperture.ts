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

/** Within the opening of radius 1; `field` is where the picture's place lies: 1 in the corners. */
export function isOpen({ blades, roundness, rotationRadians, catsEye }: Aperture, x: number, y: number, [fieldX, fieldY]: readonly [number, number]): boolean {
  const radius = Math.hypot(x, y);
  if (radius > 1) return false;
  if (catsEye > 0) {
    const [cx, cy] = [(catsEye * fieldX) / 2, (catsEye * fieldY) / 2];
    if (Math.hypot(x - cx, y - cy) > 1 || Math.hypot(x + cx, y + cy) > 1) return false;
  }
  return roundness >= 1 || radius <= edgeOf({ blades, roundness, rotationRadians }, Math.atan2(x, -y));
}

/** How far out the blades leave it open, of a radius of 1, at an angle clockwise from the top. */
export function edgeOf({ blades, roundness, rotationRadians }: Pick<Aperture, 'blades' | 'roundness' | 'rotationRadians'>, angle: number): number {
  const part = (2 * Math.PI) / blades;
  const turned = angle - rotationRadians;
  const within = turned - Math.floor(turned / part) * part;
  const side = Math.cos(part / 2) / Math.cos(within - part / 2);
  return side + (1 - side) * roundness;
}

/**
 * @param radius in pixels; 0 is the pixel itself. Behind what is sharp a point is seen as the opening is, before it (`isNear`) upside down
 * @source geometrical optics: the blurred picture of a point is the exit pupil, evenly lit; e.g. Ray, Applied Photographic Optics
 */
export function apertureTaps(aperture: Aperture, radius: number, isNear: boolean, field: readonly [x: number, y: number]): Taps {
  const reach = reachOf(radius);
  const parts = radius < 3 ? 8 : 4;
  const turned = isNear ? -1 : 1;
  const found: { dx: number; dy: number; inside: number }[] = [];
  for (let dy = -reach; dy <= reach; dy++) {
    for (let dx = -reach; dx <= reach; dx++) {
      let inside = 0;
      // A pixel sees what lies where the opening, seen from there, holds the pixel.
      for (let j = 0; j < parts; j++) for (let i = 0; i < parts; i++) if (isOpen(aperture, (turned * (-dx + (i + 0.5) / parts - 0.5)) / radius, (turned * (-dy + (j + 0.5) / parts - 0.5)) / radius, field)) inside++;
      if (inside > 0) found.push({ dx, dy, inside });
    }
  }
  if (found.length === 0) found.push({ dx: 0, dy: 0, inside: 1 });
  const most = Math.max(...found.map(({ inside }) => inside));
  const sorted = [...found.filter(({ inside }) => inside === most), ...found.filter(({ inside }) => inside < most)];
  const total = found.reduce((sum, { inside }) => sum + inside, 0);
  return { full: sorted.filter(({ inside }) => inside === most).length, dx: Int32Array.from(sorted, ({ dx }) => dx), dy: Int32Array.from(sorted, ({ dy }) => dy), weights: Float32Array.from(sorted, ({ inside }) => inside / total) };
}
