/** Figures in the hand: where a click stands them up, on which ground, and what their handles do. */
import { figuresValues, isFigures, type PictureLayer } from '@tazzel/core';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { after, smallDocument, source } from '../../../../tests/documents.ts';
import { figureHandles } from '../handles/figures.ts';
import { createSession, type HeldFigure, type SessionStore } from '../session.ts';
import type { PointerAt, ToolHost } from './define.ts';
import { stand } from './stand.ts';

const SIZE = { width: 600, height: 400 };
/** Level, 1.6 m over the ground: the horizon lies in the middle. */
const start = after({ ...smallDocument(), size: SIZE }, { type: 'set-camera', params: { focalMillimetres: 36, sensorMillimetres: 36, heightMetres: 1.6 } });
const held: HeldFigure = { label: 'Visitor', figure: { sourceId: 'source-9', heightMetres: 1.7, foot: [0.5, 1], top: 0, aloftMetres: 0 }, sources: [source(9, { width: 40, height: 100, role: 'picture' })] };
const place = (x: number, y: number, shift = false): PointerAt => ({ at: [x, y], screen: [x, y], pressure: 1, time: 0, shift, alt: false, control: false });

let session: SessionStore;
let host: ToolHost;
let metres: readonly number[] | null;
beforeEach(() => {
  session = createSession(start);
  metres = null;
  const none = () => {};
  host = { session, pointsAtMaterials: false, placeBehind: (at: readonly [number, number]) => at, pixelAt: ([x, y]: readonly [number, number]) => (x >= 0 && y >= 0 && x < SIZE.width && y < SIZE.height ? { x, y } : null), hoveredMaterialId: () => null, panBy: none, probe: vi.fn(), valuesAt: async () => metres, previewStroke: none, endStroke: none } as unknown as ToolHost;
  session.actions.set({ figureInHand: held, tool: 'stand' });
});
const layer = () => session.getState().document.buildUp.scene.find(isFigures) as PictureLayer;
const figures = () => (layer() ? figuresValues(layer()).figures : []);
async function click(x: number, y: number, shift = false): Promise<void> {
  stand.press(host, place(x, y, shift)).release(place(x, y, shift));
  await vi.waitFor(() => expect(session.getState().refusal ?? session.getState().history.past.length).toBeTruthy());
}

describe('a figure in the hand', () => {
  it('stands where one clicks and leaves the hand; with Shift it stays, and joins the layer', async () => {
    await click(300, 300, true);
    expect([figures().length, session.getState().tool]).toEqual([1, 'stand']);
    expect(figures()[0]).toMatchObject({ at: [300, 300], heightMetres: 1.7, groundMetres: 0 });
    stand.press(host, place(200, 320)).release(place(200, 320));
    await vi.waitFor(() => expect(figures()).toHaveLength(2));
    expect([session.getState().tool, session.getState().figureInHand, session.getState().document.sources.filter(({ id }) => id === 'source-9').length, layer().name]).toEqual(['select', null, 1, 'Figures']);
  });
  it('that is one’s own begins a layer, which another of the same picture joins; it is at hand then', async () => {
    await click(300, 300);
    const own = { ...held, figure: { ...held.figure, sourceId: 'source-10' }, sources: [source(10, { width: 40, height: 40, role: 'picture' })], apart: true };
    const layers = () => session.getState().document.buildUp.scene.filter(isFigures);
    for (const x of [200, 240]) {
      session.actions.set({ figureInHand: own, tool: 'stand' });
      stand.press(host, place(x, 320)).release(place(x, 320));
      await vi.waitFor(() => expect(session.getState().figureInHand).toBeNull());
    }
    expect(layers().map((each) => figuresValues(each).figures.length)).toEqual([1, 2]);
    expect(session.getState().selectedLayerId).toBe(layers()[1].id);
  });
  it('stands on what the depth says is there', async () => {
    session = createSession(after(start, { type: 'add-sources', sources: [source(8, { ...SIZE, role: 'depth', encoding: 'data' })] }));
    session.actions.set({ figureInHand: held, tool: 'stand' });
    host = { ...host, session };
    // 100 px below the horizon at 4.8 m: 4.8 × 100 ÷ 600 = 0.8 m below the eye.
    metres = [4.8];
    await click(300, 300);
    expect(figures()[0].groundMetres).toBeCloseTo(0.8, 3);
  });
  it('above the horizon it is refused with a sentence, and beside the picture nothing happens', async () => {
    await click(300, 100);
    expect([session.getState().refusal?.message, figures().length, session.getState().tool]).toEqual([expect.stringMatching(/above the horizon/), 0, 'stand']);
    stand.press(host, place(-5, 300)).release(place(-5, 300));
    await Promise.resolve();
    expect(figures()).toHaveLength(0);
  });
});

describe('handles of figures', () => {
  beforeEach(() => click(300, 300));
  const handles = () => figureHandles(layer(), session);
  it('are a foot and a top, as tall as the figure is there', () => {
    expect(handles()?.handles.map(({ label }) => label)).toEqual(['Foot of element 9', 'Height of element 9']);
    // 9.6 m away: 1.7 m are 1.7 × 600 ÷ 9.6 px.
    expect(handles()?.handles[1].at[1]).toBeCloseTo(300 - (1.7 * 600) / 9.6, 3);
  });
  it('move it along the ground, not over the horizon; make it taller by its top', () => {
    handles()?.move(0, [250, 260], 'drag');
    expect(figures()[0].at).toEqual([250, 260]);
    handles()?.move(0, [250, 100], 'drag');
    expect(figures()[0].at).toEqual([250, 260]);
    handles()?.move(1, [250, 200], 'drag');
    // From foot to horizon is the eye's height.
    expect(figures()[0].heightMetres).toBeCloseTo(1.6, 3);
  });
  it('are none without a camera', () => expect(figureHandles(layer(), createSession({ ...session.getState().document, camera: null }))).toBeNull());
});
