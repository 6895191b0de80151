import { describe, expect, it } from 'vitest';
import { type Camera, camera, defaultsOf, newTerm, type Placement, type Point, projected, SCALE_LIMITS, UNPLACED, viewOfCamera } from '@tazzel/core';
import { after, smallDocument } from '../../../../tests/documents.ts';
import { type CameraLines, createSession, type SessionStore } from '../session.ts';
import { placedBy } from './layer.ts';
import { cameraOfLines, firstLines, horizonLine, lineHandles, setLines } from './lines.ts';
import { shapeHandles } from './shape.ts';
import { firstShadow, setShadow, shadowHandles } from './shadow.ts';

const box = { x: 100, y: 50, width: 200, height: 100 };
const [MIDDLE, UPPER_LEFT, LOWER_RIGHT, RIGHT, UPPER, TURN] = [0, 1, 3, 5, 8, 9];
const placed = (patch: Partial<Placement> = {}): Placement => ({ ...UNPLACED, ...patch });

describe('placing a layer by its handles', () => {
  it('the middle moves it', () => expect(placedBy(box, placed({ offsetX: 5 }), MIDDLE, [215, 90])).toEqual(placed({ offsetX: 15, offsetY: -10 })));
  it('a corner scales it evenly about its middle, and never turns it over', () => {
    expect(placedBy(box, placed(), LOWER_RIGHT, [400, 200])).toEqual(placed({ scaleX: 2, scaleY: 2 }));
    expect(placedBy(box, placed({ scaleX: 2, scaleY: 0.5 }), UPPER_LEFT, [200 - 100, 100 - 12.5])).toMatchObject({ scaleX: 1, scaleY: 0.25 });
    const { scaleX, scaleY } = placedBy(box, placed(), LOWER_RIGHT, [-1000, -1000]);
    expect([scaleX > 0, scaleY > 0]).toEqual([true, true]);
  });
  it('a side scales one way, through nothing to mirrored', () => {
    expect(placedBy(box, placed(), RIGHT, [350, 1000])).toEqual(placed({ scaleX: 1.5 }));
    expect(placedBy(box, placed(), RIGHT, [150, 100])).toEqual(placed({ scaleX: -0.5 }));
    expect(placedBy(box, placed(), UPPER, [0, 75])).toEqual(placed({ scaleY: 0.5 }));
    expect(placedBy(box, placed(), RIGHT, [1e6, 0]).scaleX).toBe(SCALE_LIMITS[1]);
  });
  it('turned, sides are dragged along its own axes', () => {
    expect(placedBy(box, placed({ rotationDegrees: 90 }), RIGHT, [200, 100 + 150])).toEqual(placed({ rotationDegrees: 90, scaleX: 1.5 }));
  });
  it('the stem turns it: up is nothing, right is a quarter clockwise, also when it stands on its head', () => {
    expect(placedBy(box, placed({ rotationDegrees: 40 }), TURN, [200, 0]).rotationDegrees).toBeCloseTo(0);
    expect(placedBy(box, placed(), TURN, [300, 100]).rotationDegrees).toBeCloseTo(90);
    expect(placedBy(box, placed({ scaleY: -1 }), TURN, [200, 300]).rotationDegrees).toBeCloseTo(0);
  });
});

const ended = (type: string) => {
  const start = smallDocument();
  const session = createSession(after(start, { type: 'add-mask', name: 'M', terms: [newTerm(type, 'add', start)] }));
  session.actions.showMask('mask-1');
  return session;
};
const points = (session: SessionStore) => session.getState().document.masks[0].terms[0].params.points as readonly Point[];

describe('handles of shapes', () => {
  it('the centre of an ellipse takes the axes along; an axis that turns keeps the other square to it', () => {
    const session = ended('ellipse');
    shapeHandles(session)?.move(0, [5, 3], 'a');
    expect(points(session)).toEqual([[5, 3], [expect.closeTo(7.4, 9), 3], [5, expect.closeTo(4.8, 9)]]);
    shapeHandles(session)?.move(1, [5, 5], 'b');
    const [c, a, b] = points(session);
    expect([a[0] - c[0], a[1] - c[1], b[0] - c[0], b[1] - c[1]]).toEqual([0, 2, expect.closeTo(-1.8, 9), expect.closeTo(0, 9)]);
    // Each drag is a step of its own.
    session.actions.undo();
    expect(points(session)[0]).toEqual([5, 3]);
  });
  it('corners of a polygon come and go, never below three', () => {
    const session = ended('polygon');
    shapeHandles(session)?.insert?.([4, 4], 'a');
    expect(points(session)).toHaveLength(4);
    shapeHandles(session)?.doubleClick?.(0, 'b');
    shapeHandles(session)?.doubleClick?.(0, 'c');
    expect(points(session)).toHaveLength(3);
    expect(shapeHandles(ended('gradient'))).toMatchObject({ handles: [{ label: 'Full here' }, { label: 'Nothing here' }] });
    expect([shapeHandles(ended('depth')), shapeHandles(ended('gradient'))?.insert]).toEqual([null, undefined]);
  });
  it.each(['ellipse', 'rectangle', 'polygon', 'gradient'])('%s has an outline', (type) => expect(shapeHandles(ended(type))?.outline([[0, 0], [10, 0], [0, 10]])).toMatch(/^M[\d.-]+ [\d.-]+L/));
});

