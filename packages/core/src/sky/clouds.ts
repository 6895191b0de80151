/** Clouds of our own: one layer of them at a height, over a field of noise that repeats and is made once. */
import { latticeNoise } from '../noise.ts';
import { rememberedLast } from '../remembered.ts';
import { FIELD_SIDE, fieldAt, withCopies } from '../raster/field.ts';

export interface CloudKind {
  readonly label: string;
  readonly metres: number;
  /** Length of their largest forms. */
  readonly formMetres: number;
  /** How much longer they are along the wind. */
  readonly stretch: number;
  /** How wide their edges are, in the field. */
  readonly soft: number;
  /** Optical depth in their middles. */
  readonly depth: number;
  /** How thick they are. */
  readonly thickMetres: number;
  /** In how many sheets, one over the other, they are seen: heaps need several, veils one. */
  readonly sheets: number;
  /** How much of the field a sheet loses on its way from the foot to the top: heaps get narrower. */
  readonly taper: number;
  /** How much comes from the field a second time, smaller. */
  readonly detail: number;
}

/** Genera of clouds, as far as they are told apart by form. @source WMO International Cloud Atlas, for genera and usual heights; the rest is common practice, no published source */
export const CLOUDS = {
  cumulus: { label: 'Cumulus', metres: 1300, formMetres: 2600, stretch: 1.1, soft: 0.2, depth: 14, thickMetres: 1100, sheets: 16, taper: 0.36, detail: 0.22 },
  stratus: { label: 'Stratus', metres: 900, formMetres: 4200, stretch: 1.7, soft: 0.55, depth: 5, thickMetres: 300, sheets: 1, taper: 0, detail: 0.24 },
  cirrus: { label: 'Cirrus', metres: 8500, formMetres: 7000, stretch: 5, soft: 0.7, depth: 0.9, thickMetres: 150, sheets: 1, taper: 0, detail: 0.3 },
} as const satisfies Readonly<Record<string, CloudKind>>;
export type CloudsId = keyof typeof CLOUDS;

/** Forms across the field. */
export const FIELD_FORMS = 4;
/** How much smaller it is the second time (and once more the third), and where it lies then. */
export const DETAIL_STEP = 0.23;
export const DETAIL_SHIFT = [0.37, 0.61] as const;
/** How much of the detail is detail of the detail. */
const FINEST_SHARE = 0.3;

const fade = (t: number) => t * t * t * (t * (t * 6 - 15) + 10);

/** Values on a lattice that repeats after `period`, smoothly in between, for a place in lattices. */
function repeating(x: number, y: number, period: number, seed: number): number {
  const [ix, iy] = [Math.floor(x), Math.floor(y)];
  const [fx, fy] = [fade(x - ix), fade(y - iy)];
  const at = (i: number, j: number) => latticeNoise((ix + i) % period, (iy + j) % period, seed);
  const top = at(0, 0) + (at(1, 0) - at(0, 0)) * fx;
  return top + (at(0, 1) + (at(1, 1) - at(0, 1)) * fx - top) * fy;
}

/**
 * The field and its smaller copies, one behind the other: numbers from 0 to 1, each as frequent as any other, so that a share of cover is a threshold. Repeats at its edges.
 */
export const cloudField = rememberedLast(4, makeField);

function makeField(seed: number): Float32Array {
  const side = FIELD_SIDE;
  const raw = new Float64Array(side * side);
  for (let y = 0; y < side; y++) {
    for (let x = 0; x < side; x++) {
      let sum = 0;
      let weight = 1;
      for (let period = FIELD_FORMS, octave = 0; period <= side / 4; period *= 2, octave++) {
        const noise = repeating((x / side) * period, (y / side) * period, period, seed * 16 + octave);
        // Heaps rather than waves: the middle of the noise becomes a crease.
        sum += weight * (octave === 0 ? noise : 0.55 * noise + 0.45 * Math.abs(2 * noise - 1));
        weight *= 0.52;
      }
      raw[y * side + x] = sum;
    }
  }
  return withCopies(equalized(raw));
}

/** Numbers from 0 to 1 in the order of those that there are, each as frequent as any other, to a part in some thousands. */
function equalized(raw: Float64Array): Float32Array {
  const bins = 8192;
  const [least, most] = raw.reduce(([low, high], value) => [Math.min(low, value), Math.max(high, value)], [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY]);
  const place = (value: number) => ((value - least) / (most - least)) * (bins - 1);
  const below = new Float64Array(bins + 1);
  for (const value of raw) below[Math.floor(place(value)) + 1]++;
  for (let i = 1; i <= bins; i++) below[i] += below[i - 1];
  return Float32Array.from(raw, (value) => {
    const at = place(value);
    const bin = Math.floor(at);
    return (below[bin] + (below[bin + 1] - below[bin]) * (at - bin)) / raw.length;
  });
}

/** The field and its detail at a place in its own lengths. */
export function formsAt(field: Float32Array, detail: number, u: number, v: number, level: number): number {
  const [u2, v2, up] = [u / DETAIL_STEP + DETAIL_SHIFT[0], v / DETAIL_STEP + DETAIL_SHIFT[1], -Math.log2(DETAIL_STEP)];
  const finest = fieldAt(field, u2 / DETAIL_STEP + DETAIL_SHIFT[0], v2 / DETAIL_STEP + DETAIL_SHIFT[1], level + 2 * up);
  return (1 - detail) * fieldAt(field, u, v, level) + detail * ((1 - FINEST_SHARE) * fieldAt(field, u2, v2, level + up) + FINEST_SHARE * finest);
}

/**
 * Above this number of the two together there is cloud, if it is to cover a share of the sky. Both are spread evenly from 0 to 1, so their sum is known without looking.
 * @source distribution of the sum of two uniform variables (a trapezium)
 */
export function coverThreshold(detail: number, soft: number, cover: number): number {
  if (cover <= 0) return 1;
  // Almost all of the sky: edges close, too.
  return thresholdOf(detail, cover) - soft * Math.max(0, (cover - 0.8) / 0.2);
}

function thresholdOf(detail: number, cover: number): number {
  const [wide, narrow] = [Math.max(detail, 1 - detail), Math.max(1e-6, Math.min(detail, 1 - detail))];
  const below = 1 - Math.min(1, cover);
  const tail = Math.sqrt(2 * wide * narrow * Math.min(below, 1 - below));
  if (Math.min(below, 1 - below) < narrow / (2 * wide)) return below < 0.5 ? tail : 1 - tail;
  return below * wide + narrow / 2;
}
