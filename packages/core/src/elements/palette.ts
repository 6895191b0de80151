/**
 * Which colours a flat ID picture is painted in.
 *
 * A colour counts as a material if it forms flat places: pixels whose left and upper neighbours carry the same colour.
 * Mixtures along antialiased edges do not, so they are left out (see unmix.ts). In pictures that went through a lossy format no colour is
 * exact: there, smooth places are gathered around their most frequent colours. Common practice, no published source.
 */
import { srgbDecode, srgbEncode } from '../color/srgb.ts';
import { CoreError } from '../errors.ts';
import type { Plane } from '../raster/planes.ts';
import { sampleReader } from '../raster/read.ts';
import type { Encoding } from '../color/zones.ts';
import { colorKey, colorKeyAt, colorOfKey, type Rgb, sameColors } from './palette-keys.ts';
import { areasOf, type Mixture, NOTHING, SOFT_TOLERANCE, unmix } from './unmix.ts';

export interface PaletteColor {
  /** Identity: the stored samples, 16 bits each (see `colorKeyAt`). */
  readonly key: number;
  readonly rgb: Rgb;
  /** Display-encoded colour to show. */
  readonly chip: Rgb;
  /** Share of the picture that belongs to the colour; edge pixels count as far as they are covered. */
  readonly area: number;
}

export interface Palette {
  /** Largest area first. */
  readonly colors: readonly PaletteColor[];
  /** Its index counts in the order of `colors`. */
  readonly mixture: Mixture;
  /** The picture went through a lossy format: its colours are means, and edges are less exact. */
  readonly isSoft: boolean;
}

export const MAX_PALETTE = 4096;
/** Flat pixels a colour needs at least, so that single mixtures are not taken for materials. */
const MIN_FLAT_PIXELS = 12;
/** Pixels of exactly one colour that make a thing where none of them is flat; so many colours are counted, among so many known ones, this far from any mixture of two. */
const [MIN_THIN_PIXELS, MOST_THIN, MOST_KNOWN, MIXED] = [8, 65_536, 200, 6 / 255];
/** Pictures of light can have flat parts, too (a black sky); in ID pictures all but edges and leaves is flat. */
const MIN_FLAT_SHARE = 0.5;
const MIN_FLAT_REST = 0.3;
const SMALL_SHARE = 0.02;
/** Lossy pictures: neighbours closer than this are a smooth place; so many colours at most; so much of all smooth places must lie around them. */
const SMOOTH_STEP = 10 / 255;
const MAX_SOFT_PALETTE = 96;
const MIN_SOFT_SHARE = 0.93;
const MIN_SOFT_AREA = 1 / 4000;
const SOFT_SAMPLES = 2e6;

/**
 * Finds the palette and what every pixel is mixed of. Planes: one or three of equal size. `isLossy`: they come from a format that keeps no colour
 * exactly (JPEG), which is not always to be seen: inside large places it does.
 * @throws CoreError `too-many-colours` if the picture is not flat: it then has no palette
 */
export function findPalette(planes: readonly Plane[], encoding: Encoding, isLossy = false): Palette {
  const gathered = isLossy && planes.length === 3 ? softColors(planes) : null;
  if (gathered) return rank(planes, encoding, gathered, true);
  let refusal: unknown;
  try {
    return rank(planes, encoding, exactColors(planes), false);
  } catch (error) {
    refusal = error;
  }
  const soft = planes.length === 3 ? softColors(planes) : null;
  if (!soft) throw refusal;
  return rank(planes, encoding, soft, true);
}

function exactColors(planes: readonly Plane[]): number[] {
  const { width } = planes[0];
  const pixels = planes[0].data.length;
  const flat = new Map<number, { count: number }>();
  const thin = new Map<number, number>();
  let last = { count: 0 };
  let lastAt = -1;
  const isSame = sameColors(planes);
  for (let i = 0; i < pixels; i++) {
    if (!((i % width === 0 || isSame(i, i - 1)) && (i < width || isSame(i, i - width)))) {
      if (planes.length === 3 && thin.size < MOST_THIN) {
        const key = colorKeyAt(planes, i);
        thin.set(key, (thin.get(key) ?? 0) + 1);
      }
      continue;
    }
    if (lastAt < 0 || !isSame(i, lastAt)) {
      const key = colorKeyAt(planes, i);
      const entry = flat.get(key);
      last = entry ?? { count: 0 };
      if (!entry) flat.set(key, last);
    }
    lastAt = i;
    last.count++;
  }
  const enough = Math.min(MIN_FLAT_PIXELS, Math.ceil(pixels / 16));
  const found = [...flat].filter(([, entry]) => entry.count >= enough);
  if (found.length === 0 || found.length > MAX_PALETTE) {
    const what = found.length === 0 ? 'no flat colours' : `${found.length} colours`;
    throw new CoreError('too-many-colours', `This does not look like an ID picture: ${what} found, expected 1 to ${MAX_PALETTE}. Choose the element that holds flat ID colours.`);
  }
  const flatShare = found.reduce((sum, [, entry]) => sum + entry.count, 0) / pixels;
  if (flatShare < MIN_FLAT_SHARE) {
    throw new CoreError('too-many-colours', `This does not look like an ID picture: only ${Math.round(flatShare * 100)} % of it lie in flat colours. Choose the element that holds flat ID colours.`);
  }
  // Light can be flat where there is none: black behind a facade. What is left beside the largest colour must be flat, too.
  const largest = Math.max(...found.map(([, entry]) => entry.count));
  const rest = pixels - largest;
  const flatRest = flatShare * pixels - largest;
  if (rest > pixels * SMALL_SHARE && flatRest < rest * MIN_FLAT_REST) {
    throw new CoreError('too-many-colours', `This does not look like an ID picture: beside one large flat colour only ${Math.round((100 * flatRest) / rest)} % lie in flat colours. Choose the element that holds flat ID colours.`);
  }
  const keys = found.map(([key]) => key);
  return [...keys, ...smallThings(planes, keys, flat, thin)];
}


