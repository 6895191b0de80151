import type { PictureLayer, Zone } from '@tazzel/core';
import type { OwnHandles } from '@tazzel/editor';
import type { ComponentType } from 'react';

/** What a kind of layer adds to the bench and to the picture. */
export interface LayerKind {
  /** Its hatch on a card, as on a section drawing. */
  readonly hatch: string;
  /** Its own parameters, where the fields that follow from their declaration are not enough. */
  readonly Fields?: ComponentType<{ layer: PictureLayer; zone: Zone }>;
  /** Handles on the picture, if it has some of its own for now. */
  readonly handles?: OwnHandles;
}
