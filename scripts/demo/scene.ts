/** Kiln Yard Library, the invented place of the demo: a brick hall, a timber wing, water, trees, evening light. */
import { type Primitive, type Vec } from './geometry.ts';

/** Numbers that look random and are always the same. */
export function generator(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (Math.imul(state ^ (state >>> 15), 0x2c1b3c6d) + 0x9e3779b9) >>> 0;
    const mixed = Math.imul(state ^ (state >>> 13), 0x297a2d39);
    return ((mixed ^ (mixed >>> 16)) >>> 0) / 2 ** 32;
  };
}

function noise(x: number, y: number): number {
  const n = Math.sin(x * 127.1 + y * 311.7) * 43758.5453;
  return n - Math.floor(n);
}

/** Noise without edges: values of a grid, smoothly joined. */
function smoothNoise(x: number, y: number): number {
  const [xi, yi] = [Math.floor(x), Math.floor(y)];
  const ease = (t: number) => t * t * (3 - 2 * t);
  const [u, v] = [ease(x - xi), ease(y - yi)];
  const row = (j: number) => noise(xi, yi + j) * (1 - u) + noise(xi + 1, yi + j) * u;
  return row(0) * (1 - v) + row(1) * v;
}

const tint = (color: Vec, by: number): Vec => [color[0] * by, color[1] * by, color[2] * by];
/** Where on a surface a point lies: along and up on walls, x and z on floors. */
const surfaceUv = ([x, y, z]: Vec, n: Vec): [number, number] => (Math.abs(n[1]) > 0.5 ? [x, z] : Math.abs(n[0]) > 0.5 ? [z, y] : [x, y]);

export interface Surface {
  /** Display colour in the ID picture. */
  readonly id: Vec;
  /** Diffuse filter. */
  readonly filter: (p: Vec, n: Vec) => Vec;
  /** Share of light mirrored head-on; 0 for matt. */
  readonly mirror: number;
  /** Light it sends out by itself. */
  readonly glow?: (p: Vec, direction: Vec) => Vec;
  /** Bends the normal of what mirrors, as ripples do. */
  readonly ripple?: (p: Vec) => Vec;
}

function brick(p: Vec, n: Vec): Vec {
  const [u, v] = surfaceUv(p, n);
  const course = Math.floor(v / 0.08);
  const along = u / 0.25 + (course % 2) * 0.5;
  const inMortar = v / 0.08 - course < 0.14 || along - Math.floor(along) < 0.05;
  if (inMortar) return [0.36, 0.33, 0.3];
  const shade = 0.72 + 0.5 * noise(Math.floor(along), course);
  return tint([0.33, 0.145, 0.095], shade * (0.88 + 0.24 * smoothNoise(u * 0.6, v * 0.6)));
}

function slats(p: Vec, n: Vec): Vec {
  const [u, v] = surfaceUv(p, n);
  const slat = Math.floor(u / 0.12);
  if (u / 0.12 - slat < 0.16) return [0.05, 0.037, 0.028];
  return tint([0.4, 0.265, 0.15], 0.75 + 0.35 * noise(slat, 3) + 0.12 * smoothNoise(u * 30, v * 1.3));
}

function gravel([x, , z]: Vec): Vec {
  return tint([0.31, 0.285, 0.25], 0.72 + 0.3 * noise(Math.floor(x * 22), Math.floor(z * 22)) + 0.26 * smoothNoise(x * 0.5, z * 0.5));
}

/** A lit room behind the pane: a ceiling row of lamps and a back wall of shelves, drawn as they would be seen through it. */
function room(p: Vec, direction: Vec): Vec {
  const depth = 4.5;
  const along = p[0] + (direction[0] / Math.max(0.2, direction[2])) * depth;
  const up = p[1] + (direction[1] / Math.max(0.2, direction[2])) * depth;
  const toCeiling = direction[1] > 0 ? (5.2 - p[1]) / direction[1] : Number.POSITIVE_INFINITY;
  if (toCeiling * direction[2] < depth) {
    const z = toCeiling * direction[2];
    const x = p[0] + direction[0] * toCeiling;
    const lamp = Math.abs(z % 1.5 - 0.75) < 0.16 && Math.abs((x % 2.4) - 1.2) < 0.85;
    return lamp ? [9, 6.6, 3.9] : tint([1.05, 0.78, 0.5], 0.8);
  }
  const shelf = Math.floor(up / 0.38);
  const isBoard = up / 0.38 - shelf < 0.1 || Math.abs(along / 1.2 - Math.round(along / 1.2)) < 0.02;
  const book = noise(Math.floor(along / 0.07), shelf);
  const other = noise(shelf, Math.floor(along / 0.07));
  const base: Vec = isBoard ? [0.95, 0.62, 0.34] : [0.3 + 0.5 * book, 0.2 + 0.3 * book + 0.08 * other, 0.11 + 0.16 * book + 0.06 * other];
  return tint([base[0] * 1.1, base[1], base[2] * 0.75], 0.7 + 0.6 * Math.exp(-((up - 2.4) ** 2) / 3));
}

