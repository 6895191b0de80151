/** Figures in perspective and their shadows against tables: REFERENCES of perspective and of shadows thrown, worked by hand. */
import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { type CameraView, projected, rayThrough } from '../camera/view.ts';
import { directionOf } from '../sun/position.ts';
import { dot, minus, plus, scaledBy, type Triple } from '../vector.ts';
import type { PlacedFigure } from '../params/placed-figures.ts';
import { boxOfCard, boxOfCast, type Card, cardOf, facingSun, heightTo, meetingsFrom, meetingsTowards, meets, placeOn, reachOfCast } from './card.ts';
import { asideOf, ballsOf, clearness, fresnel, hiddenByBall, sunOnFigure } from './light.ts';

const F = 5833.333;
const SIZE = { width: 6000, height: 4000 };
const levelView = (height: number): CameraView => ({ eye: [0, height, 0], forward: [0, 0, -1], right: [1, 0, 0], up: [0, 1, 0], focalPx: F, axisX: 3000, axisY: 2000 });
const BOX = { x: 0, y: 0, width: 100, height: 200 };
const figure = (patch: Partial<PlacedFigure> = {}): PlacedFigure => ({ sourceId: 'source-1', at: [3000, 3000], groundMetres: 0, heightMetres: 1.75, mirrored: false, leanDegrees: 0, foot: [0.5, 1], top: 0, ...patch });
const card = (view: CameraView, patch: Partial<PlacedFigure> = {}): Card => {
  const made = cardOf(view, figure(patch), BOX);
  if (!made) throw new Error('There is no ground.');
  return made;
};

describe('figure scale by the horizon', () => {
  // Base and head of a figure h metres tall at a distance of d, seen from Hc: the table for F = 5833.333, cy = 2000.
  it.each([
    [1.6, 1.75, 5, 3866.67, 1825],
    [1.6, 1.75, 10, 2933.33, 1912.5],
    [1.6, 1.6, 12, 2777.78, 2000],
    [1.6, 0.9, 10, 2933.33, 2408.33],
    [6, 1.75, 25, 3400, 2991.67],
  ])('from %d m, %d m tall, %d m away: %d to %d', (eye, heightMetres, away, base, head) => {
    const view = levelView(eye);
    const made = card(view, { at: [3000, base], heightMetres });
    expect(-made.foot[2]).toBeCloseTo(away, 3);
    const top = projected(view, placeOn(made, [50, 0]));
    expect(top?.y).toBeCloseTo(head, 1);
    expect((base - (top?.y ?? 0)) / (base - 2000)).toBeCloseTo(heightMetres / eye, 4);
    expect(heightTo(view, made.foot, [3000, head])).toBeCloseTo(heightMetres, 3);
  });
  it('has no place above the horizon, and none on a plane that the eye lies in', () => {
    expect([cardOf(levelView(1.6), figure({ at: [3000, 1990] }), BOX), cardOf(levelView(1.6), figure({ groundMetres: 1.6 }), BOX)]).toEqual([null, null]);
  });
  it('stands higher where the ground does, and flies where its ground is over the eye', () => {
    expect(card(levelView(1.6), { groundMetres: 1 }).foot[1]).toBe(1);
    expect(-card(levelView(1.6), { at: [3000, 1000], groundMetres: 10 }).foot[2]).toBeCloseTo((8.4 / 1000) * F, 3);
  });
});

