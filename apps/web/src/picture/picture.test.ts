import { type TazzelDocument, tilesOf } from '@tazzel/core';
import { createSession } from '@tazzel/editor';
import type { Engine, ViewRequest } from '@tazzel/engine';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { after, smallDocument } from '../../../../tests/documents.ts';
import { createPointer } from './pointer.ts';
import { Surface } from './surface.ts';
import { Viewport } from './viewport.ts';

/** Canvases that only remember that they were drawn on. */
class FakeCanvas {
  width = 0;
  height = 0;
  readonly context = new Proxy({ canvas: this, drawn: 0 } as Record<string, unknown>, {
    get: (target, name: string) => (name in target ? target[name] : () => undefined),
    set: (target, name: string, value) => {
      target[name] = value;
      return true;
    },
  });
  constructor(width = 0, height = 0) {
    this.width = width;
    this.height = height;
  }
  getContext = () => this.context;
}

let resize: (width: number, height: number) => void = () => undefined;
beforeEach(() => {
  vi.stubGlobal('OffscreenCanvas', FakeCanvas);
  vi.stubGlobal('ImageData', class {});
  vi.stubGlobal('window', { devicePixelRatio: 2, addEventListener: () => undefined, removeEventListener: () => undefined });
  vi.stubGlobal('requestAnimationFrame', () => 1);
  vi.stubGlobal('cancelAnimationFrame', () => undefined);
  vi.stubGlobal('getComputedStyle', () => ({ getPropertyValue: () => '#777' }));
  vi.stubGlobal('ResizeObserver', class {
    constructor(callback: (entries: unknown[]) => void) {
      resize = (width, height) => callback([{ contentRect: { width, height }, devicePixelContentBoxSize: [{ inlineSize: width * 2, blockSize: height * 2 }] }]);
    }
    observe = () => undefined;
    disconnect = () => undefined;
  });
});
afterEach(() => vi.unstubAllGlobals());

/** An engine that renders when it is told to. */
function fakeEngine() {
  const requests: (ViewRequest & { finish: () => void })[] = [];
  const engine = {
    pool: { size: 2 },
    render: (request: ViewRequest) =>
      new Promise((resolve, reject) => {
        const finish = () => {
          for (const tile of request.tiles) request.onTile(tile, new Uint8ClampedArray(4));
          resolve({ problems: [], stepsRun: request.tiles.length });
        };
        request.signal?.addEventListener('abort', () => reject(Object.assign(new Error('cancelled'), { name: 'Cancelled' })));
        requests.push({ ...request, finish });
      }),
    warm: vi.fn(async () => undefined),
    materialAt: () => null,
  };
  return { engine: engine as unknown as Engine, requests, warm: engine.warm };
}
const tick = () => new Promise((resolve) => setTimeout(resolve, 0));

function large(): TazzelDocument {
  return { ...smallDocument(), size: { width: 4000, height: 3000 } };
}

