/**
 * Figures in space, in parts: their own picture, what they do to what lies below (shadow, hidden light of the sky, mirrored in what shines), how far away things are where they stand before them, and where they stand before the sky.
 */
import { type CameraView, projected, rayThrough } from '../../camera/view.ts';
import { luminanceOf } from '../../color/luminance.ts';
import { boxOfCard, boxOfCast, type Card, CONTACT_REACH, facingSun, meets } from '../../figures/card.ts';
import { ballsOf, clearness, fresnel, hiddenByBall, LEAST_REFLECTANCE, SUN_SPREAD, sunOnFigure, USUAL_REFLECTANCE, USUAL_SUN } from '../../figures/light.ts';
import { intersect, type Region } from '../../raster/region.ts';
import { dot, type Triple } from '../../vector.ts';
import { planeOf, type Pixels } from '../pixels.ts';
import type { Need, PictureKind, Tools } from './define.ts';
import type { FiguresWork, FigureWork } from './work.ts';

/** What is farther is sky: files hold infinities as the largest half. */
const SKY_METRES = 60_000;
/** Things as near as this to a figure's plane do not hide it, in metres and as a share of the distance: its feet stand on them. */
const [TOUCH_METRES, TOUCH_SHARE] = [0.04, 0.004];
/** A little sharper than the pixels would need. */
const SHARPER = 0.8;
/** The form of a figure follows its outline, blurred over this share of its width. */
const FORM_SHARE = 0.12;
/** Where near and far are no farther apart than this share, a pixel shows one surface. */
const EDGE_SHARE = 0.2;
/** What mirrors less than this shows no figure. */
const LEAST_MIRROR = 0.004;
/** Alpha that counts as something. */
const LEAST_ALPHA = 1 / 512;

const scaled = ({ x, y, width, height }: Region, by: number): Region => {
  const [left, top] = [Math.floor(x / by), Math.floor(y / by)];
  return { x: left, y: top, width: Math.ceil((x + width) / by) - left, height: Math.ceil((y + height) / by) - top };
};

/** Figures that concern a region, from far to near, with the part of it that they do. */
function concerned(work: FiguresWork, region: Region): { readonly figure: FigureWork; readonly part: Region }[] {
  const { part, view, size, scale, sun, reads } = work;
  return work.figures.flatMap((figure) => {
    // What mirrors may lie anywhere.
    const box = part === 'cast' ? (reads.mirror === null ? boxOfCast(view, figure.card, sun, figure.box, size) : { x: 0, y: 0, ...size }) : boxOfCard(view, figure.card, figure.box, size);
    const inside = intersect(scaled(box, scale), region);
    return inside && inside.width > 0 && inside.height > 0 ? [{ figure, part: inside }] : [];
  });
}

/** What of the light at its foot is read: a few pixels around it, of small pictures. */
function footRegion({ view, light }: FiguresWork, { card }: FigureWork): Region {
  const seen = projected(view, card.foot) ?? { x: 0, y: 0 };
  return { x: Math.floor(seen.x / light.scale) - 2, y: Math.floor(seen.y / light.scale) - 2, width: 5, height: 5 };
}

/** What they are drawn over. */
const beneathOf = ({ part, reads }: FiguresWork): number | null => (part === 'figures' ? null : part === 'sides' ? reads.sides : reads.below);
const same = (picture: number | null, region: Region): Need[] => (picture === null ? [] : [{ picture, region }]);

