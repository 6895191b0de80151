/** A figure as what it is in space: a flat card that stands on its foot and looks at the camera; and, for the sun, the same card turned towards the sun. */
import { type CameraView, groundAt, projected } from '../camera/view.ts';
import type { PlacedFigure } from '../params/placed-figures.ts';
import { applied, type Homography, homographyOf, inverted } from '../raster/homography.ts';
import type { Region, Size } from '../raster/region.ts';
import { asideOf, ballsOf } from './light.ts';
import { cross, dot, minus, plus, scaledBy, type Triple, UP } from '../vector.ts';

/** An upright plane in the world with a picture on it. */
export interface Card {
  /** In metres of the camera's world. */
  readonly foot: Triple;
  /** Level, of length 1: to the right in the picture, and out of the card towards who looks at it. */
  readonly right: Triple;
  readonly normal: Triple;
  readonly heightMetres: number;
  /** Of a pixel of its picture. */
  readonly metresPerPixel: number;
  /** The foot in its picture, in pixels. */
  readonly footPx: readonly [x: number, y: number];
  readonly mirrored: boolean;
  readonly leanRadians: number;
  /** Pulled by its corners: from places of its picture as it would lie straight to its own ones, and back; how many of its pixels one of those shows, along. */
  readonly pulled: { readonly own: Homography; readonly straight: Homography; readonly fineness: number } | null;
}

/** Suns that stand nearer to the zenith have no direction on the plan. */
const LEAST_LEVEL = 1e-3;

const level = ([x, , z]: Triple): Triple | null => {
  const length = Math.hypot(x, z);
  return length < LEAST_LEVEL ? null : [x / length, 0, z / length];
};

/** The card of a figure whose picture lies in `box`; null if the ground cannot be seen where it stands, as above the horizon. */
export function cardOf(view: CameraView, { at, groundMetres, heightMetres, mirrored, leanDegrees, foot, top, corners }: PlacedFigure, box: Region): Card | null {
  const stands = groundAt(view, at[0], at[1], groundMetres);
  const normal = stands && level(minus(view.eye, stands));
  if (!stands || !normal) return null;
  const tallPx = (foot[1] - top) * box.height;
  const pulled = corners ? pulledTo(box, corners) : null;
  return { foot: stands, right: cross(UP, normal), normal, heightMetres, metresPerPixel: heightMetres / tallPx, footPx: [box.x + foot[0] * box.width, box.y + foot[1] * box.height], mirrored, leanRadians: (leanDegrees * Math.PI) / 180, pulled };
}

/** A place of the picture in a box, given as shares of it, in pixels. */
export const placeIn = ({ x, y, width, height }: Region, [across, down]: readonly [number, number]): readonly [number, number] => [x + across * width, y + down * height];
/** The corners of a box as shares of it: upper left and right, lower left and right. */
export const CORNERS = [[0, 0], [1, 0], [0, 1], [1, 1]] as const;

function pulledTo(box: Region, corners: readonly (readonly [number, number])[]): Card['pulled'] {
  const straight = homographyOf(CORNERS.map((corner) => placeIn(box, corner)), corners.map((corner) => placeIn(box, corner)));
  if (!straight) return null;
  const [a, b, c, d] = corners;
  const area = Math.abs((b[0] - c[0]) * (d[1] - a[1]) - (b[1] - c[1]) * (d[0] - a[0])) / 2;
  return { own: inverted(straight), straight, fineness: 1 / Math.sqrt(area) };
}

/** How many pixels of its picture a metre on the card is. */
export const pixelsPerMetre = ({ metresPerPixel, pulled }: Card): number => (pulled ? pulled.fineness : 1) / metresPerPixel;

/** The card turned towards the sun, as that is what throws a shadow: people are about as thick as they are wide. */
export function facingSun(card: Card, sun: Triple): Card {
  const normal = level(sun) ?? card.normal;
  const right = cross(UP, normal);
  return { ...card, normal, right: dot(right, card.right) < 0 ? scaledBy(right, -1) : right };
}

