/** A photographed thing put where it belongs: by points of it that are known in the picture, or by how high the camera stood that photographed it. */
import { type CameraView, groundAt, oneTurn, projected, rayThrough } from '../camera/view.ts';
import { clamp } from '../params/define.ts';
import { areCorners, FIGURE_METRES, type PlacedFigure } from '../params/placed-figures.ts';
import type { Place } from '../params/places.ts';
import { applied, homographyOf } from '../raster/homography.ts';
import type { Region } from '../raster/region.ts';
import { type Card, cardOf, CORNERS, meets, placeIn, placeOn } from './card.ts';

type Point = readonly [x: number, y: number];

/** Where a place of its picture (shares of it) is seen; null behind the camera. */
export function seenOf(view: CameraView, card: Card, box: Region, share: Place): Point | null {
  const seen = projected(view, placeOn(card, placeIn(box, share)));
  return seen && [seen.x, seen.y];
}

/** Which place of its picture (shares of it) is seen at a place of the picture; null where it does not lie. */
export function shareSeen(view: CameraView, card: Card, box: Region, [x, y]: Point): Place | null {
  const hit = meets(card, view.eye, rayThrough(view, x, y));
  return hit && [(hit[0] - box.x) / box.width, (hit[1] - box.y) / box.height];
}

const depthOf = (view: CameraView, { foot }: Card): number => projected(view, foot)?.depthMetres ?? 1;
const rounded = (value: number, digits: number): number => Math.round(value * 10 ** digits) / 10 ** digits;

/** Steps of two points onto theirs: the card turns with its foot, so that one is not enough. */
const STEPS = 16;
/** It lies well enough, in pixels. */
const CLOSE = 1e-3;

/**
 * The figure with some of its places (shares of its picture) seen at others: one moves it over its ground, two make it larger and turn it as well, three or four pull its corners.
 * Null if that cannot be: places above the horizon, all in a line, or such that its picture would fold.
 */
export function heldAt(view: CameraView, figure: PlacedFigure, box: Region, points: readonly Place[], targets: readonly Point[]): PlacedFigure | null {
  if (points.length > 2) return pulledOnto(view, figure, box, points, targets);
  let now: PlacedFigure | null = figure;
  for (let step = 0; step < STEPS; step++) {
    const card: Card | null = now && cardOf(view, now, box);
    const seen: (Point | null)[] | null = card && points.map((point) => seenOf(view, card, box, point));
    if (!now || !card || !seen || seen.some((place) => place === null)) return null;
    const [[x0, y0], second] = seen as Point[];
    if (targets.every(([x, y], i) => Math.hypot(x - (seen[i] as Point)[0], y - (seen[i] as Point)[1]) < CLOSE)) break;
    // As complex numbers: what takes the way between the two places to the one between their targets.
    let [re, im] = [1, 0];
    if (second) {
      const [ax, ay] = [second[0] - x0, second[1] - y0];
      const [bx, by] = [targets[1][0] - targets[0][0], targets[1][1] - targets[0][1]];
      const square = ax * ax + ay * ay;
      if (!(square > 0) || bx * bx + by * by === 0) return null;
      [re, im] = [(bx * ax + by * ay) / square, (by * ax - bx * ay) / square];
    }
    const [dx, dy] = [now.at[0] - x0, now.at[1] - y0];
    now = movedTo(view, now, box, [targets[0][0] + re * dx - im * dy, targets[0][1] + im * dx + re * dy], Math.hypot(re, im), (Math.atan2(im, re) * 180) / Math.PI, second !== undefined);
  }
  return now && tidied(now);
}

/** Its foot somewhere else. As large as it was seen (`keepsSeen`), or as it is in metres; and turned about its foot. */
function movedTo(view: CameraView, figure: PlacedFigure, box: Region, at: Point, larger: number, clockwise: number, keepsSeen: boolean): PlacedFigure | null {
  const before = cardOf(view, figure, box);
  const moved: PlacedFigure = { ...figure, at, leanDegrees: oneTurn(figure.leanDegrees + clockwise) };
  const after = groundAt(view, at[0], at[1], figure.groundMetres) && cardOf(view, moved, box);
  if (!before || !after) return null;
  const by = keepsSeen ? (larger * depthOf(view, after)) / depthOf(view, before) : 1;
  return { ...moved, heightMetres: clamp(figure.heightMetres * by, ...FIGURE_METRES) };
}

