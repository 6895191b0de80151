/**
 * Tools: what a press on the picture does. Each is a small state machine that knows the document, the session and places in the picture, and nothing of
 * screens; the application turns its events into these and draws what is asked for.
 */
import type { Point, Source, Stroke } from '@tazzel/core';
import type { HandleSet } from '../handles/define.ts';
import type { SelectMode, Session, SessionStore, ToolId } from '../session.ts';
import type { StageId } from '../stages.ts';

/** A place of the pointer. */
export interface PointerAt {
  /** In pixels of the full picture as it is shown, with fractions; also beside it. */
  readonly at: Point;
  /** In the application's own pixels, for what depends on how far the hand moved. */
  readonly screen: Point;
  /** 0…1; what has none presses with all of it. */
  readonly pressure: number;
  /** Milliseconds, for what happens every so often. */
  readonly time: number;
  readonly shift: boolean;
  readonly alt: boolean;
  readonly control: boolean;
}

/** What tools need of the application. */
export interface ToolHost {
  readonly session: SessionStore;
  /** The pixel of the picture at a place; null beside it. */
  pixelAt(at: Point): { readonly x: number; readonly y: number } | null;
  /** Where what is shown at a place lies in the render, or in the picture in which a layer works: the same place, unless a lens bends them since. */
  placeBehind(at: Point, layerId?: string | null): Point;
  /** Whether materials are pointed at, and which is under the pointer now. */
  readonly pointsAtMaterials: boolean;
  hoveredMaterialId(): string | null;
  panBy(dx: number, dy: number): void;
  /** A document's light under the tone line, and its finished codes 0…255, at a pixel, or the mean with so many around it to each side. */
  probe(document: Session['document'], x: number, y: number, around: number): Promise<{ readonly light: ArrayLike<number>; readonly codes: ArrayLike<number> }>;
  /** What an element holds at a pixel; null beside it. */
  valuesAt(source: Source, x: number, y: number): Promise<readonly number[] | null>;
  previewStroke(stroke: Stroke): void;
  endStroke(isKept: boolean): void;
}

/** From a press to its release. */
export interface Gesture {
  /** All places since the last call, in their order. */
  move(places: readonly PointerAt[]): void;
  release(place: PointerAt): void;
  /** Given up: nothing of it stays. */
  cancel(): void;
}

export interface Tool {
  readonly id: ToolId;
  /** What it is called in a sentence. */
  readonly label: string;
  /** `none` is drawn by the application: the circle of the brush. */
  readonly cursor: 'default' | 'crosshair' | 'none';
  /** Stages that know it; null for all. In any other the picture is selected in. */
  readonly stages: readonly StageId[] | null;
  /** Handles of its own; without them those of the stage are shown. */
  readonly handles?: (session: SessionStore) => HandleSet | null;
  readonly press: (host: ToolHost, place: PointerAt) => Gesture;
}

/** A press that moved less than this is a click. */
const CLICK_PIXELS = 4;

/** Moves the picture under the hand. */
export function panning(host: ToolHost, from: PointerAt): Gesture {
  let last = from.screen;
  return {
    move: (places) => {
      const { screen } = places[places.length - 1];
      host.panBy(screen[0] - last[0], screen[1] - last[1]);
      last = screen;
    },
    release: () => {},
    cancel: () => {},
  };
}

/** A click does something; a drag moves the picture. */
export function clickOrPan(host: ToolHost, from: PointerAt, click: (place: PointerAt) => void): Gesture {
  let pan: Gesture | null = null;
  return {
    move: (places) => {
      const { screen } = places[places.length - 1];
      if (!pan && Math.hypot(screen[0] - from.screen[0], screen[1] - from.screen[1]) < CLICK_PIXELS) return;
      pan ??= panning(host, from);
      pan.move(places);
    },
    release: (place) => {
      if (!pan) click(place);
    },
    cancel: () => {},
  };
}

/** Shift adds to what is selected, Alt takes away, Ctrl does whichever changes something. */
export const modeOf = ({ shift, alt, control }: Pick<PointerAt, 'shift' | 'alt' | 'control'>): SelectMode => (shift ? 'add' : alt ? 'remove' : control ? 'toggle' : 'only');
