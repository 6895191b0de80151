/** How a correction is declared: once, in one file. Bench, schema, command line and docs are generated from it. */
import type { Camera } from '../camera/camera.ts';
import type { Triple } from '../vector.ts';
import type { Zone } from '../color/zones.ts';
import type { RoleId } from '../elements/roles.ts';
import { CoreError } from '../errors.ts';
import { faultOf, type KeptValues, type ParamTable, type ParamValues } from '../params/table.ts';
import type { Aperture } from '../raster/aperture.ts';
import type { Bend } from '../raster/bend.ts';
import type { Streaks } from '../raster/diffraction.ts';
import type { FocusLens } from '../raster/focus.ts';
import type { LocalWeights } from '../raster/local.ts';
import type { ColourMatch } from '../raster/match.ts';
import type { Spread } from '../raster/measure.ts';
import type { Size } from '../raster/region.ts';

/** In which numbers a correction computes; the plan converts before and after where the zone differs. `as-found` takes what is there. */
export type Domain = 'light' | 'display' | 'as-found';

/** What corrections are for, in the order in which menus show them. */
export const CORRECTION_GROUPS = ['Light and tone', 'Colour', 'Surface', 'Detail', 'Lens'] as const;
export type CorrectionGroup = (typeof CORRECTION_GROUPS)[number];

/** Takes parameters from a place of the picture; null sets nothing. */
export interface PlacePick<P extends ParamTable> {
  readonly label: string;
  /** What is read there: the mean of the values that come in around it, in the correction's own domain; or how many metres away it is along the lens's axis, three times. */
  readonly of?: 'metres';
  readonly take: (found: Triple, params: ParamValues<P>) => KeptValues | null;
}

interface CorrectionBase<P extends ParamTable> {
  /** Kebab-case, never reused for something else. */
  readonly id: string;
  readonly label: string;
  readonly summary: string;
  readonly group: CorrectionGroup;
  readonly params: P;
  readonly domain: Domain;
  readonly zones: readonly Zone[];
  /** Where it goes if nothing is selected; under the tone line, unless it says so. */
  readonly prefers?: Zone;
  /** What it begins with on a surface whose mean colour without light is known. */
  readonly onSurface?: (mean: Triple) => KeptValues;
  /** What it begins with, by the camera of the document if there is one. */
  readonly begin?: (camera: Camera | null) => KeptValues;
  /** Parameters that are at hand on every surface, before the correction is added. */
  readonly atHand?: readonly (keyof P & string)[];
  /** What a click in the picture sets. */
  readonly picks?: readonly PlacePick<P>[];
  /** Places on the scale of picture values that are marked over how the entering ones are spread, 0…1. */
  readonly marks?: (params: ParamValues<P>) => readonly number[];
  /** What makes it agree with another sample of pixels. */
  readonly match?: (found: ColourMatch) => KeptValues;
  /** What is set by itself, from how the values that come in are spread, in its own domain. Null sets nothing. */
  readonly automatic?: (entering: Spread, params: ParamValues<P>) => KeptValues | null;
  /** What it does to details: elements that lie over it would keep theirs, sharp or in their place. */
  readonly detail?: 'softens' | 'moves';
  /** What can be said of its numbers, in a sentence. */
  readonly facts?: (params: ParamValues<P>) => string;
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
  /** The definition: one pixel, `step` pixels of the full picture wide, colour not premultiplied. Kernels are tested against it. */
  readonly pixel: (rgb: Triple, prepared: Float32Array, place: PixelPlace, others: readonly Triple[], step: number) => Triple;
  readonly kernel: string;
}

/** What a neighbourhood operation does, as plain data. */
export type Neighbourhood = GaussianBlur | Drift | Diffraction | GaussianMixture | GradedBlur | LocalLight | GuidedSmoothing | Despeckling | DepthOfField | Bending;

export interface GaussianBlur {
  readonly kind: 'gaussian';
  /** In pixels of the full picture. */
  readonly sigmaPx: number;
  /** Takes nothing from where its mask is empty. */
  readonly staysInside: boolean;
}

/** Drawn out along a straight way. */
export interface Drift {
  readonly kind: 'drift';
  /** From its beginning to its end, in pixels of the full picture. */
  readonly way: readonly [x: number, y: number];
  /** Takes nothing from where its mask is empty. */
  readonly staysInside: boolean;
}