describe('a card', () => {
  const view: CameraView = { ...levelView(1.6), forward: [0, -0.1, -Math.sqrt(0.99)], up: [0, Math.sqrt(0.99), -0.1] };
  it.each([{}, { mirrored: true }, { leanDegrees: 25 }, { mirrored: true, leanDegrees: -40, foot: [0.3, 0.9] as const, top: 0.1 }, { corners: [[0.1, 0], [1, 0.2], [0, 1], [0.9, 1.1]] as const }])('%o: a ray to a place of its picture meets it there', (patch) => {
    const made = card(view, { at: [3700, 3300], ...patch });
    for (const [u, v] of [[10, 20], [90, 20], [50, 200], [12.5, 133]] as const) {
      const place = placeOn(made, [u, v]);
      const seen = projected(view, place);
      const hit = meets(made, view.eye, rayThrough(view, seen?.x ?? 0, seen?.y ?? 0));
      expect(hit?.[0]).toBeCloseTo(u, 6);
      expect(hit?.[1]).toBeCloseTo(v, 6);
      expect(hit?.[2]).toBeCloseTo(seen?.depthMetres ?? 0, 6);
      const box = boxOfCard(view, made, BOX, SIZE);
      expect(seen && seen.x >= box.x && seen.x <= box.x + box.width && seen.y >= box.y && seen.y <= box.y + box.height).toBe(true);
    }
  });
  it('mirrored has its left at its right, and leaning goes clockwise', () => {
    expect(placeOn(card(levelView(1.6), { mirrored: true }), [0, 200])[0]).toBeGreaterThan(0);
    expect(placeOn(card(levelView(1.6)), [0, 200])[0]).toBeLessThan(0);
    expect(placeOn(card(levelView(1.6), { leanDegrees: 30 }), [50, 0])[0]).toBeGreaterThan(0);
  });
  it.each([{}, { mirrored: true, leanDegrees: -40, foot: [0.3, 0.9] as const, top: 0.1 }, { corners: [[0.1, 0], [1, 0.2], [0, 1], [0.9, 1.1]] as const, leanDegrees: 10 }])('%o: many rays from one place or of one direction meet it where each does', (patch) => {
    const made = card(view, { at: [3700, 3300], ...patch });
    const random = seeded(19);
    const along = ([x, y, z]: Triple, row: readonly number[], itself: number) => row[0] * x + row[1] * y + row[2] * z + row[3] * itself;
    for (let i = 0; i < 200; i++) {
      const ray: Triple = [random() - 0.5, random() - 0.5, random() - 0.7];
      const origin: Triple = [random() * 8 - 4, random() * 3, random() * 8 - 12];
      const [from, towards] = [meetingsFrom(made, origin), meetingsTowards(made, ray)];
      const hit = meets(made, origin, ray);
      // From one place, what differs is the ray; of one direction, the place.
      for (const [meetings, at, itself, isOver] of [[from, ray, 0, true], [towards, origin, 1, false]] as const) {
        const length = meetings ? along(at, meetings.along, itself) : 0;
        const share = meetings ? along(at, meetings.share, itself) : 0;
        expect(length > 0 && share > 0).toBe(hit !== null);
        if (!hit || !meetings) continue;
        expect(along(at, meetings.u, itself) / share).toBeCloseTo(hit[0], 5);
        expect(along(at, meetings.v, itself) / share).toBeCloseTo(hit[1], 5);
        expect(isOver ? 1 / length : length).toBeCloseTo(hit[2], 6);
      }
    }
  });
  it('is not met by rays along it or away from it', () => {
    const made = card(levelView(1.6));
    expect([meets(made, [0, 1, 0], [1, 0, 0]), meets(made, [0, 1, 0], [0, 0, 1])]).toEqual([null, null]);
  });
});

