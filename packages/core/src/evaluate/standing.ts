/** How figures are seen: their pictures at places, the light where they stand, what hides them. Used by all parts of kinds/figures.ts. */
import { type CameraView, projected } from '../camera/view.ts';
import { luminanceOf } from '../color/luminance.ts';
import { type Card, pixelsPerMetre } from '../figures/card.ts';
import { LEAST_REFLECTANCE, sunOnFigure, USUAL_REFLECTANCE, USUAL_SUN } from '../figures/light.ts';
import { type Region, TILE_SIZE } from '../raster/region.ts';
import { SKY_METRES } from '../raster/sides.ts';
import { dot, type Triple } from '../vector.ts';
import type { Tools } from './kinds/define.ts';
import type { FiguresWork, FigureWork } from './kinds/work.ts';
import { planeOf, type Pixels } from './pixels.ts';

/** Alpha that counts as something. */
export const LEAST_ALPHA = 1 / 512;
/** Things as near as this to a figure's plane do not hide it, in metres and as a share of the distance: its feet stand on them. */
const [TOUCH_METRES, TOUCH_SHARE] = [0.04, 0.004];
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

/** The picture of a figure at places in its pixels, blurred over `wide` of them. */
export interface FigureSampler {
  /** Premultiplied colour and alpha, into `out`. */
  color(u: number, v: number, wide: number, out: Float64Array): void;
  alpha(u: number, v: number, wide: number): number;
}

/** The picture of a figure, with its edges as its layer has them. */
export const samplerOf = (work: Pick<FiguresWork, 'drawnInPx' | 'fringePx'>, figure: FigureWork, tools: Tools): FigureSampler => cleaned(rawSampler(figure, tools), work);

/** Slopes of alpha below this have no direction. */
const LEAST_SLOPE = 0.02;

/**
 * Edges drawn in by some pixels, and with the colour from some pixels inside: what shines through half covered ones is the old background. Inside is where alpha rises; what is thinner than
 * that keeps its own. Common practice, no published source.
 */
export function cleaned(sampler: FigureSampler, { drawnInPx, fringePx }: Pick<FiguresWork, 'drawnInPx' | 'fringePx'>): FigureSampler {
  if (drawnInPx === 0 && fringePx === 0) return sampler;
  const step = Math.max(1, drawnInPx, fringePx / 2);
  const inward = new Float64Array(2);
  /** Whether alpha rises at a place, and which way, into `inward`. */
  const rises = (u: number, v: number, wide: number): boolean => {
    const blur = Math.max(wide, step);
    const dx = sampler.alpha(u + step, v, blur) - sampler.alpha(u - step, v, blur);
    const dy = sampler.alpha(u, v + step, blur) - sampler.alpha(u, v - step, blur);
    const length = Math.hypot(dx, dy);
    inward[0] = dx / length;
    inward[1] = dy / length;
    return length > LEAST_SLOPE;
  };
  const alphaIn = (u: number, v: number, wide: number): number => {
    const own = sampler.alpha(u, v, wide);
    return drawnInPx === 0 || own === 0 ? own : Math.min(own, sampler.alpha(u - inward[0] * drawnInPx, v - inward[1] * drawnInPx, wide));
  };
  return {
    alpha: (u, v, wide) => (drawnInPx > 0 && rises(u, v, wide) ? alphaIn(u, v, wide) : sampler.alpha(u, v, wide)),
    color: (u, v, wide, out) => {
      if (!rises(u, v, wide)) return sampler.color(u, v, wide, out);
      const alpha = alphaIn(u, v, wide);
      // Wholly inside there is nothing to mend.
      const by = fringePx * Math.min(1, 2 * (1 - sampler.alpha(u, v, Math.max(wide, step))));
      const own = sampler.alpha(u, v, wide);
      sampler.color(u + inward[0] * by, v + inward[1] * by, wide, out);
      if (!(out[3] > own)) sampler.color(u, v, wide, out);
      const times = out[3] > 0 ? alpha / out[3] : 0;
      for (let c = 0; c < 3; c++) out[c] *= times;
      out[3] = alpha;
    },
  };
}

