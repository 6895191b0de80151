/** Figures in a document: how they come to stand somewhere, and how one becomes a crowd. */
import { cameraOf } from '../camera/camera.ts';
import { depthThere } from './depth.ts';
import { groundAt, projected, rayThrough, viewOfCamera } from '../camera/view.ts';
import { ALOFT_METRES, type ShelfFigure } from '../figures/shelf.ts';
import { sourceOf } from '../masks/read.ts';
import type { PictureLayer, Source, TazzelDocument } from '../model/model.ts';
import { meantLayer } from '../model/query.ts';
import { latticeNoise } from '../noise.ts';
import { DEPTHS, isFigures } from '../layers/figures-values.ts';
import { MOST_FIGURES, type PlacedFigure } from '../params/placed-figures.ts';
import type { Place } from '../params/places.ts';
import { SKY_METRES } from '../raster/sides.ts';

/** A figure that is about to be stood up: all but its place. */
export type FigureInHand = Pick<PlacedFigure, 'sourceId' | 'heightMetres' | 'foot' | 'top' | 'eyeLevel' | 'fromMetres'> & { readonly aloftMetres: number };

/** What was read of a picture file, as a picture: never an element of the render, whatever it is called and however few colours it has. */
export const asPicture = (source: Source): Source => ({ ...source, role: 'picture', guess: null, findings: [], inSum: 'out', encoding: source.file.format === 'exr' || source.file.format === 'hdr' ? 'linear' : 'display' });

export const shelfFigure = ({ heightMetres, foot, aloft, photographed }: ShelfFigure, sourceId: string): FigureInHand => ({ sourceId, heightMetres, foot, top: 0, aloftMetres: aloft ? ALOFT_METRES : 0, ...photographed });

/** Adults, common practice: a cut-out of which nothing is known. */
const USUAL_METRES = 1.75;
/** A cut-out of one's own, by what of it is not transparent: shares of its picture from the left, from above, to the right and below. */
export function ownFigure(sourceId: string, [left, top, right, bottom]: readonly [number, number, number, number]): FigureInHand {
  return { sourceId, heightMetres: USUAL_METRES, foot: [(left + right) / 2, bottom], top, aloftMetres: 0 };
}

/** The element that says how far away the ground is; null if there is none. */
export const groundElement = (document: TazzelDocument): Source | null => sourceOf({ source: '' }, document, DEPTHS);

/** How high the surface at a place of the picture is, by what an element of metres says there; null if that says nothing, or the camera is not known. */
export function heightAt(document: TazzelDocument, [x, y]: Place, metres: number | null, role: string): number | null {
  if (!document.camera || metres === null || !(metres > 0) || metres > SKY_METRES) return null;
  const view = viewOfCamera(cameraOf(document.camera), document.size);
  const depth = depthThere(document, [x, y], metres, role);
  const height = view.eye[1] + rayThrough(view, x, y)[1] * depth;
  // Ground is level but for the grain of the element.
  return Math.abs(height) < 0.03 ? 0 : Math.round(height * 1000) / 1000;
}

/** A figure that stands at a place; a sentence if there is no ground. `surfaceMetres` is how high what is seen there is; null takes it for the ground at 0. */
export function standingAt(document: TazzelDocument, { aloftMetres, ...figure }: FigureInHand, at: Place, surfaceMetres: number | null): PlacedFigure | string {
  if (!document.camera) return 'The camera is not known, and with it how tall a figure is there. Set it under Elements, Camera and sun.';
  const view = viewOfCamera(cameraOf(document.camera), document.size);
  const groundMetres = aloftMetres > 0 ? view.eye[1] + aloftMetres * Math.sign(rayThrough(view, at[0], at[1])[1] || 1) : (surfaceMetres ?? 0);
  if (!groundAt(view, at[0], at[1], groundMetres)) return 'There is no ground: that is above the horizon. Click lower down.';
  return { ...figure, at: [Math.round(at[0] * 10) / 10, Math.round(at[1] * 10) / 10], groundMetres: Math.round(groundMetres * 1000) / 1000, mirrored: false, leanDegrees: 0 };
}

/** The layer that figures are added to: the one that is meant, or the last there is; null if there is none. */
export const figuresLayerOf = (document: TazzelDocument, layerId: string | null): PictureLayer | null => meantLayer(document, layerId, isFigures);

/** Where a crowd stands: around one figure, along the line from figure to figure, or in the area that they stand around. */
export const CROWD_FORMS = { around: 'Around the chosen one', along: 'Along the line from one to the next', between: 'In the area between them' } as const;

export interface Crowd {
  readonly form: keyof typeof CROWD_FORMS;
  readonly count: number;
  /** How far from the chosen one they stand, or to both sides of the line, at most, in metres. */
  readonly metres: number;
  readonly seed: number;
}

