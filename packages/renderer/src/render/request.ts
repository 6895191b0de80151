/** What a render is asked for, and what it tells while it runs. */
import type { Region } from '@tazzel/core';
import type { DepthRange } from '../elements/resolve.ts';
import type { CameraDescription, MaterialDescription } from '../scene/model.ts';

/** When a tile is good enough. At least one limit must be set. */
export interface Quality {
  /** Standard error of the picture in percent, over the mean of a tile. */
  readonly noisePercent: number | null;
  readonly seconds: number | null;
  readonly samples: number | null;
}

export type Denoise = 'none' | 'beauty' | 'all';

export interface RenderRequest {
  /** A camera of the scene by its name, or one of its own. */
  readonly camera: string | CameraDescription;
  readonly width: number;
  readonly height: number;
  /** Ids of elements and names of sets. */
  readonly elements: readonly string[];
  readonly quality: Quality;
  readonly seed: number;
  readonly fog: boolean;
  /** What of the picture is rendered; null is all of it. */
  readonly region: Region | null;
  readonly denoise: Denoise;
  /** Reach of ambient occlusion. */
  readonly aoMetres: number;
  /** For the normalised depth; null takes the suggestion. */
  readonly depthRange: DepthRange | null;
}

export type MaterialLabel = Partial<Pick<MaterialDescription, 'number' | 'idColor'>>;

export interface Progress {
  readonly stage: 'rendering' | 'denoising' | 'done';
  /** 0…1. */
  readonly share: number;
  readonly seconds: number;
  /** Null while there is nothing to judge by. */
  readonly secondsLeft: number | null;
  /** Mean over the picture so far. */
  readonly samplesPerPixel: number;
  /** Of the noisiest tile and of the mean; null before the second sample. */
  readonly noisePercent: number | null;
}

export interface RenderEvents {
  /** A tile has new samples. */
  onTile?(region: Region): void;
  onProgress?(progress: Progress): void;
}

export const defaultRequest: Omit<RenderRequest, 'camera'> = { width: 1500, height: 1000, elements: ['rebuild'], quality: { noisePercent: 4, seconds: null, samples: null }, seed: 1, fog: false, region: null, denoise: 'all', aoMetres: 2, depthRange: null };
