/** How figures are seen: their pictures at places, the light where they stand, what hides them. Used by all parts of kinds/figures.ts. */
import { type CameraView, overPixels, projected } from '../camera/view.ts';
import { LUMINANCE_SHARES } from '../color/luminance.ts';
import { type Card, meetingsFrom, pixelsPerMetre } from '../figures/card.ts';
import { LEAST_REFLECTANCE, USUAL_REFLECTANCE, USUAL_SUN } from '../figures/light.ts';
import { type Found, type Lens, numbersOf, PLACE_NUMBERS, type SeenStraight } from '../figures/loops.ts';
import { holds, intersect, type Region } from '../raster/region.ts';
import { type Moved, type OneSize, sizeFor } from '../raster/sized.ts';
import { SKY_METRES } from '../raster/sides.ts';
import { dot, type Triple, UP } from '../vector.ts';
import type { Backend } from './backend.ts';
import type { Tools } from './kinds/define.ts';
import type { FiguresWork, FigureWork } from './kinds/work.ts';
import { planeOf, type Pixels } from './pixels.ts';

/** A figure and the part of a region that it concerns. */
export interface Standing {
  readonly figure: FigureWork;
  readonly part: Region;
}

/** A little sharper than the pixels would need. */
const SHARPER = 0.8;
/** The form of a figure follows its outline, blurred over this share of its width. */
const FORM_SHARE = 0.12;

/** What of the light at its foot is read: a few pixels around it, of small pictures. A foot beside the picture has the light of the edge that is nearest to it. */
export function footRegion({ view, light, size }: FiguresWork, { card }: FigureWork): Region {
  const seen = projected(view, card.foot) ?? { x: 0, y: 0 };
  const [x, y] = [Math.min(size.width - 1, Math.max(0, seen.x)), Math.min(size.height - 1, Math.max(0, seen.y))];
  return { x: Math.floor(x / light.scale) - 2, y: Math.floor(y / light.scale) - 2, width: 5, height: 5 };
}

/** Places in the picture of a figure: in its pixels, blurred over so many of them; what they lie within; and what all of them are moved by beside that. */
export interface Places {
  readonly u: Float32Array;
  readonly v: Float32Array;
  readonly wide: Float32Array;
  readonly within: Found;
  readonly moved: Moved;
}

/** The first places of a list. */
export const placesOf = (list: Float32Array, within: Found, count = within.count): Places => ({ u: numbersOf(list, 0, count), v: numbersOf(list, 1, count), wide: numbersOf(list, 2, count), within, moved: { u: 0, v: 0, blur: 0 } });

/** The picture of a figure at places. Results go into `out`, plane by plane. */
export interface FigureSampler {
  /** Reads what places look at once for all that is asked of them. It is given back with what else the arena has given since then. */
  hold(places: Places): void;
  /** Premultiplied colour and alpha. */
  color(places: Places, out: Float32Array): void;
  alpha(places: Places, out: Float32Array): void;
}

/** The picture of a figure, with its edges as its layer has them. */
export const samplerOf = (work: Pick<FiguresWork, 'drawnInPx' | 'fringePx'>, figure: FigureWork, tools: Tools): FigureSampler => cleaned(rawSampler(figure, tools), work, tools.backend);

/** Slopes of alpha below this have no direction. */
const LEAST_SLOPE = 0.02;

/** Places beside them, blurred at least so much. */
const aside = (places: Places, u: number, v: number, blur: number): Places => ({ ...places, moved: { u: places.moved.u + u, v: places.moved.v + v, blur: Math.max(places.moved.blur, blur) } });

/** How much more alpha lies to the right of places than to their left, then below than above: so far away, and blurred so much. */
function slopes(sampler: FigureSampler, places: Places, step: number, blur: number, backend: Pick<Backend, 'arena' | 'sum'>): Float32Array {
  const { length } = places.u;
  const [out, more, less] = [2, 1, 1].map((planes) => backend.arena.take(planes * length));
  for (const [n, [u, v]] of [[step, 0], [0, step]].entries()) {
    sampler.alpha(aside(places, u, v, blur), more);
    sampler.alpha(aside(places, -u, -v, blur), less);
    backend.sum(out.subarray(n * length, (n + 1) * length), [more, less], [1, -1]);
  }
  return out;
}

