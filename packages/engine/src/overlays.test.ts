/** What lies over the picture: outlines and masks, as straight RGBA. */
import type { Plane } from '@tazzel/core';
import { describe, expect, it } from 'vitest';
import { maskPicture, outlinePicture } from './overlays.ts';
import type { SharedIndex } from './protocol.ts';

const SIZE = 40;
const isInDisc = (x: number, y: number) => (x - 19.5) ** 2 + (y - 17.5) ** 2 < 11 ** 2;
const disc: SharedIndex = { width: SIZE, height: SIZE, data: Uint16Array.from({ length: SIZE * SIZE }, (_, i) => Number(isInDisc(i % SIZE, Math.floor(i / SIZE)))) };
const whole = { x: 0, y: 0, width: SIZE, height: SIZE };
const alphaOf = (rgba: Uint8ClampedArray) => Array.from({ length: rgba.length / 4 }, (_, i) => rgba[i * 4 + 3]);

describe('outlines', () => {
  const alpha = alphaOf(outlinePicture({ index: disc, rows: [1], place: { x: 0, y: 0 }, region: whole, level: 0 }));
  it('are the pixels of a thing that touch another', () => {
    for (let y = 1; y < SIZE - 1; y++) {
      for (let x = 1; x < SIZE - 1; x++) {
        const isEdge = isInDisc(x, y) && !(isInDisc(x - 1, y) && isInDisc(x + 1, y) && isInDisc(x, y - 1) && isInDisc(x, y + 1));
        expect(alpha[y * SIZE + x], `${x}, ${y}`).toBe(isEdge ? 255 : 0);
      }
    }
  });
  it('are the same in parts, and moved with their element', () => {
    const part = { x: 9, y: 12, width: 17, height: 9 };
    const inPart = alphaOf(outlinePicture({ index: disc, rows: [1], place: { x: 0, y: 0 }, region: part, level: 0 }));
    for (let y = 0; y < part.height; y++) for (let x = 0; x < part.width; x++) expect(inPart[y * part.width + x]).toBe(alpha[(y + part.y) * SIZE + x + part.x]);
    const moved = alphaOf(outlinePicture({ index: disc, rows: [1], place: { x: 3, y: -2 }, region: whole, level: 0 }));
    for (let y = 0; y < SIZE - 2; y++) for (let x = 3; x < SIZE; x++) expect(moved[y * SIZE + x]).toBe(alpha[(y + 2) * SIZE + x - 3]);
  });
  it('of several rows go around all of them; of a reduced level they are closed', () => {
    expect(alphaOf(outlinePicture({ index: disc, rows: [0, 1], place: { x: 0, y: 0 }, region: { x: 5, y: 5, width: 30, height: 30 }, level: 0 })).every((value) => value === 0)).toBe(true);
    const half = { x: 0, y: 0, width: SIZE / 2, height: SIZE / 2 };
    const reduced = alphaOf(outlinePicture({ index: disc, rows: [1], place: { x: 0, y: 0 }, region: half, level: 1 }));
    // Every line through the middle meets the outline on both sides.
    for (let y = 5; y < 13; y++) expect(reduced.slice(y * half.width, (y + 1) * half.width).filter((value) => value === 255).length).toBeGreaterThanOrEqual(2);
  });
});

describe('masks on the screen', () => {
  const bytes: Plane = { type: 'u8', width: 3, height: 2, data: Uint8Array.of(0, 128, 255, 10, 20, 30) };
  const words: Plane = { ...bytes, type: 'u16', data: Uint16Array.from(bytes.data, (v) => v * 257) };
  const region = { x: 1, y: 0, width: 2, height: 2 };
  it('are white on black, or alpha alone; 16 bits look like 8', () => {
    for (const mask of [bytes, words]) {
      const matte = maskPicture({ mask, region, inverted: false, matte: true });
      expect([...matte]).toEqual([128, 128, 128, 255, 255, 255, 255, 255, 20, 20, 20, 255, 30, 30, 30, 255]);
      expect(alphaOf(maskPicture({ mask, region, inverted: false, matte: false }))).toEqual([128, 255, 20, 30]);
    }
  });
  it('are inverted for one use', () => {
    expect(alphaOf(maskPicture({ mask: bytes, region, inverted: true, matte: false }))).toEqual([127, 0, 235, 225]);
  });
});
