import { type CardCast, type CardSeen, type FigureLoops, type FormLight, type Found, type Moved, type OneSize, PLACE_NUMBERS, type Region, type SizedLoop } from '@tazzel/core';
import { Codecs } from './codecs.ts';

/** What a figure without a sun is asked along it. */
const NOUGHTS = [0, 0, 0, 0] as const;
/** Of what places lie within, as the loops leave it. */
const FOUND_BYTES = 24;

/** What figures need: places on cards, and their pictures there. */
export abstract class FigureKernels extends Codecs implements FigureLoops, SizedLoop {
  sized(out: Float32Array, sizes: readonly OneSize[], u: Float32Array, v: Float32Array, wide: Float32Array, moved: Moved): void {
    const [table, us, vs, wides, aside, ...asides] = this.areas(24 * sizes.length, this.bytesAside(u), this.bytesAside(v), this.bytesAside(wide), this.bytesAside(out), ...sizes.map(({ planes }) => this.bytesAside(planes)));
    const [to, done] = this.target(out, aside);
    const floats = this.floats(table, 6 * sizes.length);
    const whole = new Int32Array(this.memory.buffer, table, 6 * sizes.length);
    for (const [k, { planes, x, y, width, height, scale }] of sizes.entries()) {
      whole[6 * k] = this.lent(planes, asides[k]);
      floats.set([x, y], 6 * k + 1);
      whole.set([width, height], 6 * k + 3);
      floats[6 * k + 5] = 1 / scale;
    }
    this.exports.sized(to, table, sizes.length, out.length / u.length, this.lent(u, us), this.lent(v, vs), this.lent(wide, wides), u.length, moved.u, moved.v, moved.blur);
    done();
  }

  met(list: Float32Array, { u, v, share, perMetre, box, widePerMetre, lens }: CardSeen, part: Region, region: Region): Found {
    const numbers = [u, v, share, perMetre].flat().concat(box.x, box.y, box.width, box.height, widePerMetre, lens.left, lens.top, lens.per);
    const [card, found, aside] = this.areas(numbers.length * 8, FOUND_BYTES, this.bytesAside(list));
    const [to, done] = this.target(list, aside);
    new Float64Array(this.memory.buffer, card, numbers.length).set(numbers);
    const count = this.exports.figure_met(to, list.length / PLACE_NUMBERS, card, part.x, part.y, part.width, part.height, region.width, region.x, region.y, found);
    done();
    return this.#found(found, count);
  }

  shown(list: Float32Array, count: number, alpha: Float32Array, visible: Float32Array, sides: Float32Array | null): number {
    const [places, one, other, beside] = [list, alpha, visible, sides].map((numbers) => this.bytesAside(numbers));
    const [a, b, c, d] = this.areas(places, one, other, beside);
    const targets = [this.changed(list, a), this.changed(alpha, b), this.target(visible, c)];
    const kept = this.exports.figure_shown(targets[0][0], list.length / PLACE_NUMBERS, count, targets[1][0], targets[2][0], this.lentIf(sides, d), sides ? sides.length / 3 : 0);
    for (const [, done] of targets) done();
    return kept;
  }

  lit(colors: Float32Array, count: number, slopes: Float32Array | null, { steady, sunny, cos, sin, side, towards, modelling }: FormLight): void {
    const numbers = [...steady, ...sunny, cos, sin, side, ...towards, modelling];
    const [table, aside, other] = this.areas(numbers.length * 4, this.bytesAside(colors), this.bytesAside(slopes));
    const [to, done] = this.changed(colors, aside);
    this.floats(table, numbers.length).set(numbers);
    this.exports.figure_lit(to, count, this.lentIf(slopes, other), table);
    done();
  }

  laid(out: Float32Array, list: Float32Array, colors: Float32Array, visible: Float32Array, shines: Float32Array | null, shine: number): void {
    const [aside, a, b, c, d] = this.areas(this.bytesAside(out), this.bytesAside(list), this.bytesAside(colors), this.bytesAside(visible), this.bytesAside(shines));
    const [to, done] = this.changed(out, aside);
    this.exports.figure_laid(to, out.length / 4, this.lent(list, a), list.length / PLACE_NUMBERS, this.lent(colors, b), this.lent(visible, c), visible.length, this.lentIf(shines, d), shine);
    done();
  }

  taken(list: Float32Array, open: Float32Array, cast: CardCast, spans: Int32Array, sides: Float32Array | null, normals: Float32Array | null, part: Region, region: Region): Found {
    const { toRight, up, toUs, thrown, box, widePerMetre, widePerDepth, lens, nearest, farthest, contact, reachMetres, besideMetres, balls, right, normal } = cast;
    const lines = [toRight, up, toUs, ...(thrown ? [thrown.u, thrown.v, thrown.share, thrown.along] : [NOUGHTS, NOUGHTS, NOUGHTS, NOUGHTS])].flat();
    const asked = [...lines, box.x, box.x + box.width, box.y, box.y + box.height, widePerMetre, widePerDepth, lens.left, lens.top, lens.per, nearest, farthest, contact, reachMetres * reachMetres, besideMetres, ...right, ...normal];
    const stood = balls.flatMap(({ asideMetres, upMetres, radiusMetres }) => [asideMetres, upMetres, radiusMetres * radiusMetres]);
    const [card, table, found, rows, a, b, c, d] = this.areas(asked.length * 4, stood.length * 4, FOUND_BYTES, spans.byteLength, this.bytesAside(list), this.bytesAside(open), this.bytesAside(sides), this.bytesAside(normals));
    const [to, done] = this.target(list, a);
    const [left, finished] = this.changed(open, b);
    this.floats(card, asked.length).set(asked);
    this.floats(table, stood.length).set(stood);
    new Int32Array(this.memory.buffer, rows, spans.length).set(spans);
    const count = this.exports.figure_taken(to, list.length / PLACE_NUMBERS, left, card, table, balls.length, rows, this.lentIf(sides, c), this.lentIf(normals, d), region.width * region.height, part.y, part.height, region.width, region.x, region.y, found);
    done();
    finished();
    return this.#found(found, count);
  }

  shaded(out: Float32Array, lit: Float32Array, open: Float32Array, bySun: Float32Array | null, byAll: Float32Array | null, usual: readonly number[]): void {
    const [table, aside, a, b, c, d] = this.areas(usual.length * 4, this.bytesAside(out), this.bytesAside(lit), this.bytesAside(open), this.bytesAside(bySun), this.bytesAside(byAll));
    const [to, done] = this.changed(out, aside);
    this.floats(table, usual.length).set(usual);
    const isKnown = bySun !== null && byAll !== null;
    this.exports.figure_shaded(to, this.lent(lit, a), this.lent(open, b), isKnown ? this.lentIf(bySun, c) : 0, isKnown ? this.lentIf(byAll, d) : 0, table, lit.length);
    done();
  }

  /** What a loop has left of the places it found. */
  #found(pointer: number, count: number): Found {
    const [left, top, right, bottom, least, widest] = this.floats(pointer, FOUND_BYTES / 4);
    return { count, left, top, right, bottom, least, widest };
  }
}
