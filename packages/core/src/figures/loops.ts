/** What is done for every pixel of a figure. These are the definitions of the loops: the kernels are compared with them. */
import { clamp } from '../params/define.ts';
import type { Region } from '../raster/region.ts';
import { SKY_METRES } from '../raster/sides.ts';
import { hiddenByBall, sunOnFigure } from './light.ts';

/** Numbers of each place in a list: two pixels of a figure's picture, over how many of them it is blurred, one of its own, and which pixel of a region it is for. They stand one kind after the other. */
export const PLACE_NUMBERS = 5;

/** Places that were found: how many, and within which pixels and blurs of the figure's picture they lie. */
export interface Found {
  readonly count: number;
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
  readonly least: number;
  readonly widest: number;
}

/** A number that goes in straight lines with places of the world, for what is seen at pixels: at the eye; and how much more for each metre of depth at the centre of the first pixel, with each column and each row. */
export type SeenStraight = readonly [atEye: number, first: number, perColumn: number, perRow: number];

/** A card as its pixels are found from the camera: the depth is one over `perMetre`; see card.ts. */
export interface CardSeen {
  readonly u: SeenStraight;
  readonly v: SeenStraight;
  readonly share: SeenStraight;
  readonly perMetre: SeenStraight;
  readonly box: Region;
  /** How wide a pixel is in its picture for each metre of depth. */
  readonly widePerMetre: number;
  readonly lens: Lens;
}
/** Distances along rays are longer than depths: by the root of 1 + (how many `per` a pixel lies beside the axis)². `per` is 0 where depths are meant. */
export interface Lens {
  readonly left: number;
  readonly top: number;
  readonly per: number;
}

/** What is asked of a place that a figure may take light from. */
export interface CardCast {
  /** In metres from its foot. */
  readonly toRight: SeenStraight;
  readonly up: SeenStraight;
  readonly toUs: SeenStraight;
  /** The same place thrown onto the card along the sun: pixels over a share, and how many metres away. Null without a sun. */
  readonly thrown: { readonly u: SeenStraight; readonly v: SeenStraight; readonly share: SeenStraight; readonly along: SeenStraight } | null;
  readonly box: Region;
  /** Blur for each metre to the card, and for each metre of depth. */
  readonly widePerMetre: number;
  readonly widePerDepth: number;
  readonly lens: Lens;
  /** Nothing is taken nearer or farther away than these depths, in metres. */
  readonly nearest: number;
  readonly farthest: number;
  /** How much of the light of the sky is taken, within how many metres of what stands so far beside the foot. */
  readonly contact: number;
  readonly reachMetres: number;
  readonly besideMetres: number;
  readonly balls: readonly { readonly asideMetres: number; readonly upMetres: number; readonly radiusMetres: number }[];
  /** The card's directions on the plan. */
  readonly right: readonly [x: number, z: number];
  readonly normal: readonly [x: number, z: number];
}

/** How light falls on the round form that an outline stands for. */
export interface FormLight {
  /** Of light that comes from everywhere, and of the sun's. */
  readonly steady: readonly number[];
  readonly sunny: readonly number[];
  /** Cosine and sine by which its picture leans, and on which side its right lies: 1 or −1. */
  readonly cos: number;
  readonly sin: number;
  readonly side: number;
  /** The sun, seen from the card: to its right, up, and towards who looks at it. */
  readonly towards: readonly [right: number, up: number, us: number];
  readonly modelling: number;
}

