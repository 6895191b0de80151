/**
 * Figures in space, in parts: their own picture, what they do to what lies below (shadow, hidden light of the sky, mirrored in what shines), how far away things are where they stand before them, and where they stand before the sky.
 */
import { rayInto } from '../../camera/view.ts';
import { boxOfCard, boxOfCast, meetingOf } from '../../figures/card.ts';
import { intersect, type Region } from '../../raster/region.ts';
import { castCaught, castMirrored, castShadows, type Casting } from '../cast.ts';
import { footRegion, LEAST_ALPHA, perDepthOf, planesOf, samplerOf, shaderOf, sidesIn, visibleAt, wideAt } from '../standing.ts';
import type { Need, PictureKind, Tools } from './define.ts';
import type { FiguresWork } from './work.ts';

const scaled = ({ x, y, width, height }: Region, by: number): Region => {
  const [left, top] = [Math.floor(x / by), Math.floor(y / by)];
  return { x: left, y: top, width: Math.ceil((x + width) / by) - left, height: Math.ceil((y + height) / by) - top };
};

/** Figures that concern a region, from far to near, with the part of it that they do. */
function concerned(work: FiguresWork, region: Region): Casting[] {
  const { part, view, size, scale, sun } = work;
  return work.figures.flatMap((figure) => {
    const box = part === 'cast' ? boxOfCast(view, figure.card, sun, figure.box, size) : boxOfCard(view, figure.card, figure.box, size);
    const inside = intersect(scaled(box, scale), region);
    return inside && inside.width > 0 && inside.height > 0 ? [{ figure, part: inside }] : [];
  });
}

/** What they are drawn over. */
const beneathOf = ({ part, reads }: FiguresWork): number | null => (part === 'figures' ? null : part === 'sides' ? reads.sides : reads.below);
const same = (picture: number | null, region: Region): Need[] => (picture === null ? [] : [{ picture, region }]);

export const figures: PictureKind<FiguresWork> = {
  inputs: ({ reads, light, figures: all }) => [...new Set([reads.below, reads.sides, reads.normals, reads.caught, reads.shines, reads.mirror?.filter, reads.mirror?.dark, reads.mirror?.reflection, reads.sunlight?.sun, reads.sunlight?.all, light.picture, light.filter, light.sun, light.all, ...all.flatMap(({ levels }) => levels.map(({ picture }) => picture))].filter((picture) => picture !== null && picture !== undefined))],
  needs: (work, region) => {
    const { reads, part, light } = work;
    const beneath = [...same(beneathOf(work), region), ...same(reads.caught, region)];
    // What mirrors may lie anywhere.
    const figures = part === 'cast' && reads.mirror ? work.figures : concerned(work, region).map(({ figure }) => figure);
    if (figures.length === 0) return beneath;
    const onSurfaces = part === 'cast' ? [reads.normals, reads.mirror?.filter, reads.mirror?.dark, reads.mirror?.reflection, reads.sunlight?.sun, reads.sunlight?.all] : [];
    const beside = part === 'sides' ? [] : [reads.sides, reads.shines, ...onSurfaces].flatMap((picture) => same(picture ?? null, region));
    const feet = figures.flatMap((figure) => [light.picture, light.filter, light.sun, light.all].flatMap((picture) => same(picture, footRegion(work, figure))));
    return [...beneath, ...beside, ...feet, ...figures.flatMap(({ levels }) => levels.map(({ picture, size }) => ({ picture, region: size })))];
  },
  make: (work, region, planes, tools) => {
    const area = region.width * region.height;
    const all = concerned(work, region);
    if (work.part === 'figures') {
      const out = tools.backend.arena.take(planes * area).fill(0);
      for (const one of all) drawFigure(work, one, region, out, tools);
      return { region, planes: out, opaque: false };
    }
    const from = tools.read(beneathOf(work) as number, region);
    if (all.length === 0 && !(work.part === 'cast' && (work.reads.mirror || work.reads.caught !== null))) return { region, planes: from.planes, opaque: from.opaque };
    const out = tools.backend.arena.take(planes * area);
    out.set(from.planes.subarray(0, planes * area));
    if (work.part === 'sides') for (const one of all) drawSides(work, one, region, out, tools);
    else if (work.part === 'cover') for (const one of all) drawCover(work, one, region, out, tools);
    else {
      castCaught(work, region, out, tools);
      castShadows(work, all, region, out, tools);
      castMirrored(work, region, out, tools);
    }
    return { region, planes: out, opaque: from.opaque };
  },
};

