import { correctionById, type KeptValues, newTerm, srgbDecode, type Stroke, type TazzelDocument } from '@tazzel/core';
import { describe, expect, it, vi } from 'vitest';
import { after, smallDocument, source } from '../../../../tests/documents.ts';
import { createSession, openCorrection, openTerm, type ToolId } from '../session.ts';
import type { PointerAt, ToolHost } from './define.ts';
import { pickAt } from './pick.ts';
import { toolById } from './registry.ts';

function opened(type: string, role: 'beauty' | 'normals' | 'depth' = 'beauty') {
  const start = smallDocument();
  const document = after({ ...start, sources: [...start.sources, source(9, { role, encoding: role === 'beauty' ? 'linear' : 'data' })] }, { type: 'add-mask', name: 'M', terms: [newTerm(type, 'add', start)] });
  const session = createSession(document);
  session.actions.showMask('mask-1');
  session.actions.set({ tool: 'pick' });
  const host = {
    session,
    pointsAtMaterials: true,
    placeBehind: (at) => at,
    pixelAt: ([x, y]) => (x >= 0 && y >= 0 && x < 8 && y < 6 ? { x: Math.floor(x), y: Math.floor(y) } : null),
    hoveredMaterialId: () => 'material-1',
    panBy: vi.fn(),
    probe: vi.fn(async (_document: TazzelDocument, _x: number, _y: number, _around: number) => ({ light: [0.1, 0.2, 0.4, 1], codes: [10, 20, 30, 255] })),
    valuesAt: vi.fn(async (): Promise<readonly number[] | null> => [0.5, 0.25, 2]),
    previewStroke: vi.fn(),
    endStroke: vi.fn(),
  } satisfies ToolHost;
  return { session, host };
}
const params = ({ session }: ReturnType<typeof opened>): KeptValues => session.getState().document.masks[0].terms[0].params;
const pointer = (x: number, y: number, patch: Partial<PointerAt> = {}): PointerAt => ({ at: [x, y], screen: [x * 10, y * 10], pressure: 1, time: 0, shift: false, alt: false, control: false, ...patch });

describe('colour samplers', () => {
  it('a click places one, a click on it takes it away, a drag moves the picture', () => {
    const { session, host } = opened('colour');
    const sampler = toolById('sampler');
    const places = () => session.getState().document.samplers;
    const click = (x: number, y: number) => sampler.press(host, pointer(x, y)).release(pointer(x, y));
    click(2.5, 3.5);
    click(6, 1);
    click(-4, 1);
    expect(places()).toEqual([[2, 3], [6, 1]]);
    click(2.2, 3.1);
    expect(places()).toEqual([[6, 1]]);
    const drag = sampler.press(host, pointer(3, 3));
    drag.move([pointer(5, 3)]);
    drag.release(pointer(5, 3));
    expect([places().length, host.panBy.mock.calls.length]).toEqual([1, 1]);
  });
});

describe('picking for a term', () => {
  it('a colour is taken as it looks, with its place', async () => {
    const on = opened('colour');
    await pickAt(on.host, [3, 4]);
    // IEC 61966-2-1: 0.5 and 0.25 of light are codes 188 and 137; brighter than white is white.
    expect(params(on)).toMatchObject({ color: [188, 137, 255].map((code) => srgbDecode(code / 255)), at: [3, 4] });
    expect(on.session.getState().tool).toBe('select');
    on.session.actions.undo();
    expect(params(on)).toMatchObject({ color: [0.21586, 0.21586, 0.21586] });
  });
  it('of the picture after a layer, the finished codes are taken', async () => {
    const on = opened('colour');
    on.session.actions.edit({ type: 'set-params', maskId: 'mask-1', termId: 'term-1', params: { after: 'layer-1' } });
    await pickAt(on.host, [0, 0]);
    expect(params(on)).toMatchObject({ color: [10, 20, 30].map((code) => srgbDecode(code / 255)) });
  });
  it('a direction is of length one; where nothing was hit there is none', async () => {
    const on = opened('facing', 'normals');
    await pickAt(on.host, [1, 1]);
    expect(Math.hypot(...(params(on).direction as number[]))).toBeCloseTo(1, 2);
    on.host.valuesAt.mockResolvedValue([0, 0, 0]);
    const before = params(on);
    await pickAt(on.host, [1, 1]);
    expect(params(on)).toBe(before);
  });
  it('a depth becomes the middle of the band, which keeps its length', async () => {
    const on = opened('depth', 'depth');
    on.host.valuesAt.mockResolvedValue([40]);
    await pickAt(on.host, [1, 1]);
    expect(params(on)).toMatchObject({ nearMetres: 30, farMetres: 50 });
  });
  it('beside the picture, or for a term that picks nothing, nothing happens', async () => {
    const on = opened('ellipse');
    const { document } = on.session.getState();
    await pickAt(on.host, [1, 1]);
    await pickAt(on.host, [-1, 0]);
    expect(on.session.getState().document).toBe(document);
    expect(openTerm(on.session.getState())).toMatchObject({ maskId: 'mask-1', term: { id: 'term-1' } });
    on.session.actions.selectMaterial(null);
    expect(openTerm(on.session.getState())).toBeNull();
  });
});

