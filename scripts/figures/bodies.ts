/** Bodies as distance fields: parts of cones, ellipsoids and rings with what they are made of, looked at from the front. Metres, y up, z towards the viewer. */

export type Vec = readonly [x: number, y: number, z: number];
export type Rgb = readonly [number, number, number];

/** What a part is made of: its reflectance (linear), and how deep its folds are, in metres. Parts of one stuff grow together. */
export interface Stuff {
  readonly color: Rgb;
  readonly folds: number;
  readonly joins: number;
}
export type Part = { readonly stuff: Stuff } & ({ readonly kind: 'cone'; readonly from: Vec; readonly to: Vec; readonly r1: number; readonly r2: number; readonly cut?: number } | { readonly kind: 'ellipsoid'; readonly at: Vec; readonly radii: Vec } | { readonly kind: 'ring'; readonly at: Vec; readonly radius: number; readonly thick: number });

export const stuff = (color: Rgb, folds = 0, joins = 0.02): Stuff => ({ color, folds, joins });
export const cone = (stuff: Stuff, from: Vec, to: Vec, r1: number, r2 = r1): Part => ({ kind: 'cone', stuff, from, to, r1, r2 });
/** The same without what lies below a height: a hem. */
export const hemmed = (stuff: Stuff, from: Vec, to: Vec, r1: number, r2: number, cut: number): Part => ({ kind: 'cone', stuff, from, to, r1, r2, cut });
export const ellipsoid = (stuff: Stuff, at: Vec, radii: Vec): Part => ({ kind: 'ellipsoid', stuff, at, radii });
/** A wheel seen from its side: its axis points to the viewer. */
export const ring = (stuff: Stuff, at: Vec, radius: number, thick: number): Part => ({ kind: 'ring', stuff, at, radius, thick });

/** Distance to a part, nearly: what is marched with it goes a little slower than the distance says. */
export function distanceTo(part: Part, [x, y, z]: Vec): number {
  if (part.kind === 'ellipsoid') {
    const [cx, cy, cz] = part.at;
    const [rx, ry, rz] = part.radii;
    const [px, py, pz] = [x - cx, y - cy, z - cz];
    const k0 = Math.hypot(px / rx, py / ry, pz / rz);
    const k1 = Math.hypot(px / (rx * rx), py / (ry * ry), pz / (rz * rz));
    return k1 === 0 ? -Math.min(rx, ry, rz) : (k0 * (k0 - 1)) / k1;
  }
  if (part.kind === 'ring') {
    const [cx, cy, cz] = part.at;
    return Math.hypot(Math.hypot(x - cx, y - cy) - part.radius, z - cz) - part.thick;
  }
  const [ax, ay, az] = part.from;
  const [bx, by, bz] = [part.to[0] - ax, part.to[1] - ay, part.to[2] - az];
  const [px, py, pz] = [x - ax, y - ay, z - az];
  const along = Math.min(1, Math.max(0, (px * bx + py * by + pz * bz) / Math.max(1e-9, bx * bx + by * by + bz * bz)));
  const distance = Math.hypot(px - bx * along, py - by * along, pz - bz * along) - part.r1 - (part.r2 - part.r1) * along;
  return part.cut === undefined ? distance : Math.max(distance, part.cut - y);
}

/** @source smooth minimum of quadratic polynomials, I. Quilez, “smooth minimum” (2013) */
const smoothMin = (a: number, b: number, k: number): number => {
  const h = Math.max(0, k - Math.abs(a - b)) / k;
  return Math.min(a, b) - h * h * k * 0.25;
};

/** Soft folds of cloth: waves that run down and around. */
const folds = ([x, y, z]: Vec, depth: number): number => depth * (Math.sin(x * 31 + z * 19 + Math.sin(y * 13 + z * 9) * 2.3) * Math.sin(y * 17 + x * 11 + z * 7) * 0.8 + 0.3 * Math.sin(y * 53 + Math.sin(x * 21 + z * 17) * 2));

/** The body at a place: how far, and of what. */
export function bodyAt(parts: readonly Part[], place: Vec): { readonly distance: number; readonly stuff: Stuff } {
  let best = { distance: Number.POSITIVE_INFINITY, stuff: parts[0].stuff };
  let current: Stuff | null = null;
  let near = Number.POSITIVE_INFINITY;
  const close = () => {
    if (!current) return;
    const distance = current.folds > 0 && near < 0.05 ? near + folds(place, current.folds) : near;
    if (distance < best.distance) best = { distance, stuff: current };
  };
  // Parts of one stuff stand together.
  for (const part of parts) {
    const distance = distanceTo(part, place);
    if (part.stuff === current) near = smoothMin(near, distance, current.joins);
    else {
      close();
      [current, near] = [part.stuff, distance];
    }
  }
  close();
  return best;
}

/** All parts turned about the upright, and moved. */
export function turned(parts: readonly Part[], degrees: number, by: Vec = [0, 0, 0], scale = 1): Part[] {
  const [cos, sin] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  const to = ([x, y, z]: Vec): Vec => [(x * cos + z * sin) * scale + by[0], y * scale + by[1], (z * cos - x * sin) * scale + by[2]];
  return parts.map((part): Part => {
    if (part.kind === 'cone') return { ...part, from: to(part.from), to: to(part.to), r1: part.r1 * scale, r2: part.r2 * scale, ...(part.cut === undefined ? {} : { cut: part.cut * scale + by[1] }) };
    if (part.kind === 'ring') return { ...part, at: to(part.at), radius: part.radius * scale, thick: part.thick * scale };
    // Ellipsoids are nearly round on the plan; what they lose by turning is not seen.
    const [rx, ry, rz] = part.radii;
    const wide = Math.hypot(rx * cos, rz * sin);
    return { ...part, at: to(part.at), radii: [wide * scale, ry * scale, Math.hypot(rx * sin, rz * cos) * scale] };
  });
}