export const figures: PictureKind<FiguresWork> = {
  inputs: ({ reads, light, figures: all }) => [...new Set([reads.below, reads.sides, reads.normals, reads.mirror?.filter, reads.mirror?.dark, reads.mirror?.reflection, reads.sunlight?.sun, reads.sunlight?.all, light.picture, light.filter, light.sun, light.all, ...all.flatMap(({ levels }) => levels.map(({ picture }) => picture))].filter((picture) => picture !== null && picture !== undefined))],
  needs: (work, region) => {
    const { reads, part, light } = work;
    const all = concerned(work, region);
    const beneath = same(beneathOf(work), region);
    if (all.length === 0) return beneath;
    const isLit = part === 'figures' || part === 'cast';
    const beside = part === 'sides' ? [] : [...same(reads.sides, region), ...(part === 'cast' ? [...same(reads.normals, region), ...same(reads.mirror?.filter ?? null, region), ...same(reads.mirror?.dark ?? null, region), ...same(reads.mirror?.reflection ?? null, region), ...same(reads.sunlight?.sun ?? null, region), ...same(reads.sunlight?.all ?? null, region)] : [])];
    const feet = !isLit ? [] : all.flatMap(({ figure }) => [light.picture, light.filter, light.sun, light.all].flatMap((picture) => same(picture, footRegion(work, figure))));
    return [...beneath, ...beside, ...feet, ...all.flatMap(({ figure }) => figure.levels.map(({ picture, size }) => ({ picture, region: size })))];
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
    if (all.length === 0) return { region, planes: from.planes, opaque: from.opaque };
    const out = tools.backend.arena.take(planes * area);
    out.set(from.planes.subarray(0, planes * area));
    if (work.part === 'sides') for (const one of all) drawSides(work, one, region, out, tools);
    else if (work.part === 'cover') for (const one of all) drawCover(work, one, region, out, tools);
    else cast(work, all, region, out, tools);
    return { region, planes: out, opaque: from.opaque };
  },
};

/** The picture of a figure at places in its pixels, blurred over `wide` of them: premultiplied colour and alpha. */
function samplerOf({ levels }: FigureWork, tools: Tools): (u: number, v: number, wide: number, out: Float64Array) => void {
  const read = levels.map(({ picture, size, scale }) => {
    const pixels = tools.read(picture, size);
    return { planes: [0, 1, 2, 3].map((plane) => planeOf(pixels, plane)), size, scale };
  });
  const at = ({ planes, size, scale }: (typeof read)[number], u: number, v: number, weight: number, out: Float64Array) => {
    const [x, y] = [u / scale - 0.5 - size.x, v / scale - 0.5 - size.y];
    // Its outermost pixels are transparent.
    if (x < 0 || y < 0 || x >= size.width - 1 || y >= size.height - 1) return;
    const [left, top] = [Math.floor(x), Math.floor(y)];
    const [fx, fy] = [x - left, y - top];
    const i = top * size.width + left;
    const [a, b, c, d] = [(1 - fx) * (1 - fy) * weight, fx * (1 - fy) * weight, (1 - fx) * fy * weight, fx * fy * weight];
    for (let p = 0; p < 4; p++) {
      const plane = planes[p];
      out[p] += plane[i] * a + plane[i + 1] * b + plane[i + size.width] * c + plane[i + size.width + 1] * d;
    }
  };
  return (u, v, wide, out) => {
    out.fill(0);
    const lod = Math.min(read.length - 1, Math.max(0, Math.log2(wide / read[0].scale)));
    const k = Math.floor(lod);
    const t = lod - k;
    at(read[k], u, v, 1 - t, out);
    if (t > 0) at(read[k + 1], u, v, t, out);
  };
}

/** Light at the foot of a figure: what a white surface would send back there, and how much of that is the sun's. */
function lightAt(work: FiguresWork, figure: FigureWork, tools: Tools): { readonly all: Triple; readonly sun: Triple } {
  const { light, sun } = work;
  // Alone on its card it is in even light.
  if (light.picture === null) return { all: [1, 1, 1], sun: [0, 0, 0] };
  const region = footRegion(work, figure);
  const meanOf = (picture: number | null): Triple | null => {
    if (picture === null) return null;
    const pixels = tools.read(picture, region);
    return [0, 1, 2].map((plane) => planeOf(pixels, plane).reduce((sum, value) => sum + Math.max(0, Math.min(SKY_METRES, value)), 0) / (region.width * region.height)) as unknown as Triple;
  };
  const all = light.filter === null ? ((meanOf(light.picture) as Triple).map((value) => value / USUAL_REFLECTANCE) as unknown as Triple) : lightOn(tools.read(light.picture, region), tools.read(light.filter, region));
  const [bySun, byAll] = [meanOf(light.sun), meanOf(light.all)];
  if (!sun || sun[1] <= 0) return { all, sun: [0, 0, 0] };
  if (!bySun || !byAll) return { all, sun: USUAL_SUN };
  return { all, sun: bySun.map((value, c) => (byAll[c] > 1e-6 ? Math.min(1, value / byAll[c]) : 0)) as unknown as Triple };
}

