import { describe, expect, it } from 'vitest';
import { type CutOutMark, cutOut, saidOf, softenCut } from './cut-out.ts';

type Colour = readonly [number, number, number];
/** How much of a pixel a thing covers, by 4 × 4 places in it. */
type Thing = (x: number, y: number) => boolean;

/** A photograph made here: a thing of two colours before a ground of two, with noise, and its true coverage. */
function photograph(width: number, height: number, thing: Thing) {
  const codes = new Uint8Array(width * height * 4);
  const truth = new Float32Array(width * height);
  let seed = 5;
  const noise = () => {
    seed = (seed * 1103515245 + 12345) % 2 ** 31;
    return (seed / 2 ** 31 - 0.5) * 16;
  };
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let covered = 0;
      for (let k = 0; k < 16; k++) if (thing((x + ((k % 4) + 0.5) / 4) / width, (y + (Math.floor(k / 4) + 0.5) / 4) / height)) covered++;
      const share = covered / 16;
      const front: Colour = y < 0.55 * height ? [176, 60, 48] : [52, 56, 92];
      const back: Colour = y < 0.6 * height ? [150, 172, 190] : [128, 120, 104];
      for (let c = 0; c < 3; c++) codes[(y * width + x) * 4 + c] = Math.max(0, Math.min(255, Math.round(share * front[c] + (1 - share) * back[c] + noise())));
      codes[(y * width + x) * 4 + 3] = 255;
      truth[y * width + x] = share;
    }
  }
  return { codes, truth, size: { width, height } };
}

const body: Thing = (x, y) => ((x - 0.5) / 0.16) ** 2 + ((y - 0.35) / 0.22) ** 2 < 1 || (Math.abs(x - 0.5) < 0.1 && y > 0.4 && y < 0.92);
/** A line down the middle: all that somebody in a hurry draws. */
const MARKS: readonly CutOutMark[] = [{ stays: true, width: 0.03, points: [[0.5, 0.2], [0.5, 0.85]] }];

/** Shared by shares of what either holds. */
const agreement = (cut: Uint8Array, truth: Float32Array) => {
  let [both, either] = [0, 0];
  cut.forEach((stays, i) => {
    const is = truth[i] >= 0.5;
    if (stays && is) both++;
    if (stays || is) either++;
  });
  return both / either;
};

describe('cutting out', () => {
  it('takes the thing and nothing else, by one line over it and the edges of the picture', () => {
    const { codes, truth, size } = photograph(240, 240, body);
    expect(agreement(cutOut(codes, size, MARKS, true), truth)).toBeGreaterThan(0.97);
  });
  it('leaves a thing of the same colours alone that stands apart, and takes it when it is marked', () => {
    const { codes, truth, size } = photograph(240, 240, (x, y) => body(x, y) || (x - 0.86) ** 2 + (y - 0.3) ** 2 < 0.005);
    const cut = cutOut(codes, size, MARKS, true);
    expect(cut[72 * 240 + 206]).toBe(0);
    expect(agreement(cutOut(codes, size, [...MARKS, { stays: true, width: 0.02, points: [[0.86, 0.3]] }], true), truth)).toBeGreaterThan(0.97);
  });
  it('a hole is taken away by a dab in it', () => {
    const hole: Thing = (x, y) => (x - 0.5) ** 2 + (y - 0.7) ** 2 < 0.0025;
    const { codes, truth, size } = photograph(240, 240, (x, y) => body(x, y) && !hole(x, y));
    const around: CutOutMark = { stays: true, width: 0.03, points: [[0.42, 0.3], [0.42, 0.85]] };
    const cut = cutOut(codes, size, [around, { stays: false, width: 0.03, points: [[0.5, 0.7]] }], true);
    expect(cut[Math.round(0.7 * 240) * 240 + 120]).toBe(0);
    expect(agreement(cut, truth)).toBeGreaterThan(0.95);
  });
  it('keeps nothing while nothing is said to stay, and all while nothing goes', () => {
    const { codes, size } = photograph(24, 24, body);
    expect(cutOut(codes, size, [], true).includes(1)).toBe(false);
    expect(cutOut(codes, size, MARKS, false).includes(0)).toBe(false);
    expect([...cutOut(codes.slice(0, 4), { width: 1, height: 1 }, MARKS, true)]).toEqual([1]);
  });
  it('what is said later counts where both were said, also of the edges', () => {
    const said = saidOf([{ stays: true, width: 0.2, points: [[0.5, 1]] }, { stays: false, width: 0.1, points: [[0.5, 1]] }], { width: 40, height: 40 }, true);
    expect([said[39 * 40 + 20], said[39 * 40 + 17], said[39 * 40 + 2], said[20 * 40 + 20]]).toEqual([2, 1, 2, 0]);
  });
  it('for the whole picture has an edge where the picture has one: a third of the error of the small cut made larger', () => {
    const whole = photograph(480, 480, body);
    const small = photograph(120, 120, body);
    const cut = cutOut(small.codes, small.size, MARKS, true);
    softenCut(cut, small.codes, small.size, whole.codes, whole.size);
    let [soft, coarse] = [0, 0];
    whole.truth.forEach((share, i) => {
      soft += Math.abs(whole.codes[i * 4 + 3] / 255 - share);
      coarse += Math.abs(cut[Math.floor(i / 480 / 4) * 120 + Math.floor((i % 480) / 4)] - share);
    });
    expect(soft).toBeLessThan(coarse / 3);
  });
});