function drawFigure(work: FiguresWork, one: Casting, region: Region, out: Float32Array, tools: Tools): void {
  const area = region.width * region.height;
  const shade = shaderOf(work, one.figure, tools);
  const color = new Float64Array(4);
  const shaded: AlphaAt = (u, v, wide) => {
    shade(u, v, wide, color);
    return color[3];
  };
  const shines = planesOf(work.reads.shines, region, tools);
  eachSeen(work, one, region, shaded, sidesIn(work, region, tools), (i, alpha, seen) => {
    const stays = 1 - alpha * seen;
    if (shines) for (let c = 0; c < 3; c++) color[c] += alpha * work.shine * Math.max(0, shines[c][i]);
    for (let c = 0; c < 4; c++) out[c * area + i] = out[c * area + i] * stays + color[c] * seen;
  });
}

/** How much of a pixel a figure's picture covers, at a place in its pixels. */
type AlphaAt = (u: number, v: number, wide: number) => number;

/** Calls for every pixel that a figure is seen at: its number in the region, how much of it the figure's own picture covers, how much of that is not hidden, and how many metres away it is. */
function eachSeen(work: FiguresWork, { figure, part }: Casting, region: Region, alphaAt: AlphaAt, sides: readonly Float32Array[] | null, take: (i: number, alpha: number, seen: number, metres: number) => void): void {
  const { view, scale } = work;
  const meets = meetingOf(figure.card);
  const [ex, ey, ez] = view.eye;
  const [ray, hit] = [new Float64Array(3), new Float64Array(3)];
  for (let y = part.y; y < part.y + part.height; y++) {
    for (let x = part.x; x < part.x + part.width; x++) {
      rayInto(view, (x + 0.5) * scale, (y + 0.5) * scale, ray);
      if (!meets(ex, ey, ez, ray[0], ray[1], ray[2], hit)) continue;
      const alpha = alphaAt(hit[0], hit[1], wideAt(view, hit[2], figure.card, scale));
      if (alpha < LEAST_ALPHA) continue;
      const i = (y - region.y) * region.width + x - region.x;
      const perDepth = perDepthOf(work, ray);
      const seen = visibleAt(sides, i, hit[2], perDepth);
      if (seen > 0) take(i, alpha, seen, hit[2] * perDepth);
    }
  }
}

/** Where they are, there is no sky: what is told apart by an alpha knows it. */
function drawCover(work: FiguresWork, one: Casting, region: Region, out: Float32Array, tools: Tools): void {
  const area = region.width * region.height;
  eachSeen(work, one, region, samplerOf(work, one.figure, tools).alpha, sidesIn(work, region, tools), (i, alpha, seen) => {
    for (let c = 0; c < 3; c++) out[c * area + i] = 1 - (1 - out[c * area + i]) * (1 - alpha * seen);
  });
}

/** What stands before others is nearer than they are: air and focus know it. */
function drawSides(work: FiguresWork, one: Casting, region: Region, out: Float32Array, tools: Tools): void {
  const area = region.width * region.height;
  const planes = [0, 1, 2].map((plane) => out.subarray(plane * area, (plane + 1) * area));
  const [near, far, share] = planes;
  eachSeen(work, one, region, samplerOf(work, one.figure, tools).alpha, planes, (i, alpha, _, metres) => {
    const behind = share[i] > 0.5 ? far[i] : near[i];
    const isWhole = alpha > 1 - LEAST_ALPHA;
    near[i] = metres;
    far[i] = isWhole ? metres : behind;
    share[i] = isWhole ? 0 : 1 - alpha;
  });
}

