/** Depth of field: what is near and far in pixels on edges, slices of a picture by their circles of confusion, and all of them blurred and on one another. See raster/focus.ts. */
import { type Aperture, apertureTaps, reachOf, type Taps } from '../../raster/aperture.ts';
import { type OpenPart, SLICE_PLANES } from '../../raster/focus.ts';
import { LARGEST_LIGHT } from '../../raster/read.ts';
import { grown, type Region } from '../../raster/region.ts';
import type { Backend } from '../backend.ts';
import { type FocusBand, type FocusSlice, radiusReduced } from '../focus-slices.ts';
import { copyRow, type Pixels, settleAlpha } from '../pixels.ts';
import type { PictureKind, Tools } from './define.ts';
import { coarse } from './enlarge.ts';
import { finer, ROWS } from './reduce.ts';
import type { ExtremesWork, FocusWork, Lens, PartsWork, SlicesWork } from './work.ts';

/** Distances along rays to depths along the lens's axis, in place. */
function alongAxis(metres: Float32Array, region: Region, axis: NonNullable<Lens['axis']>, scale: number): Float32Array {
  const area = region.width * region.height;
  const [perX, perY] = [scale / axis.focalPx, scale / axis.focalPx];
  for (let y = 0, i = 0; y < region.height; y++) {
    for (let x = 0; x < region.width; x++, i++) {
      const long = Math.hypot(1, (region.x + x + 0.5 - axis.x / scale) * perX, (region.y + y + 0.5 - axis.y / scale) * perY);
      metres[i] /= long;
      metres[area + i] /= long;
    }
  }
  return metres;
}

/** Circles of near and far in a region, and which share of a pixel is the far one. */
function circlesIn(lens: Lens, sides: number, region: Region, { backend, read }: Tools) {
  const area = region.width * region.height;
  const there = read(sides, region).planes;
  const metres = lens.axis ? alongAxis(there.slice(0, 3 * area), region, lens.axis, lens.scale) : there;
  const circles = backend.arena.take(2 * area);
  const [least, most] = backend.circles(circles, metres.subarray(0, area), metres.subarray(area, 2 * area), lens);
  return { circles, share: metres.subarray(2 * area, 3 * area), least, most };
}

/** The nearest and the farthest that there is in each block of a picture of near and far: two planes. Holes are infinitely far. */
export const extremes: PictureKind<ExtremesWork> = {
  inputs: ({ sides }) => [sides],
  needs: ({ sides, by }, region) => [{ picture: sides, region: blocks(region, by) }],
  make: ({ sides, by }, region, planes, { backend, read }) => {
    const area = region.width * region.height;
    const out = backend.arena.take(planes * area);
    out.fill(LARGEST_LIGHT, 0, area);
    out.fill(0, area, 2 * area);
    const { mark } = backend.arena;
    const side = 2 ** by;
    for (let row = 0; row < region.height; row++) {
      const around = blocks({ ...region, y: region.y + row, height: 1 }, by);
      const metres = read(sides, around).planes;
      const inside = around.width * around.height;
      for (let y = 0, i = 0; y < side; y++) {
        for (let x = 0; x < around.width; x++, i++) {
          const at = row * region.width + (x >> by);
          const [near, far] = [metres[i], metres[inside + i]];
          if (near > 0 && near < out[at]) out[at] = near;
          const end = far > 0 ? far : LARGEST_LIGHT;
          if (end > out[area + at]) out[area + at] = end;
        }
      }
      backend.arena.release(mark);
    }
    return { region, planes: out, opaque: true };
  },
};
const blocks = ({ x, y, width, height }: Region, by: number): Region => ({ x: x * 2 ** by, y: y * 2 ** by, width: width * 2 ** by, height: height * 2 ** by });

/** The blocks that hold a region. */
function inBlocks(region: Region, by: number): Region {
  const side = 2 ** by;
  const [left, top] = [Math.floor(region.x / side), Math.floor(region.y / side)];
  return { x: left, y: top, width: Math.ceil((region.x + region.width) / side) - left, height: Math.ceil((region.y + region.height) / side) - top };
}

/** The least and the most of all circles in a region. */
function circlesAround({ lens, extremes: of, by }: FocusWork, region: Region, { read, backend }: Tools): readonly [least: number, most: number] {
  const small = inBlocks(region, by);
  const { planes } = read(of, small);
  const area = small.width * small.height;
  // Distances along a ray are longer than depths: nothing is nearer than what is farthest aside.
  const [near, far] = [planes.slice(0, area), planes.slice(area, 2 * area)];
  if (lens.axis) near.set(near.map((metres) => metres / lens.longest));
  const [least, most] = backend.circles(backend.arena.take(2 * area), near, far, lens);
  return [least, most];
}

