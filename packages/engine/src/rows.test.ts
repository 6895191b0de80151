/** Rows of the schedule in pixels, against plain loops over small pictures. */
import { beginCoverage, floatToHalf, type MaskView, type Plane, srgbDecode, srgbEncode } from '@tazzel/core';
import { describe, expect, it } from 'vitest';
import { seeded } from '../../../tests/random.ts';
import type { SharedIndex } from './protocol.ts';
import { channelRows, hashIndex, NO_ROW, rowMeans, seenBehind } from './rows.ts';

const index = (width: number, ...rows: readonly number[]): SharedIndex => ({ width, height: rows.length / width, data: Uint16Array.from(rows) });
const floats = (width: number, values: readonly number[]): Plane => ({ type: 'f32', width, height: values.length / width, data: Float32Array.from(values) });
const looks = (color: readonly Plane[], patch: Partial<MaskView> = {}): MaskView => ({ color, alpha: null, premultiplied: false, x: 0, y: 0, encoding: 'linear', scale: 1, offset: 0, ...patch });

describe('means', () => {
  const rows = index(3, 0, 0, 1, 1, NO_ROW, 0);
  const red = [0.1, 0.3, 0.9, 0.7, 50, 0.2];
  it('are those of the light of a row; what belongs to nothing does not count', () => {
    const [first, second, third] = rowMeans(rows, 3, looks([floats(3, red), floats(3, red.map((v) => v * 2)), floats(3, red.map(() => 1))]));
    expect(first?.map((v) => Number(v.toFixed(4)))).toEqual([0.2, 0.4, 1]);
    expect(second?.map((v) => Number(v.toFixed(4)))).toEqual([0.8, 1.6, 1]);
    expect(third).toBeNull();
  });
  it('of display values are taken in light; scale and offset come first', () => {
    const shown: Plane = { type: 'u8', width: 3, height: 2, data: Uint8Array.of(0, 255, 0, 0, 0, 255) };
    const [mean] = rowMeans(rows, 1, looks([shown], { encoding: 'display' })) as [number, number, number][];
    expect(srgbEncode(mean[0])).toBeCloseTo(srgbEncode((srgbDecode(0) + 2 * srgbDecode(1)) / 3), 6);
    const [scaled] = rowMeans(rows, 1, looks([floats(3, red)], { scale: 10, offset: -1 })) as [number, number, number][];
    expect(scaled).toEqual([expect.closeTo(1, 5), expect.closeTo(1, 5), expect.closeTo(1, 5)]);
  });
  it('of a picture of another size are taken where both are', () => {
    const [mean] = rowMeans(rows, 1, looks([floats(2, [0.1, 0.3])])) as [number, number, number][];
    expect(mean[0]).toBeCloseTo(0.2, 6);
  });
  it('of a large picture are what they are of all its pixels, to a thousandth', () => {
    const random = seeded(2);
    const [width, height] = [2400, 1800];
    const halves: Plane = { type: 'f16', width, height, data: Uint16Array.from({ length: width * height }, () => floatToHalf(random())) };
    const [mean] = rowMeans({ width, height, data: new Uint16Array(width * height) }, 1, looks([halves])) as [number, number, number][];
    expect(mean[0]).toBeCloseTo(0.5, 2.5);
  });
});

it('a coverage matte’s hashes become rows; others belong to none', () => {
  const [door, wall, lamp] = [0x3f000001, 0x3f000002, 0x3f000003];
  const ids: Plane = { type: 'f32', width: 4, height: 1, data: new Float32Array(Uint32Array.of(wall, door, lamp, 0).buffer) };
  const coverage = beginCoverage([ids, floats(4, [1, 0.6, 1, 0])], 1);
  expect([...hashIndex(coverage, [door, wall])]).toEqual([1, 0, NO_ROW, NO_ROW]);
});

it('what lies behind is counted by what stands in front, where the two differ', () => {
  const front = index(3, 0, 1, 1, 2, 2, NO_ROW);
  const back = index(3, 0, 0, 1, 0, 0, 0);
  expect(seenBehind(front, back, 0, 3)).toEqual([0, 1, 2]);
  expect(seenBehind(front, back, 1, 3)).toEqual([0, 0, 0]);
});

it('channels of an RGB matte own the pixels that they cover by half and more', () => {
  const { index: found, areas } = channelRows([floats(4, [1, 0.5, 0.4, 0]), floats(4, [0, 0.5, 0.3, 0]), floats(4, [0, 0, 0.3, Number.POSITIVE_INFINITY])]);
  expect([...found.data]).toEqual([0, 1, NO_ROW, 2]);
  expect(areas.map((area) => Number(area.toFixed(3)))).toEqual([0.475, 0.2, 0.325]);
});