describe('a surface', () => {
  // It draws coarser where passes take long: how busy the machine is must play no part.
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());
  const turn = () => vi.advanceTimersByTimeAsync(0);
  const events = () => ({ onChange: vi.fn(), onBusy: vi.fn(), onProblems: vi.fn() });
  it('asks for the visible tiles, the middle first, and for nothing twice', async () => {
    const { engine, requests } = fakeEngine();
    const surface = new Surface(engine, events());
    const document = large();
    surface.show(document, {}, null);
    surface.look(0, { x: 1000, y: 900, width: 700, height: 600 });
    expect(requests).toHaveLength(1);
    const wanted = tilesOf(document.size, { x: 1000, y: 900, width: 700, height: 600 });
    expect(requests[0].tiles).toHaveLength(wanted.length);
    const far = (tile: { x: number; y: number }) => Math.hypot(tile.x + 128 - 1280, tile.y + 128 - 1152);
    expect(far(requests[0].tiles[0])).toBeLessThanOrEqual(far(requests[0].tiles.at(-1) ?? { x: 0, y: 0 }));
    requests[0].finish();
    await turn();
    expect(surface.isComplete).toBe(true);
    surface.look(0, { x: 1010, y: 910, width: 680, height: 580 });
    surface.show(document, {}, null);
    expect(requests).toHaveLength(1);
    // Moved by a tile: only what is new.
    surface.look(0, { x: 1300, y: 900, width: 700, height: 600 });
    expect(requests[1].tiles.length).toBeLessThan(wanted.length);
  });
  it('a pass in a drag is finished, then the latest state is shown; states between are skipped', async () => {
    const { engine, requests, warm } = fakeEngine();
    const surface = new Surface(engine, events());
    const states = [0.9, 0.8, 0.7, 0.6].map((opacity) => after(large(), { type: 'set-layer', layerId: 'layer-1', patch: { opacity } }));
    surface.show(states[0], {}, 'layer-1');
    surface.look(2, { x: 0, y: 0, width: 1000, height: 750 });
    for (const state of states.slice(1)) surface.show(state, {}, 'layer-1');
    expect(requests).toHaveLength(1);
    requests[0].finish();
    await turn();
    expect(requests).toHaveLength(2);
    expect(requests[1].document).toBe(states[3]);
    expect(surface.isComplete).toBe(false);
    requests[1].finish();
    await turn();
    expect(surface.isComplete).toBe(true);
    expect(warm).toHaveBeenCalledTimes(1);
  });
  it('what takes long is coarser while it moves, and fine again when it rests', async () => {
    vi.useFakeTimers();
    try {
      const { engine, requests } = fakeEngine();
      const seen = events();
      const surface = new Surface(engine, seen);
      const states = Array.from({ length: 6 }, (_, i) => after(large(), { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.9 - i / 10 } }));
      const finish = async (ms: number) => {
        await vi.advanceTimersByTimeAsync(ms);
        requests.at(-1)?.finish();
        await vi.advanceTimersByTimeAsync(0);
      };
      surface.show(states[0], {}, null);
      surface.look(1, { x: 0, y: 0, width: 2000, height: 1500 });
      await finish(90);
      // One change by itself is drawn as it is.
      await vi.advanceTimersByTimeAsync(1000);
      surface.show(states[1], {}, null);
      expect(requests.at(-1)?.level).toBe(1);
      // The next comes at once: what is under way is given up.
      await vi.advanceTimersByTimeAsync(16);
      surface.show(states[2], {}, null);
      expect(requests.at(-2)?.level).toBe(1);
      expect(requests[1].signal?.aborted).toBe(true);
      await vi.advanceTimersByTimeAsync(0);
      expect(requests.at(-1)).toMatchObject({ level: 2, document: states[2] });
      const tiles = requests.at(-1)?.tiles ?? [];
      expect(tiles.reduce((sum, { width, height }) => sum + width * height, 0)).toBe(1000 * 750);
      // As many as two workers take at once.
      expect(tiles).toHaveLength(4);
      surface.show(states[3], {}, null);
      await finish(20);
      expect(requests.at(-1)).toMatchObject({ level: 2, document: states[3] });
      await finish(20);
      expect(surface.isComplete).toBe(false);
      expect(seen.onBusy).toHaveBeenLastCalledWith(true);
      await vi.advanceTimersByTimeAsync(300);
      expect(requests.at(-1)).toMatchObject({ level: 1, document: states[3] });
      expect(requests.at(-1)?.tiles).toHaveLength(tilesOf({ width: 2000, height: 1500 }).length);
      await finish(90);
      expect(surface.isComplete).toBe(true);
      expect(seen.onBusy).toHaveBeenLastCalledWith(false);
    } finally {
      vi.useRealTimers();
    }
  });
  it('what takes very long is seen coarsely before it is fine, also when it changes once', async () => {
    const { engine, requests } = fakeEngine();
    const surface = new Surface(engine, events());
    const states = Array.from({ length: 3 }, (_, i) => after(large(), { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.9 - i / 10 } }));
    const finish = async (ms: number) => {
      await vi.advanceTimersByTimeAsync(ms);
      requests.at(-1)?.finish();
      await turn();
    };
    surface.show(states[0], {}, null);
    surface.look(1, { x: 0, y: 0, width: 2000, height: 1500 });
    await finish(400);
    await vi.advanceTimersByTimeAsync(1000);
    surface.show(states[1], {}, null);
    expect(requests.at(-1)).toMatchObject({ level: 3, document: states[1] });
    await finish(25);
    // Without a rest.
    expect(requests.at(-1)).toMatchObject({ level: 1, document: states[1] });
    expect(requests).toHaveLength(3);
    await finish(400);
    expect(surface.isComplete).toBe(true);
    // A change while it is drawn finely is seen coarsely as well.
    surface.show(states[2], {}, null);
    await vi.advanceTimersByTimeAsync(0);
    expect(requests.at(-1)).toMatchObject({ level: 3, document: states[2] });
  });
  it('another level drops what is stale', async () => {
    const { engine, requests } = fakeEngine();
    const surface = new Surface(engine, events());
    surface.show(large(), {}, null);
    surface.look(2, { x: 0, y: 0, width: 1000, height: 750 });
    surface.look(0, { x: 0, y: 0, width: 700, height: 600 });
    expect(requests[0].signal?.aborted).toBe(true);
    await turn();
    expect(requests.at(-1)?.level).toBe(0);
  });
});