/** The light that explains what is seen by its reflectance, best where that is bright: what is dark shows what it mirrors instead. */
function lightOn(seen: Pixels, filter: Pixels): Triple {
  return [0, 1, 2].map((plane) => {
    const [values, shares] = [planeOf(seen, plane), planeOf(filter, plane)];
    let [product, square] = [0, 0];
    for (let i = 0; i < values.length; i++) {
      const share = Math.max(LEAST_REFLECTANCE, shares[i]);
      product += share * Math.max(0, Math.min(SKY_METRES, values[i]));
      square += share * share;
    }
    return product / square;
  }) as unknown as Triple;
}

/** The colour of a figure where it is hit: its reflectance in the light at its foot. In `out`: premultiplied colour and alpha. */
function shaderOf(work: FiguresWork, figure: FigureWork, tools: Tools): (u: number, v: number, wide: number, out: Float64Array) => void {
  const { style, styleColor, gain, modelling, sun } = work;
  const { card, box } = figure;
  const sample = samplerOf(figure, tools);
  const light = lightAt(work, figure, tools);
  const widePx = Math.max(1, box.width * FORM_SHARE);
  const around = new Float64Array(4);
  const alphaAt = (u: number, v: number) => {
    sample(u, v, widePx, around);
    return around[3];
  };
  const hasForm = sun !== null && sun[1] > 0 && modelling > 0 && light.sun.some((share) => share > 0);
  const aside = card.mirrored ? -1 : 1;
  const [cos, sin] = [Math.cos(card.leanRadians), Math.sin(card.leanRadians)];
  return (u, v, wide, out) => {
    sample(u, v, wide, out);
    const alpha = out[3];
    if (alpha < LEAST_ALPHA) return;
    let onSun = 1;
    if (hasForm && sun) {
      // Its outline falls off to the sides as a round body does.
      const [dx, dy] = [(alphaAt(u - widePx, v) - alphaAt(u + widePx, v)) * 0.9 * aside, (alphaAt(u, v + widePx) - alphaAt(u, v - widePx)) * 0.9];
      const length = Math.hypot(dx, dy);
      const by = length > 1 ? 1 / length : 1;
      const [a, b] = [(dx * cos + dy * sin) * by, (dy * cos - dx * sin) * by];
      const out1 = Math.sqrt(Math.max(0, 1 - a * a - b * b));
      const towards = a * dot(sun, card.right) + b * sun[1] + out1 * dot(sun, card.normal);
      onSun = sunOnFigure(towards, sun[1], modelling);
    }
    const grey = style === 'tone' ? luminanceOf([out[0], out[1], out[2]]) : 0;
    for (let c = 0; c < 3; c++) {
      if (style === 'silhouette') {
        out[c] = styleColor[c] * alpha;
        continue;
      }
      const lit = light.all[c] * (1 - light.sun[c] + light.sun[c] * onSun) * gain[c];
      out[c] = (style === 'tone' ? grey : out[c]) * lit;
    }
  };
}

/** How many pixels of its picture one of the picture shows, at a depth. */
const wideAt = (view: CameraView, depth: number, { metresPerPixel }: Card, scale: number): number => ((depth / view.focalPx / metresPerPixel) * scale) * 2 ** -SHARPER;

const visibleAt = (sides: readonly Float32Array[] | null, i: number, depth: number, perDepth: number): number => {
  if (!sides) return 1;
  const reach = depth * perDepth;
  const limit = reach - TOUCH_METRES - TOUCH_SHARE * reach;
  const hides = (metres: number) => (metres > 0 && metres < limit ? 1 : 0);
  const share = sides[2][i];
  return 1 - (1 - share) * hides(sides[0][i]) - share * hides(sides[1][i]);
};

const sidesIn = (work: FiguresWork, region: Region, tools: Tools): readonly Float32Array[] | null => {
  if (work.reads.sides === null) return null;
  const pixels = tools.read(work.reads.sides, region);
  return [0, 1, 2].map((plane) => planeOf(pixels, plane));
};

/** Distances go along the ray, depths along the lens's axis: what a depth is multiplied with to be compared with the element's metres. */
const perDepthOf = (work: FiguresWork, ray: Triple): number => (work.areDepths ? 1 : Math.hypot(...ray));

