/**
 * Everything that crosses between the interface thread and the workers. Plain data; planes lie in shared memory, results
 * are transferred. Both ends are built together, so a version is not negotiated, only asserted when a worker starts.
 */
import type { Bend, ColourMatch, ContentFacts, CoverageShares, CoveredId, CutOutMark, Encoding, FileFormat, KeptValues, LightMeasure, LightMeasures, Mask, MaskInputs, MaskView, Matrix, Measure, Mixture, PaletteColor, Plan, Plane, RebuildColumn, Region, FilterId, ResultRows, Scale, Scopes, Size, Source, SourceView, Stroke, Target, TazzelDocument } from '@tazzel/core';
import type { RebuildRequest, ShiftRequest } from './rebuild.ts';
import type { ExrFile, ExrHeader, FileReport, FinishedPicture, PixelForm, PixelKind, WantedPixels } from '@tazzel/formats';

/** A tile as it crosses to a worker: floats, plane after plane. */
export interface StoredTile {
  readonly region: Region;
  readonly buffer: ArrayBufferLike;
  readonly opaque: boolean;
}

export const PROTOCOL_VERSION = 2;

/** A file that a worker can open: `handle` is a Blob in the browser, a path or bytes in Node. */
export interface FileRef {
  readonly name: string;
  readonly size: number;
  readonly handle: unknown;
}

/** How finished pixels are stored in the shared output. */
export type OutputKind = PixelKind | 'half';
/** How pixels are written. */
export type OutputForm = Omit<PixelForm, 'kind'> & { readonly kind: OutputKind };
/** `float` has four planes of premultiplied numbers, `half` three of straight ones. */
export const OUTPUT_BYTES: Record<OutputKind, number> = { rgba8: 4, rgba16: 8, float: 16, half: 6 };

/** Finished pixels of one size that are wanted at another. */
export interface ResizeRequest {
  readonly pixels: ArrayBufferLike;
  /** `rgba16` holds codes of the picture, `float` planes of light. */
  readonly kind: 'rgba16' | 'float';
  readonly from: Size;
  readonly to: Size;
  readonly filter: FilterId;
  /** Into which pixels: those of light stay light. */
  readonly into: PixelForm;
  /** Those of the result that are made here. */
  readonly rows: ResultRows;
  /** As large as `to` in the pixels of `into`. */
  readonly output: ArrayBufferLike;
}

/** Everything a worker needs to compute tiles of one state of a document at one level. */
export interface Job {
  readonly id: number;
  readonly plan: Plan;
  readonly level: number;
  readonly sources: Readonly<Record<string, SourceView>>;
  readonly masks: Readonly<Record<string, Plane>>;
}

/** A region of a picture to draw, with all that it reads. */
export interface Draw {
  readonly jobId: number;
  readonly target: Target;
  /** Number of the picture in the target's graph. */
  readonly picture: number;
  readonly region: Region;
  readonly kept: readonly (StoredTile & { readonly picture: number })[];
  /** The result after some of the picture's steps. */
  readonly start: (StoredTile & { readonly steps: number }) | null;
}

export interface SharedIndex extends Size {
  readonly data: Uint16Array;
}

export interface ProjectReport {
  readonly document: TazzelDocument;
  readonly files: ReadonlyMap<string, FileRef>;
  readonly problems: readonly string[];
}