/**
 * Colours of things that are too small or too thin to be flat anywhere: many pixels have exactly the same one, and no two of the flat colours make it,
 * as they make that of an edge.
 */
function smallThings(planes: readonly Plane[], known: readonly number[], flat: ReadonlyMap<number, { readonly count: number }>, thin: ReadonlyMap<number, number>): number[] {
  if (known.length > MOST_KNOWN || thin.size >= MOST_THIN) return [];
  const isKnown = new Set(known);
  const spaces = [(v: number) => v, srgbEncode, srgbDecode];
  const colors = spaces.map((change) => known.map((key) => colorOfKey(planes, key).map(change)));
  const isMixed = (key: number) =>
    spaces.some((change, s) => {
      const color = colorOfKey(planes, key).map(change);
      return colors[s].some((a, i) => colors[s].some((b, j) => j > i && distanceToSegment(color, a, b) < MIXED));
    });
  return [...thin].flatMap(([key, count]) => (!isKnown.has(key) && count + (flat.get(key)?.count ?? 0) >= MIN_THIN_PIXELS && !isMixed(key) ? [key] : []));
}

function distanceToSegment(p: readonly number[], a: readonly number[], b: readonly number[]): number {
  const [along, length] = p.reduce(([dot, square], v, c) => [dot + (v - a[c]) * (b[c] - a[c]), square + (b[c] - a[c]) ** 2], [0, 0]);
  const share = length === 0 ? 0 : Math.min(1, Math.max(0, along / length));
  return Math.hypot(...p.map((v, c) => v - a[c] - share * (b[c] - a[c])));
}

/** Colours around which the smooth places of a lossy picture gather; null if they are too many, as in a photograph. */
function softColors(planes: readonly Plane[]): number[] | null {
  const { width, height } = planes[0];
  const BINS = 32;
  const counts = new Float64Array(BINS ** 3);
  const sums = new Float64Array(BINS ** 3 * 3);
  let smooth = 0;
  // Some rows of a large picture tell as much as all.
  const step = Math.max(1, Math.round((width * height) / SOFT_SAMPLES));
  const [red, green, blue] = planes.map(sampleReader);
  const isSmooth = (read: (i: number) => number, i: number, value: number) => Math.abs(value - read(i - 1)) < SMOOTH_STEP && Math.abs(value - read(i - width)) < SMOOTH_STEP;
  const binOf = (value: number) => Math.min(BINS - 1, Math.max(0, Math.floor(value * BINS)));
  let looked = 0;
  for (let y = 1; y < height; y += step) {
    for (let x = 1; x < width; x++) {
      looked++;
      const i = y * width + x;
      const [r, g, b] = [red(i), green(i), blue(i)];
      if (!isSmooth(red, i, r) || !isSmooth(green, i, g) || !isSmooth(blue, i, b)) continue;
      smooth++;
      const bin = (binOf(r) * BINS + binOf(g)) * BINS + binOf(b);
      counts[bin]++;
      sums[bin * 3] += r;
      sums[bin * 3 + 1] += g;
      sums[bin * 3 + 2] += b;
    }
  }
  if (smooth < MIN_FLAT_SHARE * looked) return null;
  const bins = [...counts.keys()].filter((bin) => counts[bin] > 0).map((bin) => ({ count: counts[bin], rgb: [0, 1, 2].map((c) => sums[bin * 3 + c] / counts[bin]) }));
  bins.sort((a, b) => b.count - a.count);
  const centers: { count: number; rgb: number[] }[] = [];
  for (const bin of bins) {
    const center = centers.find(({ rgb: other }) => other.every((v, c) => Math.abs(v - bin.rgb[c]) < SOFT_TOLERANCE / 2));
    if (!center) centers.push({ count: bin.count, rgb: [...bin.rgb] });
    else {
      center.rgb = center.rgb.map((v, c) => (v * center.count + bin.rgb[c] * bin.count) / (center.count + bin.count));
      center.count += bin.count;
    }
  }
  const large = centers.filter(({ count }) => count >= smooth * MIN_SOFT_AREA);
  const share = large.reduce((sum, { count }) => sum + count, 0) / smooth;
  if (large.length < 2 || large.length > MAX_SOFT_PALETTE || share < MIN_SOFT_SHARE) return null;
  const store = ({ type }: Plane, value: number) => (type === 'u8' ? Math.round(value * 255) : type === 'u16' ? Math.round(value * 65535) : null);
  const things = withoutSmears(large.map(({ rgb: center }) => center), [red, green, blue], width, height, step);
  const keys = things.map((center) => planes.map((plane, c) => store(plane, center[c])));
  // Only files of whole numbers are lossy in this way.
  return keys.some((key) => key.includes(null)) ? null : [...new Set(keys.map((key) => colorKey(planes, key as unknown as Rgb)))];
}

