/**
 * Flat ID pictures: which colours they are painted in, and which of them every pixel belongs to.
 *
 * A colour counts as a material if it forms flat places: pixels whose left and upper neighbours carry the same colour.
 * Mixtures along antialiased edges do not, so they are left out and each edge pixel is given to the nearest colour
 * found next to it. Common practice, no published source.
 */
import { srgbEncode } from '../color/srgb.ts';
import { CoreError } from '../errors.ts';
import { sampleValue } from '../evaluate/reference.ts';
import type { Plane } from '../raster/planes.ts';
import type { Encoding } from '../color/zones.ts';

export interface PaletteColor {
  /** Identity: the stored samples, 16 bits each (see `colorKeyAt`). */
  readonly key: number;
  readonly rgb: readonly [number, number, number];
  /** Display-encoded colour to show. */
  readonly chip: readonly [number, number, number];
  /** Share of the picture that belongs to the colour, edge pixels included. */
  readonly area: number;
}

export interface Palette {
  /** Largest area first. */
  readonly colors: readonly PaletteColor[];
  /** For every pixel the number of its colour in `colors`. */
  readonly index: Uint16Array;
}

export const MAX_PALETTE = 4096;
/** Flat pixels a colour needs at least, so that single mixtures are not taken for materials. */
const MIN_FLAT_PIXELS = 12;
/** Pictures of light can have flat parts, too (a black sky); in ID pictures all but edges and leaves is flat. */
const MIN_FLAT_SHARE = 0.5;
const MIN_FLAT_REST = 0.3;
const SMALL_SHARE = 0.02;

/**
 * The exact stored colour as one integer below 2^48: three 16-bit samples. A single integer channel (an ID number) is
 * its own key; float samples are told apart by the upper 16 bits of their pattern.
 */
export function colorKeyAt(planes: readonly Plane[], index: number): number {
  if (planes.length === 1) return sampleBits(planes[0], index);
  return (sampleBits(planes[0], index) & 0xffff) * 2 ** 32 + (sampleBits(planes[1], index) & 0xffff) * 2 ** 16 + (sampleBits(planes[2], index) & 0xffff);
}

const f32 = new Float32Array(1);
const u32 = new Uint32Array(f32.buffer);
function sampleBits(plane: Plane, index: number): number {
  const stored = plane.data[index];
  if (plane.type !== 'f32') return stored;
  f32[0] = stored;
  return u32[0] >>> 16;
}

/**
 * Finds the palette and assigns every pixel. Planes: one or three of equal size.
 * @throws CoreError `too-many-colours` if the picture is not flat: it then has no palette
 */
export function findPalette(planes: readonly Plane[], encoding: Encoding): Palette {
  const { width, height } = planes[0];
  const keys = new Float64Array(width * height);
  const flat = new Map<number, { count: number; at: number }>();
  let lastKey = -1;
  let last = { count: 0, at: 0 };
  for (let i = 0; i < keys.length; i++) {
    const key = colorKeyAt(planes, i);
    keys[i] = key;
    const isFlat = (i % width === 0 || keys[i - 1] === key) && (i < width || keys[i - width] === key);
    if (!isFlat) continue;
    if (key !== lastKey) {
      const entry = flat.get(key);
      last = entry ?? { count: 0, at: i };
      if (!entry) flat.set(key, last);
      lastKey = key;
    }
    last.count++;
  }
  const enough = Math.min(MIN_FLAT_PIXELS, Math.ceil(keys.length / 16));
  const found = [...flat].filter(([, entry]) => entry.count >= enough);
  if (found.length === 0 || found.length > MAX_PALETTE) {
    const what = found.length === 0 ? 'no flat colours' : `${found.length} colours`;
    throw new CoreError('too-many-colours', `This does not look like an ID picture: ${what} found, expected 1 to ${MAX_PALETTE}. Choose the element that holds flat ID colours.`);
  }
  const flatShare = found.reduce((sum, [, entry]) => sum + entry.count, 0) / keys.length;
  if (flatShare < MIN_FLAT_SHARE) {
    throw new CoreError('too-many-colours', `This does not look like an ID picture: only ${Math.round(flatShare * 100)} % of it lie in flat colours. Choose the element that holds flat ID colours.`);
  }
  // Light can be flat where there is none: black behind a facade. What is left beside the largest colour must be flat, too.
  const largest = Math.max(...found.map(([, entry]) => entry.count));
  const rest = keys.length - largest;
  const flatRest = flatShare * keys.length - largest;
  if (rest > keys.length * SMALL_SHARE && flatRest < rest * MIN_FLAT_REST) {
    throw new CoreError('too-many-colours', `This does not look like an ID picture: beside one large flat colour only ${Math.round((100 * flatRest) / rest)} % lie in flat colours. Choose the element that holds flat ID colours.`);
  }
  const colors = found.map(([key, { at }]) => ({ key, rgb: rgbAt(planes, at) }));
  const index = assign(keys, width, height, colors, planes);
  return rank(colors, index, encoding);
}

