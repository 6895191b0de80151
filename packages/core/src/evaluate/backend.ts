/**
 * What the evaluator needs done with numbers. There are two of these: the reference (plain TypeScript over the
 * operations' definitions, the oracle of the tests) and the kernels. The evaluator does not know which one it drives.
 */
import type { Zone } from '../color/zones.ts';
import type { Plane } from '../raster/planes.ts';

/** A span of up to `spanLength` numbers. `values` stays valid for the life of the backend. */
export interface Register {
  readonly values: Float32Array;
}
export type ColorRegisters = readonly [Register, Register, Register];

/** How much of a span a layer covers. */
export type Coverage = 'empty' | 'partial' | 'full';

export interface Backend {
  readonly spanLength: number;
  register(): Register;
  /**
   * Reads `count` samples of a plane from `start` into `out` at `at`. Integers become 0…1; `to-light` decodes sRGB.
   * NaN becomes 0 and infinities ±65504, so that one bad sample cannot spread.
   */
  load(out: Register, at: number, plane: Plane, start: number, count: number, how: 'as-is' | 'to-light'): void;
  fill(out: Register, value: number, at: number, count: number): void;
  /** out = opacity × alpha × mask (or 1 − mask); a register that is null counts as 1. */
  coverage(out: Register, count: number, opacity: number, alpha: Register | null, mask: Register | null, invertMask: boolean): Coverage;
  /** Composites straight colours onto the premultiplied accumulator. `opaque`: its alpha is known to be 1 throughout. */
  blend(mode: string, zone: Zone, onto: ColorRegisters, ontoAlpha: Register, source: ColorRegisters, alpha: Register, count: number, opaque: boolean): void;
  correct(type: string, prepared: Float32Array, color: ColorRegisters, count: number): void;
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
}
