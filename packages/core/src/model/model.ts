/**
 * The document: immutable plain data. Everything that is saved and undone is here and nothing else is.
 * Shapes are checked by schema.ts at every border; changes go through edits.ts.
 */
import type { CorrectionBlendId } from '../blend/correction-blends.ts';
import type { BlendModeId } from '../blend/modes.ts';
import { STRAIGHT_TONE, type ToneUse } from '../tone/registry.ts';
import type { DocumentCamera } from '../camera/camera.ts';
import type { Encoding, Zone } from '../color/zones.ts';
import type { Finding } from '../elements/findings.ts';
import type { RoleGuess, RoleId } from '../elements/roles.ts';
import type { Place } from '../params/places.ts';
import type { Stroke } from '../params/strokes.ts';
import type { KeptValues } from '../params/table.ts';
import type { Cut } from '../raster/cut.ts';
import type { FilterId } from '../raster/filters.ts';
import type { Size } from '../raster/region.ts';
import type { DocumentSun } from '../sun/sun.ts';
import type { Triple } from '../vector.ts';
import { shortened } from '../limits.ts';

export const DOCUMENT_FORMAT = 'tazzel-document';
export const DOCUMENT_VERSION = 5;

/** What a source's alpha channel is used for. A source without one says `none`. */
export type AlphaUse = 'none' | 'straight' | 'premultiplied' | 'ignore';
export const ALPHA_USES: readonly AlphaUse[] = ['none', 'straight', 'premultiplied', 'ignore'];

export type SumUse = 'auto' | 'in' | 'out';
export const SUM_USES: readonly SumUse[] = ['auto', 'in', 'out'];

/** Formats of picture files that are read. */
export const FILE_FORMATS = ['png', 'exr', 'tiff', 'jpeg', 'hdr', 'webp'] as const;
export type FileFormat = (typeof FILE_FORMATS)[number];

/** The original file, stored unchanged under its SHA-256. Several sources may share one file. */
export interface SourceFile {
  readonly hash: string;
  readonly name: string;
  readonly format: FileFormat;
  readonly byteLength: number;
}

/** One element of one file: which channels, how encoded, and where its pixels lie in the picture. */
export interface Source extends Size {
  readonly id: string;
  readonly name: string;
  readonly role: RoleId;
  /** Why the role was guessed; null if it was chosen by hand. */
  readonly guess: Omit<RoleGuess, 'role'> | null;
  /** What is wrong with it, as far as that can be seen. */
  readonly findings: readonly Finding[];
  readonly file: SourceFile;
  /** Part of the file, counted from 0 over all of them. */
  readonly part: number;
  /** One channel (grey) or three (red, green, blue), named as in the file. */
  readonly colorChannels: readonly string[];
  readonly alphaChannel: string | null;
  readonly encoding: Encoding;
  readonly alpha: AlphaUse;
  /** What stored values mean: value = scale × stored + offset, on the values as they are encoded. 1 and 0 leave them alone. */
  readonly scale: number;
  readonly offset: number;
  /** Whether the element counts among those that sum to the beauty; `auto` leaves it to its role. */
  readonly inSum: SumUse;
  /** The size to which the pixels are fitted; null shows them as they are. */
  readonly fit: Size | null;
  /** Upper left pixel of the source in the picture; not 0 where an EXR's data window differs from its display window. */
  readonly x: number;
  readonly y: number;
}

/** What a row of the schedule is: what a surface is made of, or the thing itself. */
export type MaterialKind = 'material' | 'object';

/** A row of the material schedule: one flat colour of an ID picture, one name of a coverage matte, or one channel of an RGB matte. */
export interface Material {
  readonly id: string;
  readonly kind: MaterialKind;
  /** M01, M02 … (objects O01 …) in the order of area. */
  readonly tag: string;
  readonly name: string;
  /** Rows of one surface are selected together; null stands alone. */
  readonly surface: string | null;
  readonly sourceId: string;
  /** Identity in the source, exact: a colour (see elements/palette.ts), the 32-bit hash of a coverage matte, or the number of a matte's channel. */
  readonly colorKey: number;
  /** The same thing in a coverage matte, whose edges are exact; null if there is none. */
  readonly coverage: { readonly sourceId: string; readonly hash: number } | null;
  /** The colour to show, display-encoded 0…1. */
  readonly chip: readonly [number, number, number];
  /** Share of the picture, 0…1. */
  readonly area: number;
  /** Mean colour of the surface without light (or of the picture, without a diffuse filter), linear; null before it was measured. */
  readonly mean: readonly [number, number, number] | null;
}

export const TERM_OPERATIONS = ['add', 'subtract', 'intersect'] as const;
export type TermOperation = (typeof TERM_OPERATIONS)[number];