/** The index plane of a picture whose palette is known already, as after reopening a document. Unknown colours go to the nearest. */
export function indexPixels(planes: readonly Plane[], known: readonly number[]): Uint16Array {
  const { width, height } = planes[0];
  const keys = Float64Array.from({ length: width * height }, (_, i) => colorKeyAt(planes, i));
  const colors = known.map((key) => ({ key, rgb: [0, 0, 0] as [number, number, number] }));
  const where = new Map(colors.map((color, i) => [color.key, i]));
  for (const [i, key] of keys.entries()) {
    const found = where.get(key);
    if (found === undefined) continue;
    colors[found].rgb = rgbAt(planes, i);
    where.delete(key);
    if (where.size === 0) break;
  }
  return assign(keys, width, height, colors, planes);
}

type Flat = { key: number; rgb: [number, number, number] };

function rgbAt(planes: readonly Plane[], at: number): [number, number, number] {
  const value = (c: number) => sampleValue(planes[Math.min(c, planes.length - 1)], at);
  return [value(0), value(1), value(2)];
}

function assign(keys: Float64Array, width: number, height: number, colors: readonly Flat[], planes: readonly Plane[]): Uint16Array {
  const UNKNOWN = 0xffff;
  const number = new Map(colors.map((color, i) => [color.key, i]));
  const index = new Uint16Array(keys.length);
  let lastKey = Number.NaN;
  let lastIndex = UNKNOWN;
  for (let i = 0; i < keys.length; i++) {
    if (keys[i] !== lastKey) {
      lastKey = keys[i];
      lastIndex = number.get(lastKey) ?? UNKNOWN;
    }
    index[i] = lastIndex;
  }
  // Edge pixels look for colours among their neighbours, or among all if none is near; decided from the first pass only.
  const edges: [number, number][] = [];
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (index[i] !== UNKNOWN) continue;
      const near = new Set<number>();
      for (let ny = Math.max(0, y - 1); ny <= Math.min(height - 1, y + 1); ny++) {
        for (let nx = Math.max(0, x - 1); nx <= Math.min(width - 1, x + 1); nx++) {
          const neighbour = index[ny * width + nx];
          if (neighbour !== UNKNOWN) near.add(neighbour);
        }
      }
      edges.push([i, nearest(rgbAt(planes, i), near.size > 0 ? near : colors.keys(), colors)]);
    }
  }
  for (const [i, value] of edges) index[i] = value;
  return index;
}

function nearest(rgb: readonly number[], among: Iterable<number>, colors: readonly Flat[]): number {
  let best = 0;
  let least = Number.POSITIVE_INFINITY;
  for (const candidate of among) {
    const other = colors[candidate].rgb;
    const distance = (rgb[0] - other[0]) ** 2 + (rgb[1] - other[1]) ** 2 + (rgb[2] - other[2]) ** 2;
    if (distance < least) {
      least = distance;
      best = candidate;
    }
  }
  return best;
}

function rank(colors: readonly Flat[], index: Uint16Array, encoding: Encoding): Palette {
  const counts = new Uint32Array(colors.length);
  for (const value of index) counts[value]++;
  const order = [...colors.keys()].sort((a, b) => counts[b] - counts[a] || colors[a].key - colors[b].key);
  const place = new Uint16Array(colors.length);
  for (const [rankOf, old] of order.entries()) place[old] = rankOf;
  for (let i = 0; i < index.length; i++) index[i] = place[index[i]];
  const show = (value: number) => (encoding === 'linear' ? srgbEncode(value) : Math.min(1, Math.max(0, value)));
  return {
    index,
    colors: order.map((old) => {
      const { key, rgb } = colors[old];
      return { key, rgb, chip: [show(rgb[0]), show(rgb[1]), show(rgb[2])], area: counts[old] / index.length };
    }),
  };
}
