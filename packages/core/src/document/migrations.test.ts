import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { draw } from '../../../../tests/pictures.ts';
import { cameraOf, type DocumentCamera } from '../camera/camera.ts';
import { horizonAt, viewOfCamera } from '../camera/view.ts';
import { maskKey, planDocument } from '../evaluate/plan.ts';
import type { MaskInputs } from '../masks/define.ts';
import { evaluateMask, resolveMask } from '../masks/evaluate.ts';
import { lightOf } from '../evaluate/targets.ts';
import type { SourceView } from '../raster/view.ts';
import { DOCUMENT_VERSION, emptyDocument, type Mask } from '../model/model.ts';
import { STRAIGHT_TONE } from '../tone/registry.ts';
import { layersWithKinds, migrated } from './migrations.ts';
import { applyEdit } from './edits.ts';
import { newTerm } from './mask-edits.ts';
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
  const coverage = (given: Mask) => evaluateMask(resolveMask(document, given).mask, inputs, null);
  it('is read as one of today, and nothing of it is lost', () => {
    expect([old.document.version, document.version, problems, remarks]).toEqual([1, DOCUMENT_VERSION, [], []]);
    expect(document.buildUp.scene).toMatchObject([
      { chain: [{ type: 'gaussian-blur', params: { sigmaPx: 1.5, staysInside: false }, blend: 'all' }] },
      { correction: { type: 'repaint', params: { color: [0.5, 0.1, 0.05], presentColor: [0.2, 0.3, 0.25], texturePercent: 70 } } },
      { correction: { type: 'vignette', params: { cornerStops: -2, centre: [20, 70] } } },
    ]);
    expect(document.masks.flatMap(({ terms }) => terms)).toMatchObject([
      { type: 'colour', params: { extent: 'connected', at: [2, 3], tolerance: 30 } },
      { type: 'facing', params: { direction: [0, 0, 1] } },
      { type: 'distance', params: { holds: 'depths', farMetres: 9 } },
      { type: 'height', params: { holds: 'depths', up: 'x' } },
      { type: 'gradient', params: { passage: 'smooth' } },
      { type: 'channel', params: { channel: 'blue' } },
    ]);
  });
  it('gives the same light and the same coverages', () => {
    for (const [i, mask] of document.masks.entries()) for (const [at, was] of old.masks[i].entries()) expect(Math.abs(coverage(mask).data[at] - was), `${mask.name}, ${at}`).toBeLessThanOrEqual(1);
    const plan = planDocument(document);
    const made = draw(plan, { source: (id) => views[id], mask: (key) => coverage(plan.masks[key].mask), target: lightOf(plan) });
    expectClose(made.pixels.planes, old.light, 2e-5);
  });
  it('so is a recipe', () => {
    expect(readRecipe(old.recipe).scene).toMatchObject([{ chain: [{ params: { staysInside: false } }] }, { correction: { params: { color: [0.5, 0.1, 0.05] } } }, { correction: { params: { centre: [20, 70] } } }]);
  });
});

