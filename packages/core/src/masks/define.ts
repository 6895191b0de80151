/**
 * How a mask term is declared: once, in one file. Recipe editor, schema, command line and docs are generated from it.
 *
 * A term is prepared once for a picture at a level and then fills rows of coverage, so that no branch on parameters stands
 * in the loop over pixels.
 */
import type { Camera } from '../camera/camera.ts';
import { CoreError } from '../errors.ts';
import { faultOf, type KeptValues, type ParamTable, type ParamValues } from '../params/table.ts';
import type { Encoding } from '../color/zones.ts';
import type { TazzelDocument } from '../model/model.ts';
import type { RoleId } from '../elements/roles.ts';
import type { CoverageShares } from '../elements/coverage-shares.ts';
import type { Mixture } from '../elements/unmix.ts';
import type { SourceView } from '../raster/view.ts';
import type { Plane } from '../raster/planes.ts';
import type { Size } from '../raster/region.ts';
import type { Triple } from '../vector.ts';

/** Data that a term reads. Everything but a `view` is at full size, whatever the level. */
export type Need =
  | { readonly what: 'view'; readonly sourceId: string }
  /** Stored numbers with their alpha channel as a fourth: RGB mattes. */
  | { readonly what: 'matte'; readonly sourceId: string }
  | { readonly what: 'mixture'; readonly sourceId: string }
  /** A coverage matte, named by its first source. */
  | { readonly what: 'coverage'; readonly sourceId: string }
  /** The picture after a layer, at the level. */
  | { readonly what: 'picture'; readonly layerId: string }
  | { readonly what: 'mask'; readonly maskId: string }
  /** The camera of the document. */
  | { readonly what: 'camera' };

export const needKey = (need: Need): string => `${need.what} ${need.what === 'camera' ? '' : need.what === 'picture' ? need.layerId : need.what === 'mask' ? need.maskId : need.sourceId}`;

/** An element as a term reads it. */
export interface MaskView extends SourceView {
  readonly encoding: Encoding;
  readonly scale: number;
  readonly offset: number;
}

export interface MatteView {
  /** One plane for each channel, alpha last. */
  readonly planes: readonly Plane[];
  readonly x: number;
  readonly y: number;
}

export interface MixtureView extends Mixture {
  readonly x: number;
  readonly y: number;
}

export interface CoverageView extends CoverageShares {
  readonly x: number;
  readonly y: number;
}

/** What was got for the needs of a mask, by `needKey`. Plain data: it crosses to workers. */
export interface MaskInputs {
  /** The document's picture at full size. */
  readonly size: Size;
  readonly level: number;
  readonly views: Readonly<Record<string, MaskView>>;
  readonly mattes: Readonly<Record<string, MatteView>>;
  readonly mixtures: Readonly<Record<string, MixtureView>>;
  readonly coverages: Readonly<Record<string, CoverageView>>;
  /** Display values 0…1: red, green, blue. */
  readonly pictures: Readonly<Record<string, readonly Plane[]>>;
  readonly masks: Readonly<Record<string, Plane>>;
  readonly camera: Camera | null;
  /** Rows of the schedule: where each is found. */
  readonly materials: Readonly<Record<string, MaterialPlace>>;
}

export interface MaterialPlace {
  readonly sourceId: string;
  /** Number of its colour among all of the source. */
  readonly index: number;
  readonly colorKey: number;
  readonly what: 'flat' | 'coverage' | 'channel';
  /** `sourceId` is the first source of the matte. */
  readonly coverage: { readonly sourceId: string; readonly hash: number } | null;
  /** The ID picture of what is behind glass or mirrored, in the same colours. */
  readonly behindId: string | null;
}

/** Fills one row of coverage 0…1 at the level; `out` is as wide as the picture there. */
export type FillRow = (y: number, out: Float32Array) => void;

/** What lies at a pixel that was clicked. */
export interface Found {
  /** Of the element that the term reads; null beside it, or if it reads the picture. */
  readonly values: readonly number[] | null;
  /** Picture values 0…1, as the element or the picture looks there. */
  readonly shown: Triple;
  readonly pixel: readonly [x: number, y: number];
}

/** What a click in the picture sets; null sets nothing. */
export interface TermPick<P extends ParamTable> {
  readonly label: string;
  readonly take: (found: Found, params: ParamValues<P>) => KeptValues | null;
}

/** @typeParam P declared parameters; their values arrive in full */
export interface TermSpec<P extends ParamTable = ParamTable> {
  /** Kebab-case, never reused for something else. */
  readonly id: string;
  readonly label: string;
  readonly summary: string;
  readonly params: P;
  /** Roles of the elements it may read, the best first; `any` if every element will do. Null if it reads none. */
  readonly reads: { readonly roles: readonly RoleId[]; readonly any: boolean; readonly picture: boolean } | null;
  /** Coverages are shares of a pixel that exclude each other, so that adding and subtracting is exact. */
  readonly areShares: boolean;
  /** Whether coverage changes so slowly that 256 steps would show. */
  readonly isSmooth: boolean;
  /** Whether it can do with a part of what it reads. */
  readonly worksInPart?: boolean;
  /** What a new one begins with in a document, as far as that is not the default. */
  readonly begin?: (document: TazzelDocument) => Partial<ParamValues<P>>;
  /** The values with everything decided that depends on the document: which element is read. */
  readonly resolve?: (values: ParamValues<P>, document: TazzelDocument) => ParamValues<P>;
  readonly needs: (values: ParamValues<P>, document: TazzelDocument) => readonly Need[];
  /** Why it cannot work and is left out, as a sentence; null if it can. */
  readonly fault?: (values: ParamValues<P>, document: TazzelDocument) => string | null;
  /** What is wrong although it works with what there is. */
  readonly problem?: (values: ParamValues<P>, document: TazzelDocument) => string | null;
  readonly pick?: TermPick<P>;
  readonly prepare: (values: ParamValues<P>, inputs: MaskInputs) => FillRow;
  readonly source: string;
}

/** Checks a declaration and forgets the exact parameter names, so that all terms fit one registry. @throws CoreError `bad-parameter` */
export function defineTerm<const P extends ParamTable>(spec: TermSpec<P>): TermSpec {
  const fault = faultOf(spec.params);
  if (fault) throw new CoreError('bad-parameter', `${spec.id}, ${fault}`);
  return spec as unknown as TermSpec;
}

/** 0 before `from`, 1 after `to`, a smooth step between them. `from` may lie after `to`: then it falls. */
export function rise(from: number, to: number): (value: number) => number {
  if (from === to) return (value) => (value >= from ? 1 : 0);
  const scale = 1 / (to - from);
  return (value) => {
    const t = Math.min(1, Math.max(0, (value - from) * scale));
    return t * t * (3 - 2 * t);
  };
}

/** 1 between `low` and `high`, falling to 0 over `softLow` below and `softHigh` above. */
export function band(low: number, high: number, softLow: number, softHigh: number): (value: number) => number {
  const up = rise(low - softLow, low);
  const down = rise(high + softHigh, high);
  return (value) => (value < low ? (softLow > 0 ? up(value) : 0) : value > high ? (softHigh > 0 ? down(value) : 0) : 1);
}