export interface FigureLoops {
  /** Where a part of a region shows a card: places into a list for as many as the part has pixels. The number of each is how far away it is, as the element says distances. */
  met(list: Float32Array, card: CardSeen, part: Region, region: Region): Found;
  /** Only those places stay of which `alpha` says that something is there, and which nothing nearer hides; `visible` becomes how much of each is seen. Gives how many. `sides`: three planes, if it is known what is near. */
  shown(list: Float32Array, count: number, alpha: Float32Array, visible: Float32Array, sides: Float32Array | null): number;
  /** Colours (three planes, each as long as one of `slopes`) in the light on them. `slopes`: how much more alpha lies to the right, then below; null: they are flat, and the sun falls on them as on the ground. */
  lit(colors: Float32Array, count: number, slopes: Float32Array | null, light: FormLight): void;
  /** Four planes at places over four planes of a region; with what they mirror added, if that is known (three planes), times `shine`. */
  laid(out: Float32Array, list: Float32Array, colors: Float32Array, visible: Float32Array, shines: Float32Array | null, shine: number): void;
  /**
   * What a figure takes of the light where something is seen: of the sky's from `open` at once; of the sun's where the places are that are found, each with its share of a pixel. `spans`: first and last column of each
   * row of the part. `sides` and `normals`: three planes each, if they are known; else all is level ground at its foot. The list has room for two places a pixel of the part.
   */
  taken(list: Float32Array, open: Float32Array, cast: CardCast, spans: Int32Array, sides: Float32Array | null, normals: Float32Array | null, part: Region, region: Region): Found;
  /** Three planes in what is left of the light of the sun and of the sky. What of the light is the sun's: one element over another (three planes each), or the same everywhere. */
  shaded(out: Float32Array, lit: Float32Array, open: Float32Array, bySun: Float32Array | null, byAll: Float32Array | null, usual: readonly number[]): void;
}

/** Alpha that counts as something. */
export const LEAST_ALPHA = 1 / 512;
/** Things as near as this to a figure's plane do not hide it, in metres and as a share of the distance: its feet stand on them. */
const [TOUCH_METRES, TOUCH_SHARE] = [0.04, 0.004];
/** Where near and far are no farther apart than this share, a pixel shows one surface: a floor that is seen at a grazing angle is one thing. */
const EDGE_SHARE = 0.2;
/** Some of the sky's light comes from everywhere. Common practice, no published source. */
const MOST_HIDDEN = 0.95;
/** Shorter normals are means of several directions, or none. */
const LEAST_NORMAL = 0.3;
/** Where hardly any light is, none of it is the sun's. */
const LEAST_LIGHT = 1e-6;
/** Slopes of a blurred outline are a little less than what they stand for. Common practice, no published source. */
const ROUNDNESS = 0.9;

/** How much of something is not hidden at a pixel by what is nearer. `metres`: how far away it is there, as the element says distances; `sides`: three planes. */
export function visibleAt(sides: Float32Array | null, pixel: number, metres: number): number {
  if (!sides) return 1;
  const area = sides.length / 3;
  const limit = metres - TOUCH_METRES - TOUCH_SHARE * metres;
  const hides = (other: number) => (other > 0 && other < limit ? 1 : 0);
  const share = sides[2 * area + pixel];
  return 1 - (1 - share) * hides(sides[pixel]) - share * hides(sides[area + pixel]);
}

/** The direction that a surface faces at a pixel, of length 1, into `out`: upwards where nothing says so. */
export function normalAt(normals: Float32Array | null, pixel: number, out: Float64Array): void {
  const area = normals ? normals.length / 3 : 0;
  const [x, y, z] = normals ? [normals[pixel], normals[area + pixel], normals[2 * area + pixel]] : [0, 1, 0];
  const length = Math.sqrt(x * x + y * y + z * z);
  out.set(length >= LEAST_NORMAL ? [x / length, y / length, z / length] : [0, 1, 0]);
}

/** Whether something of a picture is within a blur of a place. */
export const isNear = ({ x, y, width, height }: Region, u: number, v: number, wide: number): boolean => u > x - wide && v > y - wide && u < x + width + wide && v < y + height + wide;

/** Which pixels places of a list are for. */
export const pixelsOf = (list: Float32Array): Int32Array => new Int32Array(list.buffer, list.byteOffset + (4 * list.byteLength) / PLACE_NUMBERS, list.length / PLACE_NUMBERS);