/**
 * Edges drawn in by some pixels, and with the colour from some pixels inside: what shines through half covered ones is the old background. Inside is where alpha rises; what is thinner than
 * that keeps its own. Common practice, no published source.
 */
export function cleaned(sampler: FigureSampler, { drawnInPx, fringePx }: Pick<FiguresWork, 'drawnInPx' | 'fringePx'>, backend: Pick<Backend, 'arena' | 'sum'>): FigureSampler {
  if (drawnInPx === 0 && fringePx === 0) return sampler;
  const { arena } = backend;
  const step = Math.max(1, drawnInPx, fringePx / 2);
  /** Which way is inside, of length 1: across, then down; both 0 where alpha does not rise. */
  const inwards = (places: Places): Float32Array => {
    const inward = slopes(sampler, places, step, step, backend);
    const count = places.u.length;
    for (let i = 0; i < count; i++) {
      const length = Math.hypot(inward[i], inward[count + i]);
      const by = length > LEAST_SLOPE ? 1 / length : 0;
      inward[i] *= by;
      inward[count + i] *= by;
    }
    return inward;
  };
  /** Places within a margin around them. */
  const around = (places: Places, most: number): Places => {
    const { left, top, right, bottom } = places.within;
    return { ...places, within: { ...places.within, left: left - most, top: top - most, right: right + most, bottom: bottom + most } };
  };
  /** Places moved inwards, each by as much as it says: no more than `most`. */
  const inside = (places: Places, inward: Float32Array, most: number, byPx: (i: number) => number): Places => {
    const count = places.u.length;
    const [u, v] = [arena.take(count), arena.take(count)];
    for (let i = 0; i < count; i++) {
      const by = byPx(i);
      u[i] = places.u[i] + inward[i] * by;
      v[i] = places.v[i] + inward[count + i] * by;
    }
    return { ...around(places, most), u, v };
  };
  const alphaIn = (places: Places, inward: Float32Array, out: Float32Array): void => {
    sampler.alpha(places, out);
    if (drawnInPx === 0) return;
    const outer = arena.take(out.length);
    sampler.alpha(inside(places, inward, drawnInPx, () => -drawnInPx), outer);
    for (let i = 0; i < out.length; i++) if (outer[i] < out[i]) out[i] = outer[i];
  };
  return {
    hold: (places) => sampler.hold(around(places, Math.max(step, fringePx))),
    alpha: (places, out) => {
      const { mark } = arena;
      alphaIn(places, inwards(places), out);
      arena.release(mark);
    },
    color: (places, out) => {
      const { mark } = arena;
      const count = places.u.length;
      const [own, blurred, alpha] = [arena.take(4 * count), arena.take(count), arena.take(count)];
      const inward = inwards(places);
      sampler.color(places, own);
      sampler.alpha(aside(places, 0, 0, step), blurred);
      alphaIn(places, inward, alpha);
      // Wholly inside there is nothing to mend.
      sampler.color(inside(places, inward, fringePx, (i) => fringePx * Math.min(1, 2 * (1 - blurred[i]))), out);
      for (let i = 0; i < count; i++) {
        const isBetter = out[3 * count + i] > own[3 * count + i];
        const from = isBetter ? out : own;
        const times = from[3 * count + i] > 0 ? alpha[i] / from[3 * count + i] : 0;
        for (let c = 0; c < 3; c++) out[c * count + i] = from[c * count + i] * times;
        out[3 * count + i] = alpha[i];
      }
      arena.release(mark);
    },
  };
}

/** Sizes that have no more pixels than this are read whole: forms of figures are looked up in them again and again. */
const FEW_PIXELS = 64 * 64;

