/** What a plan is made of: plain data (it crosses to workers) that knows neither pixels nor kernels. */
import type { CameraView } from '../camera/view.ts';
import type { Zone } from '../color/zones.ts';
import type { PlannedFigures } from '../figures/planned.ts';
import type { PlannedTrails } from '../trails/planned.ts';
import type { PlannedTone } from '../tone/apply.ts';
import type { Mask } from '../model/model.ts';
import type { AffineMap } from '../raster/affine.ts';
import type { Bend } from '../raster/bend.ts';
import type { FilterId } from '../raster/filters.ts';
import type { Region, Size } from '../raster/region.ts';
import type { Bending, DepthOfField, Despeckling, Diffraction, GaussianPart, GradedBlur, LocalBase } from '../corrections/define.ts';
import type { Triple } from '../vector.ts';
import type { LocalWeights } from '../raster/local.ts';
import type { Origin } from '../layers/define.ts';

/** A mask over a picture that was bent meanwhile: its coverage goes along. */
export interface SeenMask {
  readonly mask: Mask;
  readonly bends: readonly Bend[];
}

export interface PlannedMask {
  /** Equal recipes over equal sources share a key, whatever their names. */
  readonly key: string;
  readonly inverted: boolean;
}

/** An element that a correction reads beside its own pixels; null counts as black. */
export interface PlannedRead {
  readonly sourceId: string;
  readonly load: 'as-is' | 'to-light';
}

/** What of a correction is taken over, and in which numbers; null takes all of it. */
export type PlannedBlend = { readonly id: string; readonly zone: Zone } | null;

export interface PlannedCorrection {
  readonly type: string;
  readonly blend: PlannedBlend;
  readonly prepared: Float32Array;
  /** Stands for `prepared`: tables are handed to the kernels once. */
  readonly tableKey: string;
  readonly opacity: number;
  readonly mask: PlannedMask | null;
  readonly reads: readonly (PlannedRead | null)[];
  /** It works with the places of pixels. */
  readonly isPlaced: boolean;
}

/** One action on the span of a layer before it is blended. */
export type SpanAction = { readonly kind: 'to-light' } | { readonly kind: 'to-display' } | { readonly kind: 'clamp' } | { readonly kind: 'scale'; readonly scale: number; readonly offset: number } | { readonly kind: 'multiply'; readonly node: number } | { readonly kind: 'correct'; readonly correction: PlannedCorrection };

export interface LayerStep {
  readonly kind: 'layer';
  readonly layerId: string;
  readonly from: Origin;
  /** Pixels are taken as they are, or from display values to light while they are read. */
  readonly load: 'as-is' | 'to-light';
  readonly actions: readonly SpanAction[];
  readonly blend: string;
  readonly zone: Zone;
  readonly opacity: number;
  readonly mask: PlannedMask | null;
}

export interface CorrectStep {
  readonly kind: 'correct';
  readonly layerId: string;
  readonly zone: Zone;
  /** The correction works on light and stands over the tone line: picture values are decoded for it and encoded again. */
  readonly throughLight: boolean;
  readonly correction: PlannedCorrection;
}

export interface ToneStep {
  readonly kind: 'tone';
  readonly tone: PlannedTone;
}

/** All that there is so far to light or to picture values, for what reads across pixels in the other ones. */
export interface ConvertStep {
  readonly kind: 'convert';
  readonly direction: 'decode' | 'encode';
}

/** What there is so far as a way of reading the picture shows it: the last step of all. */
export interface ReadingStep {
  readonly kind: 'reading';
  readonly reading: string;
}

/** Goes over to another picture, colour and alpha, as far as opacity and mask let it. */
export interface ReplaceStep {
  readonly kind: 'replace';
  readonly layerId: string;
  readonly node: number;
  readonly blend: PlannedBlend;
  readonly opacity: number;
  readonly mask: PlannedMask | null;
}

/** What follows is composited by itself (isolated) or on what is there, until the group is closed. */
export interface OpenGroupStep {
  readonly kind: 'open-group';
  readonly isolated: boolean;
}

export interface CloseGroupStep {
  readonly kind: 'close-group';
  readonly layerId: string;
  readonly isolated: boolean;
  readonly blend: string;
  readonly zone: Zone;
  readonly opacity: number;
  readonly mask: PlannedMask | null;
}

export type Step = LayerStep | CorrectStep | ToneStep | ConvertStep | ReadingStep | ReplaceStep | OpenGroupStep | CloseGroupStep;

/** A run of steps pixel by pixel, on another picture or on nothing. `keys[n]` stands for the result after n of them. */
export interface PointsNode {
  readonly kind: 'points';
  readonly base: number | null;
  /** The pixels that there are, in pixels of the full picture; null for all of it. */
  readonly domain: Region | null;
  readonly steps: readonly Step[];
  readonly keys: readonly string[];
}

export interface GaussianNode {
  readonly kind: 'gaussian';
  readonly key: string;
  readonly input: number;
  readonly sigmaPx: number;
  /** Reads nothing from where this is empty. */
  readonly within: PlannedMask | null;
}

/** A picture whose light an opening bends aside. */
export type DiffractionNode = Omit<Diffraction, 'fromMask'> & { readonly key: string; readonly input: number; readonly from: PlannedMask | null };

/** A picture drawn out along a way, in pixels of the full picture. */
export interface DriftNode {
  readonly kind: 'drift';
  readonly key: string;
  readonly input: number;
  readonly way: readonly [x: number, y: number];
  /** Reads nothing from where this is empty. */
  readonly within: PlannedMask | null;
}

