/** A figure as what it is in space: a flat card that stands on its foot and looks at the camera; and, for the sun, the same card turned towards the sun. */
import { type CameraView, groundAt, projected } from '../camera/view.ts';
import type { PlacedFigure } from '../params/placed-figures.ts';
import { applied, type Homography, homographyOf, inverted } from '../raster/homography.ts';
import type { Region, Size } from '../raster/region.ts';
import { asideOf, ballsOf } from './light.ts';
import { cross, dot, minus, plus, scaledBy, type Triple } from '../vector.ts';

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

const UP: Triple = [0, 1, 0];
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

/** A ray (origin, direction) against a card: two pixels of its picture, and how many lengths of the ray away, into `out`. False if it does not meet it, or behind its origin. */
export type Meeting = (ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, out: Float64Array) => boolean;

/** The meeting of rays with a card, prepared: it is asked for at every pixel. Cards stand upright, so that their normals and their right are level. */
export function meetingOf({ foot, right, normal, metresPerPixel, footPx, mirrored, leanRadians, pulled }: Card): Meeting {
  const [fx, fy, fz] = foot;
  const [nx, , nz] = normal;
  const rx = right[0] / metresPerPixel;
  const rz = right[2] / metresPerPixel;
  const perMetre = 1 / metresPerPixel;
  const [px, py] = footPx;
  const [cos, sin] = [Math.cos(leanRadians), Math.sin(leanRadians)];
  const aside = mirrored ? -1 : 1;
  const own = pulled?.own;
  return (ox, oy, oz, dx, dy, dz, out) => {
    const across = dx * nx + dz * nz;
    if (across < 1e-9 && across > -1e-9) return false;
    const along = ((fx - ox) * nx + (fz - oz) * nz) / across;
    if (!(along > 0)) return false;
    const x = (ox + dx * along - fx) * rx + (oz + dz * along - fz) * rz;
    const y = (oy + dy * along - fy) * perMetre;
    // It leans clockwise: what is asked for is turned back.
    const u = px + aside * (x * cos - y * sin);
    const v = py - (x * sin + y * cos);
    out[2] = along;
    if (!own) {
      out[0] = u;
      out[1] = v;
      return true;
    }
    const share = own[6] * u + own[7] * v + own[8];
    if (!(share > 0)) return false;
    out[0] = (own[0] * u + own[1] * v + own[2]) / share;
    out[1] = (own[3] * u + own[4] * v + own[5]) / share;
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

/** Where the card may take light from what it stands on. */
export const boxOfCast = (view: CameraView, card: Card, sun: Triple | null, picture: Region, size: Size): Region => seenIn(view, castCorners(card, sun, picture).flat(), size);

/** The same, row by row: between which columns of the picture (in its pixels) it may do so, from one row to another; null where it does not. */
export function castSpans(view: CameraView, card: Card, sun: Triple | null, picture: Region, size: Size): (top: number, bottom: number) => readonly [left: number, right: number] | null {
  const outlines = castCorners(card, sun, picture).map((corners) => corners.map((corner) => projected(view, corner)));
  if (outlines.some((outline) => outline.some((place) => place === null))) return () => [0, size.width];
  const lines = outlines.flatMap((outline) => outline.flatMap((one, i) => outline.slice(i + 1).map((other) => [one?.x ?? 0, one?.y ?? 0, other?.x ?? 0, other?.y ?? 0] as const)));
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