/** People keep so far from each other, in metres. Common practice, no published source. */
const APART_METRES = 0.9;
const TRIES = 60;

type OnGround = readonly [x: number, z: number];

/** Places of a crowd, one for every three numbers from 0 to 1; null where its form has none. */
function placesOf({ form, metres }: Crowd, first: OnGround, feet: readonly OnGround[]): ((a: number, b: number) => OnGround | null) | null {
  if (form === 'around') return (a, b) => [first[0] + Math.sqrt(a) * metres * Math.cos(b * 2 * Math.PI), first[1] + Math.sqrt(a) * metres * Math.sin(b * 2 * Math.PI)];
  if (form === 'between') {
    if (feet.length < 3) return null;
    const [xs, zs] = [feet.map(([x]) => x), feet.map(([, z]) => z)];
    const [left, near] = [Math.min(...xs), Math.min(...zs)];
    return (a, b) => {
      const place: OnGround = [left + a * (Math.max(...xs) - left), near + b * (Math.max(...zs) - near)];
      return isInside(place, feet) ? place : null;
    };
  }
  let all = 0;
  const pieces = feet.slice(1).map((to, i) => {
    const [from, long] = [feet[i], Math.hypot(to[0] - feet[i][0], to[1] - feet[i][1])];
    all += long;
    return { from, to, long, end: all };
  }).filter(({ long }) => long > 0);
  if (!(all > 0)) return null;
  return (a, b) => {
    const piece = pieces.find(({ end }) => a * all <= end) ?? pieces[pieces.length - 1];
    const [t, aside] = [1 - (piece.end - a * all) / piece.long, (2 * b - 1) * metres];
    const [dx, dz] = [(piece.to[0] - piece.from[0]) / piece.long, (piece.to[1] - piece.from[1]) / piece.long];
    return [piece.from[0] + t * piece.long * dx - aside * dz, piece.from[1] + t * piece.long * dz + aside * dx];
  };
}

/** By how often a line to the right crosses the outline. */
const isInside = ([x, z]: OnGround, outline: readonly OnGround[]): boolean => outline.filter(([x0, z0], i) => {
  const [x1, z1] = outline[(i + 1) % outline.length];
  return z0 > z !== z1 > z && x < x0 + ((z - z0) / (z1 - z0)) * (x1 - x0);
}).length % 2 === 1;

/**
 * More figures of the same kinds, spread over the ground by chance around one, along a line or in an area that the figures there (`first` among `others`) draw: none nearer to another than people
 * stand, all in the picture and before the camera. As many as find a place.
 */
export function crowdOf(document: TazzelDocument, first: PlacedFigure, kinds: readonly FigureInHand[], there: readonly PlacedFigure[], crowd: Crowd): PlacedFigure[] {
  if (!document.camera || kinds.length === 0) return [];
  const view = viewOfCamera(cameraOf(document.camera), document.size);
  const footOf = ({ at, groundMetres }: PlacedFigure): OnGround | null => {
    const place = groundAt(view, at[0], at[1], groundMetres);
    return place && [place[0], place[2]];
  };
  const middle = footOf(first);
  // The line and the area lie on the ground of the chosen one.
  const drawn = there.filter(({ groundMetres }) => groundMetres === first.groundMetres).flatMap((figure) => [footOf(figure)].filter((foot) => foot !== null));
  const placeAt = middle && placesOf(crowd, middle, drawn);
  if (!placeAt) return [];
  let count = 0;
  const chance = () => latticeNoise(count++, 3, crowd.seed);
  const taken = there.map(footOf).filter((place) => place !== null);
  const found: PlacedFigure[] = [];
  const most = Math.min(crowd.count, MOST_FIGURES - there.length);
  for (let tries = 0; tries < most * TRIES && found.length < most; tries++) {
    const place = placeAt(chance(), chance());
    const [kind, mirrored, tall] = [kinds[Math.floor(chance() * kinds.length)], chance() < 0.5, 0.96 + 0.08 * chance()];
    const seen = place && projected(view, [place[0], first.groundMetres, place[1]]);
    if (!place || !seen || seen.x < 0 || seen.y < 0 || seen.x >= document.size.width || seen.y >= document.size.height) continue;
    if (taken.some(([x, z]) => Math.hypot(x - place[0], z - place[1]) < APART_METRES)) continue;
    taken.push(place);
    const { aloftMetres: _, ...figure } = kind;
    found.push({ ...figure, heightMetres: Math.round(kind.heightMetres * tall * 1000) / 1000, at: [Math.round(seen.x * 10) / 10, Math.round(seen.y * 10) / 10], groundMetres: first.groundMetres, mirrored, leanDegrees: 0 });
  }
  return found;
}