function drawFigure(work: FiguresWork, { figure, part }: { readonly figure: FigureWork; readonly part: Region }, region: Region, out: Float32Array, tools: Tools): void {
  const { view, scale } = work;
  const { card } = figure;
  const area = region.width * region.height;
  const shade = shaderOf(work, figure, tools);
  const sides = sidesIn(work, region, tools);
  const color = new Float64Array(4);
  for (let y = part.y; y < part.y + part.height; y++) {
    for (let x = part.x; x < part.x + part.width; x++) {
      const ray = rayThrough(view, (x + 0.5) * scale, (y + 0.5) * scale);
      const hit = meets(card, view.eye, ray);
      if (!hit) continue;
      shade(hit[0], hit[1], wideAt(view, hit[2], card, scale), color);
      if (color[3] < LEAST_ALPHA) continue;
      const i = (y - region.y) * region.width + x - region.x;
      const seen = visibleAt(sides, i, hit[2], perDepthOf(work, ray));
      if (seen <= 0) continue;
      const stays = 1 - color[3] * seen;
      for (let c = 0; c < 4; c++) out[c * area + i] = out[c * area + i] * stays + color[c] * seen;
    }
  }
}

/** Calls for every pixel that a figure is seen at: its number in the region, how much of it the figure's own picture covers, and how far along the lens's axis it is. */
function eachSeen(work: FiguresWork, { figure, part }: { readonly figure: FigureWork; readonly part: Region }, region: Region, tools: Tools, sides: () => readonly Float32Array[] | null, take: (i: number, alpha: number, seen: number, metres: number) => void): void {
  const { view, scale } = work;
  const sample = samplerOf(figure, tools);
  const color = new Float64Array(4);
  for (let y = part.y; y < part.y + part.height; y++) {
    for (let x = part.x; x < part.x + part.width; x++) {
      const ray = rayThrough(view, (x + 0.5) * scale, (y + 0.5) * scale);
      const hit = meets(figure.card, view.eye, ray);
      if (!hit) continue;
      sample(hit[0], hit[1], wideAt(view, hit[2], figure.card, scale), color);
      if (color[3] < LEAST_ALPHA) continue;
      const i = (y - region.y) * region.width + x - region.x;
      const perDepth = perDepthOf(work, ray);
      const seen = visibleAt(sides(), i, hit[2], perDepth);
      if (seen > 0) take(i, color[3], seen, hit[2] * perDepth);
    }
  }
}

/** Where they are, there is no sky: what is told apart by an alpha knows it. */
function drawCover(work: FiguresWork, one: { readonly figure: FigureWork; readonly part: Region }, region: Region, out: Float32Array, tools: Tools): void {
  const area = region.width * region.height;
  const sides = sidesIn(work, region, tools);
  eachSeen(work, one, region, tools, () => sides, (i, alpha, seen) => {
    for (let c = 0; c < 3; c++) out[c * area + i] = 1 - (1 - out[c * area + i]) * (1 - alpha * seen);
  });
}

/** What stands before others is nearer than they are: air and focus know it. */
function drawSides(work: FiguresWork, one: { readonly figure: FigureWork; readonly part: Region }, region: Region, out: Float32Array, tools: Tools): void {
  const area = region.width * region.height;
  const planes = [0, 1, 2].map((plane) => out.subarray(plane * area, (plane + 1) * area));
  const [near, far, share] = planes;
  eachSeen(work, one, region, tools, () => planes, (i, alpha, _, metres) => {
    const behind = share[i] > 0.5 ? far[i] : near[i];
    const isWhole = alpha > 1 - LEAST_ALPHA;
    near[i] = metres;
    far[i] = isWhole ? metres : behind;
    share[i] = isWhole ? 0 : 1 - alpha;
  });
}