export type { Stroke };
/** A point of the picture, in pixels of its full size. */
export type Point = Place;

/** One line of a mask's recipe. */
export interface MaskTerm {
  /** Its own among the lines of the mask. */
  readonly id: string;
  /** What it selects: a row of masks/registry.ts. */
  readonly type: string;
  readonly operation: TermOperation;
  /** Left out for the moment. */
  readonly muted: boolean;
  readonly params: KeptValues;
}

export interface Mask {
  readonly id: string;
  readonly name: string;
  readonly terms: readonly MaskTerm[];
  /** Grows (above 0) or shrinks the result, in pixels of the full picture. */
  readonly growPx: number;
  /** Softens it: the standard deviation of a Gaussian, in pixels of the full picture. */
  readonly featherPx: number;
  /** Whether the softening follows the edges of the picture. */
  readonly followEdges: boolean;
  readonly inverted: boolean;
  /** 0…1 */
  readonly strength: number;
}

/** A layer's or correction's reference to a mask of the shelf. */
export interface MaskUse {
  readonly maskId: string;
  readonly inverted: boolean;
  readonly enabled: boolean;
}

export interface CorrectionUse {
  readonly type: string;
  /** What of its result is taken over. */
  readonly blend: CorrectionBlendId;
  readonly params: KeptValues;
}

/** A correction in one layer's own chain. */
export interface ChainCorrection extends CorrectionUse {
  readonly id: string;
  readonly visible: boolean;
  readonly opacity: number;
  readonly mask: MaskUse | null;
}

interface LayerBase {
  readonly id: string;
  readonly name: string;
  readonly visible: boolean;
  /** 0…1 */
  readonly opacity: number;
  readonly mask: MaskUse | null;
  /** Nothing of it, and of the layers in it, is changed but whether it is on. */
  readonly locked?: boolean;
}

/** Where a layer lies: scaled, then turned (clockwise) around the middle of its own picture, then moved. A negative scale mirrors. */
export interface Placement {
  /** Pixels of the full picture. */
  readonly offsetX: number;
  readonly offsetY: number;
  readonly scaleX: number;
  readonly scaleY: number;
  readonly rotationDegrees: number;
  readonly filter: FilterId;
}

/** A layer with a picture of its own. */
export interface PictureLayer extends LayerBase {
  readonly kind: 'picture';
  /** What it shows: a row of layers/registry.ts. */
  readonly type: string;
  readonly params: KeptValues;
  readonly blend: BlendModeId;
  readonly chain: readonly ChainCorrection[];
  /** Null lies where its pixels do. */
  readonly placement: Placement | null;
}

/** A correction of everything below it. */
export interface CorrectionLayer extends LayerBase {
  readonly kind: 'correction';
  readonly correction: CorrectionUse;
}

/**
 * Layers that belong together. An isolated group is composited by itself and then blended as one picture (W3C
 * Compositing, "isolated groups"); the layers of any other work on what is below, and opacity and mask say how much of that is seen.
 */
export interface GroupLayer extends LayerBase {
  readonly kind: 'group';
  readonly isolated: boolean;
  readonly blend: BlendModeId;
  readonly layers: readonly Layer[];
}

export type Layer = PictureLayer | CorrectionLayer | GroupLayer;
/** Groups inside groups, at most. */
export const MAX_GROUP_DEPTH = 4;

/** Layers from base to finish; the tone line lies between the two lists. */
export type BuildUp = { readonly [Z in Zone]: readonly Layer[] };

/** How the picture was finished at some time, under a name. */
export interface NamedState {
  readonly id: string;
  readonly name: string;
  readonly buildUp: BuildUp;
  readonly masks: readonly Mask[];
  readonly tone: ToneUse;
  /** Of the light board. */
  readonly mix: LightMix;
}

/** How one light group is set: see light/group.ts. What is left out is as rendered. */
export interface LightSetting {
  readonly sourceId: string;
  readonly params: KeptValues;
}
export type LightMix = readonly LightSetting[];

/** A mix under a name. */
export interface LightScenario {
  readonly id: string;
  readonly name: string;
  readonly mix: LightMix;
}

/** When a scenario is reached in frames, and how: little by little from the one before, or at once. */
export interface LightKey {
  readonly seconds: number;
  readonly scenarioId: string;
  readonly passage: 'fade' | 'cut';
}
export const LIGHT_PASSAGES: readonly LightKey['passage'][] = ['fade', 'cut'];

/** A short run of pictures in which the light changes. */
export interface LightFrames {
  readonly perSecond: number;
  /** Of what flickers. */
  readonly seed: number;
  /** In the order of time. */
  readonly keys: readonly LightKey[];
}

