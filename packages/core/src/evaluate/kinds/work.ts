/** The kinds of pictures in a graph, as plain data. `input` and `base` are numbers of other pictures. */
import type { Aperture } from '../../raster/aperture.ts';
import type { Bend } from '../../raster/bend.ts';
import type { Streaks } from '../../raster/diffraction.ts';
import type { FilterId } from '../../raster/filters.ts';
import type { FocusLens } from '../../raster/focus.ts';
import type { FocusBand, FocusSlice } from '../focus-slices.ts';
import type { Card } from '../../figures/card.ts';
import type { TrailsLook } from '../../trails/planned.ts';
import type { FiguresLook, FiguresPart } from '../../figures/planned.ts';
import type { Region, Size } from '../../raster/region.ts';
import type { AffineMap } from '../../raster/affine.ts';
import type { LocalWeights } from '../../raster/local.ts';
import type { CameraView } from '../../camera/view.ts';
import type { Triple } from '../../vector.ts';
import type { PlannedMask, Step } from '../steps.ts';

/** A run of steps pixel by pixel, on another picture or on nothing. `keys[n]` stands for the result after n of them; `nodes` says which picture stands for a node of the plan. */
export interface PointsWork {
  readonly kind: 'points';
  readonly base: number | null;
  readonly steps: readonly Step[];
  readonly keys: readonly string[];
  readonly nodes: Readonly<Record<number, number>>;
}
/** Weighs colour and alpha with a mask, which becomes a fifth plane. */
export interface ConfineWork {
  readonly kind: 'confine';
  readonly input: number;
  readonly mask: PlannedMask;
}
/** Takes the weight out again. */
export interface ReleaseWork {
  readonly kind: 'release';
  readonly input: number;
}
/** Half or a quarter of the size. */
export interface ReduceWork {
  readonly kind: 'reduce';
  readonly input: number;
  readonly by: 1 | 2;
}
/** A sampled Gaussian, in pixels of the input. */
export interface ConvolveWork {
  readonly kind: 'convolve';
  readonly input: number;
  readonly sigmaPx: number;
}
/** Between pictures that are ever more blurred, by the distance of a place from a line. `sigmas` are those of the pictures; all in pixels of this level. */
export interface GradedWork {
  readonly kind: 'graded';
  readonly pictures: readonly number[];
  readonly sigmas: readonly number[];
  readonly middle: readonly [x: number, y: number];
  readonly across: readonly [x: number, y: number];
  readonly begins: number;
  readonly full: number;
}
/** Σ gain × picture: red, green, blue, and alpha each with its own. */
export interface MixtureWork {
  readonly kind: 'mixture';
  readonly parts: readonly { readonly picture: number; readonly gain: Triple; readonly alpha: number }[];
}
/** A reduced picture at the size it had `by` halvings before. */
export interface EnlargeWork {
  readonly kind: 'enlarge';
  readonly input: number;
  readonly by: number;
}

/** A picture scaled, turned and moved: the map goes from its pixels to those of the input, whose rectangle is `size`. */
export interface WarpWork {
  readonly kind: 'warp';
  readonly input: number;
  readonly map: AffineMap;
  readonly filter: FilterId;
  readonly size: Region;
}

/** Stops of light, their square and alpha: three planes. */
export interface MomentsWork {
  readonly kind: 'moments';
  readonly input: number;
}
/** The line that a base follows, of smoothed moments: two planes. */
export interface FitWork {
  readonly kind: 'fit';
  readonly input: number;
  readonly edgeStops: number;
}
/** A picture whose fine and coarse parts are weighed anew. `lines` are smoothed fits, from fine to coarse. */
export interface LocalWork {
  readonly kind: 'local';
  readonly input: number;
  readonly lines: readonly number[];
  readonly weights: LocalWeights;
}

/** Light of a picture bent aside by an opening, in pixels of the picture; `size` is its rectangle. */
export interface DiffractWork {
  readonly kind: 'diffract';
  readonly input: number;
  readonly streaks: Streaks;
  readonly reachPx: number;
  readonly size: Region;
}

/** A picture drawn out along a way, in its pixels: one pass. */
export interface DriftWork {
  readonly kind: 'drift';
  readonly input: number;
  readonly way: readonly [x: number, y: number];
}

/** A picture smoothed over one distance. */
export interface SmoothWork {
  readonly kind: 'smooth';
  readonly input: number;
  /** In pixels of the picture. */
  readonly distance: number;
  readonly lightStops: number;
  readonly guides: readonly { readonly picture: number; readonly width: number }[];
}

/** What lies near and far at each pixel of a picture of metres: three planes. */
export interface SidesWork {
  readonly kind: 'sides';
  readonly input: number;
}