export const surfaces: Readonly<Record<string, Surface>> = {
  brick: { id: [0.78, 0.2, 0.16], filter: brick, mirror: 0 },
  timber: { id: [0.86, 0.6, 0.2], filter: slats, mirror: 0 },
  zinc: { id: [0.35, 0.42, 0.55], filter: () => [0.24, 0.26, 0.28], mirror: 0.05 },
  glass: { id: [0.2, 0.75, 0.9], filter: () => [0.02, 0.022, 0.024], mirror: 0.06, glow: room },
  bronze: { id: [0.55, 0.35, 0.05], filter: () => [0.16, 0.105, 0.055], mirror: 0.08 },
  concrete: { id: [0.7, 0.7, 0.7], filter: (p, n) => tint([0.42, 0.41, 0.39], 0.86 + 0.2 * smoothNoise(...surfaceUv(tint(p, 2.4), n))), mirror: 0 },
  gravel: { id: [0.5, 0.5, 0.3], filter: gravel, mirror: 0 },
  grass: { id: [0.3, 0.7, 0.15], filter: ([x, , z]) => tint([0.12, 0.19, 0.06], 0.7 + 0.4 * noise(Math.floor(x * 30), Math.floor(z * 30)) + 0.25 * smoothNoise(x, z)), mirror: 0 },
  water: { id: [0.1, 0.2, 0.85], filter: () => [0.018, 0.028, 0.03], mirror: 0.04, ripple: ([x, , z]) => [0.012 * Math.sin(x * 9 + z * 3.1) + 0.009 * Math.sin(z * 17 - x * 4), 1, 0.012 * Math.sin(z * 11 + x * 2.3)] },
  foliage: { id: [0.05, 0.45, 0.2], filter: (p) => tint([0.15, 0.235, 0.06], 0.6 + 0.7 * noise(Math.floor(p[0] * 7), Math.floor(p[1] * 7))), mirror: 0 },
  bark: { id: [0.4, 0.22, 0.35], filter: () => [0.13, 0.1, 0.08], mirror: 0 },
  plaster: { id: [0.9, 0.85, 0.75], filter: () => [0.5, 0.48, 0.45], mirror: 0 },
  lamp: { id: [1, 1, 0.2], filter: () => [0.5, 0.5, 0.5], mirror: 0, glow: () => [26, 17, 8.5] },
};

function tree(x: number, z: number, height: number, seed: number): Primitive[] {
  const random = generator(seed);
  const center: Vec = [x, height * 0.68, z];
  const radius = height * 0.31;
  const parts = Array.from({ length: 620 }, () => {
    const [a, h, r] = [random() * Math.PI * 2, random() * 2 - 1, Math.cbrt(random()) * radius * 0.92];
    const ring = Math.sqrt(1 - h * h) * r;
    return { center: [x + ring * Math.cos(a), center[1] + h * r * 1.15, z + ring * Math.sin(a)] as Vec, radius: 0.05 + 0.09 * random() };
  });
  return [
    { kind: 'cluster', center, radius: radius * 1.25 + 0.2, parts, material: 'foliage' },
    { kind: 'box', min: [x - 0.07, 0, z - 0.07], max: [x + 0.07, height * 0.62, z + 0.07], material: 'bark' },
  ];
}

const box = (material: string, min: Vec, max: Vec): Primitive => ({ kind: 'box', min, max, material });
const lampPost = (x: number, z: number): Primitive[] => [box('zinc', [x - 0.035, 0, z - 0.035], [x + 0.035, 2.9, z + 0.035]), { kind: 'sphere', center: [x, 3.02, z], radius: 0.15, material: 'lamp' }];
/** Panes of the hall, each with a zinc frame standing a little proud. */
const windows = (from: number, count: number): Primitive[] =>
  Array.from({ length: count }, (_, i): Primitive[] => {
    const x = from + i * 1.9;
    return [box('zinc', [x - 0.06, 0.74, 7.93], [x + 1.36, 4.46, 8.02]), box('glass', [x, 0.8, 7.91], [x + 1.3, 4.4, 7.95]), box('zinc', [x + 0.63, 0.8, 7.88], [x + 0.67, 4.4, 7.92])];
  }).flat();