function rawSampler({ levels }: FigureWork, tools: Tools): FigureSampler {
  // Tile by tile, as they are kept: cut-outs may be large, and most regions look at little of them.
  const read = levels.map(({ size }) => ({ across: Math.ceil(size.width / TILE_SIZE), tiles: new Map<number, readonly Float32Array[]>() }));
  const tileAt = (k: number, column: number, row: number): readonly Float32Array[] => {
    const { across, tiles } = read[k];
    const known = tiles.get(row * across + column);
    if (known) return known;
    const { picture, size } = levels[k];
    const [x, y] = [column * TILE_SIZE, row * TILE_SIZE];
    const pixels = tools.read(picture, { x: size.x + x, y: size.y + y, width: Math.min(TILE_SIZE, size.width - x), height: Math.min(TILE_SIZE, size.height - y) });
    const planes = [0, 1, 2, 3].map((plane) => planeOf(pixels, plane));
    tiles.set(row * across + column, planes);
    return planes;
  };
  const valueAt = (k: number, plane: number, x: number, y: number): number => {
    const [column, row] = [Math.floor(x / TILE_SIZE), Math.floor(y / TILE_SIZE)];
    const wide = Math.min(TILE_SIZE, levels[k].size.width - column * TILE_SIZE);
    return tileAt(k, column, row)[plane][(y - row * TILE_SIZE) * wide + x - column * TILE_SIZE];
  };
  /** Where between the sizes it lies. */
  const sizeFor = (wide: number) => Math.min(levels.length - 1, Math.max(0, Math.log2(wide / levels[0].scale)));
  /** One plane at one size; its outermost pixels are transparent. */
  const at = (k: number, plane: number, u: number, v: number): number => {
    const { size, scale } = levels[k];
    const x = u / scale - 0.5 - size.x;
    const y = v / scale - 0.5 - size.y;
    if (x < 0 || y < 0 || x >= size.width - 1 || y >= size.height - 1) return 0;
    const left = Math.floor(x);
    const top = Math.floor(y);
    const column = Math.floor(left / TILE_SIZE);
    const row = Math.floor(top / TILE_SIZE);
    const [insideX, insideY] = [left - column * TILE_SIZE, top - row * TILE_SIZE];
    if (insideX + 1 < TILE_SIZE && insideY + 1 < TILE_SIZE) {
      const wide = Math.min(TILE_SIZE, size.width - column * TILE_SIZE);
      const values = tileAt(k, column, row)[plane];
      const i = insideY * wide + insideX;
      const upper = values[i] + (values[i + 1] - values[i]) * (x - left);
      return upper + (values[i + wide] + (values[i + wide + 1] - values[i + wide]) * (x - left) - upper) * (y - top);
    }
    const upper = valueAt(k, plane, left, top) + (valueAt(k, plane, left + 1, top) - valueAt(k, plane, left, top)) * (x - left);
    return upper + (valueAt(k, plane, left, top + 1) + (valueAt(k, plane, left + 1, top + 1) - valueAt(k, plane, left, top + 1)) * (x - left) - upper) * (y - top);
  };
  const blended = (size: number, plane: number, u: number, v: number): number => {
    const k = Math.floor(size);
    const t = size - k;
    const fine = at(k, plane, u, v);
    return t > 0 ? fine + (at(k + 1, plane, u, v) - fine) * t : fine;
  };
  return {
    color: (u, v, wide, out) => {
      const size = sizeFor(wide);
      out[3] = blended(size, 3, u, v);
      for (let plane = 0; plane < 3; plane++) out[plane] = out[3] === 0 ? 0 : blended(size, plane, u, v);
    },
    alpha: (u, v, wide) => blended(sizeFor(wide), 3, u, v),
  };
}

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

