/** Cutting a thing out of a photograph: what was marked says what stays, and what is like it and near it stays, too. */
import { boxMean } from '../raster/guided.ts';
import type { Size } from '../raster/region.ts';

/** A line of round dabs with which something is said of the picture. Places and width are shares of its longer side. */
export interface CutOutMark {
  readonly stays: boolean;
  readonly width: number;
  readonly points: readonly (readonly [x: number, y: number])[];
}

/** What is said of a pixel. */
const [UNSAID, STAYS, GOES] = [0, 1, 2] as const;

/** Each channel in so many steps: fine enough for colours, and filled by a few marks. */
const STEPS = 16;
/** What a step from what is surely one to what is surely the other costs, and one from black to white, in units of the distance between neighbours. */
const [COST_OF_LIKENESS, COST_OF_EDGE] = [3000, 600];
/** Straight and diagonal neighbours. */
const [STRAIGHT, DIAGONAL] = [5, 7] as const;
/** More than the dearest step. */
const BUCKETS = DIAGONAL * (1 + COST_OF_LIKENESS + COST_OF_EDGE) + 1;
/** So little of a colour counts as none: a share of the pixels of one side. */
const HARDLY_ANY = 1e-4;

/** @param fromEdges the edges of the picture go, unless something else is said of them */
export function saidOf(marks: readonly CutOutMark[], { width, height }: Size, fromEdges: boolean): Uint8Array {
  const said = new Uint8Array(width * height);
  if (fromEdges) {
    said.fill(GOES, 0, width);
    said.fill(GOES, width * (height - 1));
    for (let y = 0; y < height; y++) {
      said[y * width] = GOES;
      said[y * width + width - 1] = GOES;
    }
  }
  const side = Math.max(width, height);
  for (const { stays, width: wide, points } of marks) {
    const radius = Math.max(0.5, (wide * side) / 2);
    points.forEach(([x1, y1], i) => {
      const [x0, y0] = points[Math.max(0, i - 1)];
      const steps = Math.max(1, Math.ceil((Math.hypot(x1 - x0, y1 - y0) * side) / Math.max(1, radius / 2)));
      for (let k = 0; k <= steps; k++) {
        const [cx, cy] = [x0 + ((x1 - x0) * k) / steps, y0 + ((y1 - y0) * k) / steps].map((v) => v * side);
        for (let y = Math.max(0, Math.ceil(cy - radius - 0.5)); y < Math.min(height, cy + radius); y++) {
          for (let x = Math.max(0, Math.ceil(cx - radius - 0.5)); x < Math.min(width, cx + radius); x++) {
            if ((x + 0.5 - cx) ** 2 + (y + 0.5 - cy) ** 2 <= radius * radius) said[y * width + x] = stays ? STAYS : GOES;
          }
        }
      }
    });
  }
  return said;
}

const binOf = (codes: ArrayLike<number>, pixel: number) => ((codes[pixel * 4] >> 4) * STEPS + (codes[pixel * 4 + 1] >> 4)) * STEPS + (codes[pixel * 4 + 2] >> 4);

/** Smooths counts of colours along each channel, so that a colour between two that were marked is known. */
function spread(counts: Float32Array): Float32Array {
  for (const stride of [1, STEPS, STEPS * STEPS]) {
    const before = counts.slice();
    for (let i = 0; i < counts.length; i++) {
      const at = Math.floor(i / stride) % STEPS;
      counts[i] = 0.5 * before[i] + 0.25 * (at > 0 ? before[i - stride] : 0) + 0.25 * (at < STEPS - 1 ? before[i + stride] : 0);
    }
  }
  return counts;
}

