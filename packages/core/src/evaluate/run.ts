/**
 * The one place where steps become pixels. Regions are walked in spans that stay in the cache while all layers pass
 * over them; the accumulator is planar, premultiplied and float32.
 */
import type { Plane } from '../raster/planes.ts';
import { readingById } from '../readings/registry.ts';
import type { Region } from '../raster/region.ts';
import type { Backend, ColorRegisters, Coverage, PlaceRegisters, Register } from './backend.ts';
import type { Pixels } from './pixels.ts';
import type { Factor, Sum } from '../layers/define.ts';
import type { CloseGroupStep, CorrectStep, LayerStep, PlannedBlend, PlannedCorrection, PlannedMask, ReplaceStep, Step } from './steps.ts';
import type { SourceView } from '../raster/view.ts';
import { coversWhole, overlaps, type Part, type Span, spansOf } from './spans.ts';

/** Where the evaluator gets its pixels from, at the level it works on. */
export interface Inputs {
  source(sourceId: string): SourceView;
  /** Coverage, as large as the picture at this level. */
  mask(key: string): Plane;
}

export interface RunTask {
  readonly region: Region;
  readonly level: number;
  readonly steps: readonly Step[];
  /** What the steps work on; null is nothing. It covers the region. */
  readonly base: Pixels | null;
  /** Pictures that steps read, by their node. They cover the region. */
  readonly pictures: ReadonlyMap<number, Pixels>;
  readonly inputs: Inputs;
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
  /** Places of the span's pixels, and other elements: made when they are first asked for. */
  #place: PlaceRegisters | null = null;
  #isPlaced = false;
  /** What the register of columns holds. */
  #columns = { scale: 0, x: 0, length: 0, rows: 0 };
  readonly #others: ColorRegisters[] = [];
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