function rawSampler({ levels }: FigureWork, { backend, read }: Tools): FigureSampler {
  const held = levels.map(({ picture, size }) => (size.width * size.height <= FEW_PIXELS ? read(picture, size) : null));
  /** What places look at of each size; nothing of those that they do not. Beyond the outermost centres of a picture there is nothing. */
  const wanted = ({ within, moved }: Places): readonly (Region | null)[] => {
    const [first, last] = [within.least, within.widest].map((wide) => sizeFor(Math.max(moved.blur, wide) / levels[0].scale, levels.length)[0]);
    return levels.map(({ size, scale }, k) => {
      if (k < first || k > last + 1) return null;
      const at = (place: number) => Math.floor(place / scale - 0.5);
      const [x, y] = [at(within.left + moved.u), at(within.top + moved.v)];
      return intersect(size, { x, y, width: at(within.right + moved.u) + 2 - x, height: at(within.bottom + moved.v) + 2 - y });
    });
  };
  const look = (places: Places, out: Float32Array, plane: number): void => {
    const { u, v, wide, moved } = places;
    if (u.length === 0) return;
    const sizes = wanted(places).map((region, k): OneSize => {
      const { picture, scale } = levels[k];
      if (!region) return { ...NOTHING, scale };
      const known = held[k];
      const pixels = known && holds(known.region, region) ? known : read(picture, region);
      return { ...pixels.region, scale, planes: pixels.planes.subarray(plane * pixels.region.width * pixels.region.height) };
    });
    backend.sized(out, sizes, u, v, wide, moved);
  };
  return {
    hold: (places) => {
      for (const [k, region] of places.u.length === 0 ? [] : wanted(places).entries()) if (region && !(held[k] && holds(held[k].region, region))) held[k] = read(levels[k].picture, region);
    },
    color: (places, out) => look(places, out, 0),
    alpha: (places, out) => look(places, out, 3),
  };
}
const NOTHING = { planes: new Float32Array(0), x: 0, y: 0, width: 0, height: 0 };

/** Light at the foot of a figure: what a white surface would send back there, and how much of that is the sun's. */
function lightAt(work: FiguresWork, figure: FigureWork, tools: Tools): { readonly all: Triple; readonly sun: Triple } {
  const { light, sun } = work;
  // Alone on its card it is in even light.
  if (light.picture === null) return { all: [1, 1, 1], sun: [0, 0, 0] };
  const region = footRegion(work, figure);
  const meanOf = (picture: number | null): Triple | null => {
    if (picture === null) return null;
    const pixels = tools.read(picture, region);
    return [0, 1, 2].map((plane) => planeOf(pixels, plane).reduce((sum, value) => sum + Math.max(0, Math.min(SKY_METRES, value)), 0) / (region.width * region.height)) as unknown as Triple;
  };
  const all = light.filter === null ? ((meanOf(light.picture) as Triple).map((value) => value / USUAL_REFLECTANCE) as unknown as Triple) : lightOn(tools.read(light.picture, region), tools.read(light.filter, region));
  const [bySun, byAll] = [meanOf(light.sun), meanOf(light.all)];
  if (!sun || sun[1] <= 0) return { all, sun: [0, 0, 0] };
  if (!bySun || !byAll) return { all, sun: USUAL_SUN };
  return { all, sun: bySun.map((value, c) => (byAll[c] > 1e-6 ? Math.min(1, value / byAll[c]) : 0)) as unknown as Triple };
}

/** The light that explains what is seen by its reflectance, best where that is bright: what is dark shows what it mirrors instead. */
function lightOn(seen: Pixels, filter: Pixels): Triple {
  return [0, 1, 2].map((plane) => {
    const [values, shares] = [planeOf(seen, plane), planeOf(filter, plane)];
    let [product, square] = [0, 0];
    for (let i = 0; i < values.length; i++) {
      const share = Math.max(LEAST_REFLECTANCE, shares[i]);
      product += share * Math.max(0, Math.min(SKY_METRES, values[i]));
      square += share * share;
    }
    return product / square;
  }) as unknown as Triple;
}

