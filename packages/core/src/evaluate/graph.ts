/**
 * A plan at one level: every picture with the level it is made at, what it reads of which others, and whether it is kept. What is wanted
 * says which regions of all others are needed; the rest is never made.
 */
import type { PlannedTone } from '../tone/apply.ts';
import { grown, intersect, type Region, sizeAtLevel, tilesIn } from '../raster/region.ts';
import { digest } from '../digest.ts';
import { projected } from '../camera/view.ts';
import { pixelsPerMetre } from '../figures/card.ts';
import { focusPictures } from './focus-graph.ts';
import { kindOf } from './kinds/registry.ts';
import type { MixtureWork, PointsWork, Work } from './kinds/work.ts';
import { gaussianPhases } from './gaussian-phases.ts';
import { DRIFT_TAPS } from './kinds/drift.ts';
import { SMEAR_PASSES, SMEAR_TAPS } from './kinds/smear.ts';
import type { AffineMap } from '../raster/affine.ts';
import type { Triple } from '../vector.ts';
import { type DiffractionNode, type DriftNode, type FiguresNode, type GaussianNode, type GradedNode, keyAt, type LocalNode, type MembraneNode, type MixtureNode, type Place, type Plan, type PlannedMask, type SmearNode, type SmoothNode, type Step, type WarpNode } from './steps.ts';

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
  readonly tone: PlannedTone | null;
  /** What lies below the layer whose parameters are about to change is kept. */
  readonly focus: Place | null;
  /** Shows it by one of readings/registry.ts. */
  readonly reading?: string | null;
}

/** Kinds that are made once if several read them; the others cost less than what they would take up. */
const WORTH_KEEPING: ReadonlySet<Work['kind']> = new Set(['points', 'convolve', 'warp', 'sphere', 'figures', 'trails']);

const ONE: Triple = [1, 1, 1];
const meanOf = ([r, g, b]: Triple): number => (r + g + b) / 3;

/** The narrowest of the Gaussians that a graded blur goes between, at most: in pixels. */
const NARROWEST = 0.7;

/** What is smeared is made at no more than so many pixels on its long side. */
const SMEAR_SIZE = 1024;

/** What stands out less than this is no single pixel any more, at a coarse level. */
const LEAST_TIMES = 1.3;
/** A picture whose light is bent aside is made no larger than this. */
const DIFFRACTED_SIDE = 1024;
/** Shorter ways change nothing that pixels could show. */
const LEAST_DRIFT_PX = 0.25;

/** A membrane is made in so many passes, each so many times narrower than the one before. */
const [MEMBRANE_PASSES, MEMBRANE_STEP] = [4, 2];

/** Light at the foot of a figure is read of a picture that is no wider than so many pixels; and so many sizes of its own picture are made at most. */
const [FOOT_SIZE, MOST_SIZES] = [512, 7];

/** Kinds that read what they are made of with margins: it is made once, and kept. */
const READ_ACROSS: ReadonlySet<Work['kind']> = new Set(['convolve', 'warp', 'smooth', 'sphere', 'smear', 'despeckle', 'bend', 'parts', 'drift', 'diffract']);

type Draft = Omit<Picture, 'isKept'> & { readers: number; isReadAcross: boolean; mustKeep: boolean };