/** A number that goes with places of the world in straight lines: so much of x, y and z, and so much for itself. */
type Straight = readonly [x: number, y: number, z: number, itself: number];
const straightOf = (along: Triple, from: Triple, times: number, plus = 0): Straight => [along[0] * times, along[1] * times, along[2] * times, plus - dot(along, from) * times];
const mixed = (rows: readonly Straight[], weights: readonly number[]): Straight => [0, 1, 2, 3].map((i) => rows.reduce((sum, row, k) => sum + row[i] * weights[k], 0)) as unknown as Straight;
const ITSELF: Straight = [0, 0, 0, 1];

/** Places on a card as pixels of its picture: both over a third number, which is above 0 on what is shown of its plane. */
function pixelsOn({ foot, right, metresPerPixel, footPx, mirrored, leanRadians, pulled }: Card): readonly [u: Straight, v: Straight, share: Straight] {
  const [cos, sin] = [Math.cos(leanRadians), Math.sin(leanRadians)];
  const [x, y] = [straightOf(right, foot, 1 / metresPerPixel), straightOf(UP, foot, 1 / metresPerPixel)];
  const aside = mirrored ? -1 : 1;
  // It leans clockwise: what is asked for is turned back.
  const straight = [mixed([x, y, ITSELF], [aside * cos, -aside * sin, footPx[0]]), mixed([x, y, ITSELF], [-sin, -cos, footPx[1]]), ITSELF] as const;
  if (!pulled) return straight;
  const { own } = pulled;
  return [mixed(straight, own.slice(0, 3)), mixed(straight, own.slice(3, 6)), mixed(straight, own.slice(6, 9))];
}

/** Rays that do not come nearer to a card's plane than by this share of their length run along it. */
const LEAST_ACROSS = 1e-9;

/** Many rays against a card, prepared: numbers that go in straight lines with what differs between them. Pixels of its picture are `u` and `v` over `share`, which is above 0 where they meet it. */
export interface Meetings {
  readonly u: Straight;
  readonly v: Straight;
  readonly share: Straight;
  /** How many lengths of a ray away, or one over that (see who prepares it); above 0 where they meet it. */
  readonly along: Straight;
}

/** Rays of one direction, which differ by where they begin; null if they run along the card. `along` is in lengths of the direction. */
export function meetingsTowards(card: Card, direction: Triple): Meetings | null {
  const across = dot(card.normal, direction);
  if (Math.abs(across) < LEAST_ACROSS) return null;
  const along = straightOf(card.normal, card.foot, -1 / across);
  const [u, v, share] = pixelsOn(card).map((row) => mixed([row, along], [1, row[0] * direction[0] + row[1] * direction[1] + row[2] * direction[2]]));
  return { u, v, share, along };
}

/** Rays from one place, which differ by their direction. `along` is one over how many of their lengths away. */
export function meetingsFrom(card: Card, origin: Triple): Meetings {
  const { normal } = card;
  const away = dot(normal, minus(card.foot, origin));
  const side = away < 0 ? -1 : 1;
  const across: Straight = [normal[0] * side, normal[1] * side, normal[2] * side, 0];
  // The place is the origin and the ray times `away ÷ across`: all times `across`.
  const [u, v, share] = pixelsOn(card).map(([x, y, z, itself]) => mixed([[x, y, z, 0], across], [Math.abs(away), x * origin[0] + y * origin[1] + z * origin[2] + itself]));
  return { u, v, share, along: mixed([across], [1 / Math.abs(away)]) };
}

/** A ray (origin, direction) against a card: two pixels of its picture, and how many lengths of the ray away, into `out`. False if it does not meet it, or behind its origin. */
export type Meeting = (ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, out: Float64Array) => boolean;

/** The meeting of rays that differ in both, as those that are mirrored. */
export function meetingOf(card: Card): Meeting {
  const { foot: [fx, , fz], normal: [nx, , nz] } = card;
  const [u, v, share] = pixelsOn(card);
  return (ox, oy, oz, dx, dy, dz, out) => {
    // Cards stand upright: their normals are level.
    const across = dx * nx + dz * nz;
    if (across < LEAST_ACROSS && across > -LEAST_ACROSS) return false;
    const along = ((fx - ox) * nx + (fz - oz) * nz) / across;
    if (!(along > 0)) return false;
    const [x, y, z] = [ox + dx * along, oy + dy * along, oz + dz * along];
    const by = share[0] * x + share[1] * y + share[2] * z + share[3];
    if (!(by > 0)) return false;
    out[0] = (u[0] * x + u[1] * y + u[2] * z + u[3]) / by;
    out[1] = (v[0] * x + v[1] * y + v[2] * z + v[3]) / by;
    out[2] = along;
    return true;
  };
}