function pulledOnto(view: CameraView, figure: PlacedFigure, box: Region, points: readonly Place[], targets: readonly Point[]): PlacedFigure | null {
  const own = points.map((point) => placeIn(box, point));
  /** On the card of a figure that lies straight: where its picture's places go, in pixels of the straight one. */
  const mapOn = (card: Card) => {
    const there = targets.map(([x, y]) => meets(card, view.eye, rayThrough(view, x, y)));
    return there.every((hit) => hit !== null) ? homographyOf(own, there.map((hit) => [hit?.[0] ?? 0, hit?.[1] ?? 0] as const)) : null;
  };
  const { corners: _, ...straight } = figure;
  const first = cardOf(view, straight, box);
  const map = first && mapOn(first);
  const foot = map && applied(map, placeIn(box, figure.foot));
  const top = map && applied(map, placeIn(box, [figure.foot[0], figure.top]));
  const stands = foot && first && projected(view, placeOn(first, foot));
  if (!foot || !top || !stands) return null;
  // It stands where its foot is seen now, and is as tall as it is drawn there; what is left is pull.
  const upright = placeOn(first, top).map((value, c) => value - placeOn(first, foot)[c]);
  const aside = upright[0] * first.right[0] + upright[2] * first.right[2];
  const moved = movedTo(view, straight, box, [stands.x, stands.y], 1, 0, true);
  if (!moved || !(Math.hypot(aside, upright[1]) > 0)) return null;
  const turned: PlacedFigure = { ...moved, heightMetres: clamp((Math.hypot(aside, upright[1]) * moved.heightMetres) / straight.heightMetres, ...FIGURE_METRES), leanDegrees: (Math.atan2(aside, upright[1]) * 180) / Math.PI };
  const exact = tidied(turned);
  const card = cardOf(view, exact, box);
  const pull = card && mapOn(card);
  const corners = pull && CORNERS.map((corner) => applied(pull, placeIn(box, corner)));
  if (!corners?.every((corner) => corner !== null)) return null;
  const shares = corners.map((corner) => [rounded(((corner?.[0] ?? 0) - box.x) / box.width, 6), rounded(((corner?.[1] ?? 0) - box.y) / box.height, 6)] as const);
  return areCorners(shares) ? { ...exact, corners: shares } : null;
}

/** In steps that nobody sees. */
const tidied = (figure: PlacedFigure): PlacedFigure => ({ ...figure, at: [rounded(figure.at[0], 2), rounded(figure.at[1], 2)], heightMetres: rounded(figure.heightMetres, 4), leanDegrees: rounded(figure.leanDegrees, 3) });

/** How tall it must be so that its camera looked level where ours does; null if it has no eye level, or that lies under its foot as seen from here. */
export function heightByEyeLevel(view: CameraView, { groundMetres, foot, top, eyeLevel }: PlacedFigure): number | null {
  if (eyeLevel === undefined) return null;
  const metres = ((view.eye[1] - groundMetres) * (foot[1] - top)) / (foot[1] - eyeLevel);
  return metres >= FIGURE_METRES[0] && metres <= FIGURE_METRES[1] ? rounded(metres, 4) : null;
}

/** How the camera that photographed a thing agrees with the one that sees it. */
export interface Agreement {
  /** Eyes over the ground it stands on, in metres: of its photograph (if it has an eye level), and here. */
  readonly itsEyeMetres: number | null;
  readonly ourEyeMetres: number;
  /** How far away it stands here, along the ground. */
  readonly awayMetres: number;
  /** How much steeper it is looked down on here than it was photographed, in degrees; null if it is not known from where that was. */
  readonly steeperDegrees: number | null;
}
export function agreementOf(view: CameraView, figure: PlacedFigure, box: Region): Agreement | null {
  const card = cardOf(view, figure, box);
  if (!card) return null;
  const { heightMetres, foot, top, eyeLevel, fromMetres } = figure;
  const ourEyeMetres = view.eye[1] - card.foot[1];
  const awayMetres = Math.hypot(card.foot[0] - view.eye[0], card.foot[2] - view.eye[2]);
  const itsEyeMetres = eyeLevel === undefined ? null : (heightMetres * (foot[1] - eyeLevel)) / (foot[1] - top);
  const down = (eye: number, away: number) => (Math.atan2(eye, away) * 180) / Math.PI;
  return { itsEyeMetres, ourEyeMetres, awayMetres, steeperDegrees: itsEyeMetres === null || fromMetres === undefined ? null : down(ourEyeMetres, awayMetres) - down(itsEyeMetres, fromMetres) };
}
