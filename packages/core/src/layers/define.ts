/**
 * How a kind of layer that holds a picture is declared: once, in one file. All of them share chain, blend mode, opacity, mask and, as far as their pixels lie somewhere,
 * placement; schema, edits, menus and planner ask the declaration for everything else.
 */
import type { CameraView } from '../camera/view.ts';
import type { Zone } from '../color/zones.ts';
import type { Domain } from '../corrections/define.ts';
import type { LightMix, Mask, Source, TazzelDocument } from '../model/model.ts';
import { CoreError } from '../errors.ts';
import { faultOf, type ParamTable, type ParamValues } from '../params/table.ts';
import type { AffineMap, PictureMap } from '../raster/affine.ts';
import type { Region } from '../raster/region.ts';
import type { Triple } from '../vector.ts';
import type { PlannedFigures } from '../figures/planned.ts';
import type { PlannedTrails } from '../trails/planned.ts';
import type { LightKind } from '../light/names.ts';
import type { FormulaId } from './formula.ts';

/** Where the pixels of a layer come from: a source, another picture of the plan, or a formula. */
export type Origin = { readonly kind: 'source'; readonly sourceId: string } | { readonly kind: 'picture'; readonly node: number } | Computed | Sum;

/** Pixels from a formula, at their places and with what it reads there; null is missing and counts as 0. */
export interface Computed {
  readonly kind: 'formula';
  readonly formula: FormulaId;
  readonly prepared: Float32Array;
  /** What `prepared` was made of. */
  readonly of: object;
  readonly reads: readonly (Factor | null)[];
}

/** A number that is multiplied into a summand at every pixel: light of an element, or of another picture of the plan. */
export interface Factor {
  readonly from: { readonly kind: 'source'; readonly sourceId: string } | { readonly kind: 'picture'; readonly node: number };
  /** What stored values mean, where that is not what they are: value = scale × stored + offset. */
  readonly scale: { readonly scale: number; readonly offset: number } | null;
  /** Display values are decoded. */
  readonly load: 'as-is' | 'to-light';
  /** Only the first of its three numbers is looked at: an alpha. */
  readonly isGrey?: boolean;
}
export interface Summand {
  readonly factors: readonly Factor[];
  readonly gain: Triple;
}
/** Σ gain × factor × factor …, and a number: light of many elements added in one pass. Opaque everywhere. */
export interface Sum {
  readonly kind: 'sum';
  readonly summands: readonly Summand[];
  readonly plus: number;
}

/** The pixels of a layer before anything is done to them. */
export interface Beginning {
  readonly from: Origin;
  readonly domain: Domain;
  /** Values are known to lie within 0…1. */
  readonly bounded: boolean;
  /** What is done to them first. */
  readonly scale: { readonly kind: 'scale'; readonly scale: number; readonly offset: number } | null;
  /** Where they lie, in pixels of the full picture; null if that is everywhere. */
  readonly domainRegion: Region | null;
  /** A picture that they are multiplied with, after a number was added to them. */
  readonly times?: Relit | null;
  /** The layer's own mask is in them already. */
  readonly holdsMask?: boolean;
  /** What lies below becomes this picture first (a node of the plan), as far as opacity and mask of the layer let it: the shadow of what stands there. */
  readonly beneath?: number | null;
}

/** What stands before the sky. */
export interface Covering {
  /** How much of a pixel is not sky, as a number at each pixel, and as a node of the plan. */
  readonly factor: Factor;
  readonly node: () => number;
  /** Where all is sky, away from its edges. */
  readonly sky: Mask;
}

/** What an element is multiplied with to be lit by the light board. */
export interface Relit {
  readonly node: number;
  /** Added before: the element's part of a light that no element has. */
  readonly plus: number;
}

/** What stands in the picture, for those who read depths or an alpha of the render. */
export interface Standee {
  readonly sides: (before: number, areDepths: boolean) => number;
  readonly cover: (before: number) => number;
}

/** How what is moved is softened, and drawn out along a way, in pixels of the full picture. */
export interface PatchBlur {
  readonly softPx: number;
  readonly way: readonly [x: number, y: number];
}