/** A picture and Gaussians of it, added up: what is left of the picture itself, and of each. */
export interface MixtureNode {
  readonly kind: 'mixture';
  readonly key: string;
  readonly input: number;
  readonly own: Triple;
  readonly others: 0 | 1;
  /** Which light is spread; null is all. */
  readonly from: PlannedMask | null;
  readonly parts: readonly GaussianPart[];
}

/** A picture blurred by how far a place is from a line. */
export type GradedNode = GradedBlur & { readonly key: string; readonly input: number };

/** A picture taken apart into bases of some widths, from fine to coarse, and put together with other weights. */
export interface LocalNode {
  readonly kind: 'local';
  readonly key: string;
  readonly input: number;
  readonly bases: readonly LocalBase[];
  readonly weights: LocalWeights;
}

/** A picture smoothed without its edges, again and again over twice the distance. */
export interface SmoothNode {
  readonly kind: 'smooth';
  readonly key: string;
  readonly input: number;
  readonly passes: number;
  readonly lightStops: number;
  /** Pictures whose edges it follows, and how much they may differ. */
  readonly guides: readonly { readonly node: number; readonly width: number }[];
}

/** What lies near and far at each pixel of a picture of metres. */
export interface SidesNode {
  readonly kind: 'sides';
  readonly key: string;
  readonly input: number;
}

/** A picture of everything around as a camera sees it. */
export interface SphereNode {
  readonly kind: 'sphere';
  readonly key: string;
  readonly input: number;
  readonly view: CameraView;
  readonly turnRadians: number;
}

/** The first plane of a picture, smeared away from a place. All in pixels of the full picture. */
export interface SmearNode {
  readonly kind: 'smear';
  readonly key: string;
  readonly input: number;
  readonly towards: readonly [x: number, y: number];
  readonly reachPx: number;
}

/** A picture without the single pixels that are far brighter than those around them. */
export type DespeckleNode = Despeckling & { readonly key: string; readonly input: number };

/** A patch and what it differs by from a picture outside of a mask, carried into the mask. `input` is the picture. */
export interface MembraneNode {
  readonly kind: 'membrane';
  readonly key: string;
  readonly input: number;
  /** Null is black: then the picture is carried into the mask itself. */
  readonly patch: { readonly node: number } | null;
  /** Where the picture is to be followed. */
  readonly within: PlannedMask;
  readonly sigmaPx: number;
}

/** Figures in space: their picture, what they do to the one below, or to what lies near and far. */
export interface FiguresNode extends PlannedFigures {
  readonly kind: 'figures';
  readonly key: string;
}

/** Light trails, opaque on black. */
export interface TrailsNode extends PlannedTrails {
  readonly kind: 'trails';
  readonly key: string;
}

/** A picture scaled, turned and moved. Beyond its pixels it is transparent. */
export interface WarpNode {
  readonly kind: 'warp';
  readonly key: string;
  readonly input: number;
  readonly map: AffineMap;
  readonly filter: FilterId;
}

/** The pictures of a plan. None leads back to itself. */
/** As another lens would have drawn it. */
export type BendNode = Bending & { readonly key: string; readonly input: number };

/** A depth of field by near and far of another node. Pixels are those of the full picture. */
export interface FocusNode extends DepthOfField {
  readonly kind: 'focus';
  readonly key: string;
  readonly input: number;
  readonly sides: { readonly node: number };
  /** Where the lens's axis is, if depths are distances along rays. */
  readonly axis: { readonly x: number; readonly y: number; readonly focalPx: number } | null;
}

export type PlanNode = PointsNode | GaussianNode | DriftNode | DiffractionNode | MixtureNode | GradedNode | LocalNode | SmoothNode | SidesNode | SphereNode | SmearNode | FiguresNode | TrailsNode | MembraneNode | DespeckleNode | BendNode | FocusNode | WarpNode;

/** The result after some steps of a run. */
export interface Place {
  readonly node: number;
  readonly steps: number;
}

export interface Plan {
  readonly size: Size;
  readonly nodes: readonly PlanNode[];
  /** Scene light under the tone line. */
  readonly light: Place;
  /** The finished picture. */
  readonly result: Place;
  /** What lies below a layer, or below the outermost open group around it: results are kept between these only. */
  readonly before: Readonly<Record<string, Place>>;
  /** What there is after a layer that stands in no group. */
  readonly after: Readonly<Record<string, Place>>;
  readonly masks: Readonly<Record<string, SeenMask>>;
  readonly sources: readonly string[];
  /** Nodes that are read by others as well as on the way to the result. */
  readonly shared: readonly number[];
  /** What is left out, and why. */
  readonly problems: readonly string[];
}

export const keyAt = (plan: Pick<Plan, 'nodes'>, { node, steps }: Place): string => {
  const at = plan.nodes[node];
  return at.kind === 'points' ? at.keys[steps] : at.key;
};

/** All steps on the way to a place, below first; what pictures beside the way are made of is not among them. */
export function stepsTo({ nodes }: Pick<Plan, 'nodes'>, { node, steps }: Place): Step[] {
  const at = nodes[node];
  if (at.kind !== 'points') return [];
  const base = at.base === null ? null : nodes[at.base];
  const below = at.base !== null && base?.kind === 'points' ? stepsTo({ nodes }, { node: at.base, steps: base.steps.length }) : [];
  return [...below, ...at.steps.slice(0, steps)];
}