/** A picture of everything around as a camera sees it. `size` is the input's rectangle, `scale` how many pixels of the full picture one is wide. */
export interface SphereWork {
  readonly kind: 'sphere';
  readonly input: number;
  readonly view: CameraView;
  readonly turnRadians: number;
  readonly size: Region;
  readonly scale: number;
}

/** The first plane of a picture, smeared away from a place (in its pixels): one pass, over a share of the reach. */
export interface SmearWork {
  readonly kind: 'smear';
  readonly input: number;
  readonly towards: readonly [x: number, y: number];
  readonly reachPx: number;
  readonly share: number;
}

/** Single pixels far brighter than those around them, taken out or shown. */
export interface DespeckleWork {
  readonly kind: 'despeckle';
  readonly input: number;
  readonly times: number;
  readonly floor: number;
  readonly shows: boolean;
}
/** A figure with its picture at several sizes, from fine to coarse: `size` is the rectangle of each, `scale` how many pixels of the figure's own picture one is wide. */
export interface FigureWork {
  readonly card: Card;
  readonly box: Region;
  readonly levels: readonly { readonly picture: number; readonly size: Region; readonly scale: number }[];
}
/** See figures/planned.ts. `scale` is how many pixels of the full picture one is wide; what is read of light at feet is read of small pictures. */
export interface FiguresWork extends FiguresLook {
  readonly kind: 'figures';
  readonly part: FiguresPart;
  readonly scale: number;
  readonly size: Size;
  readonly figures: readonly FigureWork[];
  readonly reads: { readonly below: number | null; readonly sides: number | null; readonly normals: number | null; readonly caught: number | null; readonly shines: number | null; readonly mirror: { readonly filter: number | null; readonly dark: number | null; readonly reflection: number } | null; readonly sunlight: { readonly sun: number; readonly all: number } | null };
  readonly light: { readonly picture: number | null; readonly filter: number | null; readonly sun: number | null; readonly all: number | null; readonly scale: number };
}

/** See trails/planned.ts. `scale` is how many pixels of the full picture one is wide. */
export interface TrailsWork extends TrailsLook {
  readonly kind: 'trails';
  readonly scale: number;
  readonly reads: { readonly sides: number | null; readonly filter: number | null };
}

/** A lens at a level: what of it draws circles, how large a pixel is in those of the full picture, and where its axis is if depths are distances along rays. */
export interface Lens extends FocusLens {
  readonly scale: number;
  readonly axis: { readonly x: number; readonly y: number; readonly focalPx: number } | null;
  /** How much longer than a depth a distance along a ray is, at most. */
  readonly longest: number;
}
/** A picture as another lens would have drawn it; `size` is the input's rectangle, `scale` how many pixels of the full picture one is wide. */
export interface BendWork {
  readonly kind: 'bend';
  readonly input: number;
  readonly bend: Bend;
  readonly scale: number;
  readonly size: Region;
}
/** What is near and what is far in each pixel: four planes each. */
export interface PartsWork {
  readonly kind: 'parts';
  readonly input: number;
  readonly sides: number;
}
/** The nearest and the farthest in each block of so many halvings: two planes. */
export interface ExtremesWork {
  readonly kind: 'extremes';
  readonly sides: number;
  readonly by: number;
}
/** Slices of a picture of parts, five planes each (see raster/focus.ts), at half or a quarter of its size. */
export interface SlicesWork {
  readonly kind: 'slices';
  readonly input: number;
  readonly sides: number;
  readonly by: 1 | 2;
  readonly lens: Lens;
  readonly slice: FocusSlice;
}
/** A picture of parts, slice by slice, blurred by an opening and laid on one another from the front; then what fills places that were never seen. All in pixels of the picture. */
export interface FocusWork {
  readonly kind: 'focus';
  readonly input: number;
  readonly sides: number;
  readonly lens: Lens;
  readonly aperture: Aperture;
  readonly middle: readonly [x: number, y: number];
  readonly halfDiagonal: number;
  readonly bands: readonly FocusBand[];
  /** What is nearest and farthest in blocks of so many halvings. */
  readonly extremes: number;
  readonly by: number;
  /** Slices of what is behind, smoothed, at so many halvings. */
  readonly fills: readonly { readonly picture: number; readonly coarser: number }[];
  readonly gain: number;
  /** Shows what is sharp: circles up to `sharpPx`. */
  readonly shows: boolean;
  readonly sharpPx: number;
}

export type Work = PointsWork | ConfineWork | ReleaseWork | ReduceWork | ConvolveWork | EnlargeWork | WarpWork | MomentsWork | FitWork | LocalWork | SmoothWork | DriftWork | DiffractWork | SidesWork | SphereWork | SmearWork | MixtureWork | GradedWork | FiguresWork | TrailsWork | DespeckleWork | BendWork | PartsWork | ExtremesWork | SlicesWork | FocusWork;