/** How likely each pixel is one of what stays, 0…1, by the colours of what is said; 0.5 for colours that were not marked. */
function likeness(codes: ArrayLike<number>, said: Uint8Array): Float32Array {
  const counts = [new Float32Array(STEPS ** 3), new Float32Array(STEPS ** 3)];
  const sums = [0, 0];
  said.forEach((says, pixel) => {
    if (says === UNSAID) return;
    counts[says - 1][binOf(codes, pixel)]++;
    sums[says - 1]++;
  });
  const [stays, goes] = counts.map(spread);
  const byColour = stays.map((count, bin) => {
    const [here, there] = [count / Math.max(1, sums[0]) + HARDLY_ANY, goes[bin] / Math.max(1, sums[1]) + HARDLY_ANY];
    return here / (here + there);
  });
  return Float32Array.from(said, (_, pixel) => byColour[binOf(codes, pixel)]);
}

const greyOf = (codes: ArrayLike<number>, pixel: number) => (0.299 * codes[pixel * 4] + 0.587 * codes[pixel * 4 + 1] + 0.114 * codes[pixel * 4 + 2]) / 255;

/**
 * What stays of a picture: every pixel belongs to the mark from which one comes to it over the least change of likeness and over the faintest edges.
 *
 * @param codes straight sRGB in bytes, four a pixel; alpha is not read
 * @returns 1 for what stays, 0 for what goes, row by row; all 0 while nothing is said to stay
 * @source X. Bai and G. Sapiro: "A Geodesic Framework for Fast Interactive Image and Video Segmentation and Matting", ICCV 2007, 2.1–2.2 (likelihood by histograms instead of
 * kernel densities); paths by buckets: R. B. Dial, "Algorithm 360: Shortest-path forest with topological ordering", CACM 12 (1969)
 */
export function cutOut(codes: Uint8Array | Uint8ClampedArray, size: Size, marks: readonly CutOutMark[], fromEdges: boolean): Uint8Array {
  const { width, height } = size;
  const owner = saidOf(marks, size, fromEdges);
  if (!owner.includes(STAYS)) return new Uint8Array(owner.length);
  if (!owner.includes(GOES)) return new Uint8Array(owner.length).fill(1);
  // Means with the neighbours: noise is no edge.
  const like = boxMean(likeness(codes, owner), width, height, 1);
  const grey = Float32Array.from(owner, (_, pixel) => greyOf(codes, pixel));
  const distance = new Int32Array(owner.length).fill(2 ** 31 - 1);
  const buckets: number[][] = Array.from({ length: BUCKETS }, () => []);
  let waiting = 0;
  owner.forEach((says, pixel) => {
    if (says === UNSAID) return;
    distance[pixel] = 0;
    buckets[0].push(pixel);
    waiting++;
  });
  for (let at = 0; waiting > 0; at++) {
    const bucket = buckets[at % BUCKETS];
    for (let pixel = bucket.pop(); pixel !== undefined; pixel = bucket.pop()) {
      waiting--;
      if (distance[pixel] !== at) continue;
      const [x, y] = [pixel % width, Math.floor(pixel / width)];
      for (let v = -1; v <= 1; v++) {
        for (let u = -1; u <= 1; u++) {
          if ((u === 0 && v === 0) || x + u < 0 || x + u >= width || y + v < 0 || y + v >= height) continue;
          const next = pixel + v * width + u;
          const change = 1 + COST_OF_LIKENESS * Math.abs(like[next] - like[pixel]) + COST_OF_EDGE * Math.abs(grey[next] - grey[pixel]);
          const reached = at + Math.round((u === 0 || v === 0 ? STRAIGHT : DIAGONAL) * change);
          if (reached >= distance[next]) continue;
          distance[next] = reached;
          owner[next] = owner[pixel];
          buckets[reached % BUCKETS].push(next);
          waiting++;
        }
      }
    }
  }
  return owner.map((says) => (says === STAYS ? 1 : 0));
}

/** Colours on both sides of an edge are means over so many pixels of the small copy to each side. */
const NEAR = 4;
/** Inside of one side counts so much more than its edge, where both are mixed. */
const INSIDE = 1000;
/** Sides whose colours are as far apart as this, of 255, say as much of the coverage as the place does. */
const TELLING = 24;
/** Coverage of less than this, or as little from whole, is noise. */
const NOISE = 0.08;
/** Means of zeros and ones are them but for this. */
const EXACT = 1e-6;