/** Request → response, by kind. */
export interface Tasks {
  /** First of all: the kernels, compiled once. */
  start: { request: { version: number; module: unknown }; response: null };
  inspect: { request: { file: FileRef }; response: FileReport };
  /** The document of a project file, and its source files, each as one that can be opened by itself. */
  'read-project': { request: { file: FileRef }; response: ProjectReport };
  /** Strokes on what was painted before, as a new plane of floats. */
  paint: { request: { base: Plane | null; strokes: readonly Stroke[]; filled: boolean; size: Size; level: number }; response: Plane };
  /** Lets go of all jobs and of everything that is kept for them. */
  forget: { request: null; response: null };
  'exr-header': { request: { file: FileRef }; response: ExrFile };
  'decode-exr': { request: { file: FileRef; header: ExrHeader; planes: ReadonlyMap<string, Plane>; first: number; last: number }; response: null };
  /** A picture of a format that is decoded as a whole, or one of its pages. */
  'decode-picture': { request: { file: FileRef; format: Exclude<FileFormat, 'exr'>; wanted: WantedPixels; managed: boolean }; response: { color: readonly Plane[]; alpha: Plane | null } };
  /** Colours of three float planes through a matrix, in place. */
  'convert-light': { request: { color: readonly Plane[]; matrix: Matrix }; response: null };
  /** Red, green and blue of a luminance and two differences, which may be smaller. */
  'join-luminance': { request: { color: readonly Plane[]; place: { x: number; y: number }; sampling: readonly (readonly [number, number])[]; weights: readonly [number, number, number] }; response: readonly Plane[] };
  /** Planes at another size, for elements that are fitted to the picture. */
  resample: { request: { planes: readonly Plane[]; size: Size; keepsValues: boolean }; response: readonly Plane[] };
  /** All reduced levels of some planes: result[i][k] is plane i at level k + 1. */
  reduce: { request: { planes: readonly Plane[]; keepsValues: boolean; levels: number }; response: readonly (readonly Plane[])[] };
  /** What some rows look like, and the share of them where colour lies under an alpha of zero. */
  content: { request: { color: readonly Plane[]; alpha: Plane | null; rows: readonly number[] }; response: { facts: ContentFacts; lightOutsideAlpha: number } };
  /** The same of a file of which only these rows are decoded. */
  'content-exr': { request: { file: FileRef; header: ExrHeader; colorChannels: readonly string[]; alphaChannel: string | null }; response: { facts: ContentFacts; lightOutsideAlpha: number } };
  /** Highlights blurred by each width that glow is made of. */
  glow: { request: { color: readonly Plane[]; factor: RebuildColumn['factors'][number] }; response: readonly (readonly Plane[])[] };
  /** The colours of a flat ID picture, and what its pixels are mixed of. */
  palette: { request: { planes: readonly Plane[]; encoding: Encoding; isLossy: boolean }; response: { colors: readonly PaletteColor[]; mixture: Mixture } };
  /** The same for colours that are known. */
  unmix: { request: { planes: readonly Plane[]; keys: readonly number[]; isLossy: boolean }; response: Mixture };
  /** What the first source of a coverage matte says of every pixel; `sources` is how many the matte has. */
  'begin-coverage': { request: { planes: readonly Plane[]; sources: number }; response: CoverageShares };
  /** The same with another of its sources, counted from 1. */
  'add-coverage': { request: { coverage: CoverageShares; planes: readonly Plane[]; place: number }; response: CoverageShares };
  /** Which of some hashes covers most of each pixel of a coverage matte; 65535 where none does. */
  'coverage-index': { request: { coverage: CoverageShares; hashes: readonly number[] }; response: SharedIndex };
  'covered-ids': { request: { coverage: CoverageShares }; response: readonly CoveredId[] };
  'hashes-of-colors': { request: { index: SharedIndex; count: number; coverage: CoverageShares }; response: readonly (number | null)[] };
  /** Which channel of an RGB matte covers most of each pixel, and the share of the picture that each covers. */
  'channel-rows': { request: { planes: readonly Plane[] }; response: { index: SharedIndex; areas: readonly number[] } };
  /** Mean light of all pixels of each row of an index. */
  'row-means': { request: { index: SharedIndex; count: number; view: MaskView }; response: readonly (readonly [number, number, number] | null)[] };
  /** How many pixels of a row (of the second index) lie behind each row of the first, where the two differ. */
  behind: { request: { front: SharedIndex; back: SharedIndex; row: number; count: number }; response: readonly number[] };
  mask: { request: { mask: Mask; inputs: MaskInputs; guideId: string | null }; response: Plane };
  /** Coverage as it lies once the picture is bent. */
  'bend-mask': { request: { plane: Plane; bends: readonly Bend[]; level: number }; response: Plane };
  /** Makes a job known; jobs that are not in `keep` are forgotten. */
  job: { request: { job: Job; keep: readonly number[] }; response: null };
  /** One tile on the screen. */
  tile: { request: { draw: Draw }; response: { rgba: Uint8ClampedArray<ArrayBuffer>; stepsRun: number } };
  /** A tile of a kept picture, into shared memory. */
  keep: { request: { draw: Draw; into: ArrayBufferLike }; response: { opaque: boolean; stepsRun: number } };
  /** The mean of a few pixels, premultiplied. */
  probe: { request: { draw: Draw }; response: readonly [number, number, number, number] };
  /** A region of the finished picture or of its light into shared memory for the whole of it. */
  output: { request: { draw: Draw; window: Region; form: OutputForm; output: ArrayBufferLike }; response: { opaque: boolean } };
  /** Numbers of four planes of premultiplied values. */
  measure: { request: { pixels: ArrayBufferLike; scale: Scale; mask: { plane: Plane; inverted: boolean } | null }; response: Measure };
  /** What stays of a picture by what was marked on it: 1 or 0 for each pixel. */
  'cut-out': { request: { pixels: ArrayBufferLike; size: Size; marks: readonly CutOutMark[]; fromEdges: boolean }; response: Uint8Array<ArrayBuffer> };
  /** The same for the whole picture, into its alpha. */
  'soften-cut': { request: { cut: Uint8Array; small: { pixels: ArrayBufferLike; size: Size }; pixels: ArrayBufferLike; size: Size }; response: null };
  /** What makes one sample of pixels agree with another. */
  match: { request: Readonly<Record<'from' | 'to', { pixels: ArrayBufferLike; mask: { plane: Plane; inverted: boolean } | null }>>; response: ColourMatch | null };
  /** What is measured of a light group, at full size. */
  'measure-light': { request: { light: MaskView; filter: MaskView | null; size: Size }; response: LightMeasure };
  /** The same of all groups, put together. */
  'join-lights': { request: { groups: readonly LightMeasure[] }; response: LightMeasures };
  /** Counts of pixels by value and column, and by colour. */
  scopes: { request: { pixels: ArrayBufferLike; size: Size; scale: Scale }; response: Scopes };
  /** Coverage as a grey PNG. */
  'encode-mask': { request: { mask: Plane; bits: 8 | 16 }; response: Uint8Array[] };
  /** Several masks in one EXR: a channel of halves for each. */
  'encode-masks': { request: { masks: readonly { readonly name: string; readonly plane: Plane }[] }; response: Uint8Array[] };
  /** Finished pixels at another size, into shared memory. */
  resize: { request: ResizeRequest; response: null };
  /** A finished file. */
  'write-picture': { request: { format: string; values: KeptValues; picture: FinishedPicture }; response: Uint8Array[] };
  /** A mask on the screen: straight RGBA, one colour, alpha from coverage. */
  'mask-picture': { request: { mask: Plane; region: Region; inverted: boolean; matte: boolean }; response: { rgba: Uint8ClampedArray<ArrayBuffer> } };
  /** The edge of one material on the screen at a level. */
  outline: { request: { index: SharedIndex; rows: readonly number[]; place: Pick<Source, 'x' | 'y'>; bends?: readonly Bend[]; region: Region; level: number }; response: { rgba: Uint8ClampedArray<ArrayBuffer> } };
  /** Weighted products of columns over some rows: see core's elements/rebuild.ts. */
  'rebuild-sums': { request: RebuildRequest & { step: number }; response: Float64Array };
  'rebuild-figures': { request: RebuildRequest & { weights: readonly (readonly number[])[] }; response: Float64Array[] };
  'rebuild-shifts': { request: ShiftRequest; response: Float64Array };
  sha256: { request: { file: FileRef }; response: string };
}

export type TaskKind = keyof Tasks;
export type RequestOf<K extends TaskKind> = Tasks[K]['request'];
export type ResponseOf<K extends TaskKind> = Tasks[K]['response'];

export interface RequestMessage<K extends TaskKind = TaskKind> {
  readonly id: number;
  readonly kind: K;
  readonly request: RequestOf<K>;
}

/** Errors cross as their family, code and sentence. */
export interface WireError {
  readonly name: string;
  readonly code: string;
  readonly fileName: string;
  readonly message: string;
}

export type ResponseMessage = { readonly id: number; readonly response: unknown; readonly error?: undefined } | { readonly id: number; readonly error: WireError } | { readonly id: number; readonly progress: number; readonly error?: undefined };

/** One end of a channel to a worker, the same for browser and Node. */
export interface WorkerPort {
  post(message: RequestMessage): void;
  onMessage(listener: (message: ResponseMessage) => void): void;
  /** The worker broke down as a whole, or ended. */
  onFailure(listener: (reason: string) => void): void;
  terminate(): void;
}
