/** What figures do to what lies below them: they take the sun's light from it, and some of the sky's, and are mirrored in it. */
import { rayInto } from '../camera/view.ts';
import { type CastReach, CONTACT_REACH, facingSun, meetingOf, meetingsTowards, pixelsPerMetre, reachOfCast } from '../figures/card.ts';
import { asideOf, ballsOf, clearness, fresnel, SUN_SPREAD, USUAL_SUN } from '../figures/light.ts';
import { type CardCast, gathering, isNear, LEAST_ALPHA, normalAt, numbersOf, pixelsOf, PLACE_NUMBERS } from '../figures/loops.ts';
import type { Region } from '../raster/region.ts';
import { SKY_METRES } from '../raster/sides.ts';
import { dot, type Triple, UP } from '../vector.ts';
import type { Tools } from './kinds/define.ts';
import type { FiguresWork } from './kinds/work.ts';
import { planeOf } from './pixels.ts';
import { lensOf, placesOf, samplerOf, seenStraight, shaderOf, sidesIn, type Standing, threePlanes, wideAt } from './standing.ts';

/** What mirrors less than this shows no figure. */
const LEAST_MIRROR = 0.004;

/** Shadows and hidden light of the sky, multiplied into what lies below: each takes its own light only. */
export function castShadows(work: FiguresWork, all: readonly Standing[], region: Region, out: Float32Array, tools: Tools): void {
  const { reads, shadow, contact } = work;
  const sun = work.throws && work.sun !== null && work.sun[1] > 0 && shadow > 0 ? work.sun : null;
  if (all.length === 0 || !(sun || contact > 0)) return;
  const area = region.width * region.height;
  const { arena } = tools.backend;
  const [sides, normals, bySun, byAll] = [reads.sides, reads.normals, reads.sunlight?.sun, reads.sunlight?.all].map((picture) => threePlanes(picture, region, tools));
  /** What of the sun's light and of the sky's is left. */
  const lit = arena.take(area).fill(1);
  const open = arena.take(area).fill(1);
  for (const one of all) {
    const { mark } = arena;
    takeLight(work, one, region, sun, { sides, normals, lit, open }, tools);
    arena.release(mark);
  }
  tools.backend.shaded(out, lit, open, bySun, byAll, sun ? USUAL_SUN : [0, 0, 0]);
}

/** What is seen in a region, and what of its light is left. */
interface Ground {
  readonly sides: Float32Array | null;
  readonly normals: Float32Array | null;
  readonly lit: Float32Array;
  readonly open: Float32Array;
}

/** What one figure takes of the light of the sun and of the sky, where what lies there is seen. */
function takeLight(work: FiguresWork, { figure, part }: Standing, region: Region, sun: Triple | null, { sides, normals, lit, open }: Ground, tools: Tools): void {
  const { view, scale, shadow, soft, contact } = work;
  const { card, box } = figure;
  const balls = ballsOf(card.heightMetres, box.width * card.metresPerPixel);
  const seen = (along: ArrayLike<number>, itself: number) => seenStraight(view, along, itself, scale);
  const [toRight, up, toUs] = [card.right, UP, card.normal].map((along) => seen(along, -dot(along, card.foot)));
  const meetings = sun && meetingsTowards(facingSun(card, sun), sun);
  const perMetre = pixelsPerMetre(card);
  const { nearest, farthest, columns } = reachOfCast(view, card, work.sun, box, work.size);
  const cast: CardCast = {
    toRight,
    up,
    toUs,
    thrown: meetings && { u: seen(meetings.u, meetings.u[3]), v: seen(meetings.v, meetings.v[3]), share: seen(meetings.share, meetings.share[3]), along: seen(meetings.along, meetings.along[3]) },
    box,
    widePerMetre: SUN_SPREAD * soft * perMetre,
    widePerDepth: (scale / view.focalPx) * perMetre,
    lens: lensOf(work),
    nearest,
    farthest,
    contact,
    reachMetres: card.heightMetres * CONTACT_REACH,
    besideMetres: asideOf(balls),
    balls,
    right: [card.right[0], card.right[2]],
    normal: [card.normal[0], card.normal[2]],
  };
  const list = tools.backend.arena.take(2 * PLACE_NUMBERS * part.width * part.height);
  const found = tools.backend.taken(list, open, cast, columnsIn(part, columns, scale), sides, normals, part, region);
  if (found.count === 0) return;
  const alpha = tools.backend.arena.take(found.count);
  const [sampler, places] = [samplerOf(work, figure, tools), placesOf(list, found)];
  sampler.hold(places);
  sampler.alpha(places, alpha);
  const [pixels, weights] = [pixelsOf(list), numbersOf(list, 3, found.count)];
  for (let i = 0; i < found.count; ) {
    const pixel = pixels[i];
    let sum = 0;
    for (; i < found.count && pixels[i] === pixel; i++) sum += weights[i] * alpha[i];
    lit[pixel] *= 1 - Math.min(1, sum) * shadow;
  }
}

/** The first and last column of each row of a part in which a figure may take light. */
function columnsIn(part: Region, between: CastReach['columns'], scale: number): Int32Array {
  const columns = new Int32Array(2 * part.height);
  for (let row = 0; row < part.height; row++) {
    const span = between((part.y + row) * scale, (part.y + row + 1) * scale);
    columns[2 * row] = span ? Math.max(part.x, Math.floor(span[0] / scale) - 1) : 0;
    columns[2 * row + 1] = span ? Math.min(part.x + part.width - 1, Math.ceil(span[1] / scale) + 1) : -1;
  }
  return columns;
}

