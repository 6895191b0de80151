/** Photographed things taken hold of: where points lie, what dragging them does, what is refused. */
import { figuresValues, isFigures, type PictureLayer, type PlacedFigure } from '@tazzel/core';
import { beforeEach, describe, expect, it } from 'vitest';
import { after, smallDocument, source } from '../../../../tests/documents.ts';
import type { HandleSet } from '../handles/define.ts';
import { figureHandles } from '../handles/figures.ts';
import { createSession, type SessionStore } from '../session.ts';
import type { PointerAt, ToolHost } from './define.ts';
import { holdTool } from './hold.ts';

const SIZE = { width: 600, height: 400 };
const bench: PlacedFigure = { sourceId: 'source-9', at: [300, 300], groundMetres: 0, heightMetres: 0.9, mirrored: false, leanDegrees: 0, foot: [0.5, 1], top: 0 };
const start = (figures: readonly PlacedFigure[]) =>
  after({ ...smallDocument(), size: SIZE }, { type: 'set-camera', params: { focalMillimetres: 36, sensorMillimetres: 36, heightMetres: 1.6 } }, { type: 'add-figures', figures, sources: [source(9, { width: 200, height: 100, role: 'picture' })] });

let session: SessionStore;
beforeEach(() => {
  session = createSession(start([bench]));
  session.actions.set({ tool: 'hold' });
});
const layer = () => session.getState().document.buildUp.scene.find(isFigures) as PictureLayer;
const figure = (i = 0) => figuresValues(layer()).figures[i];
const place = (x: number, y: number): PointerAt => ({ at: [x, y], screen: [x, y], pressure: 1, time: 0, shift: false, alt: false, control: false });
const click = (x: number, y: number) => holdTool.press({ session, placeBehind: (at: PointerAt['at']) => at } as unknown as ToolHost, place(x, y)).release(place(x, y));
/** Those of the tool while it is taken; else those that the layer has. */
const handles = () => (session.getState().tool === 'hold' ? holdTool.handles?.(session) : figureHandles(layer(), session)) as HandleSet;
const points = () => handles().handles.filter(({ label }) => label.startsWith('Point'));
const drag = (label: string, to: readonly [number, number]) => handles().move(handles().handles.findIndex((handle) => handle.label.startsWith(label)), to, 'drag');

describe('a photographed thing', () => {
  // 0.9 m of 1.6 m to the horizon 100 px higher: 56 px tall, 112 px wide.
  it('is held where one clicks it; the handle lies there', () => {
    click(260, 290);
    expect(points().map(({ label }) => label)).toEqual(['Point 1 of element 9']);
    expect(points()[0].at[0]).toBeCloseTo(260, 1);
    expect(points()[0].at[1]).toBeCloseTo(290, 1);
  });
  it('moves by one point, turns and grows by the second, follows by four; then the tool is put away', () => {
    click(260, 295);
    drag('Point 1', [200, 310]);
    expect(figure().at[0]).toBeLessThan(250);
    expect(figure().heightMetres).toBe(0.9);
    const [x, y] = points()[0].at;
    click(x + 70, y);
    drag('Point 2', [x + 140, y]);
    expect(figure().heightMetres).toBeGreaterThan(1.5);
    expect(points()[0].at[0]).toBeCloseTo(x, 1);
    click(x + 20, y - 40);
    click(x + 120, y - 40);
    expect([points().length, session.getState().tool]).toEqual([4, 'select']);
    drag('Point 4', [x + 125, y - 55]);
    expect(figure().corners).toHaveLength(4);
    expect(points()[3].at[1]).toBeCloseTo(y - 55, 1);
    expect(points()[2].at[1]).toBeCloseTo(y - 40, 1);
    // Where it would fold it stays.
    const before = figure();
    drag('Point 4', [x - 300, y + 300]);
    expect(figure()).toEqual(before);
    click(x + 60, y - 10);
    expect(session.getState().refusal?.message).toMatch(/held by 4 points/);
  });
  it('is refused beside it; of two in a line the nearer one is held', () => {
    click(20, 20);
    expect(session.getState().refusal?.message).toMatch(/No figure of this layer is seen there/);
    session = createSession(start([bench, { ...bench, at: [300, 290] }]));
    session.actions.set({ tool: 'hold' });
    click(300, 270);
    expect([figure(0).points?.length, figure(1).points]).toEqual([1, undefined]);
  });
  it('has a line for its eye level, which is dragged; it undoes as one step', () => {
    session = createSession(start([{ ...bench, eyeLevel: -0.2 }]));
    session.actions.set({ tool: 'hold' });
    expect(handles()).toBeNull();
    session.actions.set({ tool: 'select' });
    const [left, right] = handles().handles.filter(({ label }) => /eye level/i.test(label));
    expect(left.at[1]).toBeCloseTo(right.at[1], 6);
    drag('Eye level', [left.at[0], left.at[1] + 5.6]);
    expect(figure().eyeLevel).toBeCloseTo(-0.1, 2);
    expect(handles().outline(handles().handles.map(({ at }) => at)).match(/M/g)).toHaveLength(3);
    session.actions.undo();
    expect(figure().eyeLevel).toBe(-0.2);
  });
});

it('with nothing that stands there, says so', () => {
  session = createSession(after({ ...smallDocument(), size: SIZE }, { type: 'set-camera', params: {} }));
  click(10, 10);
  expect(session.getState().refusal?.message).toMatch(/Stand a cut-out up first/);
  expect(holdTool.handles?.(session)).toBeNull();
});
