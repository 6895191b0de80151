/**
 * The one place where a plan becomes pixels. Tiles are walked in spans that stay in the cache while all layers pass
 * over them; the accumulator is planar, premultiplied and float32.
 */
import { CoreError } from '../errors.ts';
import type { Plane } from '../raster/planes.ts';
import type { Region } from '../raster/region.ts';
import type { Backend, ColorRegisters, Coverage, Register } from './backend.ts';
import type { SourceView } from './view.ts';
import type { CloseGroupStep, CorrectStep, ElementStep, Plan, PlannedCorrection, PlannedMask } from './plan.ts';

/** Where the evaluator gets its pixels from, at the level it works on. */
export interface Inputs {
  source(sourceId: string): SourceView;
  /** Coverage as bytes, as large as the picture at this level. */
  mask(key: string): Plane;
}

/** A tile of results: four planes after each other (red, green, blue premultiplied, alpha), each width × height. */
export interface TilePixels {
  readonly region: Region;
  readonly planes: Float32Array;
  readonly opaque: boolean;
}

export interface TileTask {
  readonly plan: Plan;
  readonly region: Region;
  readonly inputs: Inputs;
  /** Go on from the result after `steps` steps. */
  readonly start?: { readonly steps: number; readonly pixels: TilePixels };
  /** Return the results after these numbers of steps. */
  readonly captures: readonly number[];
}

export interface TileResult {
  readonly pixels: ReadonlyMap<number, TilePixels>;
  /** How many steps were computed: what a cache saved can be read off it. */
  readonly stepsRun: number;
}

export class Evaluator {
  readonly #backend: Backend;
  readonly #sum: ColorRegisters;
  readonly #sumAlpha: Register;
  readonly #span: ColorRegisters;
  readonly #scratch: ColorRegisters;
  readonly #spanAlpha: Register;
  readonly #mask: Register;
  readonly #weight: Register;
  /** What lay below the groups that are open, one entry for each depth ever reached. */
  readonly #below: { color: ColorRegisters; alpha: Register }[] = [];

  constructor(backend: Backend) {
    const color = (): ColorRegisters => [backend.register(), backend.register(), backend.register()];
    this.#backend = backend;
    this.#sum = color();
    this.#sumAlpha = backend.register();
    this.#span = color();
    this.#scratch = color();
    this.#spanAlpha = backend.register();
    this.#mask = backend.register();
    this.#weight = backend.register();
  }

