/** Crowds on the ground: around somebody, along a line, in an area. Rules of how near people stand: common practice, no published source. */
import { describe, expect, it } from 'vitest';
import { after, smallDocument, source } from '../../../../tests/documents.ts';
import { cameraOf } from '../camera/camera.ts';
import { groundAt, projected, viewOfCamera } from '../camera/view.ts';
import type { PlacedFigure } from '../params/placed-figures.ts';
import { type Crowd, crowdOf, type FigureInHand } from './figures.ts';

const SIZE = { width: 1200, height: 800 };
const document = after({ ...smallDocument(), size: SIZE }, { type: 'set-camera', params: { focalMillimetres: 24, sensorMillimetres: 36, heightMetres: 5, tiltDegrees: -12 } }, { type: 'add-sources', sources: [source(9, { width: 40, height: 100, role: 'picture' })] });
const VIEW = viewOfCamera(cameraOf(document.camera ?? { from: 'hand', params: {} }), SIZE);
const kind: FigureInHand = { sourceId: 'source-9', heightMetres: 1.7, foot: [0.5, 1], top: 0, aloftMetres: 0 };
const standing = (x: number, z: number): PlacedFigure => {
  const seen = projected(VIEW, [x, 0, z]);
  const { aloftMetres: _, ...figure } = kind;
  return { ...figure, at: [seen?.x ?? 0, seen?.y ?? 0], groundMetres: 0, mirrored: false, leanDegrees: 0 };
};
const feet = (figures: readonly PlacedFigure[]) => figures.map(({ at }) => groundAt(VIEW, at[0], at[1])).map((place) => [place?.[0] ?? 0, place?.[2] ?? 0] as const);
const crowd = (there: readonly PlacedFigure[], more: Partial<Crowd>) => crowdOf(document, there[0], [kind], there, { form: 'around', count: 12, metres: 4, seed: 3, ...more });
const nearest = (places: readonly (readonly [number, number])[]) => Math.min(...places.flatMap(([x, z], i) => places.slice(i + 1).map(([a, b]) => Math.hypot(a - x, b - z))));

describe('a crowd', () => {
  const corners = [standing(-4, -12), standing(4, -12), standing(4, -20), standing(-4, -20)];
  it('around one stands within its circle, nobody nearer than people stand, the same for a seed', () => {
    const made = crowd(corners.slice(0, 1), {});
    expect(made).toHaveLength(12);
    for (const [x, z] of feet(made)) expect(Math.hypot(x + 4, z + 12)).toBeLessThan(4.02);
    expect(nearest(feet([...made, corners[0]]))).toBeGreaterThan(0.88);
    expect(crowd(corners.slice(0, 1), {})).toEqual(made);
    expect(crowd(corners.slice(0, 1), { seed: 4 })).not.toEqual(made);
  });
  it('along the line from one to the next keeps to both sides of it, over all of its length', () => {
    const made = feet(crowd(corners.slice(0, 3), { form: 'along', metres: 0.5 }));
    expect(made).toHaveLength(12);
    // From the first to the second the line is level, from there it goes away.
    for (const [x, z] of made) expect(Math.min(Math.abs(z + 12), Math.abs(x - 4))).toBeLessThan(0.52);
    expect([made.some(([x]) => x < 0), made.some(([, z]) => z < -16)]).toEqual([true, true]);
  });
  it('in the area between them stands inside; two are no area, one is no line', () => {
    const made = feet(crowd(corners, { form: 'between', count: 20 }));
    expect(made).toHaveLength(20);
    for (const [x, z] of made) expect(x > -4.02 && x < 4.02 && z > -20.05 && z < -11.98).toBe(true);
    expect([crowd(corners.slice(0, 2), { form: 'between' }), crowd(corners.slice(0, 1), { form: 'along' })]).toEqual([[], []]);
  });
  it('finds as many places as there are', () => expect(crowd(corners.slice(0, 1), { metres: 1, count: 50 }).length).toBeLessThan(7));
});