/** The same for once: null where it does not meet. */
export function meets(card: Card, origin: Triple, ray: Triple): readonly [u: number, v: number, along: number] | null {
  const out = new Float64Array(3);
  return meetingOf(card)(...origin, ...ray, out) ? [out[0], out[1], out[2]] : null;
}

/** A place of the card's picture (in pixels) in the world. */
export function placeOn({ foot, right, metresPerPixel, footPx, mirrored, leanRadians, pulled }: Card, place: readonly [number, number]): Triple {
  const [u, v] = (pulled && applied(pulled.straight, place)) ?? place;
  const x = (mirrored ? footPx[0] - u : u - footPx[0]) * metresPerPixel;
  const y = (footPx[1] - v) * metresPerPixel;
  const [cos, sin] = [Math.cos(leanRadians), Math.sin(leanRadians)];
  return plus(plus(foot, scaledBy(right, x * cos + y * sin)), [0, y * cos - x * sin, 0]);
}

/** The corners of a box on the card, in the world. */
const cornersOn = (card: Card, { x, y, width, height }: Region): readonly Triple[] => [[x, y], [x + width, y], [x, y + height], [x + width, y + height]].map(([u, v]) => placeOn(card, [u, v]));

/** The rectangle of the picture (in its pixels) in which places are seen; all of it if one is not before the camera. */
function seenIn(view: CameraView, places: readonly Triple[], { width, height }: Size): Region {
  const seen = places.map((place) => projected(view, place));
  if (seen.some((place) => place === null)) return { x: 0, y: 0, width, height };
  const [xs, ys] = [seen.map((place) => place?.x ?? 0), seen.map((place) => place?.y ?? 0)];
  const [left, top] = [Math.floor(Math.max(-1, Math.min(...xs))), Math.floor(Math.max(-1, Math.min(...ys)))];
  return { x: left, y: top, width: Math.max(0, Math.ceil(Math.min(width + 1, Math.max(...xs))) - left), height: Math.max(0, Math.ceil(Math.min(height + 1, Math.max(...ys))) - top) };
}

/** Where the card is seen. */
export const boxOfCard = (view: CameraView, card: Card, picture: Region, size: Size): Region => seenIn(view, cornersOn(card, picture), size);

/** Shadows fall at most so far below the foot, and so far away. */
const [DROP_METRES, FARTHEST_METRES] = [1.5, 200];
/** Around its foot a figure takes light of the sky as far as this share of its height. */
export const CONTACT_REACH = 1.2;

/** Where the card may take light from what it stands on: corners in the world of what bounds that, of the light of the sky and of the sun's shadow. What lies between all of them counts. */
function castCorners(card: Card, sun: Triple | null, picture: Region): readonly (readonly Triple[])[] {
  const reach = card.heightMetres * CONTACT_REACH;
  const wide = asideOf(ballsOf(card.heightMetres, picture.width * card.metresPerPixel));
  const around = [-wide, wide].flatMap((aside) => [[-1, 0], [1, 0], [0, -1], [0, 1]].flatMap(([a, b]) => [-0.2, 0.6].map((up): Triple => plus(plus(card.foot, scaledBy(card.right, aside)), [a * reach * Math.SQRT2, up * card.heightMetres, b * reach * Math.SQRT2]))));
  if (!sun || sun[1] <= 0) return [around];
  const turned = cornersOn(facingSun(card, sun), picture);
  const thrown = turned.map((corner) => plus(corner, scaledBy(sun, -Math.min(FARTHEST_METRES, (corner[1] - card.foot[1] + DROP_METRES) / sun[1]))));
  return [around, [...turned, ...thrown]];
}

/** Shadows are soft beyond their outline. */
const EDGE_METRES = 0.1;

