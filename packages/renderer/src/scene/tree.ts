/** Young trees: a trunk that sways, branches around it, leaves about the branches. The same seed grows the same tree. */
import { latticeNoise } from '@tazzel/core';
import type { Triple } from './model.ts';

export interface Segment {
  readonly from: Triple;
  readonly to: Triple;
  readonly radius: number;
  readonly endRadius: number;
}

const TRUNK_PARTS = 7;

export function trunkSegments(at: Triple, height: number, seed: number): Segment[] {
  const random = (i: number, k: number) => latticeNoise(i, seed, k);
  const segments: Segment[] = [];
  const thick = 0.008 * height + 0.02;
  let from: Triple = at;
  for (let i = 0; i < TRUNK_PARTS; i++) {
    const sway = 0.035 * height;
    const to: Triple = [from[0] + (random(i, 1) - 0.5) * sway, at[1] + (height * 0.92 * (i + 1)) / TRUNK_PARTS, from[2] + (random(i, 2) - 0.5) * sway];
    segments.push({ from, to, radius: thick * (1 - (i / TRUNK_PARTS) * 0.85), endRadius: thick * (1 - ((i + 1) / TRUNK_PARTS) * 0.85) });
    from = to;
  }
  const trunk = [...segments];
  const branches = Math.round(14 + height * 3);
  for (let i = 0; i < branches; i++) {
    const share = 0.3 + 0.62 * ((i + random(i, 3)) / branches);
    const part = trunk[Math.min(TRUNK_PARTS - 1, Math.floor(share * TRUNK_PARTS))];
    const t = share * TRUNK_PARTS - Math.floor(share * TRUNK_PARTS);
    const start: Triple = [part.from[0] + (part.to[0] - part.from[0]) * t, part.from[1] + (part.to[1] - part.from[1]) * t, part.from[2] + (part.to[2] - part.from[2]) * t];
    const angle = i * 2.399963 + random(i, 4) * 0.9;
    // Lower branches reach further; all of them rise.
    const reach = height * (0.3 * (1.06 - share) + 0.05) * (0.75 + 0.5 * random(i, 5));
    const rise = reach * (0.55 + 0.6 * random(i, 6));
    const middle: Triple = [start[0] + Math.cos(angle) * reach * 0.6, start[1] + rise * 0.45, start[2] + Math.sin(angle) * reach * 0.6];
    const end: Triple = [start[0] + Math.cos(angle + 0.25) * reach, start[1] + rise, start[2] + Math.sin(angle + 0.25) * reach];
    const radius = thick * 0.34 * (1.1 - share);
    segments.push({ from: start, to: middle, radius, endRadius: radius * 0.6 }, { from: middle, to: end, radius: radius * 0.6, endRadius: radius * 0.2 });
  }
  return segments;
}

/** Leaves hang about the outer halves of the branches. */
export function crownLeaves(at: Triple, height: number, seed: number, leaves: number, leafMetres: number, leaf: (a: Triple, b: Triple, c: Triple, d: Triple) => void): void {
  const branches = trunkSegments(at, height, seed).slice(TRUNK_PARTS);
  for (let i = 0; i < leaves; i++) {
    const random = (k: number) => latticeNoise(i, seed + 101, k);
    const { from, to } = branches[Math.floor(random(1) * branches.length)];
    const t = random(2) * 1.15;
    const loose = height * 0.055;
    // The sum of three uniform numbers gathers the leaves near their branch.
    const spread = (k: number) => (random(k) + random(k + 1) + random(k + 2) - 1.5) * loose;
    const center: Triple = [from[0] + (to[0] - from[0]) * t + spread(3), from[1] + (to[1] - from[1]) * t + spread(6), from[2] + (to[2] - from[2]) * t + spread(9)];
    const yaw = random(12) * Math.PI * 2;
    const tilt = (random(13) - 0.5) * 2.2;
    const size = leafMetres * (0.6 + 0.7 * random(14));
    const u: Triple = [Math.cos(yaw) * size, Math.sin(tilt) * size * 0.6, Math.sin(yaw) * size];
    const v: Triple = [-Math.sin(yaw) * size * 0.34 * Math.cos(tilt), size * 0.34 * Math.sin(tilt + 1), Math.cos(yaw) * size * 0.34 * Math.cos(tilt)];
    // A rhomb: from the stalk over one side to the tip and back.
    leaf(
      [center[0] - u[0] / 2, center[1] - u[1] / 2, center[2] - u[2] / 2],
      [center[0] + v[0], center[1] + v[1], center[2] + v[2]],
      [center[0] + u[0] / 2, center[1] + u[1] / 2, center[2] + u[2] / 2],
      [center[0] - v[0], center[1] - v[1], center[2] - v[2]],
    );
  }
}
