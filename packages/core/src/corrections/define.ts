/** How a correction is declared: once, in one file. Bench, schema, command line and docs are generated from it. */
import type { Triple } from '../color/oklab.ts';
import type { Zone } from '../color/zones.ts';
import { shortened } from '../document/limits.ts';
import type { RoleId } from '../elements/roles.ts';
import { CoreError } from '../errors.ts';
import type { Size } from '../raster/region.ts';

export interface NumberParam {
  readonly label: string;
  readonly unit: string;
  readonly min: number;
  readonly max: number;
  readonly default: number;
  /** One nudge of the arrow keys; Shift makes it ten, Alt a tenth. */
  readonly step: number;
  /** Digits shown behind the point. */
  readonly digits: number;
  readonly help: string;
  /** The range that is usually needed, where far more is allowed. */
  readonly usual?: readonly [number, number];
  /** Names of the values 0, 1, 2 … where they stand for something else than a number. */
  readonly choices?: readonly string[];
}

export type ParamTable = Readonly<Record<string, NumberParam>>;
export type ParamValues<P extends ParamTable = ParamTable> = { readonly [K in keyof P]: number };

/** In which numbers a correction computes; the plan converts before and after where the zone differs. `as-found` takes what is there. */
export type Domain = 'light' | 'display' | 'as-found';

/** Names of the parameters that make a colour. */
export interface ColorParams {
  readonly label: string;
  readonly red: string;
  readonly green: string;
  readonly blue: string;
}

/** Names of the parameters that make a place. */
export interface PointParams {
  readonly label: string;
  readonly x: string;
  readonly y: string;
}

interface CorrectionBase<P extends ParamTable> {
  /** Kebab-case, never reused for something else. */
  readonly id: string;
  readonly label: string;
  readonly summary: string;
  readonly params: P;
  readonly domain: Domain;
  readonly zones: readonly Zone[];
  /** Numbers that are one colour (linear light) or one place (per cent of the picture): they have a field together. */
  readonly colors?: readonly ColorParams[];
  readonly points?: readonly PointParams[];
  /** What it begins with on a surface whose mean colour without light is known. */
  readonly onSurface?: (mean: Triple) => ParamValues;
  /** A switch rather than a dial: it works as soon as it is added. All others do nothing until a parameter is changed. */
  readonly actsAtOnce?: boolean;
  readonly isNoOp: (params: ParamValues<P>) => boolean;
  /** Parameter sets that the shared suite runs. */
  readonly examples: readonly ParamValues<P>[];
  readonly source: string;
}

/** Centre of a pixel in pixels of the full picture. */
export type PixelPlace = readonly [x: number, y: number];

/** Another picture that a correction reads at the same place: the first role of which there is an element, as light. */
export interface ReadElement {
  readonly roles: readonly RoleId[];
  /** In a sentence about what is missing. */
  readonly label: string;
  /** It counts as black where the document has none. */
  readonly isOptional?: boolean;
}

/** Every pixel by itself, with its place known, and with other elements at the same place if it reads some. */
export interface PointCorrection<P extends ParamTable> extends CorrectionBase<P> {
  readonly work: 'points';
  /** Everything that depends on parameters and size alone, packed for the kernel: computed once per parameter set. */
  readonly prepare: (params: ParamValues<P>, size: Size) => Float32Array;
  /** Its kernel is given the places of pixels. */
  readonly isPlaced?: boolean;
  readonly reads?: readonly ReadElement[];
  /** The definition: one pixel, colour not premultiplied. Kernels are tested against it. */
  readonly pixel: (rgb: Triple, prepared: Float32Array, place: PixelPlace, others: readonly Triple[]) => Triple;
  readonly kernel: string;
}

/** What a neighbourhood operation does, as plain data; each kind is a file in evaluate/kinds. */
export interface Neighbourhood {
  readonly kind: 'gaussian';
  /** In pixels of the full picture. */
  readonly sigmaPx: number;
  /** Takes nothing from where its mask is empty. */
  readonly staysInside: boolean;
}

/** Reads across pixels: the picture that it works on is made first. */
export interface NeighbourhoodCorrection<P extends ParamTable> extends CorrectionBase<P> {
  readonly work: 'neighbourhood';
  readonly spread: (params: ParamValues<P>, size: Size) => Neighbourhood;
}

export type CorrectionSpec<P extends ParamTable> = PointCorrection<P> | NeighbourhoodCorrection<P>;
export type Correction = CorrectionSpec<ParamTable>;

/** Checks a declaration and forgets the exact parameter names, so that all corrections fit one registry. */
export function defineCorrection<const P extends ParamTable>(spec: PointCorrection<P>): PointCorrection<ParamTable>;
export function defineCorrection<const P extends ParamTable>(spec: NeighbourhoodCorrection<P>): NeighbourhoodCorrection<ParamTable>;
export function defineCorrection<const P extends ParamTable>(spec: CorrectionSpec<P>): Correction {
  for (const [name, param] of Object.entries(spec.params)) {
    if (!(param.min <= param.default && param.default <= param.max) || !(param.step > 0)) {
      throw new CoreError('bad-parameter', `${spec.id}.${name}: the default must lie in the range and the step must be positive.`);
    }
  }
  return spec as unknown as Correction;
}

export const defaultsOf = (correction: Pick<Correction, 'params'>): ParamValues =>
  Object.fromEntries(Object.entries(correction.params).map(([name, param]) => [name, param.default]));

/** The parameters in full: defaults for what is missing, ranges kept. @throws CoreError `bad-parameter` for unknown names or non-numbers */
export function completeParams(correction: Pick<Correction, 'label' | 'params'>, given: Readonly<Record<string, unknown>>): ParamValues {
  const values: Record<string, number> = { ...defaultsOf(correction) };
  for (const [name, value] of Object.entries(given)) {
    const param = Object.hasOwn(correction.params, name) ? correction.params[name] : undefined;
    if (!param) throw new CoreError('bad-parameter', `${correction.label} has no parameter “${shortened(name, 40)}”. It has: ${Object.keys(correction.params).join(', ')}.`);
    if (typeof value !== 'number' || !Number.isFinite(value)) throw new CoreError('bad-parameter', `${correction.label}, ${param.label}: expected a number, found ${typeof value === 'string' ? `“${shortened(value, 40)}”` : Array.isArray(value) ? 'a list' : typeof value === 'object' && value !== null ? 'an object' : String(value)}.`);
    values[name] = Math.min(param.max, Math.max(param.min, value));
  }
  return values;
}