/** Where the card may take light from what it stands on. */
export const boxOfCast = (view: CameraView, card: Card, sun: Triple | null, picture: Region, size: Size): Region => seenIn(view, castCorners(card, sun, picture).flat(), size);

/** Where the card may take light, more closely. */
export interface CastReach {
  /** Depths in metres: those of what bounds it, and a little more. */
  readonly nearest: number;
  readonly farthest: number;
  /** Between which columns of the picture (in its pixels) it may do so, from one row to another; null where it does not. */
  readonly columns: (top: number, bottom: number) => readonly [left: number, right: number] | null;
}

export function reachOfCast(view: CameraView, card: Card, sun: Triple | null, picture: Region, size: Size): CastReach {
  const bounds = castCorners(card, sun, picture);
  const depths = bounds.flat().map((corner) => dot(minus(corner, view.eye), view.forward));
  return { nearest: Math.min(...depths) * 0.98 - EDGE_METRES, farthest: Math.max(...depths) * 1.02 + EDGE_METRES, columns: columnsBetween(view, bounds, size) };
}

function columnsBetween(view: CameraView, bounds: readonly (readonly Triple[])[], size: Size): CastReach['columns'] {
  const outlines = bounds.map((corners) => corners.map((corner) => projected(view, corner)));
  if (outlines.some((outline) => outline.some((place) => place === null))) return () => [0, size.width];
  const lines = outlines.flatMap((outline) => edgesAround(outline.map((place) => [place?.x ?? 0, place?.y ?? 0] as const)));
  return (top, bottom) => {
    let [left, right] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
    for (const [x0, y0, x1, y1] of lines) {
      // An outline reaches as far as the lines between its corners do.
      if (Math.max(y0, y1) < top || Math.min(y0, y1) > bottom) continue;
      const at = (y: number) => (y1 === y0 ? x0 : x0 + ((x1 - x0) * (y - y0)) / (y1 - y0));
      const ends = [at(Math.min(Math.max(top, Math.min(y0, y1)), Math.max(y0, y1))), at(Math.max(Math.min(bottom, Math.max(y0, y1)), Math.min(y0, y1))), ...(y0 === y1 ? [x1] : [])];
      left = Math.min(left, ...ends);
      right = Math.max(right, ...ends);
    }
    return right >= left ? [left, right] : null;
  };
}

type Edge = readonly [x0: number, y0: number, x1: number, y1: number];

/** The lines around places of the picture. @source A. M. Andrew, “Another Efficient Algorithm for Convex Hulls in Two Dimensions”, Information Processing Letters 9(5), 1979 */
function edgesAround(places: readonly (readonly [number, number])[]): readonly Edge[] {
  const sorted = places.toSorted(([ax, ay], [bx, by]) => ax - bx || ay - by);
  return [sorted, sorted.toReversed()].flatMap((along) => {
    const chain: (readonly [number, number])[] = [];
    for (const place of along) {
      while (chain.length > 1 && turn(chain[chain.length - 2], chain[chain.length - 1], place) <= 0) chain.pop();
      chain.push(place);
    }
    return chain.slice(1).map((end, i): Edge => [...chain[i], ...end]);
  });
}
const turn = ([ax, ay]: readonly [number, number], [bx, by]: readonly [number, number], [cx, cy]: readonly [number, number]): number => (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);

/** How high something is that stands at a place and reaches up to another one in the picture: metres; null where that cannot be. */
export function heightTo(view: CameraView, foot: Triple, top: readonly [x: number, y: number]): number | null {
  const base = projected(view, foot);
  if (!base) return null;
  // On the upright through the foot: places are seen along a line, at unequal steps.
  const metre = projected(view, plus(foot, UP));
  if (!metre) return null;
  const [dx, dy] = [metre.x - base.x, metre.y - base.y];
  const share = ((top[0] - base.x) * dx + (top[1] - base.y) * dy) / (dx * dx + dy * dy);
  // x(h) = (x0·d0 + h·(…)) / (d0 + h·(d1 − d0)): solved for h.
  const bend = metre.depthMetres - base.depthMetres;
  const height = (share * base.depthMetres) / (metre.depthMetres - share * bend);
  return height > 0 && Number.isFinite(height) ? height : null;
}