/** Where the body may be. */
function boundsOf(parts: readonly Part[]): { readonly low: Vec; readonly high: Vec } {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  const take = (at: Vec, radii: Vec) => at.forEach((value, c) => {
    low[c] = Math.min(low[c], value - radii[c]);
    high[c] = Math.max(high[c], value + radii[c]);
  });
  for (const part of parts) {
    if (part.kind === 'cone') {
      take(part.from, [part.r1, part.r1, part.r1]);
      take(part.to, [part.r2, part.r2, part.r2]);
    } else if (part.kind === 'ellipsoid') take(part.at, part.radii);
    else take(part.at, [part.radius + part.thick, part.radius + part.thick, part.thick]);
  }
  return { low: low as unknown as Vec, high: high as unknown as Vec };
}

/** Straight linear colour and alpha, row by row; `perMetre` pixels are a metre. */
export interface Drawn {
  readonly width: number;
  readonly height: number;
  readonly rgba: Float32Array;
  /** The column of x = 0, and the row of y = 0, from the upper left corner. */
  readonly originX: number;
  readonly originY: number;
}

const MARGIN = 2;
/** Rays to each side of a pixel. */
const SIDE = 2;

/** The body in the even light of a bright overcast sky: folds and hollows are darker, what faces up is a little brighter. Sun and shade come later, where it stands. */
export function drawBody(parts: readonly Part[], perMetre: number): Drawn {
  const { low, high } = boundsOf(parts);
  const width = Math.ceil((high[0] - low[0]) * perMetre) + 2 * MARGIN;
  const height = Math.ceil((high[1] - low[1]) * perMetre) + 2 * MARGIN;
  const rgba = new Float32Array(width * height * 4);
  const step = 1 / perMetre;
  for (let j = 0; j < height; j++) {
    for (let i = 0; i < width; i++) {
      const sum = [0, 0, 0, 0];
      for (let s = 0; s < SIDE * SIDE; s++) {
        const x = low[0] + (i - MARGIN + ((s % SIDE) + 0.5) / SIDE) * step;
        const y = high[1] - (j - MARGIN + (Math.floor(s / SIDE) + 0.5) / SIDE) * step;
        const color = seen(parts, x, y, high[2] + 0.02, low[2] - 0.02, step);
        if (!color) continue;
        for (let c = 0; c < 3; c++) sum[c] += color[c];
        sum[3]++;
      }
      if (sum[3] === 0) continue;
      const at = (j * width + i) * 4;
      for (let c = 0; c < 3; c++) rgba[at + c] = sum[c] / sum[3];
      rgba[at + 3] = sum[3] / (SIDE * SIDE);
    }
  }
  return { width, height, rgba, originX: MARGIN - low[0] * perMetre, originY: MARGIN + high[1] * perMetre };
}

const HIDDEN_TAPS = 5;

/** Parts that come so near to a ray towards z that they matter to it. */
const near = (parts: readonly Part[], x: number, y: number, margin: number): Part[] =>
  parts.filter((part) => {
    if (part.kind === 'ellipsoid') return Math.abs(x - part.at[0]) < part.radii[0] + margin && Math.abs(y - part.at[1]) < part.radii[1] + margin;
    if (part.kind === 'ring') return Math.abs(x - part.at[0]) < part.radius + part.thick + margin && Math.abs(y - part.at[1]) < part.radius + part.thick + margin;
    const r = Math.max(part.r1, part.r2) + margin;
    return x > Math.min(part.from[0], part.to[0]) - r && x < Math.max(part.from[0], part.to[0]) + r && y > Math.min(part.from[1], part.to[1]) - r && y < Math.max(part.from[1], part.to[1]) + r;
  });
/** For the surface itself, which folds and grows together; and for what hides the sky from it. */
const [SURFACE_METRES, AROUND_METRES] = [0.06, 0.25];

function seen(all: readonly Part[], x: number, y: number, from: number, to: number, step: number): Rgb | null {
  const parts = near(all, x, y, SURFACE_METRES);
  if (parts.length === 0) return null;
  for (let z = from; z > to; ) {
    const { distance, stuff } = bodyAt(parts, [x, y, z]);
    if (distance < step * 0.2) return lit(near(all, x, y, AROUND_METRES), [x, y, z], stuff, step);
    z -= Math.max(step * 0.25, distance * 0.8);
  }
  return null;
}

function lit(parts: readonly Part[], [x, y, z]: Vec, { color }: Stuff, step: number): Rgb {
  const e = step;
  const at = (place: Vec) => bodyAt(parts, place).distance;
  const raw = [at([x + e, y, z]) - at([x - e, y, z]), at([x, y + e, z]) - at([x, y - e, z]), at([x, y, z + e]) - at([x, y, z - e])];
  const length = Math.hypot(...raw) || 1;
  const [nx, ny, nz] = raw.map((value) => value / length);
  let hidden = 0;
  for (let k = 1; k <= HIDDEN_TAPS; k++) {
    const way = 0.012 * k * k * 0.6;
    hidden += Math.max(0, way - at([x + nx * way, y + ny * way, z + nz * way])) / way / 2 ** (k - 1);
  }
  const open = Math.max(0.3, 1 - hidden * 0.75);
  const sky = 0.74 + 0.26 * ny;
  // What turns away at the rim sees less.
  const facing = 0.82 + 0.18 * Math.max(0, nz);
  return color.map((value) => value * open * sky * facing) as unknown as Rgb;
}