/** The numbers of one kind of the first places of a list. */
export const numbersOf = (list: Float32Array, kind: number, count: number): Float32Array => {
  const start = (kind * list.length) / PLACE_NUMBERS;
  return list.subarray(start, start + count);
};

/** How much longer than its depth a distance is at a pixel. */
export const longer = ({ left, top, per }: Lens, x: number, y: number): number => Math.sqrt(1 + ((x - left) * per) ** 2 + ((y - top) * per) ** 2);
const over = ([atEye, first, perColumn, perRow]: SeenStraight, x: number, y: number, depth: number): number => atEye + depth * (first + perColumn * x + perRow * y);

/** Puts places into a list one by one, and says what they lie within. */
export function gathering(list: Float32Array): { readonly add: (u: number, v: number, wide: number, number: number, pixel: number) => void; readonly found: () => Found } {
  const most = list.length / PLACE_NUMBERS;
  const pixels = pixelsOf(list);
  let count = 0;
  const add = (u: number, v: number, wide: number, number: number, pixel: number) => {
    list[count] = u;
    list[most + count] = v;
    list[2 * most + count] = wide;
    list[3 * most + count] = number;
    pixels[count++] = pixel;
  };
  const extremes = (kind: number) => {
    let [least, most] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
    for (const value of numbersOf(list, kind, count)) {
      least = Math.min(least, value);
      most = Math.max(most, value);
    }
    return [least, most];
  };
  const found = () => {
    const [[left, right], [top, bottom], [least, widest]] = [extremes(0), extremes(1), extremes(2)];
    return { count, left, top, right, bottom, least, widest };
  };
  return { add, found };
}

