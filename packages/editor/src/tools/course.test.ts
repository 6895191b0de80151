/** Courses of light trails: drawn click by click, changed by their handles. */
import { trailsLayerOf, trailsValues } from '@tazzel/core';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { after, smallDocument, source } from '../../../../tests/documents.ts';
import { courseHandles } from '../handles/courses.ts';
import { createSession, type SessionStore } from '../session.ts';
import { course, drawCourse, endCourse } from './course.ts';
import type { PointerAt, ToolHost } from './define.ts';

const SIZE = { width: 600, height: 400 };
/** Level, 1.6 m over the ground: the horizon lies in the middle. */
const start = after({ ...smallDocument(), size: SIZE }, { type: 'add-sources', sources: [source(9, { ...SIZE, role: 'depth', encoding: 'data' })] }, { type: 'set-camera', params: { focalMillimetres: 36, sensorMillimetres: 36, heightMetres: 1.6 } });
const place = (x: number, y: number): PointerAt => ({ at: [x, y], screen: [x, y], pressure: 1, time: 0, shift: false, alt: false, control: false });

let session: SessionStore;
let host: ToolHost;
beforeEach(() => {
  session = createSession(start);
  const none = () => {};
  // What is seen at 300, 300 lies 0.6 m over the ground: 600 pixels of focal length, 100 below the horizon, 6 m away.
  host = { session, pointsAtMaterials: false, placeBehind: (at: readonly [number, number]) => at, pixelAt: ([x, y]: readonly [number, number]) => ({ x, y }), hoveredMaterialId: () => null, panBy: none, probe: vi.fn(), valuesAt: async () => [6], previewStroke: none, endStroke: none } as unknown as ToolHost;
  drawCourse(session);
});
const layer = () => trailsLayerOf(session.getState().document, null);
const values = () => { const there = layer(); return there ? trailsValues(there) : null; };
const click = (x: number, y: number) => course.press(host, place(x, y)).release(place(x, y));
const drawn = (count: number) => vi.waitFor(() => expect(values()?.courses.flat()).toHaveLength(count));

describe('a course', () => {
  it('grows with every click, on ground as high as what was clicked first; then another one begins', async () => {
    click(300, 300);
    click(200, 320);
    click(150, 350);
    await drawn(3);
    expect(values()).toMatchObject({ courses: [[[300, 300], [200, 320], [150, 350]]], groundMetres: 0.6 });
    expect(course.handles?.(session)?.handles).toHaveLength(3);
    course.handles?.(session)?.doubleClick?.(2, 'end');
    expect(session.getState()).toMatchObject({ tool: 'select', courseGoesOn: false });
    drawCourse(session);
    click(400, 300);
    click(500, 300);
    await drawn(5);
    expect(values()?.courses).toHaveLength(2);
  });
  it('is taken back if it was only begun, and with it a layer that held nothing else', async () => {
    click(300, 300);
    await drawn(1);
    endCourse(session);
    expect(layer()).toBeNull();
    session.actions.undo();
    expect(values()?.courses).toEqual([[[300, 300]]]);
  });
  it('is refused above the horizon, with a sentence', async () => {
    click(300, 100);
    await vi.waitFor(() => expect(session.getState().refusal?.message).toMatch(/above the horizon/));
    expect(layer()).toBeNull();
  });
  it('has handles: places are dragged as one step, added on the line, taken away but for two', async () => {
    click(300, 300);
    click(200, 320);
    await drawn(2);
    endCourse(session);
    const handles = () => { const there = layer(); const set = there && courseHandles(there, session); if (!set) throw new Error('no handles'); return set; };
    handles().move(0, [310, 305], 'drag');
    handles().move(0, [320.04, 310], 'drag');
    expect(values()?.courses).toEqual([[[320, 310], [200, 320]]]);
    session.actions.undo();
    expect(values()?.courses).toEqual([[[300, 300], [200, 320]]]);
    handles().insert?.([250, 311], 'more');
    expect(values()?.courses).toEqual([[[300, 300], [250, 311], [200, 320]]]);
    handles().doubleClick?.(1, 'less');
    handles().doubleClick?.(1, 'less');
    expect(values()?.courses).toEqual([[[300, 300], [200, 320]]]);
  });
});
