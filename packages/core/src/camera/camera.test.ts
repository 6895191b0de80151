import { PerspectiveCamera, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { seeded } from '../../../../tests/random.ts';
import { defaultsOf } from '../params/table.ts';
import type { Triple } from '../vector.ts';
import { angleOfView, blurDiameter, type Camera, camera, cameraOf, exposureValue, scaleOfExposure } from './camera.ts';
import { type CameraFacts, cameraFromFacts, matricesOf } from './matrices.ts';
import { cameraFromLines, type Edge, withHorizon } from './vanishing.ts';
import { distancePerDepth, groundAt, horizonAt, overPixels, projected, rayThrough, vanishingPoint, viewOfCamera } from './view.ts';

const size = { width: 1200, height: 800 };
const usual = defaultsOf(camera) as unknown as Camera;
const cameraWith = (patch: Partial<Camera>): Camera => ({ ...usual, ...patch });

/** Cameras as they stand before buildings. */
function randomCamera(random: () => number, patch: Partial<Camera> = {}): Camera {
  const within = (low: number, high: number) => low + random() * (high - low);
  return cameraWith({ focalMillimetres: within(14, 85), shiftX: within(-3, 3), shiftY: within(-8, 8), heightMetres: within(0.5, 40), tiltDegrees: within(-50, 50), rollDegrees: within(-20, 20), headingDegrees: within(-180, 180), eastMetres: within(-30, 30), southMetres: within(-30, 30), ...patch });
}

describe('optics', () => {
  it('exposure values (ISO 2720)', () => {
    for (const [n, t, ev] of [[1, 1, 0], [2.8, 1 / 60, 8.8777], [8, 1 / 125, 12.9658], [16, 1 / 100, 14.6439]]) expect(exposureValue(n, t, 100)).toBeCloseTo(ev, 4);
    expect(exposureValue(8, 1 / 125, 400)).toBeCloseTo(12.9658 - 2, 4);
    // ISO 12232: 1.2 · 2^EV candela per square metre saturate.
    expect(scaleOfExposure(10) * 1.2 * 1024).toBeCloseTo(1, 12);
  });
  it('blur circles (Ray, Applied Photographic Optics), in millimetres on the sensor', () => {
    for (const [f, n, s, d, c] of [[50, 2.8, 2000, 1000, 0.457875], [50, 2.8, 2000, 4000, 0.228938], [35, 8, 3000, 1500, 0.051644], [35, 8, 3000, 10000, 0.036151]]) expect(blurDiameter(f, n, s, d)).toBeCloseTo(c, 6);
  });
  it('angles of view: 2 · atan(d / 2f), 36 mm wide', () => {
    for (const [focal, degrees] of [[14, 104.25], [18, 90], [24, 73.74], [28, 65.47], [35, 54.432], [50, 39.598], [85, 23.913]]) expect(angleOfView(36, focal)).toBeCloseTo(degrees, 2);
  });
});

describe('what a camera sees', () => {
  it('is where three.js projects it, with shift as an offset of its view (seed 61)', () => {
    const random = seeded(61);
    for (let i = 0; i < 40; i++) {
      const own = randomCamera(random);
      const view = viewOfCamera(own, size);
      const other = new PerspectiveCamera(angleOfView((36 * size.height) / size.width, own.focalMillimetres), size.width / size.height, 0.1, 1000);
      const px = size.width / 36;
      other.setViewOffset(size.width, size.height, own.shiftX * px, -own.shiftY * px, size.width, size.height);
      other.position.set(...view.eye);
      other.rotation.order = 'YXZ';
      other.rotation.set((own.tiltDegrees * Math.PI) / 180, (-own.headingDegrees * Math.PI) / 180, (-own.rollDegrees * Math.PI) / 180);
      other.updateMatrixWorld();
      other.updateProjectionMatrix();
      for (let k = 0; k < 5; k++) {
        const ray = rayThrough(view, random() * size.width, random() * size.height);
        const depth = 1 + random() * 80;
        const place: Triple = [view.eye[0] + ray[0] * depth, view.eye[1] + ray[1] * depth, view.eye[2] + ray[2] * depth];
        const found = projected(view, place);
        const ndc = new Vector3(...place).project(other);
        expectClose([found?.x ?? 0, found?.y ?? 0, found?.depthMetres ?? 0], [((ndc.x + 1) / 2) * size.width, ((1 - ndc.y) / 2) * size.height, depth], 1e-7, `camera ${i}`);
      }
    }
  });
  it('figures by the horizon: 35 mm, 6000 px, horizon at 2000; at any distance the height is to the way from the feet to the horizon as h to the eye', () => {
    const picture = { width: 6000, height: 4000 };
    for (const [eye, tall, away, base, head] of [[1.6, 1.75, 5, 3866.67, 1825], [1.6, 1.75, 10, 2933.33, 1912.5], [1.6, 1.6, 12, 2777.78, 2000], [1.6, 0.9, 10, 2933.33, 2408.33], [6, 1.75, 25, 3400, 2991.67]]) {
      const view = viewOfCamera(cameraWith({ focalMillimetres: 35, heightMetres: eye }), picture);
      expect([projected(view, [2, 0, -away])?.y, projected(view, [2, tall, -away])?.y]).toEqual([expect.closeTo(base, 1), expect.closeTo(head, 1)]);
      expect(horizonAt(view, 700)).toBeCloseTo(2000, 9);
      expectClose(groundAt(view, projected(view, [2, 0, -away])?.x ?? 0, base) ?? [], [2, 0, -away], 1e-4);
    }
  });
  it('level directions vanish on the horizon, however the camera is held (seed 62)', () => {
    const random = seeded(62);
    for (let i = 0; i < 60; i++) {
      const own = randomCamera(random);
      const view = viewOfCamera(own, size);
      const angle = ((own.headingDegrees + (random() - 0.5) * 100) * Math.PI) / 180;
      const [x, y] = vanishingPoint(view, [Math.sin(angle), 0, -Math.cos(angle)]) ?? [];
      expect(horizonAt(view, x ?? 0)).toBeCloseTo(y ?? 0, 6);
      expect(Math.abs(rayThrough(view, 300, horizonAt(view, 300))[1])).toBeLessThan(1e-12);
    }
  });
  it('what goes in straight lines with rays does so with pixels of any size (seed 63)', () => {
    const random = seeded(63);
    for (let i = 0; i < 20; i++) {
      const view = viewOfCamera(randomCamera(random), size);
      const [along, scale] = [[random(), random(), random()], 2 ** Math.floor(random() * 4)];
      const [first, perColumn, perRow] = overPixels(view, along, scale);
      const ray = rayThrough(view, 7.5 * scale, 3.5 * scale);
      expect(first + 7 * perColumn + 3 * perRow).toBeCloseTo(along[0] * ray[0] + along[1] * ray[1] + along[2] * ray[2], 9);
    }
  });
  it('nothing behind it, no ground above the horizon; rays get longer towards the corners', () => {
    const view = viewOfCamera(cameraWith({ focalMillimetres: 18 }), size);
    expect([projected(view, [0, 1.6, 3]), vanishingPoint(view, [0, 0, 1]), groundAt(view, 600, 100)]).toEqual([null, null, null]);
    expect([distancePerDepth(view, 600, 400), distancePerDepth(view, 0, 400)]).toEqual([1, expect.closeTo(Math.SQRT2, 12)]);
  });
});

describe('cameras in files', () => {
  const angles = (own: Camera) => [own.focalMillimetres, own.shiftX, own.shiftY, own.heightMetres, own.tiltDegrees, own.rollDegrees, own.headingDegrees, own.eastMetres, own.southMetres];
  it.each(['y', 'z'] as const)('matrices of a world with %s up give the camera back (seed 63)', (up) => {
    const random = seeded(63);
    for (let i = 0; i < 60; i++) {
      const own = randomCamera(random, { up });
      const found = cameraFromFacts(matricesOf(own, size), size);
      expect(found?.up).toBe(up);
      expectClose(angles(found as Camera), angles(own), 1e-8, `camera ${i}`);
    }
  });
  it('written out: a level camera at (0, 1.6, 0) that looks along −z', () => {
    // By hand: x to the right, y up, z ahead; NDC x = 28/36 · X/d + ½, y = ½ − 28/24 · Y/d.
    const { worldToCamera, worldToNDC } = matricesOf(cameraWith({}), size);
    expectClose(worldToCamera, [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, -1, 0, 0, -1.6, 0, 1], 1e-12);
    expectClose(worldToNDC, [28 / 36, 0, 0, 0, 0, -28 / 24, 0, 0, -0.5, -0.5, -1, -1, 0, (1.6 * 28) / 24, 0, 0], 1e-12);
  });
  it('reads −1…1 with y up as well: three.js’ own matrices', () => {
    const other = new PerspectiveCamera(40, 1.5, 0.1, 1000);
    other.position.set(3, 2, 5);
    other.lookAt(0, 4, -2);
    other.updateMatrixWorld();
    other.updateProjectionMatrix();
    // three multiplies columns; its elements in their order are the rows of ours.
    const both = other.projectionMatrix.clone().multiply(other.matrixWorldInverse);
    const found = cameraFromFacts({ worldToNDC: [...both.elements], worldToCamera: [...other.matrixWorldInverse.elements] }, size) as Camera;
    expectClose([found.eastMetres, found.heightMetres, found.southMetres], [3, 2, 5], 1e-9);
    expect(angleOfView(24, found.focalMillimetres)).toBeCloseTo(40, 9);
    expect(found.tiltDegrees).toBeCloseTo((Math.atan2(2, Math.hypot(3, 7)) * 180) / Math.PI, 9);
    const pose = cameraFromFacts({ worldToCamera: [...other.matrixWorldInverse.elements], focalMillimetres: found.focalMillimetres }, size) as Camera;
    expectClose(angles(pose), angles(found), 1e-9);
  });
  it('the sensor follows from the focal length; numbers out of all sense are not believed', () => {
    const own = cameraWith({ focalMillimetres: 50, sensorMillimetres: 23.6 });
    const facts = { ...matricesOf(own, size), focalMillimetres: 50, fNumber: 2.8, iso: -4, focusMetres: 7 };
    expect(cameraFromFacts(facts, size)).toMatchObject({ sensorMillimetres: expect.closeTo(23.6, 9), fNumber: 2.8, iso: 100, focusMetres: 7 });
  });
  it('what describes no camera is none', () => {
    const nothing: CameraFacts[] = [
      {}, { worldToNDC: [] }, { worldToNDC: Array.from({ length: 16 }, () => 0) }, { worldToNDC: Array.from({ length: 16 }, (_, i) => i) }, { worldToNDC: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1] }, { worldToNDC: [Number.NaN, ...Array.from({ length: 15 }, () => 1)] },
      { worldToCamera: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1] }, { worldToCamera: Array.from({ length: 16 }, () => 0), focalMillimetres: 30 }, matricesOf(cameraWith({ heightMetres: 1e9 }), size),
      // Of a picture of another shape.
      matricesOf(cameraWith({}), { width: 800, height: 800 }),
    ];
    for (const facts of nothing) expect(cameraFromFacts(facts, size), JSON.stringify(facts)).toBeNull();
  });
});