function cast(work: FiguresWork, all: readonly { readonly figure: FigureWork; readonly part: Region }[], region: Region, out: Float32Array, tools: Tools): void {
  const { view, scale, sun, reads, shadow, soft, contact, mirror, areDepths } = work;
  const area = region.width * region.height;
  const sides = sidesIn(work, region, tools);
  const planesOf = (picture: number | null | undefined, count = 3) => {
    if (picture === null || picture === undefined) return null;
    const pixels: Pixels = tools.read(picture, region);
    return Array.from({ length: count }, (_, plane) => planeOf(pixels, plane));
  };
  const normals = planesOf(reads.normals);
  const [bySun, byAll] = [planesOf(reads.sunlight?.sun), planesOf(reads.sunlight?.all)];
  const [filter, dark, reflection] = [planesOf(reads.mirror?.filter), planesOf(reads.mirror?.dark), planesOf(reads.mirror?.reflection)];
  const returns = new Float64Array(3);
  const hasSun = sun !== null && sun[1] > 0 && shadow > 0;
  /** What of the sun's light and of the sky's is left. */
  const lit = tools.backend.arena.take(area).fill(1);
  const open = tools.backend.arena.take(area).fill(1);
  const sunward = new Float64Array(4);
  for (const { figure, part } of all) {
    const { card, box } = figure;
    const sample = samplerOf(figure, tools);
    const turned = hasSun && sun ? facingSun(card, sun) : card;
    const balls = ballsOf(card.heightMetres, box.width * card.metresPerPixel);
    const reach = (card.heightMetres * CONTACT_REACH) ** 2;
    const shade = mirror > 0 && (filter || dark) && reflection ? shaderOf(work, figure, tools) : null;
    for (let y = part.y; y < part.y + part.height; y++) {
      for (let x = part.x; x < part.x + part.width; x++) {
        const i = (y - region.y) * region.width + x - region.x;
        const ray = rayThrough(view, (x + 0.5) * scale, (y + 0.5) * scale);
        const length = Math.hypot(...ray);
        const [near, far, share] = sides ? [sides[0][i], sides[1][i], sides[2][i]] : [(card.foot[1] - view.eye[1]) / ray[1], 0, 0];
        // A floor that is seen at a grazing angle is one thing.
        const isEdge = share > 0 && far - near > EDGE_SHARE * near;
        let [shadows, hides] = [0, 0];
        for (let side = 0; side < (isEdge ? 2 : 1); side++) {
          const weight = isEdge ? (side === 0 ? 1 - share : share) : 1;
          const metres = isEdge ? (side === 0 ? near : far) : near + (far - near) * share;
          if (!(metres > 0) || metres >= SKY_METRES) continue;
          const depth = !sides || areDepths ? metres : metres / length;
          const [wx, wy, wz] = [view.eye[0] + ray[0] * depth, view.eye[1] + ray[1] * depth, view.eye[2] + ray[2] * depth];
          let [nx, ny, nz] = normals ? [normals[0][i], normals[1][i], normals[2][i]] : [0, 1, 0];
          const long = Math.hypot(nx, ny, nz);
          if (long < 0.3) [nx, ny, nz] = [0, 1, 0];
          else [nx, ny, nz] = [nx / long, ny / long, nz / long];
          if (hasSun && sun) {
            const hit = meets(turned, [wx, wy, wz], sun);
            if (hit) {
              const blurred = (hit[2] * SUN_SPREAD * soft + (depth / view.focalPx) * scale) / card.metresPerPixel;
              sample(hit[0], hit[1], blurred, sunward);
              shadows += weight * sunward[3];
            }
          }
          const [fx, fy, fz] = [card.foot[0] - wx, card.foot[1] - wy, card.foot[2] - wz];
          if (contact > 0 && fx * fx + fz * fz < reach) {
            let sum = 0;
            for (const { upMetres, radiusMetres } of balls) sum += hiddenByBall(fx, fy + upMetres, fz, radiusMetres, nx, ny, nz);
            // It ends where the region does that is looked at.
            hides += weight * Math.min(0.95, sum * contact * Math.max(0, 1 - (fx * fx + fz * fz) / reach));
          }
          if (shade && reflection && weight > 0.5) {
            const along = ray[0] * nx + ray[1] * ny + ray[2] * nz;
            if (along >= 0) continue;
            const still = dark ? fresnel(-along / length) * clearness(dark[0][i], dark[1][i], dark[2][i]) : 0;
            for (let c = 0; c < 3; c++) returns[c] = filter ? filter[c][i] : still;
            if (Math.max(returns[0], returns[1], returns[2]) < LEAST_MIRROR) continue;
            const mirrored: Triple = [ray[0] - 2 * along * nx, ray[1] - 2 * along * ny, ray[2] - 2 * along * nz];
            const hit = meets(card, [wx, wy, wz], mirrored);
            if (!hit) continue;
            shade(hit[0], hit[1], wideAt(view, depth + hit[2], card, scale), sunward);
            const alpha = sunward[3] * mirror;
            if (alpha < LEAST_ALPHA) continue;
            for (let c = 0; c < 3; c++) out[c * area + i] = Math.max(0, out[c * area + i] + mirror * sunward[c] * returns[c] - alpha * reflection[c][i]);
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