/** Mean colour of what stays, or of what goes, near each pixel: planes of red, green and blue. */
function coloursOf(cut: Uint8Array, side: 0 | 1, codes: ArrayLike<number>, { width, height }: Size): readonly Float32Array[] {
  const weight = Float32Array.from(cut, (is, pixel) => {
    if (is !== side) return 0;
    const [x, y] = [pixel % width, Math.floor(pixel / width)];
    const isAtEdge = [[x - 1, y], [x + 1, y], [x, y - 1], [x, y + 1]].some(([u, v]) => u >= 0 && v >= 0 && u < width && v < height && cut[v * width + u] !== side);
    return isAtEdge ? 1 : INSIDE;
  });
  const weights = boxMean(weight, width, height, NEAR);
  return [0, 1, 2].map((c) => boxMean(weight.map((w, pixel) => w * codes[pixel * 4 + c]), width, height, NEAR).map((sum, pixel) => (weights[pixel] > 0 ? sum / weights[pixel] : codes[pixel * 4 + c])));
}

/**
 * The cut of a small copy for the whole picture: near its edge, how much of a pixel stays is where its colour lies between those of both sides.
 *
 * @param cut of `cutOut`, as large as `small`
 * @param smallCodes the picture that was cut
 * @param codes the whole picture; its alpha is written
 * @source M. Ruzon and C. Tomasi: "Alpha Estimation in Natural Images", CVPR 2000 (coverage by projection between both colours; here between their local means)
 */
export function softenCut(cut: Uint8Array, smallCodes: Uint8Array | Uint8ClampedArray, small: Size, codes: Uint8Array | Uint8ClampedArray, { width, height }: Size): void {
  const [front, back] = ([1, 0] as const).map((side) => coloursOf(cut, side, smallCodes, small));
  const place = boxMean(Float32Array.from(cut), small.width, small.height, 1);
  const [across, down] = [small.width / width, small.height / height];
  const columns = Array.from({ length: width }, (_, x) => Math.max(0, Math.min(small.width - 1, (x + 0.5) * across - 0.5)));
  for (let y = 0; y < height; y++) {
    const v = Math.max(0, Math.min(small.height - 1, (y + 0.5) * down - 0.5));
    const upper = Math.floor(v) * small.width;
    const lower = Math.min(small.height - 1, Math.floor(v) + 1) * small.width;
    for (let x = 0; x < width; x++) {
      const [u, left] = [columns[x], Math.floor(columns[x])];
      const right = Math.min(small.width - 1, left + 1);
      const [a, b, c, d] = [upper + left, upper + right, lower + left, lower + right];
      const pixel = (y * width + x) * 4;
      // Most pixels lie far from the edge.
      const least = Math.min(place[a], place[b], place[c], place[d]);
      if (least > 1 - EXACT || Math.max(place[a], place[b], place[c], place[d]) < EXACT) {
        codes[pixel + 3] = least < 0.5 ? 0 : 255;
        continue;
      }
      const between = (plane: Float32Array) => {
        const above = plane[a] + (plane[b] - plane[a]) * (u - left);
        return above + (plane[c] + (plane[d] - plane[c]) * (u - left) - above) * (v - Math.floor(v));
      };
      let [along, apart] = [0, 0];
      for (let channel = 0; channel < 3; channel++) {
        const [from, to] = [between(back[channel]), between(front[channel])];
        along += (codes[pixel + channel] - from) * (to - from);
        apart += (to - from) * (to - from);
      }
      // Where both sides look alike, the place in the small cut is all there is to go by.
      const share = (along + between(place) * TELLING * TELLING) / (apart + TELLING * TELLING);
      codes[pixel + 3] = Math.round(255 * Math.min(1, Math.max(0, (share - NOISE) / (1 - 2 * NOISE))));
    }
  }
}