describe('the viewport', () => {
  function open(document = large()) {
    const { engine, requests } = fakeEngine();
    const session = createSession(document);
    const viewport = new Viewport(engine, session);
    viewport.attach(new FakeCanvas() as unknown as HTMLCanvasElement);
    resize(800, 600);
    return { viewport, session, requests };
  }
  it('fits the picture with a margin, in device pixels', () => {
    const { viewport } = open();
    expect(viewport.snapshot().fitted).toBe(true);
    expect(viewport.snapshot().zoom).toBeCloseTo((1200 - 96) / 3000, 10);
    expect(viewport.level).toBe(1);
    expect(viewport.pixelOf(viewport.pointAt(400, 300))).toEqual({ x: 2000, y: 1500 });
    expect(viewport.pixelOf(viewport.pointAt(2, 2))).toBeNull();
    resize(400, 300);
    expect(viewport.snapshot().zoom).toBeCloseTo((600 - 96) / 3000, 10);
  });
  it('zooming keeps the pixel under the pointer, panning takes it along', () => {
    const { viewport } = open();
    for (const [x, y] of [[200, 200], [555, 321]]) {
      const before = viewport.pixelOf(viewport.pointAt(x, y));
      for (const factor of [1.7, 1.3, 0.8]) viewport.zoomAt(factor, x, y);
      const now = viewport.pixelOf(viewport.pointAt(x, y));
      expect(Math.abs((now?.x ?? 0) - (before?.x ?? 0))).toBeLessThanOrEqual(3);
      expect(Math.abs((now?.y ?? 0) - (before?.y ?? 0))).toBeLessThanOrEqual(3);
      viewport.panBy(40, -25);
      expect(viewport.pixelOf(viewport.pointAt(x + 40, y - 25))).toEqual(now);
    }
  });
  it('keeps its limits, and the picture never leaves the screen', () => {
    const { viewport } = open();
    viewport.zoomTo(1000);
    expect(viewport.snapshot().zoom).toBe(32);
    viewport.zoomTo(0.0001);
    expect(viewport.snapshot().zoom).toBe(1 / 32);
    viewport.panBy(-99999, 99999);
    const { left, width } = viewport.span;
    expect(left + width).toBeGreaterThanOrEqual(29);
    viewport.fit();
    expect(viewport.snapshot().fitted).toBe(true);
  });
  it('looks at the element alone, and at the base when comparing', async () => {
    const { session, requests } = open();
    const shown = async () => {
      // What is being made is finished first; then what was asked for meanwhile is begun.
      for (const { finish } of requests) finish();
      await tick();
      await tick();
      const { buildUp } = requests[requests.length - 1].document;
      return [...buildUp.scene, ...buildUp.picture].map((layer) => layer.name);
    };
    const all = await shown();
    expect(all.length).toBeGreaterThan(1);
    session.actions.set({ viewedSourceId: 'source-2' });
    expect(await shown()).toEqual(['element 2']);
    session.actions.set({ viewedSourceId: null });
    expect(await shown()).toEqual(all);
    session.actions.set({ compare: 'before' });
    expect(await shown()).toEqual(['element 1']);
  });
});

describe('the pointer', () => {
  it('asks one question at a time, and in the end for the last place', async () => {
    const session = createSession(large());
    const asked: number[] = [];
    const answers: (() => void)[] = [];
    const engine = {
      materialAt: () => null,
      metresAt: (_document: unknown, x: number) => x / 2,
      probe: (_document: unknown, x: number) => {
        asked.push(x);
        return new Promise((resolve) => answers.push(() => resolve({ light: [x, 0, 0, 1], codes: [x, 0, 0, 255], level: 0 })));
      },
    };
    const pointer = createPointer(engine as unknown as Engine, session);
    for (let x = 1; x <= 5; x++) pointer.move({ x, y: 0 }, { x, y: 0 }, { x, y: 0 }, 1);
    expect(asked).toEqual([1]);
    answers[0]();
    await tick();
    expect(asked).toEqual([1, 5]);
    answers[1]();
    await tick();
    expect(pointer.getState().values?.light[0]).toBe(5);
    expect(pointer.getState().metres).toBe(2.5);
    session.actions.edit({ type: 'rename-document', name: 'x' });
    expect(asked).toEqual([1, 5, 5]);
    pointer.move(null, null, null, 0);
    answers[2]();
    await tick();
    expect(pointer.getState()).toMatchObject({ pixel: null, values: null });
    pointer.dispose();
  });
});