describe('lines of the camera', () => {
  const own = { ...(defaultsOf(camera) as unknown as Camera), focalMillimetres: 30, shiftY: 2 };
  const size = { width: 1200, height: 800 };
  const session = () => createSession({ ...smallDocument(), size });
  /** Edges of a turned box as that camera sees them. */
  const drawn = (): CameraLines => {
    const view = viewOfCamera(own, size);
    const at = (along: number, up: number, aside: number): Point => {
      const found = projected(view, [0.6 * along + 0.8 * aside, up, -0.8 * along + 0.6 * aside]);
      return [found?.x ?? 0, found?.y ?? 0];
    };
    return { first: [[at(14, 0, -4), at(26, 0, -4)], [at(14, 6, -4), at(26, 6, -4)]], second: [[at(14, 0, -4), at(14, 0, 5)], [at(14, 6, -4), at(14, 6, 5)]], isUpright: true };
  };
  it('make the camera, as one step; the horizon follows', () => {
    const on = session();
    setLines(on, drawn(), 'drag');
    expect(on.getState().document.camera).toMatchObject({ from: 'lines', params: { focalMillimetres: expect.closeTo(30, 6), shiftY: expect.closeTo(2, 6) } });
    expect(horizonLine(on)?.[0]).toEqual([0, expect.closeTo(400 + (2 / 36) * 1200, 6)]);
    on.actions.undo();
    expect([on.getState().document.camera, horizonLine(on)]).toEqual([null, null]);
  });
  it('are dragged by their ends; what describes no camera says why and leaves the last one', () => {
    const on = session();
    expect(lineHandles(on)).toBeNull();
    setLines(on, drawn());
    const before = on.getState().document;
    expect(lineHandles(on)?.handles).toHaveLength(9);
    const { first } = drawn();
    lineHandles(on)?.move(1, first[0][0], 'drag');
    expect(on.getState().document).toBe(before);
    expect(cameraOfLines(on, on.getState().cameraLines as CameraLines)).toMatch(/An edge of the first pair has no length/);
    lineHandles(on)?.move(1, first[0][1], 'drag');
    expect(cameraOfLines(on, on.getState().cameraLines as CameraLines)).toMatchObject({ focalMillimetres: expect.closeTo(30, 6) });
  });
  it('begin as the known camera sees two walls, and change nothing before they are dragged', () => {
    const on = session();
    for (const known of [null, own, { ...own, shiftY: 0, tiltDegrees: 12, headingDegrees: 70 }]) {
      const found = cameraOfLines(on, firstLines(size, known)) as Camera;
      const wanted = known ?? (defaultsOf(camera) as unknown as Camera);
      expect([found.focalMillimetres, found.shiftY, found.tiltDegrees]).toEqual([expect.closeTo(wanted.focalMillimetres, 6), expect.closeTo(wanted.shiftY, 6), expect.closeTo(wanted.tiltDegrees, 6)]);
    }
  });
  it('the horizon is dragged by its end, and the lines follow', () => {
    const on = session();
    setLines(on, drawn());
    lineHandles(on)?.move(8, [1200, 500], 'drag');
    expect(horizonLine(on)?.map(([, y]) => y)).toEqual([expect.closeTo(500, 6), expect.closeTo(500, 6)]);
    expect(cameraOfLines(on, on.getState().cameraLines as CameraLines)).toMatchObject({ shiftY: expect.closeTo(3, 6) });
  });
});

describe('a shadow on the ground', () => {
  const session = () => createSession(after({ ...smallDocument(), size: { width: 1200, height: 800 } }, { type: 'set-camera', from: 'hand', params: { heightMetres: 1.6, focalMillimetres: 24 } }));
  it('is dragged by its ends; the sun follows as one step of the history, and is set if there was none', () => {
    const on = session();
    expect(shadowHandles(on)).toBeNull();
    setShadow(on, firstShadow(on));
    expect(on.getState().document.sun).toMatchObject({ params: { azimuthDegrees: expect.any(Number), altitudeDegrees: expect.any(Number) } });
    const before = on.getState().document.sun?.params.azimuthDegrees;
    expect(shadowHandles(on)?.handles).toHaveLength(3);
    // To the left of its foot: the sun stands at the right.
    shadowHandles(on)?.move(1, [300, 640], 'drag');
    shadowHandles(on)?.move(1, [200, 640], 'drag');
    expect(on.getState().document.sun?.params.azimuthDegrees).toBeCloseTo(90, 6);
    on.actions.undo();
    expect(on.getState().document.sun?.params.azimuthDegrees).toBe(before);
  });
  it('over the horizon, or without a camera, says so and leaves the sun', () => {
    const on = session();
    setShadow(on, { ...firstShadow(on), tip: [700, 100] });
    expect(on.getState().document.sun).toBeNull();
    const bare = createSession({ ...smallDocument(), size: { width: 1200, height: 800 } });
    setShadow(bare, firstShadow(bare));
    expect(bare.getState().document.sun).toBeNull();
  });
});