describe('a document of version 2', () => {
  const base = { operation: 'add', muted: false };
  const stroke = { erase: false, sizePx: 4, hardness: 1, opacity: 1, flow: 1, spacing: 0.1, path: [2, 3, 1] };
  /** As version 2 kept them: each kind with fields of its own. */
  const terms = [
    { ...base, kind: 'material', materialIds: ['material-1'], from: 'flat' },
    { ...base, kind: 'tone', sourceId: null, layerId: 'layer-1', params: { lowPercent: 40 } },
    { ...base, kind: 'depth', sourceId: 'source-1', layerId: null, params: {}, muted: true },
    { ...base, kind: 'height', sourceId: null, layerId: null, params: { holds: 'depths', eyeMetres: 2.5, viewDegrees: 90, horizonPercent: 40, highMetres: 4 } },
    { ...base, kind: 'distance', sourceId: null, layerId: null, params: { viewDegrees: 20 } },
    { ...base, kind: 'ellipse', points: [[1, 2], [3, 4], [5, 6]], params: { softPx: 3 } },
    { ...base, kind: 'paint', operation: 'subtract', filled: true, strokes: [stroke] },
    { ...base, kind: 'mask', maskId: 'mask-2' },
  ];
  const mask = (id: string, lines: unknown[]) => ({ id, name: id, terms: lines, growPx: 0, featherPx: 0, followEdges: false, inverted: false, strength: 1 });
  const stored = { format: 'tazzel-document', version: 2, id: 'd', name: 'D', size: { width: 800, height: 600 }, sources: [], materials: [], masks: [mask('mask-1', terms), mask('mask-2', [])], buildUp: { scene: [], picture: [] }, tone: { curve: 'srgb' } };
  const { document, problems } = readDocument(stored);
  it('keeps every line of its masks', () => {
    expect([problems, document.version]).toEqual([[], DOCUMENT_VERSION]);
    expect(document.masks[0].terms).toEqual([
      { ...base, id: 'term-1', type: 'material', params: { materials: ['material-1'], from: 'flat' } },
      { ...base, id: 'term-2', type: 'tone', params: { after: 'layer-1', lowPercent: 40 } },
      { ...base, id: 'term-3', type: 'depth', muted: true, params: { source: 'source-1' } },
      { ...base, id: 'term-4', type: 'height', params: { holds: 'depths', highMetres: 4 } },
      { ...base, id: 'term-5', type: 'distance', params: {} },
      { ...base, id: 'term-6', type: 'ellipse', params: { points: [[1, 2], [3, 4], [5, 6]], softPx: 3 } },
      { ...base, id: 'term-7', type: 'paint', operation: 'subtract', params: { filled: true, strokes: [stroke] } },
      { ...base, id: 'term-8', type: 'mask', params: { mask: 'mask-2' } },
    ]);
  });
  it('gets its camera from the line that knew one, so that heights stay what they were', () => {
    const view = viewOfCamera(cameraOf(document.camera as DocumentCamera), document.size);
    // 90° wide, horizon at 40 % of the height, the eye 2.5 m above the ground.
    expect([view.focalPx, horizonAt(view, 100), view.eye[1]]).toEqual([expect.closeTo(400, 9), expect.closeTo(240, 9), 2.5]);
    expect(readDocument({ ...stored, masks: [] }).document).toMatchObject({ camera: null, sun: null });
  });
  it('lines of a later version stay, select nothing, and are named', () => {
    const strange = { id: 'term-1', type: 'sparkle', operation: 'add', muted: false, params: { count: 3 } };
    const now = { ...stored, version: DOCUMENT_VERSION, tone: document.tone, camera: null, sun: null, masks: [mask('mask-1', [strange])] };
    const read = readDocument(now);
    expect([read.problems, read.document.masks[0].terms, read.remarks]).toEqual([[], [strange], ['The mask “mask-1” holds a line that this version does not know (sparkle). It stays, and selects nothing.']]);
    const resolved = resolveMask(read.document, read.document.masks[0]);
    expect([resolved.mask.terms, resolved.problems[0].sentence]).toEqual([[], 'This version does not know “sparkle”. The line stays, and selects nothing.']);
    // It is written out again, also by edits around it.
    const edited = applyEdit(applyEdit(read.document, { type: 'add-term', maskId: 'mask-1', term: newTerm('ellipse', 'add', read.document) }), { type: 'set-term', maskId: 'mask-1', termId: 'term-1', patch: { muted: true } });
    expect(edited.masks[0].terms.map(({ id, type, muted }) => [id, type, muted])).toEqual([['term-1', 'sparkle', true], ['term-2', 'ellipse', false]]);
    expect(maskKey(edited, edited.masks[0])).not.toBe('');
  });
  it('a camera that is none is left out, and named; the rest is read', () => {
    const broken = readDocument({ ...stored, version: DOCUMENT_VERSION, tone: document.tone, masks: [], camera: { from: 'hand', params: { focalMillimetres: 'long' } }, sun: { from: 'nowhere', params: {} } });
    expect(broken.document).toMatchObject({ camera: null, sun: null });
    expect(broken.problems).toEqual([expect.stringMatching(/^The camera was left out: .*Focal length: expected a number/), expect.stringMatching(/^The sun was left out: its from is “nowhere”/)]);
  });
});

describe('the tone line', () => {
  const stored = { ...emptyDocument('d', 'D', { width: 8, height: 6 }) };
  it('of an earlier version is straight', () => {
    expect(readDocument({ ...stored, version: 2, tone: { curve: 'srgb' } }).document.tone).toEqual(STRAIGHT_TONE);
  });
  it('with a curve of a later version keeps it, is straight, and says so; damaged it is straight', () => {
    const later = { type: 'of-tomorrow', params: { bend: 3 } };
    expect(readDocument({ ...stored, tone: later })).toMatchObject({ document: { tone: later }, problems: [], remarks: ['The tone line has a curve that this version does not know (of-tomorrow). It stays, and is straight.'] });
    expect(readDocument({ ...stored, tone: { type: 'reinhard', params: { white: 'much' } } })).toMatchObject({ document: { tone: STRAIGHT_TONE }, problems: [expect.stringMatching(/^The curve of the tone line was left out: .*White: expected a number/)] });
  });
});

describe('what is no document of an earlier version', () => {
  it('stays as it is, however broken', () => {
    const current = { version: DOCUMENT_VERSION, masks: 7 };
    expect(migrated(current, DOCUMENT_VERSION)).toBe(current);
    for (const broken of [{ version: 1 }, { version: 1, masks: [null, { terms: 'x' }, { terms: [null, { type: 'colour', params: [] }] }], buildUp: [] }, { version: 1, buildUp: { scene: [null, { chain: [7], correction: null, layers: 'x' }] } }, { version: 'x' }, { version: -3 }]) expect(() => migrated(broken as never, DOCUMENT_VERSION)).not.toThrow();
  });
  it('corrections of today are not changed', () => {
    const layer = { correction: { type: 'repaint', blend: 'colour', params: { color: [1, 0, 0] } }, chain: [{ type: 'gaussian-blur', blend: 'all', params: { staysInside: true } }] };
    expect(layersWithKinds([layer])).toEqual([layer]);
  });
});