export const referenceFigures: FigureLoops = {
  met: (list, { u, v, share, perMetre, box, widePerMetre, lens }, part, region) => {
    const { add, found } = gathering(list);
    for (let y = part.y; y < part.y + part.height; y++) {
      for (let x = part.x; x < part.x + part.width; x++) {
        const by = over(share, x, y, 1);
        const depth = 1 / over(perMetre, x, y, 1);
        if (!(by > 0 && depth > 0)) continue;
        const [atU, atV, wide] = [over(u, x, y, 1) / by, over(v, x, y, 1) / by, depth * widePerMetre];
        if (isNear(box, atU, atV, wide)) add(atU, atV, wide, depth * longer(lens, x, y), (y - region.y) * region.width + x - region.x);
      }
    }
    return found();
  },
  shown: (list, count, alpha, visible, sides) => {
    const most = list.length / PLACE_NUMBERS;
    const pixels = pixelsOf(list);
    let kept = 0;
    for (let i = 0; i < count; i++) {
      const seen = alpha[i] >= LEAST_ALPHA ? visibleAt(sides, pixels[i], list[3 * most + i]) : 0;
      if (!(seen > 0)) continue;
      for (let kind = 0; kind < PLACE_NUMBERS - 1; kind++) list[kind * most + kept] = list[kind * most + i];
      pixels[kept] = pixels[i];
      alpha[kept] = alpha[i];
      visible[kept++] = seen;
    }
    return kept;
  },
  lit: (colors, count, slopes, { steady, sunny, cos, sin, side, towards, modelling }) => {
    for (let i = 0; i < count; i++) {
      let onSun = 1;
      if (slopes) {
        // Its outline falls off to the sides as a round body does.
        const [dx, dy] = [-slopes[i] * ROUNDNESS * side, slopes[count + i] * ROUNDNESS];
        const by = 1 / Math.max(1, Math.hypot(dx, dy));
        const [a, b] = [(dx * cos + dy * sin) * by, (dy * cos - dx * sin) * by];
        onSun = sunOnFigure(a * towards[0] + b * towards[1] + Math.sqrt(Math.max(0, 1 - a * a - b * b)) * towards[2], towards[1], modelling);
      }
      for (let c = 0; c < 3; c++) colors[c * count + i] *= steady[c] + sunny[c] * onSun;
    }
  },
  laid: (out, list, colors, visible, shines, shine) => {
    const [area, count] = [out.length / 4, visible.length];
    const pixels = pixelsOf(list);
    for (let i = 0; i < count; i++) {
      const [pixel, alpha] = [pixels[i], colors[3 * count + i]];
      for (let c = 0; c < 4; c++) {
        const shone = shines && c < 3 ? alpha * shine * Math.max(0, shines[c * area + pixel]) : 0;
        out[c * area + pixel] = out[c * area + pixel] * (1 - alpha * visible[i]) + (colors[c * count + i] + shone) * visible[i];
      }
    }
  },
  taken: (list, open, { toRight, up, toUs, thrown, box, widePerMetre, widePerDepth, lens, nearest, farthest, contact, reachMetres, besideMetres, balls, right, normal }, spans, sides, normals, part, region) => {
    const { add, found } = gathering(list);
    const area = region.width * region.height;
    const reach = reachMetres * reachMetres;
    const faces = new Float64Array(3);
    for (let y = part.y; y < part.y + part.height; y++) {
      for (let x = spans[2 * (y - part.y)]; x <= spans[2 * (y - part.y) + 1]; x++) {
        const i = (y - region.y) * region.width + x - region.x;
        const near = sides ? sides[i] : -up[0] / over([0, up[1], up[2], up[3]], x, y, 1);
        const far = sides ? sides[area + i] : near;
        const share = sides ? sides[2 * area + i] : 0;
        const isEdge = share > 0 && far - near > EDGE_SHARE * near;
        let hides = 0;
        for (let side = 0; side < (isEdge ? 2 : 1); side++) {
          const weight = isEdge ? (side === 0 ? 1 - share : share) : 1;
          const metres = isEdge ? (side === 0 ? near : far) : near + (far - near) * share;
          if (!(metres > 0) || metres >= SKY_METRES) continue;
          const depth = sides ? metres / longer(lens, x, y) : metres;
          if (depth < nearest || depth > farthest) continue;
          if (thrown) {
            const [along, by] = [over(thrown.along, x, y, depth), over(thrown.share, x, y, depth)];
            const [u, v, wide] = [over(thrown.u, x, y, depth) / by, over(thrown.v, x, y, depth) / by, along * widePerMetre + depth * widePerDepth];
            if (along > 0 && by > 0 && isNear(box, u, v, wide)) add(u, v, wide, weight, i);
          }
          // From the nearest of what stands there side by side.
          const [a, n] = [over(toRight, x, y, depth), over(toUs, x, y, depth)];
          const away = (a - clamp(a, -besideMetres, besideMetres)) ** 2 + n * n;
          if (!(contact > 0) || away >= reach) continue;
          const h = over(up, x, y, depth);
          normalAt(normals, i, faces);
          const [nx, nz] = [faces[0] * right[0] + faces[2] * right[1], faces[0] * normal[0] + faces[2] * normal[1]];
          let sum = 0;
          for (const { asideMetres, upMetres, radiusMetres } of balls) sum += hiddenByBall(asideMetres - a, upMetres - h, -n, radiusMetres, nx, faces[1], nz);
          // It ends where the region does that is looked at.
          hides += weight * Math.min(MOST_HIDDEN, sum * contact * (1 - away / reach));
        }
        if (hides > 0) open[i] *= 1 - hides;
      }
    }
    return found();
  },
  shaded: (out, lit, open, bySun, byAll, usual) => {
    const area = lit.length;
    for (let i = 0; i < area; i++) {
      for (let c = 0; c < 3; c++) {
        const at = c * area + i;
        const share = bySun && byAll ? (byAll[at] > LEAST_LIGHT ? clamp(bySun[at] / byAll[at], 0, 1) : 0) : usual[c];
        out[at] *= open[i] + share * (lit[i] - open[i]);
      }
    }
  },
};