describe('a shadow thrown', () => {
  // An upright figure of 1.75 m; lengths by its height over the tangent of the sun's.
  it.each([
    [10, 9.9247],
    [20, 4.8081],
    [35, 2.4993],
    [60, 1.0104],
  ])('at a sun of %d° is %d m long and lies away from it', (altitudeDegrees, length) => {
    const sun = directionOf({ altitudeDegrees, azimuthDegrees: 120 });
    const made = facingSun(card(levelView(1.6)), sun);
    const top = placeOn(made, [50, 0]);
    const tip = plus(top, scaledBy(sun, -top[1] / sun[1]));
    const way = minus(tip, made.foot);
    expect(Math.hypot(...way)).toBeCloseTo(length, 3);
    expect(dot(scaledBy(way, 1 / Math.hypot(...way)), [-sun[0], 0, -sun[2]] as Triple) / Math.hypot(sun[0], sun[2])).toBeCloseTo(1, 9);
    // Seen back from there along the sun is its top again.
    expect(meets(made, tip, sun)?.[1]).toBeCloseTo(0, 6);
    const seen = projected(levelView(1.6), tip);
    const box = boxOfCast(levelView(1.6), card(levelView(1.6)), sun, BOX, SIZE);
    // What is seen of it lies in the box; beyond the picture the box ends.
    const isInside = seen !== null && seen.x >= 0 && seen.y >= 0 && seen.x < SIZE.width && seen.y < SIZE.height;
    expect(!isInside || (seen.x >= box.x && seen.x <= box.x + box.width && seen.y >= box.y && seen.y <= box.y + box.height)).toBe(true);
  });
  it('lies between the columns and depths that are looked at, wherever it falls (seed 7)', () => {
    const random = seeded(7);
    const view = levelView(1.6);
    for (let n = 0; n < 40; n++) {
      const sun = directionOf({ altitudeDegrees: 4 + 70 * random(), azimuthDegrees: 360 * random() });
      const made = card(view, { at: [1000 + 4000 * random(), 2200 + 1500 * random()], leanDegrees: 30 * (random() - 0.5) });
      const { columns, nearest, farthest } = reachOfCast(view, made, sun, BOX, SIZE);
      const turned = facingSun(made, sun);
      for (let k = 0; k < 20; k++) {
        const from = placeOn(turned, [100 * random(), 200 * random()]);
        const seen = projected(view, plus(from, scaledBy(sun, -from[1] / sun[1])));
        if (!seen || seen.x < 0 || seen.x > SIZE.width || seen.y < 0 || seen.y > SIZE.height) continue;
        const span = columns(Math.floor(seen.y), Math.floor(seen.y) + 1);
        expect(span !== null && seen.x >= span[0] - 1 && seen.x <= span[1] + 1).toBe(true);
        expect(seen.depthMetres >= nearest && seen.depthMetres <= farthest).toBe(true);
      }
    }
  });
  it('of a sun in the zenith is under its feet', () => expect(facingSun(card(levelView(1.6)), [0, 1, 0]).normal).toEqual(card(levelView(1.6)).normal));
});

describe('light', () => {
  it('of the sky: a ball over a flat piece hides (r ÷ d)², aslant by the cosine, behind nothing', () => {
    expect(hiddenByBall(0, 2, 0, 1, 0, 1, 0)).toBeCloseTo(0.25, 12);
    expect(hiddenByBall(2, 2, 0, 1, 0, 1, 0)).toBeCloseTo(Math.SQRT1_2 / 8, 12);
    expect(hiddenByBall(0, -2, 0, 1, 0, 1, 0)).toBe(0);
    expect(hiddenByBall(0.2, 0.2, 0, 1, 0, 1, 0)).toBe(1);
  });
  it('of the sky: the balls of a person are about as large as the person', () => {
    for (const { upMetres, radiusMetres } of ballsOf(1.75, 0.6)) expect(upMetres - radiusMetres >= -0.15 && upMetres + radiusMetres <= 1.75 && radiusMetres <= 0.3).toBe(true);
  });
  it('of the sky: what is wide has several side by side, as far as it reaches; a person has one column', () => {
    const balls = ballsOf(0.85, 1.8);
    expect([new Set(balls.map(({ asideMetres }) => asideMetres)).size, asideOf(balls), asideOf(ballsOf(1.75, 0.6))]).toEqual([4, 0.675, 0]);
    expect(balls.reduce((sum, { asideMetres }) => sum + asideMetres, 0)).toBeCloseTo(0, 12);
  });
  it('of the sun: as on the ground without modelling, by both cosines with it, up to a limit', () => {
    expect([sunOnFigure(0.2, 0.5, 0), sunOnFigure(0.5, 0.5, 1), sunOnFigure(0.25, 0.5, 1), sunOnFigure(-1, 0.5, 1), sunOnFigure(1, 0.01, 1)]).toEqual([1, 1, 0.5, 0, 2.5]);
  });
  it('mirrored: 4 % straight on, all at a grazing angle, nothing of what has a colour', () => {
    expect([fresnel(1), fresnel(0)]).toEqual([0.04, 1]);
    expect([clearness(0, 0, 0), clearness(0.2, 0.1, 0.1)]).toEqual([1, 0]);
  });
});
