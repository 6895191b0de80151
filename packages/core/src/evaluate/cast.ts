/** What figures do to what lies below them: they take the sun's light from it, and some of the sky's, and are mirrored in it. */
import { rayInto } from '../camera/view.ts';
import { castSpans, CONTACT_REACH, facingSun, meetingOf, pixelsPerMetre } from '../figures/card.ts';
import { asideOf, ballsOf, clearness, fresnel, hiddenByBall, SUN_SPREAD, USUAL_SUN } from '../figures/light.ts';
import type { Region } from '../raster/region.ts';
import { SKY_METRES } from '../raster/sides.ts';
import type { Tools } from './kinds/define.ts';
import type { FiguresWork, FigureWork } from './kinds/work.ts';
import { planeOf } from './pixels.ts';
import { LEAST_ALPHA, planesOf, samplerOf, shaderOf, sidesIn, wideAt } from './standing.ts';

/** Where near and far are no farther apart than this share, a pixel shows one surface. */
const EDGE_SHARE = 0.2;
/** What mirrors less than this shows no figure. */
const LEAST_MIRROR = 0.004;

/** A figure and the part of a region in which it may take light. */
export interface Casting {
  readonly figure: FigureWork;
  readonly part: Region;
}

/** The direction that a surface faces at a pixel, of length 1, into `out`: upwards where nothing says so. */
function normalAt(normals: readonly Float32Array[] | null, i: number, out: Float64Array): void {
  const x = normals ? normals[0][i] : 0;
  const y = normals ? normals[1][i] : 1;
  const z = normals ? normals[2][i] : 0;
  const length = Math.sqrt(x * x + y * y + z * z);
  const isKnown = length >= LEAST_NORMAL;
  out[0] = isKnown ? x / length : 0;
  out[1] = isKnown ? y / length : 1;
  out[2] = isKnown ? z / length : 0;
}
/** Shorter ones are means of several directions, or none. */
const LEAST_NORMAL = 0.3;

/** Whether something of the picture is within a blur of a place. */
const isNear = ({ x, y, width, height }: Region, [u, v]: Float64Array, wide: number): boolean => u > x - wide && v > y - wide && u < x + width + wide && v < y + height + wide;

