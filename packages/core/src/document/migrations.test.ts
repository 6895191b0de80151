import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { draw } from '../../../../tests/pictures.ts';
import { cameraOf } from '../camera/camera.ts';
import type { MaskInputs } from '../masks/define.ts';
import { evaluateMask, resolveMask } from '../masks/evaluate.ts';
import { planDocument } from '../evaluate/plan.ts';
import { lightOf } from '../evaluate/targets.ts';
import type { SourceView } from '../evaluate/view.ts';
import { DOCUMENT_VERSION, type Mask } from './model.ts';
import { layersWithKinds, migrated } from './migrations.ts';
import { readRecipe } from './recipes.ts';
import { readDocument } from './schema.ts';

/** Written by version 1 of the program, with the light and the coverages that it made of the numbers below. */
const old = JSON.parse(readFileSync(new URL('../../../../tests/files/document-1.json', import.meta.url), 'utf8')) as { document: { version: number }; light: number[]; masks: number[][]; recipe: unknown };
const size = { width: 8, height: 6 };
const value = (n: number, c: number, i: number) => (((n * 7 + c * 13 + i * 29) * 37) % 101) / 101;
const plane = (n: number, c: number) => ({ type: 'f32' as const, ...size, data: Float32Array.from({ length: 48 }, (_, i) => value(n, c, i) * (n === 7 ? 10 : n === 6 ? 1.2 : 1)) });
const views: Record<string, SourceView> = Object.fromEntries([1, 2, 3, 4, 5, 6, 7].map((n) => [`source-${n}`, { color: [0, 1, 2].map((c) => plane(n, c)), alpha: null, premultiplied: false, x: 0, y: 0 }]));

describe('a document of version 1', () => {
  const { document, problems, remarks } = readDocument(old.document);
  const inputs: MaskInputs = { size, level: 0, views: Object.fromEntries(document.sources.map(({ id, encoding }) => [`view ${id}`, { ...views[id], encoding, scale: 1, offset: 0 }])), mattes: {}, mixtures: {}, coverages: {}, pictures: {}, masks: {}, camera: document.camera && cameraOf(document.camera), materials: {} };
  const coverage = (mask: Mask) => evaluateMask(resolveMask(document, mask).mask, inputs, null);
  it('is read as one of today, and nothing of it is lost', () => {
    expect([old.document.version, document.version, problems, remarks]).toEqual([1, DOCUMENT_VERSION, [], []]);
    expect(document.buildUp.scene).toMatchObject([
      { chain: [{ type: 'gaussian-blur', params: { sigmaPx: 1.5, staysInside: false }, blend: 'all' }] },
      { correction: { type: 'repaint', params: { color: [0.5, 0.1, 0.05], presentColor: [0.2, 0.3, 0.25], texturePercent: 70 } } },
      { correction: { type: 'vignette', params: { cornerStops: -2, centre: [20, 70] } } },
    ]);
    expect(document.masks.flatMap(({ terms }) => terms)).toMatchObject([
      { kind: 'colour', params: { extent: 'connected', at: [2, 3], tolerance: 30 } },
      { kind: 'facing', params: { direction: [0, 0, 1] } },
      { kind: 'distance', params: { holds: 'depths', farMetres: 9 } },
      { kind: 'height', params: { holds: 'depths', up: 'x' } },
      { kind: 'gradient', params: { passage: 'smooth' } },
      { kind: 'channel', params: { channel: 'blue' } },
    ]);
  });
  it('gives the same light and the same coverages', () => {
    for (const [i, mask] of document.masks.entries()) for (const [at, was] of old.masks[i].entries()) expect(Math.abs(coverage(mask).data[at] - was), `${mask.name}, ${at}`).toBeLessThanOrEqual(1);
    const plan = planDocument(document);
    const made = draw(plan, { source: (id) => views[id], mask: (key) => coverage(plan.masks[key]), target: lightOf(plan) });
    expectClose(made.pixels.planes, old.light, 2e-5);
  });
  it('so is a recipe', () => {
    expect(readRecipe(old.recipe).scene).toMatchObject([{ chain: [{ params: { staysInside: false } }] }, { correction: { params: { color: [0.5, 0.1, 0.05] } } }, { correction: { params: { centre: [20, 70] } } }]);
  });
});

describe('what is no document of an earlier version', () => {
  it('stays as it is, however broken', () => {
    const current = { version: DOCUMENT_VERSION, masks: 7 };
    expect(migrated(current, DOCUMENT_VERSION)).toBe(current);
    for (const broken of [{ version: 1 }, { version: 1, masks: [null, { terms: 'x' }, { terms: [null, { kind: 'colour', params: [] }] }], buildUp: [] }, { version: 1, buildUp: { scene: [null, { chain: [7], correction: null, layers: 'x' }] } }, { version: 'x' }, { version: -3 }]) expect(() => migrated(broken as never, DOCUMENT_VERSION)).not.toThrow();
  });
  it('corrections of today are not changed', () => {
    const layer = { correction: { type: 'repaint', blend: 'colour', params: { color: [1, 0, 0] } }, chain: [{ type: 'gaussian-blur', blend: 'all', params: { staysInside: true } }] };
    expect(layersWithKinds([layer])).toEqual([layer]);
  });
});