/** What is near and what is far in each pixel, as pictures of their own: eight planes. */
export const parts: PictureKind<PartsWork> = {
  inputs: ({ input, sides }) => [input, sides],
  needs: ({ input, sides }, region) => [input, sides].map((picture) => ({ picture, region: grown(region, 1) })),
  make: ({ input, sides }, region, planes, { backend, read }) => {
    const around = grown(region, 1);
    const inside = around.width * around.height;
    const out = backend.arena.take(planes * region.width * region.height);
    const pixels = read(input, around);
    backend.parted(out, pixels.planes.subarray(0, 4 * inside), read(sides, around).planes.subarray(0, 3 * inside), region.width, region.height);
    return { region, planes: out, opaque: pixels.opaque };
  },
};

/** Near and far: four planes each. */
const PART_PLANES = 8;

const touches = ({ range: { from, fromWidth, to, toWidth } }: FocusSlice, least: number, most: number) => most > from - fromWidth / 2 && least < to + toWidth / 2;

const ANYWHERE = [0, 0] as const;
const known = new Map<string, Taps>();
function tapsFor(aperture: Aperture, radius: number, field: readonly [number, number]): Taps {
  const key = JSON.stringify([aperture, radius, aperture.catsEye === 0 ? ANYWHERE : field]);
  let taps = known.get(key);
  if (!taps) {
    if (known.size > MOST_TAPS) known.clear();
    taps = apertureTaps(aperture, Math.abs(radius), radius < 0, field);
    known.set(key, taps);
  }
  return taps;
}
const MOST_TAPS = 8192;

/** Pixels over which the opening is the same where the barrel cuts it off; and so many openings there are from the middle to a corner. */
const [BLOCK, FIELD_STEPS] = [32, 8];

/** What an opening makes of a slice at a reduced size, which reaches beyond the region by `reach`. Radii are in its pixels. */
function blurred(backend: Backend, out: Float32Array, from: Float32Array, region: Region, reach: number, radius: number, { aperture, middle, halfDiagonal }: FocusWork, coarser: number): void {
  const { x: left, y: top, width, height } = region;
  if (aperture.catsEye === 0 || radius === 0) {
    backend.disc(out, from, width, height, reach, [{ part: { x: 0, y: 0, width, height }, taps: tapsFor(aperture, radius, ANYWHERE) }]);
    return;
  }
  const scale = 2 ** coarser;
  const parts: OpenPart[] = [];
  for (let v = Math.floor(top / BLOCK); v * BLOCK < top + height; v++) {
    for (let u = Math.floor(left / BLOCK); u * BLOCK < left + width; u++) {
      const [x, y] = [Math.max(left, u * BLOCK), Math.max(top, v * BLOCK)];
      const part = { x: x - left, y: y - top, width: Math.min(left + width, (u + 1) * BLOCK) - x, height: Math.min(top + height, (v + 1) * BLOCK) - y };
      const [fieldX, fieldY] = [((u + 0.5) * BLOCK * scale - middle[0]) / halfDiagonal, ((v + 0.5) * BLOCK * scale - middle[1]) / halfDiagonal];
      const field = [Math.round(fieldX * FIELD_STEPS) / FIELD_STEPS, Math.round(fieldY * FIELD_STEPS) / FIELD_STEPS] as const;
      parts.push({ part, taps: tapsFor(aperture, radius, field) });
    }
  }
  backend.disc(out, from, width, height, reach, parts);
}

/** Planes of a slice that need to be made: where a picture is opaque its alpha is the weight. */
const planesOf = (opaque: boolean) => (opaque ? SLICE_PLANES - 1 : SLICE_PLANES);

interface Sliced {
  readonly opaque: boolean;
  /** Five planes of one of the slices, until the next one is asked for; null if nothing belongs to it. */
  of(n: number): Float32Array | null;
}

/** Slices of a region, one after the other in the same place. */
function slicedInFull({ input, sides, lens }: Pick<SlicesWork, 'input' | 'sides' | 'lens'>, wanted: readonly FocusSlice[], region: Region, tools: Tools): Sliced {
  const { backend, read } = tools;
  const { circles, share, least, most } = circlesIn(lens, sides, region, tools);
  const there = wanted.map((slice) => touches(slice, least, most));
  const pixels = there.includes(true) ? read(input, region) : null;
  const area = region.width * region.height;
  const planes = backend.arena.take(SLICE_PLANES * area);
  return {
    opaque: pixels === null || pixels.opaque,
    of: (n) => (pixels && there[n] && backend.slice(planes, pixels.planes.subarray(0, PART_PLANES * area), circles, share, wanted[n].range) ? planes : null),
  };
}