/** Colours that lie so far from a pixel may have made its own. */
const SMEAR_REACH = [2, 4];
/** A colour is no thing if hardly any of its pixels is surrounded by its own, and most could be made of two colours beside them. */
const [SMEAR_CORE, SMEAR_SHARE] = [0.15, 0.5];
const SMEAR_TOLERANCE = 16 / 255;

/**
 * Colours without those that a lossy format made along edges: it keeps colour at a lower resolution than brightness, so that a strip of two
 * pixels has the mean colour of both sides, and is smooth along the edge.
 */
function withoutSmears(centers: readonly (readonly number[])[], [red, green, blue]: readonly ((i: number) => number)[], width: number, height: number, step: number): (readonly number[])[] {
  const BINS = 32;
  const table = new Int16Array(BINS ** 3).fill(-1);
  const binOf = (value: number) => Math.min(BINS - 1, Math.max(0, Math.floor(value * BINS)));
  const nearest = (i: number): number => {
    const [r, g, b] = [red(i), green(i), blue(i)];
    const bin = (binOf(r) * BINS + binOf(g)) * BINS + binOf(b);
    if (table[bin] < 0) {
      const distances = centers.map((center) => (center[0] - r) ** 2 + (center[1] - g) ** 2 + (center[2] - b) ** 2);
      table[bin] = distances.indexOf(Math.min(...distances));
    }
    return table[bin];
  };
  const luma = centers.map(([r, g, b]) => 0.299 * r + 0.587 * g + 0.114 * b);
  const chroma = centers.map(([r, , b], k) => [0.564 * (b - luma[k]), 0.713 * (r - luma[k])]);
  const canMake = (own: number, a: number, b: number) => {
    const [dx, dy] = [chroma[b][0] - chroma[a][0], chroma[b][1] - chroma[a][1]];
    const [px, py] = [chroma[own][0] - chroma[a][0], chroma[own][1] - chroma[a][1]];
    const along = Math.min(1, Math.max(0, (px * dx + py * dy) / Math.max(1e-9, dx * dx + dy * dy)));
    const isBetween = luma[own] > Math.min(luma[a], luma[b]) - SMEAR_TOLERANCE && luma[own] < Math.max(luma[a], luma[b]) + SMEAR_TOLERANCE;
    return isBetween && Math.hypot(px - along * dx, py - along * dy) < SMEAR_TOLERANCE;
  };
  const [pixels, cores, made] = [centers.map(() => 0), centers.map(() => 0), centers.map(() => 0)];
  const margin = Math.max(...SMEAR_REACH);
  const offsets = SMEAR_REACH.flatMap((reach) => [-reach, reach, -reach * width, reach * width]);
  for (let y = margin; y < height - margin; y += step) {
    for (let x = margin; x < width - margin; x++) {
      const i = y * width + x;
      const own = nearest(i);
      pixels[own]++;
      if (nearest(i - 1) === own && nearest(i + 1) === own && nearest(i - width) === own && nearest(i + width) === own) {
        cores[own]++;
        continue;
      }
      const around = [...new Set(offsets.map((offset) => nearest(i + offset)))].filter((other) => other !== own);
      if (around.some((a, k) => around.slice(k + 1).some((b) => canMake(own, a, b)))) made[own]++;
    }
  }
  return centers.filter((_, own) => cores[own] >= pixels[own] * SMEAR_CORE || made[own] < (pixels[own] - cores[own]) * SMEAR_SHARE);
}

function rank(planes: readonly Plane[], encoding: Encoding, found: readonly number[], isSoft: boolean): Palette {
  const mixture = unmix(planes, found, null, isSoft);
  const areas = areasOf(mixture, found.length);
  const order = [...found.keys()].sort((a, b) => areas[b] - areas[a] || found[a] - found[b]);
  const place = new Uint16Array(found.length);
  for (const [rankOf, old] of order.entries()) place[old] = rankOf;
  const { index, parts } = mixture;
  for (let i = 0; i < index.length; i++) if (index[i] !== NOTHING) index[i] = place[index[i]];
  for (let i = 0; i < parts.length; i++) parts[i] = place[parts[i]];
  const show = (value: number) => (encoding === 'linear' ? srgbEncode(value) : Math.min(1, Math.max(0, value)));
  return {
    mixture,
    isSoft,
    colors: order.map((old) => {
      const rgb = colorOfKey(planes, found[old]);
      return { key: found[old], rgb, chip: [show(rgb[0]), show(rgb[1]), show(rgb[2])], area: areas[old] };
    }),
  };
}
