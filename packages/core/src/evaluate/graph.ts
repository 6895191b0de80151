/**
 * A plan at one level: every picture with the level it is made at, what it reads of which others, and whether it is kept. What is wanted
 * says which regions of all others are needed; the rest is never made.
 */
import type { ToneCurveId } from '../color/tone-curves.ts';
import { intersect, type Region, sizeAtLevel, tilesIn } from '../raster/region.ts';
import { digest } from './key.ts';
import { kindOf } from './kinds/registry.ts';
import type { PointsWork, Work } from './kinds/work.ts';
import { gaussianPhases } from './gaussian-phases.ts';
import { keyAt, type Place, type Plan, type Step } from './steps.ts';

export interface Picture {
  /** All that its pixels depend on, its level included. */
  readonly key: string;
  readonly level: number;
  /** The pixels that there are, at its level. Beyond them the outermost go on. */
  readonly domain: Region;
  /** Red, green, blue and alpha, premultiplied; the weight of a mask as a fifth. */
  readonly planes: number;
  /** It is made tile by tile and kept, because it is read across pixels or by several. All others are made where they are read. */
  readonly isKept: boolean;
  readonly work: Work;
}

export interface Graph {
  readonly level: number;
  readonly pictures: readonly Picture[];
  readonly root: number;
}

/** What is wanted of a plan. */
export interface Target {
  readonly place: Place;
  /** Passes the tone line on top of it. */
  readonly tone: ToneCurveId | null;
  /** What lies below the layer whose parameters are about to change is kept. */
  readonly focus: Place | null;
}

type Draft = Omit<Picture, 'isKept'> & { readers: number; isReadAcross: boolean; mustKeep: boolean };

/** @throws CoreError if the plan is none */
export function graphFor(plan: Plan, level: number, { place, tone, focus }: Target): Graph {
  const drafts: Draft[] = [];
  const made = new Map<string, number>();
  const pictureAt = (at: number) => {
    const { width, height } = sizeAtLevel(plan.size, at);
    // Two pixels more, so that what is seen of the edge from outside is part of a reduced picture.
    return at === level ? { x: 0, y: 0, width, height } : { x: -2, y: -2, width: width + 4, height: height + 4 };
  };
  const add = (key: string, at: number, planes: number, work: Work): number => {
    const known = made.get(key);
    if (known !== undefined) return known;
    drafts.push({ key, level: at, domain: pictureAt(at), planes, work, readers: 0, isReadAcross: false, mustKeep: work.kind === 'reduce' });
    for (const input of kindOf(work).inputs(work as never)) {
      drafts[input].readers++;
      if (work.kind === 'convolve') drafts[input].isReadAcross = true;
    }
    made.set(key, drafts.length - 1);
    return drafts.length - 1;
  };
  const named = (key: string, ...phase: unknown[]) => keyAtLevel([key, ...phase].join(' '), level);

  const points = (node: number, upto: number): number => {
    const planned = plan.nodes[node];
    if (planned.kind !== 'points') throw new Error('Only runs have places.');
    if (upto === 0 && planned.base !== null) return pictureOf(planned.base);
    const cut = focus?.node === node && focus.steps > 0 && focus.steps < upto ? focus.steps : 0;
    const base = cut > 0 ? points(node, cut) : planned.base === null ? null : pictureOf(planned.base);
    const steps = planned.steps.slice(cut, upto);
    return add(named(planned.keys[upto]), level, 4, pointsWork(base, steps, planned.keys.slice(cut, upto + 1), pictureOf));
  };
  const pictureOf = (node: number): number => {
    const planned = plan.nodes[node];
    if (planned.kind === 'points') return points(node, planned.steps.length);
    const { key, within } = planned;
    const input = pictureOf(planned.input);
    const { coarser, sigmaPx } = gaussianPhases(planned.sigmaPx / 2 ** level);
    if (sigmaPx === 0) return input;
    const planes = within ? 5 : 4;
    let from = within ? add(named(key, 'confined'), level, planes, { kind: 'confine', input, mask: within }) : input;
    for (let done = 0; done < coarser; ) {
      const by = Math.min(2, coarser - done) as 1 | 2;
      done += by;
      from = add(named(key, 'reduced', done), level + done, planes, { kind: 'reduce', input: from, by });
    }
    from = add(named(key, 'convolved'), level + coarser, planes, { kind: 'convolve', input: from, sigmaPx });
    if (coarser > 0) from = add(named(key, 'enlarged'), level, planes, { kind: 'enlarge', input: from, by: coarser });
    return within ? add(named(key), level, 4, { kind: 'release', input: from }) : from;
  };

  const top = points(place.node, place.steps);
  const keepFocus = focus ? drafts[made.get(named(keyAt(plan, focus))) ?? -1] : undefined;
  if (keepFocus) keepFocus.mustKeep = true;
  const steps: Step[] = tone === null ? [] : [{ kind: 'tone', curve: tone }];
  const root = tone === null && drafts[top].work.kind === 'points' ? top : add(named(digest(`${drafts[top].key} ${tone}`)), level, 4, pointsWork(top, steps, [drafts[top].key, ''], pictureOf));
  const pictures = drafts.map(({ readers, isReadAcross, mustKeep, ...picture }, i): Picture => ({ ...picture, isKept: i !== root && (mustKeep || isReadAcross || (readers > 1 && (picture.work.kind === 'points' || picture.work.kind === 'convolve'))) }));
  return { level, pictures, root };
}