export interface LightBoard {
  readonly mix: LightMix;
  readonly scenarios: readonly LightScenario[];
  /** The colour that a group's light has as rendered, luminance 1; those that are not named were not measured yet. */
  readonly own: readonly { readonly sourceId: string; readonly color: Triple }[];
  /** Groups that are changed together. None is in two of them. */
  readonly links: readonly (readonly string[])[];
  readonly frames: LightFrames;
}
export const EMPTY_BOARD: LightBoard = { mix: [], scenarios: [], own: [], links: [], frames: { perSecond: 12, seed: 1, keys: [] } };

/** Whose value a scheme sets: a layer or a correction of its chain, a mask or a line of it, a light group, the sun, the tone line. */
export type SlotAddress = { readonly layerId: string; readonly correctionId?: string } | { readonly maskId: string; readonly termId?: string } | { readonly lightId: string } | { readonly part: 'sun' | 'tone' };
/** A value that is another one in a scheme: see document/slots.ts. */
export interface Override {
  readonly at: SlotAddress;
  /** A switch, as `visible` or `opacity`, or a parameter as `params.NAME`. */
  readonly what: string;
  readonly value: unknown;
}

/** A variant of the picture under a name: what is different in it. */
export interface Scheme {
  readonly id: string;
  readonly name: string;
  readonly overrides: readonly Override[];
}
export interface Schemes {
  readonly list: readonly Scheme[];
  /** The scheme that the document shows, and that changes belong to; null for what all schemes begin with. */
  readonly chosenId: string | null;
  /** What that scheme's values are without it. */
  readonly base: readonly Override[];
}
/** A picture that is delivered again and again: in which form, and how it is called. */
export interface Delivery {
  readonly id: string;
  /** Of the file, without its ending: words, and what stands in braces; see document/deliveries.ts. */
  readonly name: string;
  /** One of the formats that are written, and what is set of it. What a format does not know does nothing. */
  readonly format: string;
  readonly values: KeptValues;
  /** As wide as that in pixels; null as the document, so many times halved. */
  readonly width: number | null;
  readonly halvings: number;
  readonly filter: FilterId;
  /** In other proportions; the whole picture where nothing is said. */
  readonly cut?: Cut | null;
  /** The layer that it goes up to; null for the finish. */
  readonly upto: string | null;
  /** Each scheme and the picture without any, or what is shown. */
  readonly schemes: DeliveredSchemes;
}
export const DELIVERED_SCHEMES = ['all', 'shown'] as const;
export type DeliveredSchemes = (typeof DELIVERED_SCHEMES)[number];

export const NO_SCHEMES: Schemes = { list: [], chosenId: null, base: [] };

/** A render that was in the document: its elements under the ids that they had, what was read of it, and how it was taken. */
export interface EarlierRender {
  readonly id: string;
  readonly name: string;
  /** When a newer one took its place, in milliseconds since 1970; null if that is not known. */
  readonly at: number | null;
  readonly sources: readonly Source[];
  readonly materials: readonly Material[];
  readonly size: Size;
  readonly camera: DocumentCamera | null;
  readonly sun: DocumentSun | null;
}

export interface TazzelDocument {
  readonly format: typeof DOCUMENT_FORMAT;
  readonly version: typeof DOCUMENT_VERSION;
  readonly id: string;
  readonly name: string;
  readonly size: Size;
  readonly sources: readonly Source[];
  readonly materials: readonly Material[];
  readonly masks: readonly Mask[];
  readonly buildUp: BuildUp;
  readonly tone: ToneUse;
  /** Null before it is known. */
  readonly camera: DocumentCamera | null;
  readonly sun: DocumentSun | null;
  readonly light: LightBoard;
  readonly states: readonly NamedState[];
  readonly schemes: Schemes;
  readonly deliveries: readonly Delivery[];
  /** Renders whose place was taken by newer ones, the latest last. */
  readonly renders: readonly EarlierRender[];
  /** Pixels whose colours are watched. */
  readonly samplers: readonly Point[];
}

/** A document without anything in it. Names that are too long are shortened, an empty one becomes *Untitled*. */
export function emptyDocument(id: string, name: string, size: Size): TazzelDocument {
  return {
    format: DOCUMENT_FORMAT,
    version: DOCUMENT_VERSION,
    id,
    name: shortened(name.trim()) || 'Untitled',
    size: { width: size.width, height: size.height },
    sources: [],
    materials: [],
    masks: [],
    buildUp: { scene: [], picture: [] },
    tone: STRAIGHT_TONE,
    camera: null,
    sun: null,
    light: EMPTY_BOARD,
    states: [],
    schemes: NO_SCHEMES,
    deliveries: [],
    renders: [],
    samplers: [],
  };
}