/** Slices of a region at one or two halvings. Strip by strip, so that what is reduced is still in the cache. */
function sliced({ input, sides, lens }: Pick<SlicesWork, 'input' | 'sides' | 'lens'>, wanted: readonly FocusSlice[], region: Region, by: 1 | 2, tools: Tools): Sliced {
  const { backend, read } = tools;
  const { arena } = backend;
  const { width } = region;
  const area = width * region.height;
  const planes = arena.take(SLICE_PLANES * wanted.length * area);
  const slice = (n: number) => planes.subarray(n * SLICE_PLANES * area, (n + 1) * SLICE_PLANES * area);
  const there = wanted.map(() => false);
  const { mark } = arena;
  let opaque = true;
  for (let top = 0; top < region.height; top += ROWS) {
    const strip = { x: region.x, y: region.y + top, width, height: Math.min(ROWS, region.height - top) };
    const between = by === 2 ? finer(strip) : strip;
    const around = finer(between);
    const size = around.width * around.height;
    const { circles, share, least, most } = circlesIn(lens, sides, around, tools);
    const pixels = wanted.some((one) => touches(one, least, most)) ? read(input, around) : null;
    opaque = opaque && (pixels === null || pixels.opaque);
    const own = arena.take(SLICE_PLANES * size);
    const middle = by === 2 ? arena.take(between.width * between.height) : null;
    for (const [n, { range }] of wanted.entries()) {
      if (!pixels || !touches(wanted[n], least, most) || !backend.slice(own, pixels.planes.subarray(0, PART_PLANES * size), circles, share, range)) continue;
      if (!there[n]) slice(n).fill(0);
      there[n] = true;
      for (let plane = 0; plane < SLICE_PLANES; plane++) {
        const from = own.subarray(plane * size, (plane + 1) * size);
        if (middle) backend.halve(middle, from, between.width, between.height);
        const at = plane * area + top * width;
        backend.halve(slice(n).subarray(at, at + strip.height * width), middle ?? from, width, strip.height);
      }
    }
    arena.release(mark);
  }
  return { opaque, of: (n) => (there[n] ? slice(n) : null) };
}

/** A slice of a picture at half or a quarter of its size. */
export const slices: PictureKind<SlicesWork> = {
  inputs: ({ input, sides }) => [input, sides],
  needs: ({ input, sides, by }, region) => [input, sides].map((picture) => ({ picture, region: finerBy(region, by) })),
  make: (work, region, planes, tools) => {
    const out = tools.backend.arena.take(planes * region.width * region.height);
    const made = sliced(work, [work.slice], region, work.by, tools).of(0);
    if (made) out.set(made);
    else out.fill(0);
    return { region, planes: out, opaque: false };
  },
};

const finerBy = (region: Region, by: number): Region => (by === 0 ? region : finerBy(finer(region), by - 1));

/** The part of a band's reduced picture that its slices are blurred from. */
function reached({ coarser, slices: own }: FocusBand, region: Region): { readonly small: Region; readonly around: Region; readonly reach: number } {
  const reach = Math.max(...own.map(({ radius }) => reachOf(radiusReduced(radius, coarser))));
  const small = coarser === 0 ? region : coarse(region, coarser);
  return { small, around: grown(small, reach), reach };
}

/** Everything that a region may be made of. */
function wholeReach(work: FocusWork, region: Region): Region {
  const all = work.bands.map((band) => finerBy(reached(band, region).around, band.coarser));
  const [left, top] = [Math.min(...all.map(({ x }) => x)), Math.min(...all.map(({ y }) => y))];
  return { x: left, y: top, width: Math.max(...all.map(({ x, width }) => x + width)) - left, height: Math.max(...all.map(({ y, height }) => y + height)) - top };
}

/** Planes of a picture at half the size, so many times. */
function halved(planes: Float32Array, count: number, region: Region, times: number, backend: Backend): Float32Array {
  if (times === 0) return planes;
  const from = finer(region);
  const source = halved(planes, count, from, times - 1, backend);
  const [area, inside] = [region.width * region.height, from.width * from.height];
  const out = backend.arena.take(count * area);
  for (let plane = 0; plane < count; plane++) backend.halve(out.subarray(plane * area, (plane + 1) * area), source.subarray(plane * inside, (plane + 1) * inside), region.width, region.height);
  return out;
}

function isCovered(covered: Float32Array): boolean {
  for (let i = 0; i < covered.length; i++) if (covered[i] !== 1) return false;
  return true;
}

/** What is sharp is striped, where that is shown: so many pixels of the full picture wide. Everything else is dimmed. */
const STRIPE_PX = 12;
const DIMMED = 0.25;

export const focus: PictureKind<FocusWork> = {
  inputs: ({ input, sides, extremes: of, fills }) => [input, sides, of, ...fills.map(({ picture }) => picture)],
  needs: (work, region) => {
    const around = wholeReach(work, region);
    return [{ picture: work.input, region: around }, { picture: work.sides, region: around }, { picture: work.extremes, region: inBlocks(around, work.by) }, ...work.fills.map(({ picture, coarser }) => ({ picture, region: coarse(region, coarser) }))];
  },
  make: (work, region, planes, tools) => inPieces(region, planes, tools, (piece) => laidTogether(work, piece, tools)),
};

