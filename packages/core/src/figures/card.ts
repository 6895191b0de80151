/** A figure as what it is in space: a flat card that stands on its foot and looks at the camera; and, for the sun, the same card turned towards the sun. */
import { type CameraView, groundAt, projected } from '../camera/view.ts';
import type { PlacedFigure } from '../params/placed-figures.ts';
import type { Region, Size } from '../raster/region.ts';
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
}

const UP: Triple = [0, 1, 0];
/** Suns that stand nearer to the zenith have no direction on the plan. */
const LEAST_LEVEL = 1e-3;

const level = ([x, , z]: Triple): Triple | null => {
  const length = Math.hypot(x, z);
  return length < LEAST_LEVEL ? null : [x / length, 0, z / length];
};

/** The card of a figure whose picture lies in `box`; null if the ground cannot be seen where it stands, as above the horizon. */
export function cardOf(view: CameraView, { at, groundMetres, heightMetres, mirrored, leanDegrees, foot, top }: PlacedFigure, box: Region): Card | null {
  const stands = groundAt(view, at[0], at[1], groundMetres);
  const normal = stands && level(minus(view.eye, stands));
  if (!stands || !normal) return null;
  const tallPx = (foot[1] - top) * box.height;
  return { foot: stands, right: cross(UP, normal), normal, heightMetres, metresPerPixel: heightMetres / tallPx, footPx: [box.x + foot[0] * box.width, box.y + foot[1] * box.height], mirrored, leanRadians: (leanDegrees * Math.PI) / 180 };
}

/** The card turned towards the sun, as that is what throws a shadow: people are about as thick as they are wide. */
export function facingSun(card: Card, sun: Triple): Card {
  const normal = level(sun) ?? card.normal;
  const right = cross(UP, normal);
  return { ...card, normal, right: dot(right, card.right) < 0 ? scaledBy(right, -1) : right };
}

/**
 * Where a ray meets the plane of a card, into `out`: two pixels of its picture, and how many lengths of the ray away. False if it does not, or behind its origin. In plain numbers, since it is asked for every pixel.
 */
export function meetInto({ foot, right, normal, metresPerPixel, footPx, mirrored, leanRadians }: Card, ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, out: Float64Array): boolean {
  // Cards stand upright: their normals and their right are level.
  const across = dx * normal[0] + dz * normal[2];
  if (Math.abs(across) < 1e-9) return false;
  const along = ((foot[0] - ox) * normal[0] + (foot[2] - oz) * normal[2]) / across;
  if (!(along > 0)) return false;
  const x = ((ox + dx * along - foot[0]) * right[0] + (oz + dz * along - foot[2]) * right[2]) / metresPerPixel;
  const y = (oy + dy * along - foot[1]) / metresPerPixel;
  let [u, v] = [x, y];
  if (leanRadians !== 0) {
    // It leans clockwise: what is asked for is turned back.
    const [cos, sin] = [Math.cos(leanRadians), Math.sin(leanRadians)];
    [u, v] = [x * cos - y * sin, x * sin + y * cos];
  }
  out[0] = footPx[0] + (mirrored ? -u : u);
  out[1] = footPx[1] - v;
  out[2] = along;
  return true;
}

/** The same for once: null where it does not meet. */
export function meets(card: Card, origin: Triple, ray: Triple): readonly [u: number, v: number, along: number] | null {
  const out = new Float64Array(3);
  return meetInto(card, ...origin, ...ray, out) ? [out[0], out[1], out[2]] : null;
}

/** A place of the card's picture (in pixels) in the world. */
export function placeOn({ foot, right, metresPerPixel, footPx, mirrored, leanRadians }: Card, [u, v]: readonly [number, number]): Triple {
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
const [DROP_METRES, FARTHEST_METRES] = [4, 200];
/** Around its foot a figure takes light of the sky as far as this share of its height. */
export const CONTACT_REACH = 1.2;

/** Where the card may take light from what it stands on. */
export function boxOfCast(view: CameraView, card: Card, sun: Triple | null, picture: Region, size: Size): Region {
  const reach = card.heightMetres * CONTACT_REACH;
  const around = [[-1, 0], [1, 0], [0, -1], [0, 1]].flatMap(([a, b]) => [0, card.heightMetres * 0.6].map((up): Triple => plus(card.foot, [a * reach, up, b * reach])));
  if (!sun || sun[1] <= 0) return seenIn(view, around, size);
  const turned = cornersOn(facingSun(card, sun), picture);
  const thrown = turned.map((corner) => plus(corner, scaledBy(sun, -Math.min(FARTHEST_METRES, (corner[1] - card.foot[1] + DROP_METRES) / sun[1]))));
  return seenIn(view, [...around, ...turned, ...thrown], size);
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