/** @throws CoreError if the plan is none */
export function graphFor(plan: Plan, level: number, { place, tone, focus, reading = null }: Target): Graph {
  const drafts: Draft[] = [];
  const made = new Map<string, number>();
  const whole: Region = { x: 0, y: 0, ...sizeAtLevel(plan.size, level) };
  const add = (key: string, at: number, planes: number, work: Work, domain: Region = whole): number => {
    const known = made.get(key);
    if (known !== undefined) return known;
    // Reduced pictures are small, and read with wide margins.
    drafts.push({ key, level: at, domain, planes, work, readers: 0, isReadAcross: false, mustKeep: at > level });
    for (const input of kindOf(work).inputs(work as never)) {
      drafts[input].readers++;
      if (READ_ACROSS.has(work.kind)) drafts[input].isReadAcross = true;
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
    const made = add(named(planned.keys[upto]), level, 4, pointsWork(base, steps, planned.keys.slice(cut, upto + 1), pictureOf), planned.domain ? atLevel(planned.domain, level) : whole);
    if (upto === planned.steps.length && plan.shared.includes(node)) drafts[made].mustKeep = true;
    return made;
  };
  /** Half or a quarter of the size, again and again. */
  const reduced = (from: number, key: string, coarser: number): number => {
    let at = from;
    for (let done = 0; done < coarser; ) {
      const by = Math.min(2, coarser - done) as 1 | 2;
      done += by;
      at = add(named(key, 'reduced', done), level + done, drafts[from].planes, { kind: 'reduce', input: at, by }, coarserDomain(drafts[from].domain, done));
    }
    return at;
  };
  const pictureOf = (node: number): number => {
    const planned = plan.nodes[node];
    if (planned.kind === 'points') return points(node, planned.steps.length);
    if (planned.kind === 'figures') return stood(planned);
    if (planned.kind === 'trails') {
      const { key, sides, filter, kind, ...look } = planned;
      return add(named(key), level, 4, { kind, ...look, scale: 2 ** level, reads: { sides: sides && pictureOf(sides.node), filter: filter && pictureOf(filter.node) } });
    }
    const input = pictureOf(planned.input);
    switch (planned.kind) {
      case 'gaussian':
        return blurred(planned, input);
      case 'diffraction':
        return diffracted(planned, input);
      case 'drift':
        return drifted(planned, input);
      case 'mixture':
        return mixed(planned, input);
      case 'graded':
        return gradedBlur(planned, input);
      case 'local':
        return local(planned, input);
      case 'smooth':
        return smoothed(planned, input);
      case 'sides': {
        // It is the same whatever is changed about what reads it.
        const made = add(named(planned.key), level, 3, { kind: 'sides', input }, drafts[input].domain);
        drafts[made].mustKeep = true;
        return made;
      }
      case 'sphere': {
        const { domain } = drafts[input];
        // Without the transparent pixel around it: it goes on at its sides.
        return add(named(planned.key), level, 4, { kind: 'sphere', input, view: planned.view, turnRadians: planned.turnRadians, size: domain === whole ? domain : grown(domain, -1), scale: 2 ** level });
      }
      case 'smear':
        return smeared(planned, input);
      case 'despeckle': {
        // A single pixel is a quarter of what is made of it at the next level, and stands out less.
        const times = 1 + (planned.times - 1) / 4 ** level;
        return times < LEAST_TIMES ? input : add(named(planned.key), level, 4, { kind: 'despeckle', input, times, floor: planned.floor, shows: planned.shows }, drafts[input].domain);
      }
      case 'membrane':
        return membrane(planned, input);
      case 'bend':
        return add(named(planned.key), level, 4, { kind: 'bend', input, bend: planned.bend, scale: 2 ** level, size: drafts[input].domain }, drafts[input].domain);
      case 'focus':
        return focusPictures(planned, input, pictureOf(planned.sides.node), { level, size: plan.size, add, named, reduced, coarserDomain, of: (picture) => drafts[picture] });
      case 'warp':
        return warped(planned, input);
    }
  };
  /** A guided filter of stops by themselves: means of moments, a line fitted to them, means of lines. All of it but the last enlarging is done on the reduced picture. */
  const lineOf = (key: string, told: number, sigmaPx: number, coarser: number, edgeStops: number): number => {
    const { domain } = drafts[told];
    const small = reduced(told, key, coarser);
    const at = drafts[small].domain;
    const means = add(named(key, 'means', sigmaPx, coarser), level + coarser, 3, { kind: 'convolve', input: small, sigmaPx }, at);
    const line = add(named(key, 'line', sigmaPx, coarser, edgeStops), level + coarser, 2, { kind: 'fit', input: means, edgeStops }, at);
    const smooth = add(named(key, 'lines', sigmaPx, coarser, edgeStops), level + coarser, 2, { kind: 'convolve', input: line, sigmaPx }, at);
    return coarser === 0 ? smooth : add(named(key, 'base', sigmaPx, coarser, edgeStops), level, 2, { kind: 'enlarge', input: smooth, by: coarser }, domain);
  };
  const local = ({ key, bases, weights }: LocalNode, input: number): number => {
    const of = drafts[input].key;
    const told = add(named(of, 'moments'), level, 3, { kind: 'moments', input }, drafts[input].domain);
    const kept = bases.map((base, n) => ({ ...base, n, phases: gaussianPhases(base.sigmaPx / 2 ** level) })).filter(({ phases }) => phases.sigmaPx > 0);
    // A base narrower than a pixel of this level is the picture itself: nothing lies on it.
    if (kept.length === 0 && !weights.curve) return input;
    const lines = kept.map(({ phases, edgeStops }) => lineOf(of, told, phases.sigmaPx, phases.coarser, edgeStops));
    const by = (values: readonly number[]) => kept.map(({ n }) => values[n]);
    return add(named(key), level, 4, { kind: 'local', input, lines, weights: { ...weights, amounts: by(weights.amounts), thresholds: by(weights.thresholds) } }, drafts[input].domain);
  };
  /** Only the light that a mask lets through. */
  const litBy = (from: PlannedMask | null, input: number): number => (from === null ? input : add(named(drafts[input].key, 'lit', from.key, from.inverted), level, 4, { kind: 'confine', input, mask: from }, drafts[input].domain));
  /** What stays of a picture, of which some light goes away: what it loses is taken from it; its alpha stays. */
  const staying = ({ own, others, from }: { readonly own: Triple; readonly others: 0 | 1; readonly from: PlannedMask | null }, input: number, lit: number, alpha: number): MixtureWork['parts'] =>
    from === null ? [{ picture: input, gain: own, alpha }] : [{ picture: input, gain: [others, others, others], alpha }, { picture: lit, gain: own.map((one) => one - others) as unknown as Triple, alpha: 0 }];
  /**
   * All Gaussians of one picture share what it is reduced to, and are added up on their way back, from the coarsest on: each size is enlarged once. That widens the coarse ones by less than a hundredth.
   */
  const mixed = ({ key, parts, ...scattering }: MixtureNode, input: number): number => {
    const lit = litBy(scattering.from, input);
    const { key: of, domain } = drafts[lit];
    const phased = parts.map(({ sigmaPx, gain }) => ({ gain, ...gaussianPhases(sigmaPx / 2 ** level) })).toSorted((one, other) => other.coarser - one.coarser);
    let made: { readonly picture: number; readonly coarser: number } | null = null;
    const goTo = (coarser: number) => {
      if (!made || made.coarser === coarser) return made;
      const small: Region = coarser === 0 ? domain : coarserDomain(domain, coarser);
      return { picture: add(named(key, 'enlarged', coarser), level + coarser, 4, { kind: 'enlarge', input: made.picture, by: made.coarser - coarser }, small), coarser };
    };
    for (const [k, { gain, coarser, sigmaPx }] of phased.entries()) {
      const small = reduced(lit, of, coarser);
      // What is narrower than a pixel of this level is the picture itself.
      const spread = sigmaPx === 0 ? small : add(named(of, 'convolved', coarser, sigmaPx), level + coarser, 4, { kind: 'convolve', input: small, sigmaPx }, drafts[small].domain);
      const before = goTo(coarser);
      made = { picture: add(named(key, 'sum', k), level + coarser, 4, { kind: 'mixture', parts: [{ picture: spread, gain, alpha: meanOf(gain) }, ...(before ? [{ picture: before.picture, gain: ONE, alpha: 1 }] : [])] }, drafts[small].domain), coarser };
    }
    const around = goTo(0);
    // Alpha is spread as the light is, whether what stays is shown or not; with the light of some lamps only it stays.
    const spreads = scattering.from === null;
    const stays = spreads ? 1 - parts.reduce((sum, { gain }) => sum + meanOf(gain), 0) : 1;
    return add(named(key), level, 4, { kind: 'mixture', parts: [...staying(scattering, input, lit, stays), ...(around ? [{ picture: around.picture, gain: ONE, alpha: spreads ? 1 : 0 }] : [])] }, domain);
  };
  const gradedBlur = ({ key, sigmaPx, middle, across, begins, full }: GradedNode, input: number): number => {
    const scale = 2 ** level;
    const widest = sigmaPx / scale;
    // From half a pixel on, each twice as wide as the one before.
    const steps = Math.max(0, Math.ceil(Math.log2(widest / NARROWEST)));
    const sigmas = [0, ...Array.from({ length: steps + 1 }, (_, k) => widest / 2 ** (steps - k))];
    const pictures = sigmas.map((sigma) => (sigma === 0 ? input : gaussianOf(input, drafts[input].key, sigma * scale)));
    if (pictures.every((picture) => picture === input)) return input;
    return add(named(key), level, 4, { kind: 'graded', pictures, sigmas, middle: [middle[0] / scale, middle[1] / scale], across, begins: begins / scale, full: full / scale }, drafts[input].domain);
  };
  const gaussianOf = (from: number, key: string, fullSigmaPx: number): number => {
    const { coarser, sigmaPx } = gaussianPhases(fullSigmaPx / 2 ** level);
    if (sigmaPx === 0) return from;
    const { domain, planes } = drafts[from];
    const small = reduced(from, key, coarser);
    const convolved = add(named(key, 'convolved', coarser, sigmaPx), level + coarser, planes, { kind: 'convolve', input: small, sigmaPx }, drafts[small].domain);
    return coarser === 0 ? convolved : add(named(key, 'enlarged', coarser, sigmaPx), level, planes, { kind: 'enlarge', input: convolved, by: coarser }, domain);
  };
  /** What spreads a picture, taking nothing from where a mask is empty. */
  const inside = (key: string, within: PlannedMask | null, input: number, spread: (begun: number) => number): number => {
    if (!within) return spread(input);
    const { domain } = drafts[input];
    const made = spread(add(named(key, 'confined'), level, 5, { kind: 'confine', input, mask: within }, domain));
    return add(named(key, 'released'), level, 4, { kind: 'release', input: made }, domain);
  };
  const blurred = ({ key, within, sigmaPx }: GaussianNode, input: number): number =>
    gaussianPhases(sigmaPx / 2 ** level).sigmaPx === 0 ? input : inside(key, within, input, (begun) => gaussianOf(begun, key, sigmaPx));
  /** In a picture of about the same size at every level: all of it is transformed at once. */
  const diffracted = ({ key, gain, streaks, reachPx, ...scattering }: DiffractionNode, input: number): number => {
    const lit = litBy(scattering.from, input);
    const { key: of, domain } = drafts[lit];
    const coarser = Math.max(0, Math.ceil(Math.log2(Math.max(plan.size.width, plan.size.height) / DIFFRACTED_SIDE)) - level);
    const small = reduced(lit, of, coarser);
    const [at, how] = [drafts[small].domain, JSON.stringify([streaks, reachPx])];
    const bent = add(named(of, 'diffracted', coarser, how), level + coarser, 4, { kind: 'diffract', input: small, streaks, reachPx: reachPx / 2 ** (level + coarser), size: at }, at);
    drafts[bent].mustKeep = true;
    const large = coarser === 0 ? bent : add(named(of, 'diffracted, enlarged', coarser, how), level, 4, { kind: 'enlarge', input: bent, by: coarser }, domain);
    return add(named(key), level, 4, { kind: 'mixture', parts: [...staying(scattering, input, lit, 1), { picture: large, gain, alpha: 0 }] }, domain);
  };
  /** Each pass draws out by a step of the one before, until steps are shorter than a pixel. */
  const drifted = ({ key, within, way }: DriftNode, input: number): number => {
    const length = Math.hypot(...way) / 2 ** level;
    if (length < LEAST_DRIFT_PX) return input;
    const passes = Math.max(1, Math.ceil(Math.log(length) / Math.log(DRIFT_TAPS)));
    return inside(key, within, input, (begun) => {
      let made = begun;
      for (let pass = 0; pass < passes; pass++) {
        const scale = 2 ** level * DRIFT_TAPS ** pass;
        made = add(named(key, 'pass', pass), level, drafts[begun].planes, { kind: 'drift', input: made, way: [way[0] / scale, way[1] / scale] }, drafts[begun].domain);
      }
      return made;
    });
  };
  /**
   * What a patch differs by from the picture, spread into the mask from all around it: what narrower Gaussians find left over is added to the wider ones, so that it meets the edge. Alpha is the picture's.
   */
  const membrane = ({ key, patch, within, sigmaPx }: MembraneNode, input: number): number => {
    const taken = patch && pictureOf(patch.node);
    const { domain } = drafts[input];
    const sum = (name: string, k: number, parts: readonly { readonly picture: number; readonly gain: number; readonly alpha: number }[]) =>
      add(named(key, name, k), level, 4, { kind: 'mixture', parts: parts.map(({ picture, gain, alpha }) => ({ picture, gain: [gain, gain, gain] as const, alpha })) }, domain);
    let rest = taken === null ? input : sum('differs', 0, [{ picture: input, gain: 1, alpha: 1 }, { picture: taken, gain: -1, alpha: 0 }]);
    let healed = sum('taken', 0, [...(taken === null ? [] : [{ picture: taken, gain: 1, alpha: 0 }]), { picture: input, gain: 0, alpha: 1 }]);
    for (let k = 0; k < MEMBRANE_PASSES; k++) {
      const confined = add(named(key, 'confined', k), level, 5, { kind: 'confine', input: rest, mask: within }, domain);
      const spread = add(named(key, 'spread', k), level, 4, { kind: 'release', input: gaussianOf(confined, drafts[confined].key, sigmaPx / MEMBRANE_STEP ** k) }, domain);
      healed = sum('healed', k, [{ picture: healed, gain: 1, alpha: 1 }, { picture: spread, gain: 1, alpha: 0 }]);
      rest = sum('rest', k, [{ picture: rest, gain: 1, alpha: 1 }, { picture: spread, gain: -1, alpha: 0 }]);
    }
    return healed;
  };
  /** Passes over less than a pixel of this level are done already: it was reduced. What each pass takes for noise is half of what the one before took. */
  const smoothed = ({ key, passes, lightStops, guides }: SmoothNode, input: number): number => {
    const pictures = guides.map(({ node, width }) => ({ picture: pictureOf(node), width }));
    let made = input;
    for (let pass = level; pass < passes; pass++) {
      const { domain } = drafts[made];
      made = add(named(key, 'pass', pass), level, 4, { kind: 'smooth', input: made, distance: 2 ** (pass - level), lightStops: lightStops / 2 ** pass, guides: pictures }, domain);
    }
    return made;
  };
  /** In a picture of about the same size at every level: what is smeared has no finer detail across the rays that would be missed. */
  const smeared = ({ key, towards, reachPx }: SmearNode, input: number): number => {
    const coarser = Math.max(0, Math.ceil(Math.log2(Math.max(plan.size.width, plan.size.height) / SMEAR_SIZE)) - level);
    const scale = 2 ** (level + coarser);
    let made = reduced(input, drafts[input].key, coarser);
    const { domain } = drafts[made];
    for (let pass = 0; pass < SMEAR_PASSES; pass++) {
      made = add(named(key, 'smeared', pass), level + coarser, 4, { kind: 'smear', input: made, towards: [towards[0] / scale, towards[1] / scale], reachPx: reachPx / scale, share: SMEAR_TAPS ** -pass }, domain);
      drafts[made].mustKeep = true;
    }
    return coarser === 0 ? made : add(named(key, 'enlarged'), level, 4, { kind: 'enlarge', input: made, by: coarser }, whole);
  };
  /** Figures, each with its picture at about the size in which it is seen and at smaller ones, for what is blurred. */
  const stood = ({ key, part, figures, below, sides, normals, mirrors, caught, shines, sunlight, filter, ...node }: FiguresNode): number => {
    const { kind, ...look } = node;
    const read = (one: { readonly node: number } | null | undefined) => (one ? pictureOf(one.node) : null);
    const made = figures.map(({ node: own, box, card }) => {
      const picture = pictureOf(own);
      const depth = projected(look.view, card.foot)?.depthMetres ?? 1;
      const first = Math.max(0, Math.floor(Math.log2((depth / look.view.focalPx) * pixelsPerMetre(card))));
      const sizes = Math.max(1, Math.floor(Math.log2(Math.min(box.width, box.height))) - level - first);
      const levels = Array.from({ length: Math.min(MOST_SIZES, sizes) }, (_, n) => {
        const at = reduced(picture, drafts[picture].key, first + n);
        return { picture: at, size: drafts[at].domain, scale: 2 ** (level + first + n) };
      });
      return { card, box, levels };
    });
    // What light there is at a foot is asked of pictures of about the same size at every level.
    const coarser = Math.max(0, Math.ceil(Math.log2(plan.size.width / FOOT_SIZE)) - level);
    const small = (one: { readonly node: number } | null | undefined) => {
      const picture = read(one);
      return picture === null ? null : reduced(picture, drafts[picture].key, coarser);
    };
    const isLit = (part === 'figures' || part === 'cast') && below !== null;
    const mirror = mirrors && part === 'cast' ? { filter: read(mirrors.filter), dark: mirrors.filter === null ? read(filter) : null, reflection: read(mirrors.reflection) as number } : null;
    const suns = sunlight && { sun: read(sunlight.sun) as number, all: read(sunlight.all) as number };
    const reads = { below: part === 'cast' || part === 'cover' ? read(below) : null, sides: read(sides), normals: part === 'cast' ? read(normals) : null, caught: part === 'cast' ? read(caught) : null, shines: part === 'figures' ? read(shines) : null, mirror, sunlight: part === 'cast' ? suns : null };
    const light = { picture: isLit ? small(below) : null, filter: isLit ? small(filter) : null, sun: isLit ? small(sunlight?.sun) : null, all: isLit ? small(sunlight?.all) : null, scale: 2 ** (level + coarser) };
    const done = add(named(key), level, part === 'sides' ? 3 : 4, { kind, ...look, part, scale: 2 ** level, size: plan.size, figures: made, reads, light });
    if (part === 'sides' || part === 'cover') drafts[done].mustKeep = true;
    return done;
  };
  const warped = ({ key, map, filter }: WarpNode, input: number): number => {
    // What is drawn at less than half its size is read from a reduced picture.
    const shrinking = Math.min(Math.hypot(map[0], map[2]), Math.hypot(map[1], map[3]));
    const coarser = Math.max(0, Math.floor(Math.log2(shrinking) + 1e-9));
    const from = reduced(input, key, coarser);
    // A picture that fills everything goes on beyond its edges; what it goes on with is no part of what is placed.
    const size = coarser > 0 && drafts[input].domain === whole ? grown(drafts[from].domain, -MARGIN) : drafts[from].domain;
    return add(named(key), level, 4, { kind: 'warp', input: from, map: mapBetween(map, level, coarser), filter, size });
  };

  const top = points(place.node, place.steps);
  const keepFocus = focus ? drafts[made.get(named(keyAt(plan, focus))) ?? -1] : undefined;
  if (keepFocus) keepFocus.mustKeep = true;
  const steps: Step[] = [...(tone === null ? [] : [{ kind: 'tone', tone } as const]), ...(reading === null ? [] : [{ kind: 'reading', reading } as const])];
  const root = steps.length === 0 && drafts[top].work.kind === 'points' ? top : add(named(digest(`${drafts[top].key} ${tone?.key} ${reading}`)), level, 4, pointsWork(top, steps, [drafts[top].key, ...steps.map(() => '')], pictureOf));
  const pictures = drafts.map(({ readers, isReadAcross, mustKeep, ...picture }, i): Picture => ({ ...picture, isKept: i !== root && (mustKeep || isReadAcross || (readers > 1 && WORTH_KEEPING.has(picture.work.kind))) }));
  return { level, pictures, root };
}

/** A region of the full picture at a level, with the first transparent pixel around it: what goes on beyond is then nothing. */
function atLevel({ x, y, width, height }: Region, level: number): Region {
  // As sources lie at that level: see engine's source store.
  const scale = 2 ** level;
  return grown({ x: Math.floor(x / scale), y: Math.floor(y / scale), ...sizeAtLevel({ width, height }, level) }, 1);
}

/** Pixels more around a reduced picture, so that what is seen of its edge from outside is part of it. */
const MARGIN = 2;

function coarserDomain({ x, y, width, height }: Region, by: number): Region {
  const scale = 2 ** by;
  const [left, top] = [Math.floor(x / scale), Math.floor(y / scale)];
  return grown({ x: left, y: top, width: Math.ceil((x + width) / scale) - left, height: Math.ceil((y + height) / scale) - top }, MARGIN);
}

/** The same map from pixels of one level to pixels of a coarser one. Centres of pixels lie at a half. */
function mapBetween([a, b, c, d, e, f]: AffineMap, level: number, coarser: number): AffineMap {
  const to = 2 ** coarser;
  return [a / to, b / to, c / to, d / to, e / 2 ** level / to, f / 2 ** level / to];
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
const nodesOf = (steps: readonly Step[]): number[] =>
  steps.flatMap((step) => {
    if (step.kind === 'replace') return [step.node];
    if (step.kind !== 'layer') return [];
    const read = step.from.kind === 'sum' ? step.from.summands.flatMap(({ factors }) => factors) : step.from.kind === 'formula' ? step.from.reads : null;
    const origins = read ? read.flatMap((factor) => (factor ? [factor.from] : [])) : [step.from];
    return [...origins.flatMap((from) => (from.kind === 'picture' ? [from.node] : [])), ...step.actions.flatMap((action) => (action.kind === 'multiply' ? [action.node] : []))];
  });

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
