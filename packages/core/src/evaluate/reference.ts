import { composite } from '../blend/composite.ts';
import { correctionBlend } from '../blend/correction-blends.ts';
import { zoneBlend } from '../blend/modes.ts';
import { clampUnit, srgbDecode, srgbEncode } from '../color/srgb.ts';
import { correctionById } from '../corrections/registry.ts';
import { toned } from '../tone/apply.ts';
import { CoreError } from '../errors.ts';
import { referenceFigures } from '../figures/loops.ts';
import { referenceLocal } from '../raster/local.ts';
import { sampleReader } from '../raster/read.ts';
import { referenceAround } from '../raster/around.ts';
import { referenceBend } from '../raster/bend.ts';
import { referenceFocus } from '../raster/focus.ts';
import { referenceSides } from '../raster/sides.ts';
import { referenceSized } from '../raster/sized.ts';
import { referenceSmooth } from '../raster/smooth.ts';
import { type Formula, formulas } from '../layers/formula.ts';
import { Arena } from './arena.ts';
import { referenceRaster } from './reference-raster.ts';
import type { Backend, ColorRegisters, Register } from './backend.ts';

/** The slow backend over the definitions: what the kernels are compared with. */
export function referenceBackend(spanLength = 1024): Backend {
  const eachPixel = (color: ColorRegisters, count: number, change: (rgb: [number, number, number], i: number) => readonly number[]) => {
    for (let i = 0; i < count; i++) {
      const result = change([color[0].values[i], color[1].values[i], color[2].values[i]], i);
      for (let c = 0; c < 3; c++) color[c].values[i] = result[c];
    }
  };
  return {
    arena: new Arena(null),
    spanLength,
    register: () => ({ values: new Float32Array(spanLength) }),
    load: (out, at, plane, start, count, how) => {
      const read = sampleReader(plane);
      for (let i = 0; i < count; i++) {
        const value = read(start + i);
        out.values[at + i] = how === 'to-light' ? srgbDecode(value) : value;
      }
    },
    accumulate: (out, at, plane, start, count, gain) => {
      const read = sampleReader(plane);
      for (let i = 0; i < count; i++) out.values[at + i] += Math.fround(gain) * read(start + i);
    },
    addScaled: (target, from, gain, count) => eachPixel(target, count, (rgb, i) => rgb.map((v, c) => v + Math.fround(gain[c]) * from[c].values[i])),
    multiply: (color, by, count) => eachPixel(color, count, (rgb, i) => rgb.map((v, c) => v * by[c].values[i])),
    fill: (out, value, at, count) => void out.values.fill(value, at, at + count),
    coverage: (out, count, opacity, alpha, mask, invertMask) => {
      let empty = true;
      let full = true;
      for (let i = 0; i < count; i++) {
        const m = mask ? mask.values[i] : 1;
        const value = opacity * (alpha ? clampUnit(alpha.values[i]) : 1) * (mask && invertMask ? 1 - m : m);
        out.values[i] = value;
        if (value !== 0) empty = false;
        if (value !== 1) full = false;
      }
      return empty ? 'empty' : full ? 'full' : 'partial';
    },
    blend: (mode, zone, onto, ontoAlpha, source, alpha, count) => {
      const blend = zoneBlend(mode, zone);
      for (let i = 0; i < count; i++) {
        const result = composite(
          blend,
          [onto[0].values[i], onto[1].values[i], onto[2].values[i], ontoAlpha.values[i]],
          [source[0].values[i], source[1].values[i], source[2].values[i]],
          alpha.values[i],
        );
        for (let c = 0; c < 3; c++) onto[c].values[i] = result[c];
        ontoAlpha.values[i] = result[3];
      }
    },
    correct: ({ type, prepared }, color, count, place, others, step) => {
      const correction = correctionById(type);
      if (correction.work !== 'points') throw new CoreError('unknown-operation', `${correction.label} does not work pixel by pixel.`);
      eachPixel(color, count, (rgb, i) => correction.pixel(rgb, prepared, place ? [place[0].values[i], place[1].values[i]] : [0, 0], others.map((other) => [other[0].values[i], other[1].values[i], other[2].values[i]]), step));
    },
    join: (blend, zone, before, made, count) => {
      const row = correctionBlend(blend)[zone];
      if (row) eachPixel(made, count, (rgb, i) => row.formula([before[0].values[i], before[1].values[i], before[2].values[i]], rgb));
    },
    generate: (formula, prepared, color, alpha, count, [xs, ys], others, step) => {
      const { pixel }: Formula = formulas[formula];
      for (let i = 0; i < count; i++) {
        const result = pixel(prepared, [xs.values[i], ys.values[i]], others.map((other) => other.map(({ values }) => values[i])), step);
        for (let c = 0; c < 3; c++) color[c].values[i] = result[c];
        alpha.values[i] = result[3];
      }
    },
    tone: (tone, color, count) => eachPixel(color, count, (rgb) => toned(rgb, tone)),
    transfer: (direction, color, count) => eachPixel(color, count, (rgb) => rgb.map(direction === 'encode' ? srgbEncode : srgbDecode)),
    scale: (color, scale, offset, count) => eachPixel(color, count, (rgb) => rgb.map((v) => Math.fround(scale) * v + Math.fround(offset))),
    clampToUnit: (color, count) => eachPixel(color, count, (rgb) => rgb.map(clampUnit)),
    multiplyAlpha: (color, alpha, count) => eachPixel(color, count, (rgb, i) => rgb.map((v) => v * alpha.values[i])),
    divideAlpha: (color, alpha, count) => eachPixel(color, count, (rgb, i) => rgb.map((v) => (alpha.values[i] > 0 ? v / alpha.values[i] : 0))),
    mix: (target, changed, weight, count) => {
      for (const [c, register] of target.entries()) mixChannel(register, changed[c], weight, count);
    },
    ...referenceRaster,
    ...referenceLocal,
    ...referenceAround,
    ...referenceFigures,
    ...referenceBend,
    ...referenceFocus,
    ...referenceSides,
    ...referenceSized,
    ...referenceSmooth,
  };
}

function mixChannel(target: Register, changed: Register, weight: Register, count: number): void {
  for (let i = 0; i < count; i++) target.values[i] = (1 - weight.values[i]) * target.values[i] + weight.values[i] * changed.values[i];
}