/** What the planner does for a kind. */
export interface Planning {
  readonly document: TazzelDocument;
  readonly zone: Zone;
  /** An element that is going to be read; null if its file cannot be. */
  source(sourceId: string): Source | null;
  /** What lies near and far at the edges of an element of metres, as a node of the plan: three planes of raster/sides.ts. */
  sides(source: Source): number;
  /** What lies below the layer, as a node of the plan; null if there is nothing, or if it is not light and only light was asked for. */
  below(inAnyZone?: boolean): number | null;
  /** A picture seen elsewhere: a map from places in the picture to places in it. */
  warped(picture: number, map: PictureMap): number;
  /** Another place of a picture in the light and colour that the picture has around the layer's mask; what the mask covers is never taken. `reachPx` is about as wide as that. */
  healed(below: number, map: PictureMap, reachPx: number): number;
  /** A picture in which what the layer's mask covers lies elsewhere, softened; its old place is healed with what lies at another one, or filled from around. It holds the mask. */
  moved(below: number, map: PictureMap, healing: PictureMap | null, reachPx: number, blur: PatchBlur): number;
  /** What lies around the layer's mask, carried into it. */
  filled(below: number, reachPx: number): number;
  /** What stands before the sky, by an alpha. */
  coveredBy(alpha: Source): Covering;
  /** The same by the layer's own mask of the sky; null if it has none. */
  coveredByMask(): Covering | null;
  /** The sky of a picture (a node of the plan) as it goes on behind what stands before it. */
  oldSky(picture: number, covering: Covering): number;
  /** A picture, blurred. */
  softened(picture: number, sigmaPx: number): number;
  /** A grey picture, smeared away from a place: at each pixel what lies between it and the place. In pixels of the full picture. */
  smeared(picture: number, towards: readonly [x: number, y: number], reachPx: number): number;
  /** A picture's light as a node of the plan: of everything around, as a camera sees it. */
  around(source: Source, view: CameraView, turnRadians: number): number;
  /** A picture's light as a node of the plan, placed: a map from places in the picture to places in it. */
  placed(source: Source, map: AffineMap): number;
  /** Opaque light of a formula that costs much, as a node of the plan: made once, and kept while what is done with it changes. */
  kept(from: Computed): number;
  /** An element as it lies in the picture, as a node of the plan: its light, or its numbers. */
  element(source: Source): number;
  /** A picture's light where its own pixels lie, as a node of the plan. */
  alone(source: Source): number;
  /** Figures in space, as a node of the plan. */
  figures(node: PlannedFigures): number;
  /** Light trails, as a node of the plan. */
  trails(node: PlannedTrails): number;
  /** Something stands in the picture from here on: it makes nodes anew of what lies near and far, and of what is not sky. */
  stand(what: Standee): void;
  /** Light of some kinds of groups, and of all, as nodes of the plan; null without such groups. */
  light(kinds: readonly LightKind[]): { readonly some: number; readonly all: number } | null;
  /** The picture after a layer, as a node of the plan. */
  pictureAfter(layerId: string): number;
  /** All light groups in a mix of the light board. */
  mixed(mix: LightMix): Sum;
  /** What makes an element one of the relit picture; null if it takes no part in the sum of elements, or there are no groups. */
  relit(sourceId: string): Relit | null;
}

/** A place in the document, for what can be said of a layer there. */
export interface Standing<V> {
  readonly document: TazzelDocument;
  readonly values: V;
  /** Null before it was added. */
  readonly layerId: string | null;
}

export interface LayerSpec<P extends ParamTable = ParamTable> {
  /** Kebab-case, never reused for something else. */
  readonly id: string;
  readonly label: string;
  readonly summary: string;
  /** Whether it can be moved, scaled and turned. */
  readonly isPlaced: boolean;
  /** Whether it reads what lies below it. */
  readonly readsBelow?: boolean;
  readonly params: P;
  /** What a new one is called. */
  readonly nameOf: (standing: Standing<ParamValues<P>>) => string;
  /** What it begins with in a document, as far as that is not the default. */
  readonly begin?: (document: TazzelDocument) => Partial<ParamValues<P>>;
  /** Without this it cannot be kept: “its element is missing”. */
  readonly fault?: (standing: Standing<ParamValues<P>>) => string | null;
  /** Why it shows nothing, as a sentence about it; null if it does. */
  readonly problem?: (standing: Standing<ParamValues<P>>) => string | null;
  /** Elements that it reads beside those that its parameters name. */
  readonly uses?: (standing: Standing<ParamValues<P>>) => readonly string[];
  /** Where its own pixels lie, if not everywhere. */
  readonly boxOf?: (standing: Standing<ParamValues<P>>) => Region | null;
  /** Where its pixels come from; null if it shows nothing. */
  readonly origin: (values: ParamValues<P>, planning: Planning) => Beginning | null;
}

/** Checks a declaration and forgets the exact parameter names, so that all kinds fit one registry. */
export function defineLayer<const P extends ParamTable>(spec: LayerSpec<P>): LayerSpec {
  const fault = faultOf(spec.params);
  if (fault) throw new CoreError('bad-parameter', `${spec.id}, ${fault}`);
  return spec as unknown as LayerSpec;
}