export const primitives: readonly Primitive[] = [
  box('gravel', [-60, -0.5, -20], [60, 0, 26]),
  box('grass', [-120, -0.55, 26], [120, 0.02, 170]),
  box('grass', [-20, 0, -8], [-6.2, 0.06, 5.5]),
  box('concrete', [-6.2, 0, -8], [-6.0, 0.14, 5.7]),
  box('water', [1.2, -0.4, -9], [3.6, 0.02, 6.6]),
  box('concrete', [1.0, -0.4, -9], [1.2, 0.12, 6.8]),
  box('concrete', [3.6, -0.4, -9], [3.8, 0.12, 6.8]),
  box('concrete', [1.0, -0.4, 6.6], [3.8, 0.12, 6.8]),
  // The hall.
  box('brick', [-8.5, 0, 8], [3.2, 6.1, 17]),
  box('zinc', [-8.8, 6.1, 7.6], [3.5, 6.36, 17.3]),
  ...windows(-7.7, 4),
  box('bronze', [0.4, 0, 7.9], [2.3, 2.9, 8.02]),
  box('concrete', [0.1, 2.9, 7.0], [2.6, 3.06, 8.02]),
  box('concrete', [0.1, 0, 7.0], [2.6, 0.1, 8.02]),
  // The timber wing comes forward.
  box('timber', [5.2, 0.25, 3.4], [13, 3.7, 14]),
  box('concrete', [5.1, 0, 3.3], [13, 0.25, 14]),
  box('zinc', [4.9, 3.7, 3.0], [13.4, 3.9, 14.4]),
  box('glass', [5.17, 0.5, 4.3], [5.2, 3.3, 7.6]),
  box('zinc', [3.2, 2.6, 8.6], [5.2, 2.8, 14]),
  box('glass', [3.2, 0.1, 9.2], [5.2, 2.6, 9.24]),
  // The kiln's chimney and the town behind.
  box('brick', [-11.6, 0, 14], [-10.2, 12.4, 15.4]),
  box('concrete', [-11.7, 12.4, 13.9], [-10.1, 12.65, 15.5]),
  box('plaster', [-34, 0, 48], [-21, 7.5, 60]),
  box('plaster', [13, 0, 62], [27, 9.5, 74]),
  box('brick', [30, 0, 56], [42, 6.5, 70]),
  box('plaster', [-8, 0, 120], [20, 11, 150]),
  box('concrete', [-4.6, 0, 2.4], [-2.2, 0.44, 2.95]),
  ...lampPost(-0.6, 3.2),
  ...lampPost(-5.4, 6.4),
  ...tree(-8.4, 1.4, 5.6, 11),
  ...tree(-10.8, 5.8, 6.6, 23),
  ...tree(-6.9, -3.4, 4.6, 37),
  ...tree(10.2, 1.2, 4.9, 51),
];

export const lamps: readonly { readonly at: Vec; readonly power: Vec }[] = [
  { at: [-0.6, 3.02, 3.2], power: [5.2, 3.4, 1.7] },
  { at: [-5.4, 3.02, 6.4], power: [5.2, 3.4, 1.7] },
];
/** Light that falls out of the hall's windows onto the yard, as one soft source. */
export const windowLight = { at: [-4.2, 2.2, 5.4] as Vec, power: [4.4, 3.0, 1.7] as Vec };

export const sunDirection: Vec = [-0.83, 0.34, -0.44];
export const sunLight: Vec = [1.75, 0.98, 0.5];

/** Sky towards a direction: warm at the horizon on the sun's side, deep blue above, thin bands of cloud. */
export function sky(direction: Vec): Vec {
  const up = Math.max(0, direction[1]);
  const toSun = Math.max(0, (direction[0] * sunDirection[0] + direction[2] * sunDirection[2]) / (Math.hypot(direction[0], direction[2]) * Math.hypot(sunDirection[0], sunDirection[2]) || 1));
  const high = 1 - Math.exp(-up * 4.2);
  const horizon: Vec = [0.82 + 0.3 * toSun, 0.52 + 0.06 * toSun, 0.37];
  const zenith: Vec = [0.055, 0.105, 0.225];
  const bands = smoothNoise(direction[0] * 3.2 + 7, up * 17 + direction[0] * 2.5) * smoothNoise(direction[0] * 9, up * 40);
  const cloud = Math.max(0, bands - 0.28) * 0.9 * Math.exp(-((up - 0.28) ** 2) * 16);
  return [0, 1, 2].map((c) => horizon[c] * (1 - high) + zenith[c] * high + cloud * [0.55, 0.27, 0.2][c]) as unknown as Vec;
}
/** Mean light of the sky for surfaces that face up and those that face down to the ground. */
export const skyAbove: Vec = [0.3, 0.35, 0.47];
export const groundBounce: Vec = [0.13, 0.1, 0.075];