/** Light that goes away from where it was. */
export interface Scattering {
  /** How much of it stays. */
  readonly own: Triple;
  /** How much is shown of light that does not: all, or nothing where only what is scattered is shown. */
  readonly others: 0 | 1;
  /** Only light within the mask is scattered, and the mask does not say where that is seen. */
  readonly fromMask: boolean;
}

/** Light that an opening bends aside: what is bent of each channel. */
export interface Diffraction extends Scattering {
  readonly kind: 'diffraction';
  readonly gain: Triple;
  readonly streaks: Streaks;
  /** How far, in pixels of the full picture. */
  readonly reachPx: number;
}

/** One of several Gaussians, and how much of each channel goes into it. */
export interface GaussianPart {
  /** In pixels of the full picture. */
  readonly sigmaPx: number;
  readonly gain: Triple;
}

/** Light that is spread by several Gaussians at once. */
export interface GaussianMixture extends Scattering {
  readonly kind: 'mixture';
  readonly parts: readonly GaussianPart[];
}

/** A blur whose width depends on the place: none between two lines, full beyond two others. */
export interface GradedBlur {
  readonly kind: 'graded';
  /** Full width, in pixels of the full picture. */
  readonly sigmaPx: number;
  /** A place on the middle line in pixels, and a direction across it, of length 1. */
  readonly middle: readonly [x: number, y: number];
  readonly across: readonly [x: number, y: number];
  /** Distances from the middle, in pixels, where it begins and where it is full. */
  readonly begins: number;
  readonly full: number;
}

/** A base that keeps its edges: light that changes by much more than `edgeStops` within its width. */
export interface LocalBase {
  /** In pixels of the full picture. */
  readonly sigmaPx: number;
  readonly edgeStops: number;
}

/** Light taken apart into bases, from fine to coarse, and put together again: see raster/local.ts. */
export interface LocalLight {
  readonly kind: 'local';
  readonly bases: readonly LocalBase[];
  readonly weights: LocalWeights;
}

/** Means that stop at edges of light and of the elements that are read beside: see raster/smooth.ts. */
export interface GuidedSmoothing {
  readonly kind: 'smooth';
  /** How often the distance of what is read doubles, in pixels of the full picture. */
  readonly passes: number;
  /** Differences of light that count as noise, in stops. */
  readonly lightStops: number;
  /** Differences of the elements that count as the same surface, in the order of `reads`. */
  readonly guideWidths: readonly number[];
}

/** Single pixels so many times as bright as their neighbours (and brighter than `floor`, in light) become as these are, or are shown alone. */
export interface Despeckling {
  readonly kind: 'despeckle';
  readonly times: number;
  readonly floor: number;
  readonly shows: boolean;
}

/** Drawn as by another lens. */
export interface Bending {
  readonly kind: 'bend';
  readonly bend: Bend;
}

/** Blurred by how far away things are: what a lens draws of them. Radii are in pixels of the full picture. */
export interface DepthOfField {
  readonly kind: 'focus';
  readonly lens: FocusLens;
  readonly aperture: Aperture;
  /** What light is multiplied with. */
  readonly gain: number;
  /** Shows what is sharp: circles up to this radius. */
  readonly shows: boolean;
  readonly sharpPx: number;
}

/** Reads across pixels: the picture that it works on is made first. */
export interface NeighbourhoodCorrection<P extends ParamTable> extends CorrectionBase<P> {
  readonly work: 'neighbourhood';
  /** Elements that it follows; what there is of them. */
  readonly reads?: readonly ReadElement[];
  readonly spread: (params: ParamValues<P>, size: Size) => Neighbourhood;
}

export type CorrectionSpec<P extends ParamTable> = PointCorrection<P> | NeighbourhoodCorrection<P>;
export type Correction = CorrectionSpec<ParamTable>;

/** Checks a declaration and forgets the exact parameter names, so that all corrections fit one registry. */
export function defineCorrection<const P extends ParamTable>(spec: PointCorrection<P>): PointCorrection<ParamTable>;
export function defineCorrection<const P extends ParamTable>(spec: NeighbourhoodCorrection<P>): NeighbourhoodCorrection<ParamTable>;
export function defineCorrection<const P extends ParamTable>(spec: CorrectionSpec<P>): Correction {
  const fault = faultOf(spec.params);
  if (fault) throw new CoreError('bad-parameter', `${spec.id}, ${fault}`);
  return spec as unknown as Correction;
}
