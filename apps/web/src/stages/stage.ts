import type { HandleSet, SessionStore } from '@tazzel/editor';
import type { ComponentType } from 'react';

/** What a stage shows around the picture, and what it lets be done on it. */
export interface Stage {
  /** The tables of what the document holds. */
  readonly Schedules: ComponentType;
  /** The parameters of what is selected. */
  readonly Bench: ComponentType;
  /** Whether pointing at the picture names materials, and a click selects them. */
  readonly pointsAtMaterials: boolean;
  /** Points on the picture that can be dragged. */
  readonly handles: (session: SessionStore) => HandleSet | null;
  /** More that is drawn over the picture. */
  readonly Overlay?: ComponentType;
}
