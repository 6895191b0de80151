/**
 * Figures in space, in parts: their own picture, what they do to what lies below (shadow, hidden light of the sky, mirrored in what shines), how far away things are where they stand before them, and where they stand before the sky.
 */
import { boxOfCard, boxOfCast } from '../../figures/card.ts';
import { LEAST_ALPHA, numbersOf, pixelsOf } from '../../figures/loops.ts';
import { intersect, type Region } from '../../raster/region.ts';
import { castCaught, castMirrored, castShadows } from '../cast.ts';
import { footRegion, samplerOf, seenIn, shaderOf, sidesIn, type Standing, threePlanes } from '../standing.ts';
import type { Need, PictureKind, Tools } from './define.ts';
import type { FiguresWork } from './work.ts';

const scaled = ({ x, y, width, height }: Region, by: number): Region => {
  const [left, top] = [Math.floor(x / by), Math.floor(y / by)];
  return { x: left, y: top, width: Math.ceil((x + width) / by) - left, height: Math.ceil((y + height) / by) - top };
};

/** Figures that concern a region, from far to near, with the part of it that they do. */
function concerned(work: FiguresWork, region: Region): Standing[] {
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
    const { arena } = tools.backend;
    const eachOf = (draw: typeof drawFigure, out: Float32Array, sides: Float32Array | null) => {
      const before = { sides, shines: threePlanes(work.reads.shines, region, tools) };
      for (const one of all) {
        const { mark } = arena;
        draw(work, one, region, out, before, tools);
        arena.release(mark);
      }
    };
    if (work.part === 'figures') {
      const out = arena.take(planes * area).fill(0);
      if (all.length > 0) eachOf(drawFigure, out, sidesIn(work, region, tools));
      return { region, planes: out, opaque: false };
    }
    const from = tools.read(beneathOf(work) as number, region);
    if (all.length === 0 && !(work.part === 'cast' && (work.reads.mirror || work.reads.caught !== null))) return { region, planes: from.planes, opaque: from.opaque };
    const out = arena.take(planes * area);
    out.set(from.planes.subarray(0, planes * area));
    if (work.part === 'sides') eachOf(drawSides, out, out.subarray(0, 3 * area));
    else if (work.part === 'cover') eachOf(drawCover, out, sidesIn(work, region, tools));
    else {
      castCaught(work, region, out, tools);
      castShadows(work, all, region, out, tools);
      castMirrored(work, region, out, tools);
    }
    return { region, planes: out, opaque: from.opaque };
  },
};

/** What is known of a region before figures are drawn there: how far away things are, and what their stand-ins mirrored; three planes each. */
interface Before {
  readonly sides: Float32Array | null;
  readonly shines: Float32Array | null;
}

function drawFigure(work: FiguresWork, one: Standing, region: Region, out: Float32Array, { sides, shines }: Before, tools: Tools): void {
  const sampler = samplerOf(work, one.figure, tools);
  const { list, places, visible } = seenIn(work, one, region, sampler, sides, tools);
  if (visible.length === 0) return;
  const colors = tools.backend.arena.take(4 * visible.length);
  shaderOf(work, one.figure, sampler, tools)(places, colors);
  tools.backend.laid(out, list, colors, visible, shines, work.shine);
}

/** Where they are, there is no sky: what is told apart by an alpha knows it. */
function drawCover(work: FiguresWork, one: Standing, region: Region, out: Float32Array, { sides }: Before, tools: Tools): void {
  const area = region.width * region.height;
  const { list, alpha, visible } = seenIn(work, one, region, samplerOf(work, one.figure, tools), sides, tools);
  const pixels = pixelsOf(list);
  for (let i = 0; i < visible.length; i++) for (let at = pixels[i]; at < 3 * area; at += area) out[at] = 1 - (1 - out[at]) * (1 - alpha[i] * visible[i]);
}

/** What stands before others is nearer than they are: air and focus know it. */
function drawSides(work: FiguresWork, one: Standing, region: Region, out: Float32Array, { sides }: Before, tools: Tools): void {
  const area = region.width * region.height;
  const { list, alpha, visible } = seenIn(work, one, region, samplerOf(work, one.figure, tools), sides, tools);
  const [pixels, metres] = [pixelsOf(list), numbersOf(list, 3, visible.length)];
  const [near, far, share] = [0, 1, 2].map((plane) => out.subarray(plane * area, (plane + 1) * area));
  for (let i = 0; i < visible.length; i++) {
    const at = pixels[i];
    const behind = share[at] > 0.5 ? far[at] : near[at];
    const isWhole = alpha[i] > 1 - LEAST_ALPHA;
    near[at] = metres[i];
    far[at] = isWhole ? metres[i] : behind;
    share[at] = isWhole ? 0 : 1 - alpha[i];
  }
}