describe('cameras from lines on the picture', () => {
  /** Edges of a box as they are seen. */
  function edges(own: Camera, turnDegrees: number, round: (v: number) => number = (v) => v): { first: [Edge, Edge]; second: [Edge, Edge] } {
    const view = viewOfCamera(own, size);
    const [s, c] = [Math.sin((turnDegrees * Math.PI) / 180), Math.cos((turnDegrees * Math.PI) / 180)];
    const place = (along: number, up: number, aside: number): readonly [number, number] => {
      const found = projected(view, [s * along + c * aside, up, -c * along + s * aside]);
      return [round(found?.x ?? Number.NaN), round(found?.y ?? Number.NaN)];
    };
    const [near, far] = [14, 26];
    return { first: [[place(near, 0, -4), place(far, 0, -4)], [place(near, 6, -4), place(far, 6, -4)]], second: [[place(near, 0, -4), place(near, 0, 5)], [place(near, 6, -4), place(near, 6, 5)]] };
  }
  it('focal length, horizon and direction of a box come back, tilted or upright (seed 64)', () => {
    const random = seeded(64);
    for (let i = 0; i < 60; i++) {
      const isUpright = i % 2 === 0;
      const turn = (random() < 0.5 ? -1 : 1) * (15 + random() * 50);
      const own = cameraWith({ focalMillimetres: 18 + random() * 30, ...(isUpright ? { shiftY: 8 * (random() - 0.5) } : { tiltDegrees: 24 * (random() - 0.5) }), heightMetres: 1 + random() * 3 });
      const found = cameraFromLines({ ...edges(own, turn), isUpright }, size, { ...usual, heightMetres: own.heightMetres });
      expectClose([found.focalMillimetres, found.shiftY, found.tiltDegrees, found.rollDegrees, found.headingDegrees], [own.focalMillimetres, own.shiftY, own.tiltDegrees, 0, -turn], 1e-6, `box ${i}`);
    }
  });
  it('within 1 % when the ends are whole pixels', () => {
    const own = cameraWith({ focalMillimetres: 27, shiftY: 5 });
    for (const turn of [-50, -35, -25, 25, 35, 50]) {
      const found = cameraFromLines({ ...edges(own, turn, Math.round), isUpright: true }, size, usual);
      expect(Math.abs(found.focalMillimetres / 27 - 1), `turned by ${turn}°`).toBeLessThan(0.01);
      expect(Math.abs(horizonAt(viewOfCamera(found, size), 600) - horizonAt(viewOfCamera(own, size), 600))).toBeLessThan(3);
    }
  });
  it('one pair that is parallel in the picture leaves the known focal length', () => {
    const own = cameraWith({ focalMillimetres: 35, shiftY: 3 });
    const found = cameraFromLines({ ...edges(own, 0), isUpright: true }, size, cameraWith({ focalMillimetres: 40 }));
    expectClose([found.focalMillimetres, found.shiftY, found.headingDegrees], [40, 3, 0], 1e-6);
  });
  it('says what is wrong with the lines', () => {
    const good = edges(cameraWith({}), 30);
    const level: [Edge, Edge] = [[[100, 100], [900, 100]], [[100, 500], [900, 500]]];
    const cases: readonly [{ first: readonly [Edge, Edge]; second: readonly [Edge, Edge] }, RegExp][] = [
      [{ ...good, first: [[[5, 5], [5, 6]], good.first[1]] }, /An edge of the first pair has no length/],
      [{ ...good, second: [good.second[0], good.second[0]] }, /Both edges of the second pair lie on one line/],
      [{ first: level, second: level }, /Both pairs are parallel in the picture/],
      [{ first: good.first, second: good.first }, /run together at the same place/],
      [{ first: [[[600, 100], [601, 700]], [[640, 100], [642, 700]]], second: [[[600, 700], [700, 650]], [[600, 100], [700, 120]]] }, /No camera sees|stands upright|far outside|focal length/],
      [{ ...good, first: [[[Number.NaN, 5], [5, 6]], good.first[1]] }, /an end that is no place/],
    ];
    for (const [lines, sentence] of cases) expect(() => cameraFromLines({ ...lines, isUpright: true }, size, usual)).toThrow(sentence);
    // Both vanish on the same side: no right angle looks so.
    const aside: [Edge, Edge] = [[[200, 300], [400, 340]], [[200, 500], [400, 460]]];
    const more: [Edge, Edge] = [[[200, 300], [400, 330]], [[200, 500], [400, 470]]];
    expect(() => cameraFromLines({ first: aside, second: more, isUpright: true }, size, usual)).toThrow(/No camera sees these edges at a right angle/);
  });
  it('the horizon alone makes a shift or a tilt', () => {
    for (const isUpright of [true, false]) for (const y of [250, 400, 610]) expect(horizonAt(viewOfCamera(withHorizon(usual, size, y, isUpright), size), 100)).toBeCloseTo(y, 9);
    expect(withHorizon(usual, size, 250, true)).toMatchObject({ tiltDegrees: 0 });
    expect(withHorizon(usual, size, 250, false)).toMatchObject({ shiftY: 0 });
  });
  it('a kept camera has all values, within their limits', () => {
    expect(cameraOf({ from: 'hand', params: { focalMillimetres: 1e9 } })).toEqual({ ...usual, focalMillimetres: 3000 });
  });
});