  /** @throws CoreError `unknown-operation` if the plan holds an operation that reaches beyond its own pixel */
  run(task: TileTask): TileResult {
    const { plan, region, start } = task;
    if (plan.reachPx > 0) throw new CoreError('unknown-operation', 'A correction declares a reach, and all corrections so far must work pixel by pixel.');
    const first = start?.steps ?? 0;
    const last = Math.max(first, ...task.captures);
    const area = region.width * region.height;
    const captures = new Map(task.captures.map((steps) => [steps, { planes: new Float32Array(area * 4), opaque: true }]));
    for (const span of spansOf(region, this.#backend.spanLength)) {
      let opaque = this.#begin(start?.pixels ?? null, span, area);
      this.#capture(captures.get(first), span, area, opaque);
      const opened: boolean[] = [];
      for (let index = first; index < last; index++) {
        const step = plan.steps[index];
        if (step.kind === 'open-group') {
          this.#openGroup(opened.length, step.isolated, span.count);
          opened.push(opaque);
          if (step.isolated) opaque = false;
        } else if (step.kind === 'close-group') opaque = this.#closeGroup(step, task, span, opened.length - 1, opened.pop() as boolean, opaque);
        else if (step.kind === 'element') opaque = this.#element(step, task, span, opaque);
        else if (step.kind === 'correct') this.#correctSum(step, task, span, opaque);
        // Where nothing lies under the tone line there is nothing to encode.
        else if (index > 0) this.#tone(span.count, opaque);
        this.#capture(captures.get(index + 1), span, area, opaque);
      }
    }
    const pixels = new Map([...captures].map(([steps, { planes, opaque }]) => [steps, { region, planes, opaque }]));
    return { pixels, stepsRun: last - first };
  }

  #begin(from: TilePixels | null, span: Span, area: number): boolean {
    for (const [channel, register] of [...this.#sum, this.#sumAlpha].entries()) {
      if (from) register.values.set(from.planes.subarray(channel * area + span.offset, channel * area + span.offset + span.count));
      else this.#backend.fill(register, 0, 0, span.count);
    }
    return from?.opaque ?? false;
  }

  #capture(into: { planes: Float32Array; opaque: boolean } | undefined, span: Span, area: number, opaque: boolean): void {
    if (!into) return;
    for (const [channel, register] of [...this.#sum, this.#sumAlpha].entries()) {
      into.planes.set(register.values.subarray(0, span.count), channel * area + span.offset);
    }
    into.opaque &&= opaque;
  }

  #element(step: ElementStep, task: TileTask, span: Span, opaque: boolean): boolean {
    const source = task.inputs.source(step.sourceId);
    const parts = overlaps(span, source);
    const hasAlpha = this.#loadAlpha(source, span, parts);
    const covered = this.#coverage(this.#weight, step.opacity, hasAlpha ? this.#spanAlpha : null, step.mask, task, span);
    if (covered === 'empty') return opaque;
    const backend = this.#backend;
    for (let channel = 0; channel < 3; channel++) {
      const plane = source.color[Math.min(channel, source.color.length - 1)];
      // Grey is read once and copied.
      if (channel > 0 && source.color.length === 1) this.#span[channel].values.set(this.#span[0].values.subarray(0, span.count));
      else this.#loadPlane(this.#span[channel], plane, span, parts, step.load);
    }
    if (hasAlpha && source.premultiplied) backend.divideAlpha(this.#span, this.#spanAlpha, span.count);
    for (const action of step.actions) {
      if (action.kind === 'correct') this.#correct(action.correction, task, span);
      else if (action.kind === 'scale') backend.scale(this.#span, action.scale, action.offset, span.count);
      else if (action.kind === 'clamp') backend.clampToUnit(this.#span, span.count);
      else backend.transfer(action.kind === 'to-light' ? 'decode' : 'encode', this.#span, span.count);
    }
    if (covered === 'full' && step.blend === 'normal') {
      for (const channel of [0, 1, 2] as const) this.#sum[channel].values.set(this.#span[channel].values.subarray(0, span.count));
      backend.fill(this.#sumAlpha, 1, 0, span.count);
      return true;
    }
    backend.blend(step.blend, step.zone, this.#sum, this.#sumAlpha, this.#span, this.#weight, span.count, opaque);
    return opaque || covered === 'full';
  }

  #openGroup(depth: number, isolated: boolean, count: number): void {
    const backend = this.#backend;
    this.#below[depth] ??= { color: [backend.register(), backend.register(), backend.register()], alpha: backend.register() };
    const below = [...this.#below[depth].color, this.#below[depth].alpha];
    for (const [channel, register] of [...this.#sum, this.#sumAlpha].entries()) {
      below[channel].values.set(register.values.subarray(0, count));
      if (isolated) backend.fill(register, 0, 0, count);
    }
  }

  /** Leaves the accumulator as if the group had been one layer on what was below. Returns whether it is opaque. */
  #closeGroup(step: CloseGroupStep, task: TileTask, span: Span, depth: number, belowOpaque: boolean, opaque: boolean): boolean {
    const backend = this.#backend;
    const { count } = span;
    const below = this.#below[depth];
    if (!step.isolated) {
      // What the group did, seen as far as opacity and mask let it through.
      const covered = this.#coverage(this.#weight, step.opacity, null, step.mask, task, span);
      if (covered === 'full') return opaque;
      if (covered === 'partial') {
        backend.mix(below.color, this.#sum, this.#weight, count);
        backend.mix([below.alpha, this.#mask, this.#mask], [this.#sumAlpha, this.#mask, this.#mask], this.#weight, count);
      }
      this.#restore(below, count);
      return covered === 'empty' ? belowOpaque : belowOpaque && opaque;
    }
    const covered = this.#coverage(this.#weight, step.opacity, opaque ? null : this.#sumAlpha, step.mask, task, span);
    for (const channel of [0, 1, 2] as const) this.#span[channel].values.set(this.#sum[channel].values.subarray(0, count));
    if (!opaque) backend.divideAlpha(this.#span, this.#sumAlpha, count);
    this.#restore(below, count);
    if (covered === 'empty') return belowOpaque;
    if (step.zone === 'picture') backend.clampToUnit(this.#span, count);
    backend.blend(step.blend, step.zone, this.#sum, this.#sumAlpha, this.#span, this.#weight, count, belowOpaque);
    return belowOpaque || (covered === 'full' && step.blend === 'normal');
  }

  #restore({ color, alpha }: { color: ColorRegisters; alpha: Register }, count: number): void {
    for (const channel of [0, 1, 2] as const) this.#sum[channel].values.set(color[channel].values.subarray(0, count));
    this.#sumAlpha.values.set(alpha.values.subarray(0, count));
  }

  /** A correction in a layer's chain, on the layer's own straight colours. */
  #correct(correction: PlannedCorrection, task: TileTask, span: Span): void {
    const backend = this.#backend;
    if (correction.mask === null && correction.opacity === 1) {
      backend.correct(correction.type, correction.prepared, this.#span, span.count);
      return;
    }
    // The layer's own coverage waits in #weight, so the correction's weight is made in the mask's register.
    if (this.#coverage(this.#mask, correction.opacity, null, correction.mask, task, span) === 'empty') return;
    this.#copyToScratch(this.#span, span.count);
    backend.correct(correction.type, correction.prepared, this.#scratch, span.count);
    backend.mix(this.#span, this.#scratch, this.#mask, span.count);
  }

  /** A correction of everything below, on the accumulator. */
  #correctSum({ correction, throughLight }: CorrectStep, task: TileTask, span: Span, opaque: boolean): void {
    const covered = this.#coverage(this.#mask, correction.opacity, null, correction.mask, task, span);
    if (covered === 'empty') return;
    const backend = this.#backend;
    const { count } = span;
    this.#copyToScratch(this.#sum, count);
    if (!opaque) backend.divideAlpha(this.#scratch, this.#sumAlpha, count);
    if (throughLight) backend.transfer('decode', this.#scratch, count);
    backend.correct(correction.type, correction.prepared, this.#scratch, count);
    if (throughLight) backend.transfer('encode', this.#scratch, count);
    if (!opaque) backend.multiplyAlpha(this.#scratch, this.#sumAlpha, count);
    backend.mix(this.#sum, this.#scratch, this.#mask, count);
  }

  #tone(count: number, opaque: boolean): void {
    if (!opaque) this.#backend.divideAlpha(this.#sum, this.#sumAlpha, count);
    this.#backend.transfer('encode', this.#sum, count);
    if (!opaque) this.#backend.multiplyAlpha(this.#sum, this.#sumAlpha, count);
  }

  #coverage(out: Register, opacity: number, alpha: Register | null, mask: PlannedMask | null, task: TileTask, span: Span): Coverage {
    if (mask) {
      const plane = task.inputs.mask(mask.key);
      for (const run of span.runs) this.#backend.load(this.#mask, run.at, plane, run.y * plane.width + run.x, run.length, 'as-is');
    }
    return this.#backend.coverage(out, span.count, opacity, alpha, mask ? this.#mask : null, mask?.inverted ?? false);
  }

  #copyToScratch(color: ColorRegisters, count: number): void {
    for (const channel of [0, 1, 2] as const) this.#scratch[channel].values.set(color[channel].values.subarray(0, count));
  }

  /** True if the span's alpha is not simply 1: the source has an alpha, or does not cover the whole span. */
  #loadAlpha(source: SourceView, span: Span, parts: readonly Part[]): boolean {
    if (source.alpha) {
      this.#loadPlane(this.#spanAlpha, source.alpha, span, parts, 'as-is');
      return true;
    }
    if (coversWhole(span, parts)) return false;
    this.#backend.fill(this.#spanAlpha, 0, 0, span.count);
    for (const part of parts) this.#backend.fill(this.#spanAlpha, 1, part.at, part.length);
    return true;
  }

  #loadPlane(out: Register, plane: Plane, span: Span, parts: readonly Part[], how: 'as-is' | 'to-light'): void {
    if (!coversWhole(span, parts)) this.#backend.fill(out, 0, 0, span.count);
    for (const part of parts) this.#backend.load(out, part.at, plane, part.start, part.length, how);
  }
}

/** A run of pixels within one row: where it lies in the picture and where in the span. */
interface Run {
  readonly x: number;
  readonly y: number;
  readonly length: number;
  readonly at: number;
}

interface Span {
  /** Where the span begins in the tile's planes. */
  readonly offset: number;
  readonly count: number;
  readonly runs: readonly Run[];
}

/** Cuts a region into spans: several whole rows where they fit, parts of a row where they do not. */
export function* spansOf(region: Region, spanLength: number): Generator<Span> {
  if (region.width >= spanLength) {
    // Parts of about equal length, so that no short rest remains.
    const part = Math.ceil(region.width / Math.ceil(region.width / spanLength));
    for (let row = 0; row < region.height; row++) {
      for (let x = 0; x < region.width; x += part) {
        const count = Math.min(part, region.width - x);
        yield { offset: row * region.width + x, count, runs: [{ x: region.x + x, y: region.y + row, length: count, at: 0 }] };
      }
    }
    return;
  }
  const rowsPerSpan = Math.floor(spanLength / region.width);
  for (let row = 0; row < region.height; row += rowsPerSpan) {
    const rows = Math.min(rowsPerSpan, region.height - row);
    const runs = Array.from({ length: rows }, (_, i) => ({ x: region.x, y: region.y + row + i, length: region.width, at: i * region.width }));
    yield { offset: row * region.width, count: rows * region.width, runs };
  }
}

/** A part of a span that a source covers: where it lies in the span and where its samples begin in the source's planes. */
interface Part {
  readonly at: number;
  readonly start: number;
  readonly length: number;
}

function overlaps(span: Span, source: SourceView): Part[] {
  const { width, height } = source.color[0];
  const parts: Part[] = [];
  for (const run of span.runs) {
    const row = run.y - source.y;
    if (row < 0 || row >= height) continue;
    const from = Math.max(run.x, source.x);
    const to = Math.min(run.x + run.length, source.x + width);
    if (to > from) parts.push({ at: run.at + from - run.x, start: row * width + from - source.x, length: to - from });
  }
  // Rows that follow each other in the source as well are one part.
  return parts.length > 1 && parts.every((part, i) => i === 0 || follows(parts[i - 1], part)) ? [{ ...parts[0], length: parts.reduce((sum, part) => sum + part.length, 0) }] : parts;
}

const follows = (before: Part, part: Part) => part.at === before.at + before.length && part.start === before.start + before.length;
const coversWhole = (span: Span, parts: readonly Part[]) => parts.reduce((sum, part) => sum + part.length, 0) === span.count;
