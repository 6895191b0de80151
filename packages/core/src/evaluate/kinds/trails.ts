/** Light trails over the picture, in light: what the lamps of passing vehicles draw, hidden by what stands before them, and mirrored in wet ground. */
import { rayInto } from '../../camera/view.ts';
import { fresnel } from '../../figures/light.ts';
import { longer, visibleAt } from '../../figures/loops.ts';
import type { Region } from '../../raster/region.ts';
import { SKY_METRES } from '../../raster/sides.ts';
import { lampLines, type LampLine, VERTEX } from '../../trails/lamps.ts';
import { lensOf, threePlanes } from '../standing.ts';
import type { PictureKind, Tools } from './define.ts';
import type { TrailsWork } from './work.ts';

/** Deviation of the smallest spot that pixels can hold, in pixels. */
const PIXEL_SIGMA = 0.45;
/** What is mirrored in wet ground is drawn out by its roughness: as wide as this share of the lamp's height. Common practice, no published source. */
const ROUGH_SHARE = 0.12;
/** So near to the ground's height a pixel is ground, in metres and as a share of its distance. */
const [GROUND_METRES, GROUND_SHARE] = [0.06, 0.004];

/** Lines are worked out once for a picture, whichever of its regions are made. */
const known = new WeakMap<TrailsWork, readonly Drawn[]>();
interface Drawn {
  readonly line: LampLine;
  readonly isMirrored: boolean;
}
function linesOf(work: TrailsWork): readonly Drawn[] {
  const before = known.get(work);
  if (before) return before;
  const lines = lampLines(work.trails, work.scale, false).map((line): Drawn => ({ line, isMirrored: false }));
  const mirrored = work.mirror > 0 && work.reads.sides !== null ? lampLines(work.trails, work.scale, true).map((line): Drawn => ({ line, isMirrored: true })) : [];
  const made = [...lines, ...mirrored];
  known.set(work, made);
  return made;
}

export const trails: PictureKind<TrailsWork> = {
  inputs: ({ reads }) => [reads.sides, reads.filter].filter((picture) => picture !== null),
  needs: ({ reads }, region) => [reads.sides, reads.filter].flatMap((picture) => (picture === null ? [] : [{ picture, region }])),
  make: (work, region, planes, tools) => {
    const area = region.width * region.height;
    const out = tools.backend.arena.take(planes * area).fill(0);
    if (planes > 3) out.fill(1, 3 * area, 4 * area);
    const painter = painterOf(work, region, out, tools);
    for (const drawn of linesOf(work)) painter(drawn);
    return { region, planes: out, opaque: true };
  },
};

/** Draws lines into the planes of a region. */
function painterOf(work: TrailsWork, region: Region, out: Float32Array, tools: Tools): (drawn: Drawn) => void {
  const { trails: { view, towards, away, lampHeightMetres, groundMetres }, scale, reads, mirror, areDepths } = work;
  const area = region.width * region.height;
  const sides = threePlanes(reads.sides, region, tools);
  const filter = mirror > 0 ? threePlanes(reads.filter, region, tools) : null;
  /** How much of a line is drawn at each pixel already: its pieces meet without adding up. */
  const most = new Float32Array(area);
  const ray = new Float64Array(3);
  const lens = lensOf({ view, scale, areDepths });
  /** How much of a lamp at a depth is seen at a pixel. */
  const seenAt = (i: number, x: number, y: number, depth: number): number => visibleAt(sides, i, depth * longer(lens, x, y));
  /** How much of what it mirrors the ground sends back at a pixel, without its colour; 0 where there is no ground. */
  const groundAt = (i: number, x: number, y: number): number => {
    if (!sides) return 0;
    const metres = sides[2 * area + i] > 0.5 ? sides[area + i] : sides[i];
    if (!(metres > 0) || metres >= SKY_METRES) return 0;
    rayInto(view, (x + 0.5) * scale, (y + 0.5) * scale, ray);
    const length = Math.hypot(ray[0], ray[1], ray[2]);
    const depth = areDepths ? metres : metres / length;
    if (Math.abs(view.eye[1] + ray[1] * depth - groundMetres) > GROUND_METRES + GROUND_SHARE * depth) return 0;
    return filter ? mirror : mirror * fresnel(Math.abs(ray[1]) / length);
  };
  return ({ line, isMirrored }) => {
    let [left, top, right, bottom] = [region.width, region.height, 0, 0];
    for (let v = 0; v + VERTEX < line.length; v += VERTEX) {
      const w = v + VERTEX;
      const [x0, y0, x1, y1] = [line[v] - region.x, line[v + 1] - region.y, line[w] - region.x, line[w + 1] - region.y];
      const rough = isMirrored ? (ROUGH_SHARE * lampHeightMetres * view.focalPx) / scale / Math.min(line[v + 2], line[w + 2]) : 0;
      const sigma = Math.sqrt((line[v + 3] ** 2 + line[w + 3] ** 2) / 8 + PIXEL_SIGMA ** 2 + rough ** 2);
      // A spot with an edge, as wide as the lamp and the pixel together: (1 − d²/R²)², whose variance is R²/7 and whose area 16 R/15.
      const reach = Math.sqrt(7) * sigma;
      const peak = ((Math.PI / 4) * (line[v + 3] + line[w + 3]) * 15) / (16 * reach);
      const [fromX, toX] = [Math.max(0, Math.ceil(Math.min(x0, x1) - reach - 0.5)), Math.min(region.width - 1, Math.floor(Math.max(x0, x1) + reach - 0.5))];
      const [fromY, toY] = [Math.max(0, Math.ceil(Math.min(y0, y1) - reach - 0.5)), Math.min(region.height - 1, Math.floor(Math.max(y0, y1) + reach - 0.5))];
      if (fromX > toX || fromY > toY) continue;
      [left, top, right, bottom] = [Math.min(left, fromX), Math.min(top, fromY), Math.max(right, toX), Math.max(bottom, toY)];
      const [dx, dy] = [x1 - x0, y1 - y0];
      const squared = dx * dx + dy * dy;
      for (let y = fromY; y <= toY; y++) {
        for (let x = fromX; x <= toX; x++) {
          const [px, py] = [x + 0.5 - x0, y + 0.5 - y0];
          const t = squared === 0 ? 0 : Math.min(1, Math.max(0, (px * dx + py * dy) / squared));
          const off = ((px - t * dx) ** 2 + (py - t * dy) ** 2) / (reach * reach);
          if (off >= 1) continue;
          const i = y * region.width + x;
          const depth = line[v + 2] + (line[w + 2] - line[v + 2]) * t;
          const spot = peak * (1 - off) * (1 - off);
          if (spot <= most[i]) continue;
          const seen = isMirrored ? groundAt(i, x + region.x, y + region.y) : seenAt(i, x + region.x, y + region.y, depth);
          if (seen <= 0) continue;
          const more = (spot - most[i]) * seen;
          most[i] = spot;
          const near = (line[v + 4] + (line[w + 4] - line[v + 4]) * t) * more;
          const far = (line[v + 5] + (line[w + 5] - line[v + 5]) * t) * more;
          for (let c = 0; c < 3; c++) out[c * area + i] += (towards[c] * near + away[c] * far) * (isMirrored && filter ? filter[c * area + i] : 1);
        }
      }
    }
    for (let y = top; y <= bottom; y++) most.fill(0, y * region.width + left, y * region.width + right + 1);
  };
}
