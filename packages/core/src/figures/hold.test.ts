/** Photographs put into a picture: against the perspective of cameras, worked out place by place. */
import { describe, expect, it } from 'vitest';
import { type CameraView, projected } from '../camera/view.ts';
import type { PlacedFigure } from '../params/placed-figures.ts';
import { agreementOf, heightByEyeLevel, heldAt, seenOf, shareSeen } from './hold.ts';
import { cardOf } from './card.ts';

const view: CameraView = { eye: [0, 1.6, 0], forward: [0, 0, -1], right: [1, 0, 0], up: [0, 1, 0], focalPx: 1000, axisX: 600, axisY: 400 };
const tilted: CameraView = { ...view, forward: [0, -0.1, -Math.sqrt(0.99)], up: [0, Math.sqrt(0.99), -0.1] };
const BOX = { x: 10, y: 20, width: 300, height: 150 };
const figure = (patch: Partial<PlacedFigure> = {}): PlacedFigure => ({ sourceId: 'source-1', at: [640, 700], groundMetres: 0, heightMetres: 0.9, mirrored: false, leanDegrees: 0, foot: [0.5, 0.96], top: 0.05, ...patch });
const POINTS = [[0.1, 0.95], [0.9, 0.95], [0.15, 0.1], [0.85, 0.12]] as const;

const seen = (of: CameraView, held: PlacedFigure, point: readonly [number, number]) => {
  const card = cardOf(of, held, BOX);
  return card && seenOf(of, card, BOX, point);
};
function expectHeld(of: CameraView, held: PlacedFigure | null, points: readonly (readonly [number, number])[], targets: readonly (readonly [number, number])[], digits = 1): void {
  expect(held).not.toBeNull();
  for (const [i, point] of points.entries()) for (const c of [0, 1]) expect(held && seen(of, held, point)?.[c]).toBeCloseTo(targets[i][c], digits);
}

describe.each([['level', view], ['tilted', tilted]] as const)('held before a %s camera', (_, of) => {
  it.each([{}, { mirrored: true }, { leanDegrees: 12 }, { mirrored: true, leanDegrees: -30 }])('%o: by one point it moves over its ground and stays as tall', (patch) => {
    const held = heldAt(of, figure(patch), BOX, POINTS.slice(0, 1), [[420, 760]]);
    expectHeld(of, held, POINTS.slice(0, 1), [[420, 760]]);
    expect(held?.heightMetres).toBe(0.9);
  });
  it.each([{}, { mirrored: true }, { leanDegrees: 12 }, { corners: [[0, 0.1], [1, 0], [0, 1], [1, 0.9]] as const }])('%o: by two it is turned and made larger as well', (patch) => {
    const targets = [[500, 720], [820, 690]] as const;
    // A mirrored one has its first point at its right.
    const points = patch.mirrored ? [POINTS[1], POINTS[0]] : POINTS.slice(0, 2);
    const held = heldAt(of, figure(patch), BOX, points, targets);
    expectHeld(of, held, points, targets);
    expect(held?.corners).toEqual(patch.corners);
  });
  it('by two points of its own place it stays as it is', () => {
    const start = figure({ leanDegrees: 5 });
    const held = heldAt(of, start, BOX, POINTS.slice(0, 2), POINTS.slice(0, 2).map((point) => seen(of, start, point) ?? [0, 0]));
    expect(held).toEqual(start);
  });
  it('by four they lie where they should, its foot on the ground, its height in metres', () => {
    const targets = [[430, 730], [800, 690], [450, 560], [780, 570]] as const;
    const held = heldAt(of, figure({ leanDegrees: 4 }), BOX, POINTS, targets);
    expectHeld(of, held, POINTS, targets);
    const foot = held && seen(of, held, held.foot);
    expect(foot?.[0]).toBeCloseTo(held?.at[0] ?? 0, 1);
    expect(foot?.[1]).toBeCloseTo(held?.at[1] ?? 0, 1);
    const card = held && cardOf(of, held, BOX);
    const top = held && card && projected(of, [card.foot[0], card.foot[1] + held.heightMetres, card.foot[2]]);
    // It leans a little: its top is about as high.
    expect(Math.abs((held && seen(of, held, [held.foot[0], held.top])?.[1]) ?? 0) / (top?.y ?? 1)).toBeCloseTo(1, 1);
    // Taken hold of again where it lies, it stays.
    expectHeld(of, held && heldAt(of, held, BOX, POINTS, targets), POINTS, targets);
  });
  it('by three, too; and a place seen leads to the place in its picture', () => {
    const targets = [[430, 730], [800, 690], [450, 560]] as const;
    const held = heldAt(of, figure(), BOX, POINTS.slice(0, 3), targets);
    expectHeld(of, held, POINTS.slice(0, 3), targets);
    const card = held && cardOf(of, held, BOX);
    for (const [i, point] of POINTS.slice(0, 3).entries()) for (const c of [0, 1]) expect(card && shareSeen(of, card, BOX, targets[i])?.[c]).toBeCloseTo(point[c], 3);
  });
});

