/** How thick fog is along a ray, in closed form. @source Beer–Lambert; exponential height fog */
import { opticalDepth } from '@tazzel/core';
import type { FogDescription } from '../scene/model.ts';

/** Optical depth over `length` metres from height `y`, climbing `dy` for each metre. */
export function fogDepth(fog: FogDescription, y: number, dy: number, length: number): number {
  return opticalDepth(1 / fog.distanceMetres, fog.heightMetres, y, dy, length);
}

/** The length after which the optical depth is reached; infinite if it never is. Inverse of `fogDepth`. */
export function fogReach(fog: FogDescription, y: number, dy: number, depth: number): number {
  if (fog.heightMetres === null) return depth * fog.distanceMetres;
  const here = Math.exp(-y / fog.heightMetres) / fog.distanceMetres;
  const slope = dy / fog.heightMetres;
  if (Math.abs(slope) < 1e-12) return depth / here;
  const inner = (depth * slope) / here;
  return inner >= 1 ? Number.POSITIVE_INFINITY : -Math.log1p(-inner) / slope;
}
