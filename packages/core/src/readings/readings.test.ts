import { converter } from 'culori';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import type { Triple } from '../vector.ts';
import { clipping } from './clipping.ts';
import { grey } from './grey.ts';
import { readingById, readings } from './registry.ts';
import { stops } from './stops.ts';

const read = (reading: { pixel: typeof grey.pixel }, rgb: Triple, place: readonly [number, number] = [0, 0]) => reading.pixel(rgb, place);

describe('readings', () => {
  it('are found, give values of a picture, and say what they mean', () => {
    for (const reading of readings) {
      expect(readingById(reading.id)).toBe(reading);
      for (const rgb of [[0, 0, 0], [1, 1, 1], [-1, 5, 0.2], [Number.NaN, 0, 1]] as Triple[]) for (const value of read(reading, rgb)) expect(value >= 0 && value <= 1).toBe(true);
      expect(reading.source).not.toBe('');
    }
    expect(readingById('as-it-is')).toBeNull();
  });
  it('grey has the luminance of the picture, as culori has it', () => {
    const xyz = converter('xyz65');
    for (const [r, g, b] of [[0.9, 0.2, 0.1], [0.1, 0.4, 0.8], [0.5, 0.5, 0.5]]) {
      const [value] = read(grey, [r, g, b]);
      expect(xyz({ mode: 'rgb', r: value, g: value, b: value }).y).toBeCloseTo(xyz({ mode: 'rgb', r, g, b }).y, 4);
    }
  });
  it('stops: half a stop to each side of mid grey is grey, and each step is lighter than the one before up to there', () => {
    const [r, g, b] = read(stops, [0.18, 0.18, 0.18]);
    expectClose([r, g], [g, b], 1e-4);
    expect(read(stops, [0.18 * 2 ** 0.49, 0.18 * 2 ** 0.49, 0.18 * 2 ** 0.49])).toEqual([r, g, b]);
    expect(read(stops, [0.18 * 2 ** 0.51, 0.18 * 2 ** 0.51, 0.18 * 2 ** 0.51])).not.toEqual([r, g, b]);
    expect(read(stops, [1e9, 1e9, 1e9])).toEqual(stops.legend.at(-1)?.color);
    expect(read(stops, [-1, 0, 0])).toEqual(stops.legend[0].color);
    const lightness = stops.legend.map(({ color }) => color.reduce((sum, value) => sum + value, 0));
    for (let i = 1; i <= 7; i++) expect(lightness[i]).toBeGreaterThan(lightness[i - 1]);
  });
  it('clipping: the last code is marked and the last but one is not, channel by channel', () => {
    expect(read(clipping, [1, 0.5, 0.2])).toEqual([1, 0.15, 0.15]);
    expect(read(clipping, [254 / 255, 0.5, 0.2]).every((value) => value < 0.55)).toBe(true);
    expect(read(clipping, [1, 1, 1], [0, 0])).not.toEqual(read(clipping, [1, 1, 1], [6, 0]));
    expect(read(clipping, [0, 0, 0], [0, 0])).toEqual([0.1, 0.55, 0.95]);
    expect(read(clipping, [1 / 255, 0, 0], [0, 0])[2]).toBeLessThan(0.2);
  });
});