  /** The result after all steps, and how many were computed. */
  run(task: RunTask): { pixels: Pixels; stepsRun: number } {
    const { region, steps, base } = task;
    const area = region.width * region.height;
    const planes = this.#backend.arena.take(area * 4);
    let allOpaque = true;
    for (const span of spansOf(region, this.#backend.spanLength)) {
      let opaque = this.#begin(base, span, area);
      this.#isPlaced = false;
      const opened: boolean[] = [];
      for (const [index, step] of steps.entries()) {
        switch (step.kind) {
          case 'open-group':
            this.#openGroup(opened.length, step.isolated, span.count);
            opened.push(opaque);
            if (step.isolated) opaque = false;
            break;
          case 'close-group':
            opaque = this.#closeGroup(step, task, span, opened.length - 1, opened.pop() as boolean, opaque);
            break;
          case 'layer':
            opaque = this.#layer(step, task, span, opaque);
            break;
          case 'correct':
            this.#correctSum(step, task, span, opaque);
            break;
          case 'replace':
            opaque = this.#replace(step, task, span, opaque);
            break;
          case 'convert':
            this.#straight(span.count, opaque, () => this.#backend.transfer(step.direction, this.#sum, span.count));
            break;
          case 'reading':
            this.#read(step.reading, task, span, opaque);
            break;
          case 'tone':
            // Where nothing lies under the tone line there is nothing to encode.
            if (index > 0 || base) this.#straight(span.count, opaque, () => this.#backend.tone(step.tone, this.#sum, span.count));
        }
      }
      for (const [channel, register] of [...this.#sum, this.#sumAlpha].entries()) planes.set(register.values.subarray(0, span.count), channel * area + span.offset);
      allOpaque &&= opaque;
    }
    return { pixels: { region, planes, opaque: allOpaque }, stepsRun: steps.length };
  }

  #begin(from: Pixels | null, span: Span, area: number): boolean {
    for (const [channel, register] of [...this.#sum, this.#sumAlpha].entries()) {
      if (from) register.values.set(from.planes.subarray(channel * area + span.offset, channel * area + span.offset + span.count));
      else this.#backend.fill(register, 0, 0, span.count);
    }
    return from?.opaque ?? false;
  }

  /** The places of the span's pixels, in pixels of the full picture; worked out when a step asks for them. */
  #placeOf({ level }: RunTask, span: Span): PlaceRegisters {
    this.#place ??= [this.#backend.register(), this.#backend.register()];
    if (this.#isPlaced) return this.#place;
    this.#isPlaced = true;
    const [xs, ys] = this.#place.map(({ values }) => values);
    const scale = 2 ** level;
    const [{ x, length }] = span.runs;
    // All runs of a span lie below one another, and those of the next span often do so, too.
    const columns = this.#columns;
    const areThere = columns.scale === scale && columns.x === x && columns.length === length ? columns.rows : 0;
    for (const [row, run] of span.runs.entries()) {
      if (row >= areThere) for (let i = 0; i < length; i++) xs[run.at + i] = (x + i + 0.5) * scale;
      ys.fill((run.y + 0.5) * scale, run.at, run.at + length);
    }
    this.#columns = { scale, x, length, rows: Math.max(areThere, span.runs.length) };
    return this.#place;
  }

  #loadColor(into: ColorRegisters, source: SourceView, span: Span, parts: readonly Part[], load: 'as-is' | 'to-light'): void {
    for (let channel = 0; channel < 3; channel++) {
      const plane = source.color[Math.min(channel, source.color.length - 1)];
      // Grey is read once and copied.
      if (channel > 0 && source.color.length === 1) into[channel].values.set(into[0].values.subarray(0, span.count));
      else this.#loadPlane(into[channel], plane, span, parts, load);
    }
  }

  #layer(step: LayerStep, task: RunTask, span: Span, opaque: boolean): boolean {
    const backend = this.#backend;
    const { from } = step;
    const source = from.kind === 'source' ? task.inputs.source(from.sourceId) : null;
    const pixels = from.kind === 'picture' ? (task.pictures.get(from.node) as Pixels) : null;
    const parts = source ? overlaps(span, source) : [];
    let hasAlpha = true;
    if (source) hasAlpha = this.#loadAlpha(source, span, parts);
    else if (pixels) {
      hasAlpha = !pixels.opaque;
      this.#copyFrom(pixels, 3, this.#spanAlpha, task, span);
    } else if (from.kind === 'sum') hasAlpha = false;
    else if (from.kind === 'formula') backend.generate(from.formula, from.prepared, this.#span, this.#spanAlpha, span.count, this.#placeOf(task, span), from.reads.map((read, i) => (read ? this.#factorInto(this.#other(i), read, task, span) : this.#nothing(i, span))), 2 ** task.level);
    const covered = this.#coverage(this.#weight, step.opacity, hasAlpha ? this.#spanAlpha : null, step.mask, task, span);
    if (covered === 'empty') return opaque;
    // What covers everything and is not worked on goes where it is wanted at once.
    const replaces = covered === 'full' && step.blend === 'normal';
    if (replaces && source && step.actions.length === 0 && !(hasAlpha && source.premultiplied)) {
      this.#loadColor(this.#sum, source, span, parts, step.load);
      backend.fill(this.#sumAlpha, 1, 0, span.count);
      return true;
    }
    // Colours are only read where they are seen.
    if (source) this.#loadColor(this.#span, source, span, parts, step.load);
    if (pixels) for (const channel of [0, 1, 2] as const) this.#copyFrom(pixels, channel, this.#span[channel], task, span);
    if (from.kind === 'sum') this.#sumUp(from, task, span);
    if (hasAlpha && (source?.premultiplied || pixels)) backend.divideAlpha(this.#span, this.#spanAlpha, span.count);
    for (const action of step.actions) {
      if (action.kind === 'correct') this.#correct(action.correction, task, span);
      else if (action.kind === 'multiply') backend.multiply(this.#span, this.#pictureColor(action.node, task, span), span.count);
      else if (action.kind === 'scale') backend.scale(this.#span, action.scale, action.offset, span.count);
      else if (action.kind === 'clamp') backend.clampToUnit(this.#span, span.count);
      else backend.transfer(action.kind === 'to-light' ? 'decode' : 'encode', this.#span, span.count);
    }
    if (replaces) {
      for (const channel of [0, 1, 2] as const) this.#sum[channel].values.set(this.#span[channel].values.subarray(0, span.count));
      backend.fill(this.#sumAlpha, 1, 0, span.count);
      return true;
    }
    backend.blend(step.blend, step.zone, this.#sum, this.#sumAlpha, this.#span, this.#weight, span.count, opaque);
    return opaque || covered === 'full';
  }

  /** Light of many elements into the span, in one pass. */
  #sumUp({ summands, plus }: Sum, task: RunTask, span: Span): void {
    const backend = this.#backend;
    for (const register of this.#span) backend.fill(register, plus, 0, span.count);
    for (const { factors, gain } of summands) {
      const [first, ...more] = factors;
      const source = first.from.kind === 'source' && first.load === 'as-is' && !first.scale && more.length === 0 ? task.inputs.source(first.from.sourceId) : null;
      if (source) {
        // Most light is stored as what it is: read, scaled and added in one go.
        const parts = overlaps(span, source);
        for (const channel of [0, 1, 2] as const) {
          const plane = source.color[Math.min(channel, source.color.length - 1)];
          if (gain[channel] !== 0) for (const part of parts) backend.accumulate(this.#span[channel], part.at, plane, part.start, part.length, gain[channel]);
        }
        continue;
      }
      const product = this.#factorInto(this.#scratch, first, task, span);
      for (const factor of more) backend.multiply(product, this.#factorInto(this.#other(0), factor, task, span), span.count);
      backend.addScaled(this.#span, product, gain, span.count);
    }
  }

  #factorInto(into: ColorRegisters, { from, scale, load, isGrey }: Factor, task: RunTask, span: Span): ColorRegisters {
    const backend = this.#backend;
    if (from.kind === 'picture') return this.#pictureColor(from.node, task, span, into);
    const source = task.inputs.source(from.sourceId);
    if (isGrey && !scale) {
      this.#loadPlane(into[0], source.color[0], span, overlaps(span, source), load);
      return into;
    }
    this.#loadColor(into, source, span, overlaps(span, source), scale ? 'as-is' : load);
    if (scale) backend.scale(into, scale.scale, scale.offset, span.count);
    if (scale && load === 'to-light') backend.transfer('decode', into, span.count);
    return into;
  }

  /** Colours of another picture of the plan, which is opaque. */
  #pictureColor(node: number, task: RunTask, span: Span, into: ColorRegisters = this.#scratch): ColorRegisters {
    for (const channel of [0, 1, 2] as const) this.#copyFrom(task.pictures.get(node) as Pixels, channel, into[channel], task, span);
    return into;
  }

  #other(i: number): ColorRegisters {
    this.#others[i] ??= [this.#backend.register(), this.#backend.register(), this.#backend.register()];
    return this.#others[i];
  }

  /** What is read beside and is not there. */
  #nothing(i: number, span: Span): ColorRegisters {
    const into = this.#other(i);
    for (const register of into) this.#backend.fill(register, 0, 0, span.count);
    return into;
  }

  #copyFrom({ planes }: Pixels, plane: number, into: Register, { region }: RunTask, span: Span): void {
    const start = plane * region.width * region.height + span.offset;
    into.values.set(planes.subarray(start, start + span.count));
  }

  /** Goes over to another picture, as far as the coverage lets it: colour and alpha. */
  #replace(step: ReplaceStep, task: RunTask, span: Span, opaque: boolean): boolean {
    const covered = this.#coverage(this.#weight, step.opacity, null, step.mask, task, span);
    if (covered === 'empty') return opaque;
    const pixels = task.pictures.get(step.node) as Pixels;
    const takesAll = covered === 'full' && step.blend === null;
    const into = takesAll ? [...this.#sum, this.#sumAlpha] : [...this.#scratch, this.#spanAlpha];
    for (const [plane, register] of into.entries()) this.#copyFrom(pixels, plane, register, task, span);
    if (takesAll) return pixels.opaque;
    if (step.blend) this.#joinPicture(step.blend, span.count, opaque && pixels.opaque);
    this.#backend.mix(this.#sum, this.#scratch, this.#weight, span.count);
    this.#mixAlpha(this.#sumAlpha, this.#spanAlpha, span.count);
    return opaque && pixels.opaque;
  }

  /** Blends of corrections are of straight colours; what another picture brings (in scratch) and what is there are premultiplied. */
  #joinPicture(blend: NonNullable<PlannedBlend>, count: number, opaque: boolean): void {
    const backend = this.#backend;
    if (opaque) {
      backend.join(blend.id, blend.zone, this.#sum, this.#scratch, count);
      return;
    }
    for (const channel of [0, 1, 2] as const) this.#span[channel].values.set(this.#sum[channel].values.subarray(0, count));
    backend.divideAlpha(this.#span, this.#sumAlpha, count);
    backend.divideAlpha(this.#scratch, this.#spanAlpha, count);
    backend.join(blend.id, blend.zone, this.#span, this.#scratch, count);
    backend.multiplyAlpha(this.#scratch, this.#spanAlpha, count);
  }

  #mixAlpha(alpha: Register, changed: Register, count: number): void {
    this.#backend.mix([alpha, this.#mask, this.#mask], [changed, this.#mask, this.#mask], this.#weight, count);
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
  #closeGroup(step: CloseGroupStep, task: RunTask, span: Span, depth: number, belowOpaque: boolean, opaque: boolean): boolean {
    const backend = this.#backend;
    const { count } = span;
    const below = this.#below[depth];
    if (!step.isolated) {
      // What the group did, seen as far as opacity and mask let it through.
      const covered = this.#coverage(this.#weight, step.opacity, null, step.mask, task, span);
      if (covered === 'full') return opaque;
      if (covered === 'partial') {
        backend.mix(below.color, this.#sum, this.#weight, count);
        this.#mixAlpha(below.alpha, this.#sumAlpha, count);
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
  #correct(correction: PlannedCorrection, task: RunTask, span: Span): void {
    const backend = this.#backend;
    if (correction.mask === null && correction.opacity === 1 && correction.blend === null) {
      this.#apply(correction, this.#span, task, span);
      return;
    }
    // The layer's own coverage waits in #weight, so the correction's weight is made in the mask's register.
    if (this.#coverage(this.#mask, correction.opacity, null, correction.mask, task, span) === 'empty') return;
    this.#copyToScratch(this.#span, span.count);
    this.#apply(correction, this.#scratch, task, span);
    if (correction.blend) backend.join(correction.blend.id, correction.blend.zone, this.#span, this.#scratch, span.count);
    backend.mix(this.#span, this.#scratch, this.#mask, span.count);
  }

  /** With the place of the pixels and with the other elements that the correction asks for. */
  #apply(correction: PlannedCorrection, color: ColorRegisters, task: RunTask, span: Span): void {
    const others = correction.reads.map((read, i) => {
      const source = read && task.inputs.source(read.sourceId);
      if (!source) return this.#nothing(i, span);
      const into = this.#other(i);
      this.#loadColor(into, source, span, overlaps(span, source), read.load);
      return into;
    });
    this.#backend.correct(correction, color, span.count, correction.isPlaced ? this.#placeOf(task, span) : null, others, 2 ** task.level);
  }

  /** A correction of everything below, on the accumulator. */
  #correctSum({ correction, throughLight }: CorrectStep, task: RunTask, span: Span, opaque: boolean): void {
    const backend = this.#backend;
    const { count } = span;
    const worked = (color: ColorRegisters) => {
      if (throughLight) backend.transfer('decode', color, count);
      this.#apply(correction, color, task, span);
      if (throughLight) backend.transfer('encode', color, count);
    };
    // What works everywhere works in place.
    if (correction.mask === null && correction.opacity === 1 && correction.blend === null) {
      this.#straight(count, opaque, () => worked(this.#sum));
      return;
    }
    const covered = this.#coverage(this.#mask, correction.opacity, null, correction.mask, task, span);
    if (covered === 'empty') return;
    this.#copyToScratch(this.#sum, count);
    if (!opaque) backend.divideAlpha(this.#scratch, this.#sumAlpha, count);
    worked(this.#scratch);
    if (correction.blend) this.#joinSum(correction.blend, count, opaque);
    if (!opaque) backend.multiplyAlpha(this.#scratch, this.#sumAlpha, count);
    backend.mix(this.#sum, this.#scratch, this.#mask, count);
  }

  /** The accumulator is premultiplied, what was made of it (in scratch) is not yet again. */
  #joinSum({ id, zone }: NonNullable<PlannedBlend>, count: number, opaque: boolean): void {
    if (opaque) {
      this.#backend.join(id, zone, this.#sum, this.#scratch, count);
      return;
    }
    for (const channel of [0, 1, 2] as const) this.#span[channel].values.set(this.#sum[channel].values.subarray(0, count));
    this.#backend.divideAlpha(this.#span, this.#sumAlpha, count);
    this.#backend.join(id, zone, this.#span, this.#scratch, count);
  }

  /** One way of looking: no speed is needed that its definition does not have. */
  #read(id: string, task: RunTask, span: Span, opaque: boolean): void {
    const reading = readingById(id);
    if (!reading) return;
    const [xs, ys] = this.#placeOf(task, span).map(({ values }) => values);
    const [r, g, b] = this.#sum.map(({ values }) => values);
    this.#straight(span.count, opaque, () => {
      for (let i = 0; i < span.count; i++) [r[i], g[i], b[i]] = reading.pixel([r[i], g[i], b[i]], [xs[i], ys[i]]);
    });
  }

  /** Changes the accumulator while it is not premultiplied. */
  #straight(count: number, opaque: boolean, change: () => void): void {
    if (!opaque) this.#backend.divideAlpha(this.#sum, this.#sumAlpha, count);
    change();
    if (!opaque) this.#backend.multiplyAlpha(this.#sum, this.#sumAlpha, count);
  }

  #coverage(out: Register, opacity: number, alpha: Register | null, mask: PlannedMask | null, task: RunTask, span: Span): Coverage {
    if (!mask && !alpha) {
      // The same everywhere: nothing needs to be looked at.
      this.#backend.fill(out, opacity, 0, span.count);
      return opacity === 1 ? 'full' : opacity === 0 ? 'empty' : 'partial';
    }
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
