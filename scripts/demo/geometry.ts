/** Rays against boxes, spheres and the ground: as much geometry as a small yard needs. Metres, y up. */
export type Vec = readonly [number, number, number];

export const add = (a: Vec, b: Vec): Vec => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const sub = (a: Vec, b: Vec): Vec => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const scale = (a: Vec, s: number): Vec => [a[0] * s, a[1] * s, a[2] * s];
export const times = (a: Vec, b: Vec): Vec => [a[0] * b[0], a[1] * b[1], a[2] * b[2]];
export const dot = (a: Vec, b: Vec) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const length = (a: Vec) => Math.sqrt(dot(a, a));
export const normalize = (a: Vec): Vec => scale(a, 1 / length(a));
export const cross = (a: Vec, b: Vec): Vec => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];

export type Primitive =
  | { readonly kind: 'box'; readonly min: Vec; readonly max: Vec; readonly material: string }
  | { readonly kind: 'sphere'; readonly center: Vec; readonly radius: number; readonly material: string }
  /** Spheres that are only looked at if the sphere around them is hit. */
  | { readonly kind: 'cluster'; readonly center: Vec; readonly radius: number; readonly parts: readonly { readonly center: Vec; readonly radius: number }[]; readonly material: string };

export interface Hit {
  readonly t: number;
  readonly normal: Vec;
  readonly material: string;
}

const NEAR = 1e-3;

export function trace(primitives: readonly Primitive[], origin: Vec, direction: Vec, limit = Number.POSITIVE_INFINITY): Hit | null {
  let best: Hit | null = null;
  let nearest = limit;
  for (const primitive of primitives) {
    const hit = primitive.kind === 'box' ? hitBox(primitive, origin, direction, nearest) : primitive.kind === 'sphere' ? hitSphere(primitive.center, primitive.radius, origin, direction, nearest, primitive.material) : hitCluster(primitive, origin, direction, nearest);
    if (hit) {
      best = hit;
      nearest = hit.t;
    }
  }
  return best;
}

export const isBlocked = (primitives: readonly Primitive[], origin: Vec, direction: Vec, limit: number) => trace(primitives, origin, direction, limit) !== null;

function hitBox(box: Extract<Primitive, { kind: 'box' }>, o: Vec, d: Vec, limit: number): Hit | null {
  let from = NEAR;
  let to = limit;
  let axis = -1;
  for (let i = 0; i < 3; i++) {
    const inverse = 1 / d[i];
    let a = (box.min[i] - o[i]) * inverse;
    let b = (box.max[i] - o[i]) * inverse;
    if (a > b) [a, b] = [b, a];
    if (a > from) {
      from = a;
      axis = i;
    }
    if (b < to) to = b;
    if (from >= to) return null;
  }
  if (axis < 0) return null;
  const normal: [number, number, number] = [0, 0, 0];
  normal[axis] = d[axis] > 0 ? -1 : 1;
  return { t: from, normal, material: box.material };
}

function hitSphere(center: Vec, radius: number, o: Vec, d: Vec, limit: number, material: string): Hit | null {
  const oc = sub(o, center);
  const b = dot(oc, d);
  const root = b * b - (dot(oc, oc) - radius * radius);
  if (root < 0) return null;
  const t = -b - Math.sqrt(root);
  if (t < NEAR || t >= limit) return null;
  return { t, normal: scale(sub(add(o, scale(d, t)), center), 1 / radius), material };
}

function hitCluster(cluster: Extract<Primitive, { kind: 'cluster' }>, o: Vec, d: Vec, limit: number): Hit | null {
  const oc = sub(o, cluster.center);
  const b = dot(oc, d);
  const gap = dot(oc, oc) - cluster.radius * cluster.radius;
  if (b * b - gap < 0 || (b > 0 && gap > 0)) return null;
  let best: Hit | null = null;
  let nearest = limit;
  for (const part of cluster.parts) {
    const hit = hitSphere(part.center, part.radius, o, d, nearest, cluster.material);
    if (!hit) continue;
    best = hit;
    nearest = hit.t;
  }
  return best;
}