/** Shadows and hidden light of the sky, multiplied into what lies below: each takes its own light only. */
export function castShadows(work: FiguresWork, all: readonly Casting[], region: Region, out: Float32Array, tools: Tools): void {
  const { view, scale, sun, reads, shadow, soft, contact, areDepths } = work;
  const hasSun = work.throws && sun !== null && sun[1] > 0 && shadow > 0;
  if (all.length === 0 || !(hasSun || contact > 0)) return;
  const area = region.width * region.height;
  const sides = sidesIn(work, region, tools);
  const normals = planesOf(reads.normals, region, tools);
  const [bySun, byAll] = [planesOf(reads.sunlight?.sun, region, tools), planesOf(reads.sunlight?.all, region, tools)];
  /** What of the sun's light and of the sky's is left. */
  const lit = tools.backend.arena.take(area).fill(1);
  const open = tools.backend.arena.take(area).fill(1);
  const ray = new Float64Array(3);
  const hit = new Float64Array(3);
  const normal = new Float64Array(3);
  for (const { figure, part } of all) {
    const { card, box } = figure;
    const sample = samplerOf(work, figure, tools);
    const towardsSun = meetingOf(hasSun && sun ? facingSun(card, sun) : card);
    const spans = castSpans(view, card, sun, box, work.size);
    const balls = ballsOf(card.heightMetres, box.width * card.metresPerPixel);
    const reach = (card.heightMetres * CONTACT_REACH) ** 2;
    const aside = asideOf(balls);
    const perMetre = pixelsPerMetre(card);
    for (let y = part.y; y < part.y + part.height; y++) {
      const span = spans(y * scale, (y + 1) * scale);
      if (!span) continue;
      const first = Math.max(part.x, Math.floor(span[0] / scale) - 1);
      const last = Math.min(part.x + part.width - 1, Math.ceil(span[1] / scale) + 1);
      for (let x = first; x <= last; x++) {
        const i = (y - region.y) * region.width + x - region.x;
        rayInto(view, (x + 0.5) * scale, (y + 0.5) * scale, ray);
        const near = sides ? sides[0][i] : (card.foot[1] - view.eye[1]) / ray[1];
        const far = sides ? sides[1][i] : near;
        const share = sides ? sides[2][i] : 0;
        // A floor that is seen at a grazing angle is one thing.
        const isEdge = share > 0 && far - near > EDGE_SHARE * near;
        let shadows = 0;
        let hides = 0;
        for (let side = 0; side < (isEdge ? 2 : 1); side++) {
          const weight = isEdge ? (side === 0 ? 1 - share : share) : 1;
          const metres = isEdge ? (side === 0 ? near : far) : near + (far - near) * share;
          if (!(metres > 0) || metres >= SKY_METRES) continue;
          const depth = !sides || areDepths ? metres : metres / Math.hypot(ray[0], ray[1], ray[2]);
          const wx = view.eye[0] + ray[0] * depth;
          const wy = view.eye[1] + ray[1] * depth;
          const wz = view.eye[2] + ray[2] * depth;
          if (hasSun && sun && towardsSun(wx, wy, wz, sun[0], sun[1], sun[2], hit)) {
            const wide = (hit[2] * SUN_SPREAD * soft + (depth / view.focalPx) * scale) * perMetre;
            if (isNear(box, hit, wide)) shadows += weight * sample.alpha(hit[0], hit[1], wide);
          }
          const fx = card.foot[0] - wx;
          const fy = card.foot[1] - wy;
          const fz = card.foot[2] - wz;
          // From the nearest of what stands there side by side.
          const along = Math.min(aside, Math.max(-aside, -(fx * card.right[0] + fz * card.right[2])));
          const nx = fx + card.right[0] * along;
          const nz = fz + card.right[2] * along;
          const away = nx * nx + nz * nz;
          if (contact > 0 && away < reach) {
            normalAt(normals, i, normal);
            let sum = 0;
            for (const { asideMetres, upMetres, radiusMetres } of balls) sum += hiddenByBall(fx + card.right[0] * asideMetres, fy + upMetres, fz + card.right[2] * asideMetres, radiusMetres, normal[0], normal[1], normal[2]);
            // It ends where the region does that is looked at.
            hides += weight * Math.min(MOST_HIDDEN, sum * contact * (1 - away / reach));
          }
        }
        lit[i] *= 1 - Math.min(1, shadows) * shadow;
        open[i] *= 1 - hides;
      }
    }
  }
  for (let i = 0; i < area; i++) {
    if (lit[i] === 1 && open[i] === 1) continue;
    for (let c = 0; c < 3; c++) {
      const share = bySun && byAll ? (byAll[c][i] > 1e-6 ? Math.min(1, Math.max(0, bySun[c][i] / byAll[c][i])) : 0) : hasSun ? USUAL_SUN[c] : 0;
      out[c * area + i] *= share * lit[i] + (1 - share) * open[i];
    }
  }
}
/** Some of the sky's light comes from everywhere. Common practice, no published source. */
const MOST_HIDDEN = 0.95;

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
  const { view, scale, reads, mirror, areDepths, figures } = work;
  if (mirror === 0 || !reads.mirror) return;
  const area = region.width * region.height;
  const [filter, dark, reflection] = [planesOf(reads.mirror.filter, region, tools), planesOf(reads.mirror.dark, region, tools), planesOf(reads.mirror.reflection, region, tools) as readonly Float32Array[]];
  const [sides, normals] = [sidesIn(work, region, tools), planesOf(reads.normals, region, tools)];
  // Most regions mirror nobody: the pictures are read when the first is met.
  const shades = figures.map((): ReturnType<typeof shaderOf> | null => null);
  const meetings = figures.map(({ card }) => meetingOf(card));
  const color = new Float64Array(4);
  const ray = new Float64Array(3);
  const hit = new Float64Array(3);
  const normal = new Float64Array(3);
  const returns = new Float64Array(3);
  for (let y = region.y, i = 0; y < region.y + region.height; y++) {
    for (let x = region.x; x < region.x + region.width; x++, i++) {
      const clear = filter ? Math.max(filter[0][i], filter[1][i], filter[2][i]) : dark ? clearness(dark[0][i], dark[1][i], dark[2][i]) : 0;
      if (clear < LEAST_MIRROR) continue;
      const metres = sides ? (sides[2][i] > 0.5 ? sides[1][i] : sides[0][i]) : null;
      if (metres !== null && (!(metres > 0) || metres >= SKY_METRES)) continue;
      rayInto(view, (x + 0.5) * scale, (y + 0.5) * scale, ray);
      normalAt(normals, i, normal);
      const along = ray[0] * normal[0] + ray[1] * normal[1] + ray[2] * normal[2];
      if (along >= 0) continue;
      const length = Math.sqrt(ray[0] * ray[0] + ray[1] * ray[1] + ray[2] * ray[2]);
      const still = filter ? 1 : clear * fresnel(-along / length);
      if (still < LEAST_MIRROR) continue;
      for (let c = 0; c < 3; c++) returns[c] = filter ? filter[c][i] : still;
      const mx = ray[0] - 2 * along * normal[0];
      const my = ray[1] - 2 * along * normal[1];
      const mz = ray[2] - 2 * along * normal[2];
      for (let k = 0; k < figures.length; k++) {
        const { card, box } = figures[k];
        const meets = meetings[k];
        const depth = metres === null ? (card.foot[1] - view.eye[1]) / ray[1] : areDepths ? metres : metres / length;
        if (!(depth > 0)) continue;
        if (!meets(view.eye[0] + ray[0] * depth, view.eye[1] + ray[1] * depth, view.eye[2] + ray[2] * depth, mx, my, mz, hit) || !isNear(box, hit, 0)) continue;
        const shade = shades[k] ?? shaderOf(work, figures[k], tools);
        shades[k] = shade;
        shade(hit[0], hit[1], wideAt(view, depth + hit[2], card, scale), color);
        const alpha = color[3] * mirror;
        if (alpha < LEAST_ALPHA) continue;
        for (let c = 0; c < 3; c++) out[c * area + i] = Math.max(0, out[c * area + i] + mirror * color[c] * returns[c] - alpha * reflection[c][i]);
      }
    }
  }
}
