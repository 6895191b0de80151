/** A recipe turned into a plane of coverage: terms joined row by row, then grown, softened, inverted, weakened. */
import type { Mask, MaskTerm, TazzelDocument } from '../model/model.ts';
import { growCoverage } from '../raster/distance.ts';
import { gaussianBlur } from '../raster/gaussian.ts';
import { guidedFilter } from '../raster/guided.ts';
import type { Plane } from '../raster/planes.ts';
import { sizeAtLevel } from '../raster/region.ts';
import { findMask } from '../model/query.ts';
import { masksNamedBy, referenceCircles } from './circles.ts';
import { type FillRow, type MaskInputs, type MaskView, type Need, needKey } from './define.ts';
import { shortened } from '../limits.ts';
import { completeParams, referencesOf } from '../params/table.ts';
import { lightness, readLight } from './read.ts';
import { isTermType, knownTerm, termSpec } from './registry.ts';

/** What is wrong with a mask. `term` counts from 0; null speaks of the mask as a whole. */
export interface MaskProblem {
  readonly term: number | null;
  readonly sentence: string;
  /** The name of the mask that it is about, if that is another one that this one refers to. */
  readonly within?: string;
}

/** What is wrong, with the name of the mask that it is about if that is another one. */
export const problemSentence = ({ within, sentence }: MaskProblem): string => (within === undefined ? sentence : `${within}: ${sentence}`);

/** A mask with everything decided that depends on the document: which elements its terms read, which terms take part. */
export interface ResolvedMask {
  readonly mask: Mask;
  readonly needs: readonly Need[];
  readonly problems: readonly MaskProblem[];
}

/** The element along whose edges a mask is softened. */
const guideOf = ({ sources }: TazzelDocument) => (['denoised-beauty', 'beauty', 'picture'] as const).map((role) => sources.find((source) => source.role === role)).find((source) => source !== undefined) ?? null;

/**
 * Terms that cannot work are left out and named; the rest of the mask is as it would be without them. Some problems (a material
 * that the new render does not hold) let the term work with what is left.
 */
export function resolveMask(document: TazzelDocument, mask: Mask): ResolvedMask {
  const problems: MaskProblem[] = [];
  const needs = new Map<string, Need>();
  const terms: MaskTerm[] = [];
  for (const [i, term] of mask.terms.entries()) {
    const known = knownTerm(term);
    if (!known) {
      problems.push({ term: i, sentence: `This version does not know “${shortened(term.type, 40)}”. The line stays, and selects nothing.` });
      continue;
    }
    const { spec } = known;
    const fault = refersBack(document, mask, referencesOf(spec, known.values, 'mask')) ?? spec.fault?.(known.values, document) ?? null;
    const sentence = fault ?? spec.problem?.(known.values, document) ?? null;
    if (sentence) problems.push({ term: i, sentence });
    if (term.muted || fault) continue;
    const values = spec.resolve?.(known.values, document) ?? known.values;
    terms.push({ ...term, params: values });
    for (const need of spec.needs(values, document)) needs.set(needKey(need), need);
  }
  const guide = mask.followEdges && mask.featherPx > 0 ? guideOf(document) : null;
  if (guide) needs.set(needKey({ what: 'view', sourceId: guide.id }), { what: 'view', sourceId: guide.id });
  return { mask: { ...mask, terms, followEdges: guide !== null }, needs: [...needs.values()], problems };
}

/** Ids of masks that a mask refers to, itself included where it does so in a circle. */
export function masksWithin(document: TazzelDocument, mask: Mask): ReadonlySet<string> {
  const found = new Set<string>();
  const waiting = [mask];
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    for (const maskId of masksNamedBy(next)) {
      if (found.has(maskId)) continue;
      found.add(maskId);
      const inner = findMask(document, maskId);
      if (inner) waiting.push(inner);
    }
  }
  return found;
}

/** Files can hold what no edit makes: masks that refer to each other in a circle. */
function refersBack(document: TazzelDocument, mask: Mask, named: readonly string[]): string | null {
  const inner = named.flatMap((id) => findMask(document, id) ?? []).find(({ id }) => id === mask.id || referenceCircles(document).get(mask.id)?.has(id));
  return inner ? `${inner.name} refers back to this mask. Take one of the two references out.` : null;
}

export const isSmooth = ({ terms, featherPx }: Mask): boolean => featherPx > 0 || terms.some(({ type }) => isTermType(type) && termSpec(type).isSmooth);

