/** How figures and the place they stand in change each other's light. */
import type { Triple } from '../vector.ts';

/** The sun is no point: so wide is a shadow's edge for a metre from what throws it. @source mean angular diameter 0.533° */
export const SUN_SPREAD = 0.0093;

/** Balls that stand for a figure where it hides the sky: how high their middles lie and how large they are, as shares of the height and of half the width. Common practice, no published source. */
const BALLS = [
  { up: 0.055, across: 0.45 },
  { up: 0.34, across: 0.8 },
  { up: 0.7, across: 0.85 },
] as const;
/** Half the width counts as no more than this share of the height: leaves of a crown let light through. */
const WIDEST = 0.16;
/** What is wider than so many balls has several side by side: a bench, a vehicle. Common practice, no published source. */
const BESIDE = 1.6;

export interface Ball {
  /** Beside its foot, to the right in the picture. */
  readonly asideMetres: number;
  readonly upMetres: number;
  readonly radiusMetres: number;
}
export function ballsOf(heightMetres: number, widthMetres: number): readonly Ball[] {
  const half = Math.min(widthMetres / 2, WIDEST * heightMetres);
  const beside = Math.max(1, Math.round(widthMetres / (2 * half * BESIDE)));
  return Array.from({ length: beside }, (_, i) => ((i + 0.5) / beside - 0.5) * (beside === 1 ? 0 : widthMetres)).flatMap((asideMetres) => BALLS.map(({ up, across }) => ({ asideMetres, upMetres: Math.max(up * heightMetres, half * across * 0.9), radiusMetres: half * across })));
}
/** How far to each side of its foot the outermost of them stand. */
export const asideOf = (balls: readonly Ball[]): number => Math.max(...balls.map(({ asideMetres }) => asideMetres));

/**
 * The share of the even light of the sky that a ball takes from a small flat piece of a surface: `x`, `y`, `z` lead from the piece to its middle, the normal has length 1.
 * @source view factor of a sphere from a plane element, cos θ · (r ÷ d)², J. R. Howell, A Catalog of Radiation Heat Transfer Configuration Factors, B-42 (value from memory)
 */
export function hiddenByBall(x: number, y: number, z: number, radius: number, nx: number, ny: number, nz: number): number {
  const square = x * x + y * y + z * z;
  if (square <= radius * radius) return 1;
  const towards = (x * nx + y * ny + z * nz) / Math.sqrt(square);
  return towards <= 0 ? 0 : (towards * radius * radius) / square;
}

/** Grounds are taken for this bright where nothing says what their reflectance is. Common practice, no published source. */
export const USUAL_REFLECTANCE = 0.3;
/** Darker filters say next to nothing about the light there: glass, water, metal. */
export const LEAST_REFLECTANCE = 0.04;

/** Low suns light what is upright so many times as much as the ground, at most. */
const MOST_UPRIGHT = 2.5;

/**
 * What a piece of a figure gets of the light of the place, for each of both: that of the sun was measured on the ground, where it falls at its height, and falls on the figure by its own angle.
 * `modelling` 0 takes it as it is on the ground.
 * @source Lambert's cosine law
 */
export function sunOnFigure(towardsSun: number, sunHeight: number, modelling: number): number {
  const share = Math.min(MOST_UPRIGHT, Math.max(0, towardsSun) / Math.max(0.05, sunHeight));
  return 1 - modelling + modelling * share;
}

/** What water and glass send back of light that comes in at an angle of that cosine to their normal. @source C. Schlick, “An Inexpensive BRDF Model”, Computer Graphics Forum 13(3), 1994; 4 % at right angles, as glass of index 1.5 */
export function fresnel(cosine: number): number {
  const aslant = 1 - Math.min(1, Math.max(0, cosine));
  return 0.04 + 0.96 * aslant * aslant * aslant * aslant * aslant;
}
/** Whether a surface has so little colour of its own that it is water or glass, 0…1. Common practice, no published source. */
export const clearness = (r: number, g: number, b: number): number => Math.min(1, Math.max(0, 1.5 - Math.max(r, g, b) / 0.02));

/** Sunlight that is taken where it is not known how much of the light is the sun's. Common practice, no published source. */
export const USUAL_SUN: Triple = [0.74, 0.68, 0.58];