/** The colour of a figure where it is hit: its reflectance in the light at its foot. In `out`: premultiplied colour and alpha. */
export function shaderOf(work: FiguresWork, figure: FigureWork, tools: Tools): (u: number, v: number, wide: number, out: Float64Array) => void {
  const { style, styleColor, gain, modelling, sun } = work;
  const { card, box } = figure;
  const sample = samplerOf(work, figure, tools);
  const light = lightAt(work, figure, tools);
  const widePx = Math.max(1, box.width * FORM_SHARE);
  const alphaAt = (u: number, v: number) => sample.alpha(u, v, widePx);
  const hasForm = sun !== null && sun[1] > 0 && modelling > 0 && light.sun.some((share) => share > 0);
  const aside = card.mirrored ? -1 : 1;
  const [cos, sin] = [Math.cos(card.leanRadians), Math.sin(card.leanRadians)];
  return (u, v, wide, out) => {
    sample.color(u, v, wide, out);
    const alpha = out[3];
    if (alpha < LEAST_ALPHA) return;
    let onSun = 1;
    if (hasForm && sun) {
      // Its outline falls off to the sides as a round body does.
      const [dx, dy] = [(alphaAt(u - widePx, v) - alphaAt(u + widePx, v)) * 0.9 * aside, (alphaAt(u, v + widePx) - alphaAt(u, v - widePx)) * 0.9];
      const length = Math.hypot(dx, dy);
      const by = length > 1 ? 1 / length : 1;
      const [a, b] = [(dx * cos + dy * sin) * by, (dy * cos - dx * sin) * by];
      const out1 = Math.sqrt(Math.max(0, 1 - a * a - b * b));
      const towards = a * dot(sun, card.right) + b * sun[1] + out1 * dot(sun, card.normal);
      onSun = sunOnFigure(towards, sun[1], modelling);
    }
    const grey = style === 'tone' ? luminanceOf([out[0], out[1], out[2]]) : 0;
    for (let c = 0; c < 3; c++) {
      if (style === 'silhouette') {
        out[c] = styleColor[c] * alpha;
        continue;
      }
      const lit = light.all[c] * (1 - light.sun[c] + light.sun[c] * onSun) * gain[c];
      out[c] = (style === 'tone' ? grey : out[c]) * lit;
    }
  };
}

/** How many pixels of its picture one of the picture shows, at a depth. */
export const wideAt = (view: CameraView, depth: number, card: Card, scale: number): number => (depth / view.focalPx) * pixelsPerMetre(card) * scale * 2 ** -SHARPER;

export const visibleAt = (sides: readonly Float32Array[] | null, i: number, depth: number, perDepth: number): number => {
  if (!sides) return 1;
  const reach = depth * perDepth;
  const limit = reach - TOUCH_METRES - TOUCH_SHARE * reach;
  const hides = (metres: number) => (metres > 0 && metres < limit ? 1 : 0);
  const share = sides[2][i];
  return 1 - (1 - share) * hides(sides[0][i]) - share * hides(sides[1][i]);
};

/** The three planes of a region of a picture, if there is one. */
export const planesOf = (picture: number | null | undefined, region: Region, tools: Tools): readonly Float32Array[] | null => {
  if (picture === null || picture === undefined) return null;
  const pixels = tools.read(picture, region);
  return [0, 1, 2].map((plane) => planeOf(pixels, plane));
};

export const sidesIn = ({ reads }: FiguresWork, region: Region, tools: Tools): readonly Float32Array[] | null => planesOf(reads.sides, region, tools);

/** Distances go along the ray, depths along the lens's axis: what a depth is multiplied with to be compared with the element's metres. */
export const perDepthOf = (work: Pick<FiguresWork, 'areDepths'>, ray: Float64Array): number => (work.areDepths ? 1 : Math.hypot(ray[0], ray[1], ray[2]));
