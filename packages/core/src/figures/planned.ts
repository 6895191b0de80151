/** What a plan says of figures: plain data that crosses to workers. */
import type { CameraView } from '../camera/view.ts';
import type { Region } from '../raster/region.ts';
import type { Triple } from '../vector.ts';
import type { Card } from './card.ts';

/** One of a figures node: its picture (light where its own pixels lie), in which box of it, and the card in space. */
export interface PlannedFigure {
  readonly node: number;
  readonly box: Region;
  readonly card: Card;
}
type Read = { readonly node: number } | null;
/** Their own picture; what lies below with their shadow; what lies near and far; how much of a pixel is not sky. */
export type FiguresPart = 'figures' | 'cast' | 'sides' | 'cover';
/** What is the same for all figures of a layer. */
export interface FiguresLook {
  readonly view: CameraView;
  readonly sun: Triple | null;
  /** Metres that are read are depths, not distances. */
  readonly areDepths: boolean;
  readonly style: 'as-is' | 'tone' | 'silhouette';
  readonly styleColor: Triple;
  readonly gain: Triple;
  /** They throw a shadow of their own. */
  readonly throws: boolean;
  /** In pixels of their pictures: how far their edges are drawn in, and from how far inside edges take their colour. */
  readonly drawnInPx: number;
  readonly fringePx: number;
  /** How much of what they mirror themselves is seen, over 1 too. */
  readonly shine: number;
  /** 0…1: how far sun and shade model them; how much of its light a shadow takes; how much of what mirrors them is seen. */
  readonly modelling: number;
  readonly shadow: number;
  readonly mirror: number;
  /** Of the edges of shadows, and of the light of the sky that is taken: 1 is as it would be. */
  readonly soft: number;
  readonly contact: number;
}
/** Figures of a layer and what they read, as nodes of the plan. */
export interface PlannedFigures extends FiguresLook {
  readonly part: FiguresPart;
  readonly figures: readonly PlannedFigure[];
  readonly below: Read;
  readonly sides: Read;
  readonly normals: Read;
  /** Without a filter, what is dark in the filter of diffuse light (`filter`, below) mirrors as water and glass do. */
  readonly mirrors: { readonly filter: Read; readonly reflection: Read } | null;
  /** What is dark in it is the shadow that a stand-in caught. */
  readonly caught: Read;
  /** What a stand-in in their place mirrored: light that is added to them. */
  readonly shines: Read;
  readonly sunlight: { readonly sun: Read; readonly all: Read } | null;
  /** What a surface without colour sends back: a picture, over its reflectance. */
  readonly filter: Read;
}