describe('picking for a correction', () => {
  const corrected = (correction: string, zone: 'scene' | 'picture') => {
    const on = opened('ellipse');
    on.session.actions.edit({ type: 'add-correction-layer', correction, zone });
    on.session.actions.set({ tool: 'pick', openPick: 0 });
    const use = () => {
      const open = openCorrection(on.session.getState());
      return open?.use.params;
    };
    return { ...on, use };
  };
  it('takes the light that comes in below the tone line, and is put away', async () => {
    const { host, session, use } = corrected('exposure', 'scene');
    await pickAt(host, [1, 2]);
    // Mid grey over the luminance of 0.1, 0.2, 0.4 by ITU-R BT.709.
    expect(use()?.exposureStops).toBeCloseTo(Math.log2(0.18 / (0.2126 * 0.1 + 0.7152 * 0.2 + 0.0722 * 0.4)), 3);
    expect(session.getState().tool).toBe('select');
    // What comes in is the picture without the correction.
    expect(host.probe.mock.lastCall?.[0].buildUp.scene.map(({ kind }) => kind)).not.toContain('correction');
  });
  it('over the tone line takes the light of picture values; a correction of picture values those', async () => {
    const light = corrected('exposure', 'picture');
    await pickAt(light.host, [1, 2]);
    expect(light.use()?.exposureStops).toBeCloseTo(Math.log2(0.18 / (0.2126 * srgbDecode(10 / 255) + 0.7152 * srgbDecode(20 / 255) + 0.0722 * srgbDecode(30 / 255))), 3);
    const values = corrected('levels', 'picture');
    values.session.actions.set({ openPick: 1 });
    await pickAt(values.host, [1, 2]);
    expect(values.use()?.whitePercent).toBeGreaterThan(0);
    expect(values.use()?.blackPercent).toBe(0);
  });
  it('where nothing can be taken, stays in the hand; without a correction it does nothing', async () => {
    const { host, session } = corrected('white-balance', 'scene');
    const { document } = session.getState();
    host.probe.mockResolvedValue({ light: [0, 0, 0, 0], codes: [0, 0, 0, 0] });
    await pickAt(host, [1, 2]);
    expect([session.getState().document, session.getState().tool]).toEqual([document, 'pick']);
    session.actions.undo();
    session.actions.selectLayer(null);
    await pickAt(host, [1, 2]);
    expect(host.probe).toHaveBeenCalledTimes(1);
  });
});