it('what cannot be is refused: in the sky, in one place, in a line, folded', () => {
  expect([
    heldAt(view, figure(), BOX, [[0.5, 0.96]], [[600, 100]]),
    heldAt(view, figure(), BOX, POINTS.slice(0, 2), [[600, 700], [600, 700]]),
    heldAt(view, figure(), BOX, POINTS, [[400, 700], [500, 700], [600, 700], [700, 700]]),
    heldAt(view, figure(), BOX, POINTS, [[400, 700], [800, 560], [800, 700], [400, 560]]),
  ]).toEqual([null, null, null, null]);
});

describe('the camera that photographed it', () => {
  // A box of 0.9 m photographed from 1.2 m above the ground, 6 m away, by a level camera of 800 px: rows by similar triangles.
  const F = 800;
  const row = (upMetres: number) => ((1.2 - upMetres) / 6) * F;
  const [footRow, topRow] = [row(0), row(0.9)];
  const height = 200;
  const first = topRow - 10;
  const photographed = figure({ foot: [0.5, (footRow - first) / height], top: (topRow - first) / height, eyeLevel: (0 - first) / height, fromMetres: 6 });
  const box = { x: 0, y: 0, width: 300, height };
  it('stood as high as it did, and how much steeper it is looked at here', () => {
    const agreement = agreementOf(view, photographed, box);
    expect(agreement?.itsEyeMetres).toBeCloseTo(1.2, 9);
    expect(agreement?.ourEyeMetres).toBe(1.6);
    // 640 px under the horizon of 300 px: 1.6 × 1000 ÷ 300 m.
    expect(agreement?.awayMetres).toBeCloseTo(Math.hypot(1.6 / 0.3, (40 / 1000) * (1.6 / 0.3)), 6);
    const degrees = (radians: number) => (radians * 180) / Math.PI;
    expect(agreement?.steeperDegrees).toBeCloseTo(degrees(Math.atan2(1.6, agreement?.awayMetres ?? 1)) - degrees(Math.atan2(1.2, 6)), 9);
  });
  it('by its eye level it is so tall that both horizons are one', () => {
    const heightMetres = heightByEyeLevel(view, photographed) ?? 0;
    expect(heightMetres).toBeCloseTo((0.9 * 1.6) / 1.2, 4);
    const sized = { ...photographed, heightMetres };
    const card = cardOf(view, sized, box);
    expect(card && seenOf(view, card, box, [0.5, photographed.eyeLevel ?? 0])?.[1]).toBeCloseTo(400, 1);
    expect(agreementOf(view, sized, box)?.itsEyeMetres).toBeCloseTo(1.6, 3);
  });
  it('is not known without an eye level, and cannot lie under the ground', () => {
    expect([heightByEyeLevel(view, figure()), heightByEyeLevel(view, figure({ eyeLevel: 2 })), agreementOf(view, figure(), BOX)?.itsEyeMetres, agreementOf(view, figure({ at: [600, 100] }), BOX)]).toEqual([null, null, null, null]);
  });
});
