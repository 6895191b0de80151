/**
 * What the evaluator needs done with numbers. There are two of these: the reference (plain TypeScript over the
 * operations' definitions, the oracle of the tests) and the kernels. The evaluator does not know which one it drives.
 */
import type { PlannedTone } from '../tone/apply.ts';
import type { Zone } from '../color/zones.ts';
import type { Arena } from './arena.ts';
import type { FigureLoops } from '../figures/loops.ts';
import type { FormulaId } from '../layers/formula.ts';
import type { AffineMap } from '../raster/affine.ts';
import type { AroundLoop } from '../raster/around.ts';
import type { BendLoop } from '../raster/bend.ts';
import type { FocusLoops } from '../raster/focus.ts';
import type { LocalLoops } from '../raster/local.ts';
import type { Plane } from '../raster/planes.ts';
import type { SidesLoop } from '../raster/sides.ts';
import type { SizedLoop } from '../raster/sized.ts';
import type { SmoothLoop } from '../raster/smooth.ts';
import type { Region } from '../raster/region.ts';

/** A span of up to `spanLength` numbers. `values` stays valid for the life of the backend. */
export interface Register {
  readonly values: Float32Array;
}
export type ColorRegisters = readonly [Register, Register, Register];

/** Centres of pixels, in pixels of the full picture. */
export type PlaceRegisters = readonly [x: Register, y: Register];

/** How much of a span a layer covers. */
export type Coverage = 'empty' | 'partial' | 'full';

export interface Backend extends AroundLoop, BendLoop, FigureLoops, FocusLoops, LocalLoops, SidesLoop, SizedLoop, SmoothLoop {
  /** Where planes lie. What is written to and read from here is not copied. */
  readonly arena: Arena;
  readonly spanLength: number;
  register(): Register;
  /**
   * Reads `count` samples of a plane from `start` into `out` at `at`. Integers become 0…1; `to-light` decodes sRGB.
   * NaN becomes 0 and infinities ±65504, so that one bad sample cannot spread.
   */
  load(out: Register, at: number, plane: Plane, start: number, count: number, how: 'as-is' | 'to-light'): void;
  /** Adds `gain` times the samples that `load` would read as they are. */
  accumulate(out: Register, at: number, plane: Plane, start: number, count: number, gain: number): void;
  /** target += gain × from, each channel with its own. */
  addScaled(target: ColorRegisters, from: ColorRegisters, gain: readonly [number, number, number], count: number): void;
  multiply(color: ColorRegisters, by: ColorRegisters, count: number): void;
  fill(out: Register, value: number, at: number, count: number): void;
  /** out = opacity × alpha × mask (or 1 − mask); a register that is null counts as 1. */
  coverage(out: Register, count: number, opacity: number, alpha: Register | null, mask: Register | null, invertMask: boolean): Coverage;
  /** Composites straight colours onto the premultiplied accumulator. `opaque`: its alpha is known to be 1 throughout. */
  blend(mode: string, zone: Zone, onto: ColorRegisters, ontoAlpha: Register, source: ColorRegisters, alpha: Register, count: number, opaque: boolean): void;
  /** `place` is given to corrections that ask for it; `others` are what it reads beside, in the order of its declaration; each pixel is `step` of the full picture wide. */
  correct(correction: { readonly type: string; readonly prepared: Float32Array; readonly tableKey: string }, color: ColorRegisters, count: number, place: PlaceRegisters | null, others: readonly ColorRegisters[], step: number): void;
  /** What of a correction is taken over: `made` is what it made of `before` and becomes what is mixed in. Nothing happens where the blend is not offered. */
  join(blend: string, zone: Zone, before: ColorRegisters, made: ColorRegisters, count: number): void;
  /** Pixels from one of layers/formula.ts, at their places and with what it reads there; each is `step` pixels of the full picture wide. */
  generate(formula: FormulaId, prepared: Float32Array, color: ColorRegisters, alpha: Register, count: number, place: PlaceRegisters, others: readonly ColorRegisters[], step: number): void;
  /** Light to picture values by a tone, in place. */
  tone(tone: PlannedTone, color: ColorRegisters, count: number): void;
  /** sRGB transfer function in place; the result of `encode` and the domain of `decode` are 0…1. */
  transfer(direction: 'encode' | 'decode', color: ColorRegisters, count: number): void;
  /** value = scale × value + offset */
  scale(color: ColorRegisters, scale: number, offset: number, count: number): void;
  clampToUnit(color: ColorRegisters, count: number): void;
  multiplyAlpha(color: ColorRegisters, alpha: Register, count: number): void;
  /** Where alpha is 0 the colour becomes 0. */
  divideAlpha(color: ColorRegisters, alpha: Register, count: number): void;
  /** target += weight × (changed − target) */
  mix(target: ColorRegisters, changed: ColorRegisters, weight: Register, count: number): void;
  /**
   * Across pixels a bad number must not spread: what is read here counts as 0 if it is NaN and as ±65504 if it is beyond. `out` may be written to a
   * few numbers beyond its end, but for `halve`.
   *
   * From (2 × width + 2) × (2 × height + 2) samples, weighted 1 3 3 1 in both directions.
   */
  halve(out: Float32Array, from: Float32Array, width: number, height: number): void;
  /** Σ gain × plane, all of the same length. */
  sum(out: Float32Array, planes: readonly Float32Array[], gains: readonly number[]): void;
  /** From samples that reach beyond width × height by half the weights on each side, rows and columns in turn. */
  convolve(out: Float32Array, from: Float32Array, width: number, height: number, weights: Float32Array): void;
  /** Planes one after the other through cubic B-splines: each covers `coarse`, `by` halvings smaller than `region`. */
  enlarge(out: Float32Array, from: Float32Array, coarse: Region, region: Region, by: number): void;
  /**
   * Four planes that cover `from` to four planes of `region`, by a map from its pixels to those of `from`, with centres at a half. What lies beyond is
   * transparent; alpha stays within 0…1. Whole shifts and mirrorings take pixels as they are.
   */
  warp(out: Float32Array, planes: Float32Array, from: Region, region: Region, map: AffineMap, table: Float32Array, radius: number): void;
}