function pointsWork(base: number | null, steps: readonly Step[], keys: readonly string[], pictureOf: (node: number) => number): Work {
  return { kind: 'points', base, steps, keys, nodes: Object.fromEntries(nodesOf(steps).map((node) => [node, pictureOf(node)])) };
}

/** The key of a picture of a plan at a level. */
export const keyAtLevel = (key: string, level: number): string => `${key}@${level}`;

/** A run without its first steps, whose result is there already. */
export function restOf({ steps, keys, nodes }: PointsWork, from: number): PointsWork {
  const left = steps.slice(from);
  return { kind: 'points', base: null, steps: left, keys: keys.slice(from), nodes: Object.fromEntries(nodesOf(left).map((node) => [node, nodes[node]])) };
}

/** Nodes of the plan that steps read. */
const nodesOf = (steps: readonly Step[]): number[] => steps.flatMap((step) => (step.kind === 'replace' ? [step.node] : step.kind === 'layer' && step.from.kind === 'picture' ? [step.from.node] : []));

/** A tile of a kept picture. */
export interface KeptTile {
  readonly picture: number;
  readonly tile: Region;
}

/** The kept tiles that making a region of a picture reads directly; `from` is how many of its steps are done already. */
export function tilesNeeded(graph: Graph, picture: number, region: Region, from = 0): KeptTile[] {
  const found = new Map<string, KeptTile>();
  const visit = (work: Work, wanted: Region) => {
    for (const need of kindOf(work).needs(work as never, wanted)) {
      const input = graph.pictures[need.picture];
      const inside = insideOf(input.domain, need.region);
      if (!input.isKept) visit(input.work, inside);
      else for (const tile of tilesIn(input.domain, inside)) found.set(`${need.picture} ${tile.x} ${tile.y}`, { picture: need.picture, tile });
    }
  };
  const { work } = graph.pictures[picture];
  visit(from > 0 && work.kind === 'points' ? restOf(work, from) : work, region);
  return [...found.values()];
}

/** The part of a region that lies in a picture; at least the pixel next to it, which goes on beyond the edge. */
export function insideOf(domain: Region, region: Region): Region {
  const x = Math.min(domain.x + domain.width - 1, Math.max(domain.x, region.x));
  const y = Math.min(domain.y + domain.height - 1, Math.max(domain.y, region.y));
  const right = Math.min(domain.x + domain.width, Math.max(domain.x + 1, region.x + region.width));
  const bottom = Math.min(domain.y + domain.height, Math.max(domain.y + 1, region.y + region.height));
  return intersect(domain, { x, y, width: Math.max(1, right - x), height: Math.max(1, bottom - y) }) as Region;
}