/** Slices of more than so many pixels to each side lie in no cache any more. */
const PIECE = 256;

/** A region made piece by piece. */
function inPieces(region: Region, planes: number, { backend: { arena } }: Tools, make: (piece: Region) => Pixels): Pixels {
  if (region.width <= PIECE && region.height <= PIECE) return make(region);
  const { width, height } = region;
  const out = arena.take(planes * width * height);
  const { mark } = arena;
  let opaque = true;
  for (let top = 0; top < height; top += PIECE) {
    for (let left = 0; left < width; left += PIECE) {
      const made = make({ x: region.x + left, y: region.y + top, width: Math.min(PIECE, width - left), height: Math.min(PIECE, height - top) });
      opaque &&= made.opaque;
      for (let plane = 0; plane < planes; plane++) {
        const inside = plane * made.region.width * made.region.height;
        for (let y = 0; y < made.region.height; y++) copyRow(out, (plane * height + top + y) * width + left, made.planes, inside + y * made.region.width, made.region.width);
      }
      arena.release(mark);
    }
  }
  return { region, planes: out, opaque };
}

/** The slices of a region, blurred and laid on one another from the front. */
function laidTogether(work: FocusWork, region: Region, tools: Tools): Pixels {
    const { backend } = tools;
    const { arena } = backend;
    const area = region.width * region.height;
    const out = arena.take(4 * area);
    const sum = arena.take(SLICE_PLANES * area).fill(0);
    const made = arena.take(SLICE_PLANES * area);
    /** What is not behind the sharp plane. */
    const front = arena.take(SLICE_PLANES * area);
    let isBehind = false;
    const covered = sum.subarray(3 * area, 4 * area);
    const { mark } = arena;
    const [least, most] = circlesAround(work, wholeReach(work, region), tools);
    arena.release(mark);
    for (const band of work.bands) {
      const wanted = band.slices.filter((slice) => touches(slice, least, most));
      if (wanted.length === 0) continue;
      const { coarser } = band;
      const { small, around, reach } = reached({ coarser, slices: wanted }, region);
      const by = Math.min(2, coarser) as 0 | 1 | 2;
      const found = by === 0 ? slicedInFull(work, wanted, around, tools) : sliced(work, wanted, finerBy(around, coarser - by), by, tools);
      const count = planesOf(found.opaque);
      const [inside, size] = [around.width * around.height, small.width * small.height];
      const drawn = coarser === 0 ? made : arena.take(SLICE_PLANES * size);
      for (const [n, { radius }] of wanted.entries()) {
        const planes = found.of(n);
        if (!planes) continue;
        if (radius > 0 && !isBehind) {
          front.set(sum);
          isBehind = true;
        }
        const begun = arena.mark;
        const own = halved(planes, count, around, coarser - by, backend);
        blurred(backend, drawn.subarray(0, count * size), own.subarray(0, count * inside), small, reach, radiusReduced(radius, coarser), work, coarser);
        if (coarser > 0) backend.enlarge(made.subarray(0, count * area), drawn.subarray(0, count * size), small, region, coarser);
        if (found.opaque) made.copyWithin(4 * area, 3 * area, 4 * area);
        backend.behind(sum, made);
        arena.release(begun);
      }
      arena.release(mark);
    }
    if (isBehind && !isCovered(covered)) backend.continued(sum, front);
    for (const { picture, coarser } of work.fills) {
      if (isCovered(covered)) break;
      const from = tools.read(picture, coarse(region, coarser));
      backend.enlarge(made, from.planes.subarray(0, SLICE_PLANES * from.region.width * from.region.height), from.region, region, coarser);
      backend.behind(sum, made);
      arena.release(mark);
    }
    backend.weighed(out, sum, work.gain);
    if (work.shows) {
      const { circles } = circlesIn(work.lens, work.sides, region, tools);
      for (let y = 0, i = 0; y < region.height; y++) {
        for (let x = 0; x < region.width; x++, i++) {
          const isSharp = Math.abs(circles[i]) <= work.sharpPx;
          const isStripe = Math.floor(((region.x + x + region.y + y) * work.lens.scale) / STRIPE_PX) % 2 === 0;
          for (let c = 0; c < 3; c++) out[c * area + i] = !isSharp ? out[c * area + i] * DIMMED : isStripe ? out[c * area + i] : 0.5 * (out[c * area + i] + out[3 * area + i] * STRIPE[c]);
        }
      }
    }
    return { region, planes: out, opaque: settleAlpha(out, area, 4) };
}
/** In light: the colour of what is selected elsewhere. */
const STRIPE = [0.05, 0.5, 0.25];