/** Colours of a figure at places: its reflectance in the light at its foot. */
export function shaderOf(work: FiguresWork, figure: FigureWork, sampler: FigureSampler, tools: Tools): FigureSampler['color'] {
  const { style, styleColor, gain, modelling, sun } = work;
  const { card, box } = figure;
  const { backend } = tools;
  const light = lightAt(work, figure, tools);
  const widePx = Math.max(1, box.width * FORM_SHARE);
  // As a size has it, so that there is nothing between two of them to be worked out.
  const formPx = 2 ** Math.round(Math.log2(widePx));
  const hasForm = sun !== null && sun[1] > 0 && modelling > 0 && light.sun.some((share) => share > 0);
  const form = {
    steady: light.all.map((all, c) => all * gain[c] * (1 - light.sun[c])),
    sunny: light.all.map((all, c) => all * gain[c] * light.sun[c]),
    cos: Math.cos(card.leanRadians),
    sin: Math.sin(card.leanRadians),
    side: card.mirrored ? -1 : 1,
    towards: sun ? ([dot(sun, card.right), sun[1], dot(sun, card.normal)] as const) : UP,
    modelling,
  };
  return (places, out) => {
    const count = places.u.length;
    sampler.color(places, out);
    const [r, g, b, alpha] = [0, 1, 2, 3].map((plane) => out.subarray(plane * count, (plane + 1) * count));
    if (style === 'silhouette') {
      for (const [c, plane] of [r, g, b].entries()) for (let i = 0; i < count; i++) plane[i] = styleColor[c] * alpha[i];
      return;
    }
    if (style === 'tone') {
      backend.sum(r, [r, g, b], LUMINANCE_SHARES);
      g.set(r);
      b.set(r);
    }
    const { mark } = backend.arena;
    backend.lit(out, count, hasForm ? slopes(sampler, places, widePx, formPx, backend) : null, form);
    backend.arena.release(mark);
  };
}

/** How many pixels of its picture one of the picture shows, at a depth. */
export const wideAt = (view: CameraView, depth: number, card: Card, scale: number): number => (depth / view.focalPx) * pixelsPerMetre(card) * scale * 2 ** -SHARPER;

/** A region of a picture: its first three planes, if there is one. */
export const threePlanes = (picture: number | null | undefined, region: Region, tools: Tools): Float32Array | null => (picture === null || picture === undefined ? null : tools.read(picture, region).planes.subarray(0, 3 * region.width * region.height));

/** How far away things are in a region, if it is known. */
export const sidesIn = ({ reads }: FiguresWork, region: Region, tools: Tools): Float32Array | null => threePlanes(reads.sides, region, tools);

export const lensOf = ({ view, scale, areDepths }: Pick<FiguresWork, 'view' | 'scale' | 'areDepths'>): Lens => ({ left: view.axisX / scale - 0.5, top: view.axisY / scale - 0.5, per: areDepths ? 0 : scale / view.focalPx });

/** A number that goes in straight lines with places of the world: so much of x, y and z, and so much for itself. */
export const seenStraight = (view: CameraView, along: ArrayLike<number>, itself: number, scale: number): SeenStraight => [along[0] * view.eye[0] + along[1] * view.eye[1] + along[2] * view.eye[2] + itself, ...overPixels(view, along, scale)];

/** Where a figure is seen in a part of a region, and how far away (as the element says distances); with how much of each pixel its picture covers, and how much of that is not hidden. */
export interface Seen {
  readonly list: Float32Array;
  readonly places: Places;
  readonly alpha: Float32Array;
  readonly visible: Float32Array;
}

export function seenIn(work: FiguresWork, { figure: { card, box }, part }: Standing, region: Region, sampler: FigureSampler, sides: Float32Array | null, { backend }: Tools): Seen {
  const { view, scale } = work;
  const { arena } = backend;
  const list = arena.take(PLACE_NUMBERS * part.width * part.height);
  const meetings = meetingsFrom(card, view.eye);
  // What differs are rays: at the eye there is nothing yet.
  const [u, v, share, perMetre] = [meetings.u, meetings.v, meetings.share, meetings.along].map((along): SeenStraight => [0, ...overPixels(view, along, scale)]);
  const found = backend.met(list, { u, v, share, perMetre, box, widePerMetre: wideAt(view, 1, card, scale), lens: lensOf(work) }, part, region);
  const [alpha, visible] = [arena.take(found.count), arena.take(found.count)];
  const all = placesOf(list, found);
  sampler.hold(all);
  sampler.alpha(all, alpha);
  const count = backend.shown(list, found.count, alpha, visible, sides);
  return { list, places: placesOf(list, found, count), alpha: alpha.subarray(0, count), visible: visible.subarray(0, count) };
}