/** A shadow that a stand-in caught in a render of its own, multiplied into what lies below: as much of each colour as is dark in it. */
export function castCaught({ reads, shadow }: FiguresWork, region: Region, out: Float32Array, tools: Tools): void {
  if (reads.caught === null || shadow === 0) return;
  const area = region.width * region.height;
  const caught = tools.read(reads.caught, region);
  const alpha = planeOf(caught, 3);
  for (let c = 0; c < 3; c++) {
    const light = planeOf(caught, c);
    for (let i = 0; i < area; i++) out[c * area + i] *= 1 - shadow * Math.min(1, Math.max(0, alpha[i] - light[i]));
  }
}

/** Figures in what mirrors them, in the place of what was mirrored there. */
export function castMirrored(work: FiguresWork, region: Region, out: Float32Array, tools: Tools): void {
  const { view, scale, reads, mirror, figures } = work;
  if (mirror === 0 || !reads.mirror) return;
  const area = region.width * region.height;
  const { arena } = tools.backend;
  const [filter, dark] = [threePlanes(reads.mirror.filter, region, tools), threePlanes(reads.mirror.dark, region, tools)];
  const shining = shiningIn(work, region, filter, dark, tools);
  if (shining.count === 0) return;
  const reflection = tools.read(reads.mirror.reflection, region).planes;
  const hit = new Float64Array(3);
  const [ex, ey, ez] = view.eye;
  for (const figure of figures) {
    const { mark } = arena;
    const list = arena.take(PLACE_NUMBERS * shining.count);
    const { add, found } = gathering(list);
    const meets = meetingOf(figure.card);
    const perDepth = wideAt(view, 1, figure.card, scale);
    const { rays, towards, depths } = shining;
    for (let k = 0, at = 0; k < shining.count; k++, at += 3) {
      // Where nothing says how far away it is, it is the ground that the figure stands on.
      const depth = depths[k] > 0 ? depths[k] : (figure.card.foot[1] - ey) / rays[at + 1];
      if (!(depth > 0) || !meets(ex + rays[at] * depth, ey + rays[at + 1] * depth, ez + rays[at + 2] * depth, towards[at], towards[at + 1], towards[at + 2], hit)) continue;
      if (isNear(figure.box, hit[0], hit[1], 0)) add(hit[0], hit[1], (depth + hit[2]) * perDepth, shining.still[k], shining.pixels[k]);
    }
    const places = placesOf(list, found());
    const count = places.u.length;
    if (count > 0) {
      const [colors, sampler] = [arena.take(4 * count), samplerOf(work, figure, tools)];
      sampler.hold(places);
      shaderOf(work, figure, sampler, tools)(places, colors);
      const [pixels, still] = [pixelsOf(list), numbersOf(list, 3, count)];
      for (let i = 0; i < count; i++) {
        const alpha = colors[3 * count + i] * mirror;
        if (alpha < LEAST_ALPHA) continue;
        for (let c = 0; c < 3; c++) {
          const at = c * area + pixels[i];
          out[at] = Math.max(0, out[at] + mirror * colors[c * count + i] * (filter ? filter[at] : still[i]) - alpha * reflection[at]);
        }
      }
    }
    arena.release(mark);
  }
}

/** Pixels of a region in which something is mirrored. For each: how much comes back, its depth (0 if nothing says so), the ray to it, and where that goes from there. */
interface Shining {
  readonly count: number;
  readonly pixels: Uint32Array;
  readonly still: Float32Array;
  readonly depths: Float64Array;
  readonly rays: Float64Array;
  readonly towards: Float64Array;
}

function shiningIn(work: FiguresWork, region: Region, filter: Float32Array | null, dark: Float32Array | null, tools: Tools): Shining {
  const { view, scale, areDepths } = work;
  const area = region.width * region.height;
  const clear = tools.backend.arena.take(area);
  let most = 0;
  for (let i = 0; i < area; i++) {
    clear[i] = filter ? Math.max(filter[i], filter[area + i], filter[2 * area + i]) : dark ? clearness(dark[i], dark[area + i], dark[2 * area + i]) : 0;
    if (clear[i] >= LEAST_MIRROR) most++;
  }
  const shining = { pixels: new Uint32Array(most), still: new Float32Array(most), depths: new Float64Array(most), rays: new Float64Array(3 * most), towards: new Float64Array(3 * most) };
  if (most === 0) return { ...shining, count: 0 };
  const [sides, normals] = [sidesIn(work, region, tools), threePlanes(work.reads.normals, region, tools)];
  const [ray, normal] = [new Float64Array(3), new Float64Array(3)];
  let count = 0;
  for (let i = 0; i < area; i++) {
    if (!(clear[i] >= LEAST_MIRROR)) continue;
    const metres = sides ? (sides[2 * area + i] > 0.5 ? sides[area + i] : sides[i]) : 0;
    if (sides && (!(metres > 0) || metres >= SKY_METRES)) continue;
    rayInto(view, (region.x + (i % region.width) + 0.5) * scale, (region.y + Math.floor(i / region.width) + 0.5) * scale, ray);
    normalAt(normals, i, normal);
    const along = ray[0] * normal[0] + ray[1] * normal[1] + ray[2] * normal[2];
    if (along >= 0) continue;
    const length = Math.sqrt(ray[0] * ray[0] + ray[1] * ray[1] + ray[2] * ray[2]);
    const still = filter ? 1 : clear[i] * fresnel(-along / length);
    if (still < LEAST_MIRROR) continue;
    shining.pixels[count] = i;
    shining.still[count] = still;
    shining.depths[count] = areDepths ? metres : metres / length;
    for (let c = 0; c < 3; c++) {
      shining.rays[3 * count + c] = ray[c];
      shining.towards[3 * count + c] = ray[c] - 2 * along * normal[c];
    }
    count++;
  }
  return { ...shining, count };
}
