import { type KeptValues, newTerm, srgbDecode } from '@tazzel/core';
import { createSession } from '@tazzel/editor';
import { describe, expect, it, vi } from 'vitest';
import { after, smallDocument, source } from '../../../../tests/documents.ts';
import type { Workspace } from '../workspace/context.ts';
import { openTerm, pickForTerm } from './tools.ts';

function opened(kind: 'colour' | 'facing' | 'depth' | 'ellipse', role: 'beauty' | 'normals' | 'depth' = 'beauty') {
  const start = smallDocument();
  const document = after({ ...start, sources: [...start.sources, source(9, { role, encoding: role === 'beauty' ? 'linear' : 'data' })] }, { type: 'add-mask', name: 'M', terms: [newTerm(kind, 'add', start)] });
  const session = createSession(document);
  session.actions.showMask('mask-1');
  session.actions.set({ tool: 'pick' });
  const engine = { valuesAt: vi.fn(async () => [0.5, 0.25, 2]), probe: vi.fn(async () => ({ codes: [10, 20, 30, 255], light: [], level: 0 })) };
  return { session, engine, workspace: { session, engine } as unknown as Workspace };
}
const params = ({ session }: ReturnType<typeof opened>) => (session.getState().document.masks[0].terms[0] as { params: KeptValues }).params;

describe('picking for a term', () => {
  it('a colour is taken as it looks, with its place', async () => {
    const on = opened('colour');
    await pickForTerm(on.workspace, { x: 3, y: 4 });
    // IEC 61966-2-1: 0.5 and 0.25 of light are codes 188 and 137; brighter than white is white.
    expect(params(on)).toMatchObject({ color: [188, 137, 255].map((code) => srgbDecode(code / 255)), at: [3, 4] });
    expect(on.session.getState().tool).toBe('select');
    on.session.actions.undo();
    expect(params(on)).toMatchObject({ color: [0.21586, 0.21586, 0.21586] });
  });
  it('of the picture after a layer, the finished codes are taken', async () => {
    const on = opened('colour');
    on.session.actions.edit({ type: 'set-term', maskId: 'mask-1', index: 0, term: { ...newTerm('colour', 'add', smallDocument()), layerId: 'layer-1' } as never });
    await pickForTerm(on.workspace, { x: 0, y: 0 });
    expect(params(on)).toMatchObject({ color: [10, 20, 30].map((code) => srgbDecode(code / 255)) });
  });
  it('a direction is of length one; where nothing was hit there is none', async () => {
    const on = opened('facing', 'normals');
    await pickForTerm(on.workspace, { x: 1, y: 1 });
    expect(Math.hypot(...(params(on).direction as number[]))).toBeCloseTo(1, 2);
    on.engine.valuesAt.mockResolvedValue([0, 0, 0]);
    const before = params(on);
    await pickForTerm(on.workspace, { x: 1, y: 1 });
    expect(params(on)).toBe(before);
  });
  it('a depth becomes the middle of the band, which keeps its length', async () => {
    const on = opened('depth', 'depth');
    on.engine.valuesAt.mockResolvedValue([40]);
    await pickForTerm(on.workspace, { x: 1, y: 1 });
    expect(params(on)).toMatchObject({ nearMetres: 30, farMetres: 50 });
  });
  it('beside the picture, or for a term that picks nothing, nothing happens', async () => {
    const on = opened('ellipse');
    const { document } = on.session.getState();
    await pickForTerm(on.workspace, { x: 1, y: 1 });
    await pickForTerm(on.workspace, null);
    expect(on.session.getState().document).toBe(document);
    expect(openTerm(on.workspace)).toMatchObject({ maskId: 'mask-1', index: 0 });
    on.session.actions.selectMaterial(null);
    expect(openTerm(on.workspace)).toBeNull();
  });
});
