import { describe, expect, it } from 'vitest';
import { after, smallDocument, source } from '../../../../tests/documents.ts';
import { Arena } from './arena.ts';
import type { Backend } from './backend.ts';
import { Drawing } from './draw.ts';
import { graphFor } from './graph.ts';
import { planDocument } from './plan.ts';
import { referenceBackend } from './reference.ts';
import { Evaluator } from './run.ts';
import { lightOf } from './targets.ts';

describe('arena', () => {
  const numbers = new Float32Array(100);
  const arena = new Arena({ length: numbers.length, view: (start, length) => numbers.subarray(start, start + length) });
  it('gives what was taken last back first, with room behind it for whole vectors', () => {
    const first = arena.take(5).fill(1);
    const { mark } = arena;
    const second = arena.take(20).fill(2);
    expect(second.byteOffset - first.byteOffset).toBeGreaterThanOrEqual((5 + 8) * 4);
    arena.release(mark);
    const again = arena.take(20);
    expect([again.byteOffset, again[0], first[0]]).toEqual([second.byteOffset, 2, 1]);
  });
  it('what finds no room comes from elsewhere', () => {
    const { mark } = arena;
    const large = arena.take(1000);
    expect([large.length, large.buffer === numbers.buffer, arena.mark]).toEqual([1000, false, mark]);
  });
});

describe('memory that grows while something is drawn', () => {
  const size = { width: 8, height: 6 };
  const plan = planDocument(after(smallDocument(), { type: 'add-sources', sources: [source(9, size)] }, { type: 'add-layer', layer: 'element', params: { source: 'source-9' }, zone: 'scene' }));
  const level = { x: 0, y: 0, ...plan.size };
  const flat = (value: number) => ({ type: 'f32' as const, ...plan.size, data: new Float32Array(plan.size.width * plan.size.height).fill(value) });
  const inputs = { source: () => ({ color: [flat(0.25)], alpha: null, premultiplied: false, x: 0, y: 0 }), mask: () => flat(1), kept: () => { throw new Error('Nothing is kept.'); } };
  const drawing = (backend: Backend) => new Drawing(graphFor(plan, 0, lightOf(plan)), backend, new Evaluator(backend), inputs);
  it('what was made before is made again, once', () => {
    const backend = referenceBackend();
    let loads = 0;
    const growing: Backend = { ...backend, load: (...args) => { if (++loads === 2) backend.arena.moved(); backend.load(...args); } };
    const [plain, grown] = [drawing(backend), drawing(growing)];
    const [expected, found] = [plain, grown].map((each) => each.pixels(each.graph.root, level));
    expect(loads).toBeGreaterThan(2);
    expect([...found.planes]).toEqual([...expected.planes]);
    expect(grown.stepsRun).toBe(plain.stepsRun);
  });
  it('faults that come of it do not count, all others do', () => {
    const backend = referenceBackend();
    const failing = (grows: boolean): Backend => {
      let isFirst = true;
      return { ...backend, fill: (...args) => { if (isFirst) { isFirst = false; if (grows) backend.arena.moved(); throw new TypeError('detached'); } backend.fill(...args); } };
    };
    const draw = (of: Drawing) => of.pixels(of.graph.root, level);
    expect(draw(drawing(failing(true))).planes[0]).toBeCloseTo(0.25);
    expect(() => draw(drawing(failing(false)))).toThrow('detached');
  });
});