/**
 * Coverage at a level, as large as the picture there. In bytes, or in 16 bits where steps would show.
 *
 * Coverages of materials are shares of a pixel: they are added and subtracted as such. All others overlap by chance, so that
 * adding is 1 − (1 − a)(1 − b) and subtracting a(1 − b). Intersecting multiplies.
 *
 * @param guideId the element whose edges a softened mask follows, among the views of the inputs
 */
export function evaluateMask(mask: Mask, inputs: MaskInputs, guideId: string | null = null): Plane {
  const { width, height } = sizeAtLevel(inputs.size, inputs.level);
  const smooth = isSmooth(mask);
  const { growPx, featherPx, inverted, strength } = mask;
  const scale = 1 / 2 ** inputs.level;
  const fill = joined(mask.terms, inputs, width);
  const most = smooth ? 65535 : 255;
  const data = smooth ? new Uint16Array(width * height) : new Uint8Array(width * height);
  const store = (values: Float32Array, at: number) => storeCoverage(values, data.subarray(at, at + values.length), strength * most, inverted);
  if (growPx === 0 && featherPx === 0) {
    const row = new Float32Array(width);
    for (let y = 0; y < height; y++) {
      fill(y, row);
      store(row, y * width);
    }
  } else {
    let whole = new Float32Array(width * height);
    for (let y = 0; y < height; y++) fill(y, whole.subarray(y * width, (y + 1) * width));
    growCoverage(whole, width, height, growPx * scale);
    const guide = guideId === null ? undefined : inputs.views[needKey({ what: 'view', sourceId: guideId })];
    if (featherPx > 0 && guide) whole = followed(whole, guide, width, height, featherPx * scale);
    else gaussianBlur(whole, width, height, featherPx * scale);
    store(whole, 0);
  }
  return { type: smooth ? 'u16' : 'u8', width, height, data };
}

/** A loop of its own, with all it needs in arguments: as part of a closure it took four times as long. */
function storeCoverage(values: Float32Array, to: Uint8Array | Uint16Array, most: number, inverted: boolean): void {
  const [from, gain] = inverted ? [most + 0.5, -most] : [0.5, most];
  const limit = most + 0.5;
  for (let i = 0; i < to.length; i++) {
    // Rounded by cutting off: coverage is not negative. Blurred it can be a trace above 1; what is not a number becomes 0.
    const value = from + values[i] * gain;
    to[i] = value > limit ? limit : value;
  }
}

function joined(terms: readonly MaskTerm[], inputs: MaskInputs, width: number): FillRow {
  const prepared = terms.map((term) => {
    const spec = termSpec(term.type);
    return { fill: spec.prepare(completeParams(spec, term.params), inputs), operation: term.operation, areShares: spec.areShares };
  });
  const own = new Float32Array(width);
  return (y, out) => {
    out.fill(0);
    for (const [n, { fill, operation, areShares }] of prepared.entries()) {
      if (n === 0 && operation === 'add') {
        fill(y, out);
        continue;
      }
      fill(y, own);
      // A recipe that begins by taking away begins with everything.
      if (n === 0) out.fill(1);
      if (operation === 'intersect') for (let x = 0; x < width; x++) out[x] *= own[x];
      else if (operation === 'add' && areShares) for (let x = 0; x < width; x++) out[x] = Math.min(1, out[x] + own[x]);
      else if (operation === 'add') for (let x = 0; x < width; x++) out[x] += (1 - out[x]) * own[x];
      else if (areShares) for (let x = 0; x < width; x++) out[x] = Math.max(0, out[x] - own[x]);
      else for (let x = 0; x < width; x++) out[x] *= 1 - own[x];
    }
  };
}

/** Contrast of the guide below which it counts as flat, as a variance of display values. */
const FLAT = 0.002;

function followed(coverage: Float32Array, view: MaskView, width: number, height: number, sigmaPx: number): Float32Array<ArrayBuffer> {
  const [r, g, b] = readLight(view);
  const guide = new Float32Array(width * height);
  for (let y = 0, i = 0; y < height; y++) for (let x = 0; x < width; x++, i++) guide[i] = Math.min(1, lightness(r(x, y), g(x, y), b(x, y)));
  // A box of this radius is about as wide as the Gaussian.
  const smooth = guidedFilter(coverage, guide, width, height, Math.max(1, Math.round(sigmaPx * 1.7)), FLAT);
  return Float32Array.from(smooth, (v) => Math.min(1, Math.max(0, v)));
}