describe('a press on the picture', () => {
  const ids: readonly ToolId[] = ['select', 'pick', 'curve', 'lines'];
  it.each(ids)('with %s: dragged, it moves the picture and does nothing else', (id) => {
    const { host, session } = opened('colour');
    const before = session.getState();
    const gesture = toolById(id).press(host, pointer(2, 2));
    gesture.move([pointer(2.1, 2.1)]);
    expect(host.panBy).not.toHaveBeenCalled();
    gesture.move([pointer(3, 2)]);
    gesture.move([pointer(3, 2), pointer(5, 3)]);
    expect(host.panBy.mock.calls).toEqual([[10, 0], [20, 10]]);
    gesture.release(pointer(5, 3));
    gesture.cancel();
    expect(session.getState()).toBe(before);
  });
  it('with the selection: a click takes the material under it, with Shift and Alt more or less', () => {
    const { host, session } = opened('colour');
    const click = (patch: Partial<PointerAt> = {}) => toolById('select').press(host, pointer(1, 1)).release(pointer(1, 1, patch));
    click();
    expect(session.getState().selectedMaterialIds).toEqual(['material-1']);
    click({ alt: true });
    expect(session.getState().selectedMaterialIds).toEqual([]);
    toolById('select').press({ ...host, pointsAtMaterials: false }, pointer(1, 1)).release(pointer(1, 1));
    expect(session.getState().selectedMaterialIds).toEqual([]);
  });
  it('with the brush: one stroke, shown as it grows, kept every so often, one step of the history', () => {
    const on = opened('paint');
    const { session, host } = on;
    session.actions.set({ tool: 'brush' });
    const gesture = toolById('brush').press(host, pointer(1, 1, { pressure: 0.5 }));
    expect(session.getState().maskDisplay).toBe('hatch');
    gesture.move([pointer(1.2, 1, { time: 50 }), pointer(3, 1, { time: 100 })]);
    expect(session.getState().unfinished).toBeNull();
    gesture.move([pointer(5, 2, { time: 300 })]);
    expect(session.getState().unfinished).toMatchObject({ type: 'add-stroke', stroke: { path: [1, 1, 0.5, 3, 1, 1, 5, 2, 1] } });
    gesture.release(pointer(5, 2));
    expect([session.getState().unfinished, host.previewStroke.mock.calls.length, host.endStroke.mock.calls]).toEqual([null, 3, [[true]]]);
    expect((params(on).strokes as readonly Stroke[]).map(({ path }) => path)).toEqual([[1, 1, 0.5, 3, 1, 1, 5, 2, 1]]);
    // With Shift it goes on straight from there; Alt turns painting and erasing round.
    toolById('brush').press(host, pointer(7, 5, { shift: true, alt: true })).release(pointer(7, 5));
    expect((params(on).strokes as readonly Stroke[])[1]).toMatchObject({ erase: true, path: [5, 2, 1, 7, 5, 1] });
    session.actions.undo();
    expect(params(on).strokes).toHaveLength(1);
  });
  it('a stroke that is given up, and one whose line is gone, leave nothing', () => {
    const on = opened('paint');
    const { session, host } = on;
    const painting = () => {
      const gesture = toolById('brush').press(host, pointer(1, 1));
      gesture.move([pointer(4, 4)]);
      return gesture;
    };
    painting().cancel();
    const gone = painting();
    session.actions.openTerm(null);
    gone.release(pointer(4, 4));
    expect([params(on).strokes, host.endStroke.mock.calls]).toEqual([[], [[false], [false]]]);
    // Without a line that takes strokes the brush moves the picture.
    const panned = toolById('brush').press(host, pointer(1, 1));
    panned.move([pointer(2, 1)]);
    expect(host.panBy).toHaveBeenCalledWith(10, 0);
  });
  it('with the curve: a click sets a point at the value that comes in', async () => {
    const { host, session } = opened('colour');
    session.actions.edit({ type: 'add-correction-layer', correction: 'curves', zone: 'picture' });
    session.actions.set({ tool: 'curve', openCurve: 'red' });
    host.probe.mockResolvedValue({ light: [0, 0, 0, 1], codes: [102, 0, 0, 255] });
    toolById('curve').press(host, pointer(1, 1)).release(pointer(1, 1));
    await vi.waitFor(() => expect(session.getState().document.buildUp.picture.at(-1)).toMatchObject({ correction: { params: { red: [[0, 0], [0.4, 0.4], [1, 1]] } } }));
    expect(Object.keys(correctionById('curves').params)).toContain('red');
    toolById('curve').press(host, pointer(-4, 1)).release(pointer(-4, 1));
    await Promise.resolve();
    expect(host.probe).toHaveBeenCalledTimes(1);
  });
});
