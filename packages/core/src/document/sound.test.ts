import { isDeepStrictEqual } from 'node:util';
import { describe, expect, it } from 'vitest';
import { fillParams, after, material, smallDocument, source } from '../../../../tests/documents.ts';
import { seeded } from '../../../../tests/random.ts';
import { CoreError } from '../errors.ts';
import { maskTerms } from '../masks/registry.ts';
import { applyEdit, type Edit, editTypes } from './edits.ts';
import { LIMITS, shortened } from '../limits.ts';
import { newTerm, scaledMask } from './mask-edits.ts';
import { emptyDocument, type MaskTerm, type Stroke, type TazzelDocument } from '../model/model.ts';
import { findMask } from '../model/query.ts';
import { parseDocument, readDocument } from './schema.ts';
import { unsoundness } from './sound.ts';

const long = 'ä'.repeat(500);
const stroke: Stroke = { erase: false, sizePx: 40, hardness: 0.5, opacity: 1, flow: 0.5, spacing: 0.1, path: [1, 2, 1, 4, 5, 0.5] };
const group = { id: 'layer-90', kind: 'group' as const, name: 'Group', visible: true, opacity: 1, mask: null, isolated: false, blend: 'normal' as const, layers: [] };

/** A document with something of everything: layer-1 and 2 are elements, 3 a correction, 4 a group around layer-1. */
function rich(): TazzelDocument {
  const base = after(smallDocument(), { type: 'set-camera', params: {} }, { type: 'correct-material', materialIds: ['material-1'], correction: 'exposure', zone: 'picture' }, { type: 'add-chain-correction', layerId: 'layer-2', correction: 'hue-saturation' }, { type: 'group-layer', layerId: 'layer-1' }, { type: 'add-mask', name: 'All terms', terms: [] }, { type: 'keep-state', name: 'Noon' }, { type: 'add-sources', sources: ['sun', 'sky', 'beauty', 'gi'].map((name, i) => source(4 + i, { name, role: i < 2 ? 'light-group' : (name as 'beauty') })) }, { type: 'begin-mix', start: 'dusk' }, { type: 'keep-scenario', name: 'Dusk' }, { type: 'add-scheme', name: 'Dusk' }, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.4 } }, { type: 'add-delivery', delivery: { name: '{document}-{scheme}', format: 'jpeg', values: { quality: 90 }, width: null, halvings: 0, filter: 'lanczos', upto: null, schemes: 'all' } });
  const terms = maskTerms.filter(({ id }) => id !== 'mask').map(({ id }): Edit => ({ type: 'add-term', maskId: 'mask-2', term: newTerm(id, 'add', base, id === 'paint' ? { strokes: [stroke] } : {}) }));
  const { sources, size } = base;
  return after(base, ...terms, { type: 'refresh', sources, materials: null, size, keeps: { name: 'First', at: 4 } });
}

const paintAt = maskTerms.filter(({ id }) => id !== 'mask').findIndex(({ id }) => id === 'paint');
const paintId = `term-${paintAt + 1}`;
const brushes = (term: MaskTerm | undefined) => ((term?.params.strokes ?? []) as readonly Stroke[]).map(({ sizePx }) => sizePx);
/** One sensible edit of each kind and more of those that carry much. */
const sensible = (document: TazzelDocument): Edit[] => [
  { type: 'rename-document', name: 'Yard' },
  { type: 'set-camera', params: { focalMillimetres: 24, up: 'z' }, from: 'lines' },
  { type: 'set-tone', tone: 'filmic', params: { white: 6 } },
  { type: 'set-sun', params: { place: 'date', utc: '2026-03-20T06:30Z' } },
  { type: 'add-sources', sources: [source(7)] },
  { type: 'set-source', sourceId: 'source-1', patch: { name: 'Light', scale: 2, offset: 1, x: 3, y: 4, fit: { width: 20, height: 10 }, role: 'gi', inSum: 'in' } },
  { type: 'remove-source', sourceId: 'source-3' },
  { type: 'refresh', sources: document.sources, materials: document.materials, size: { width: 80, height: 60 }, scales: true },
  { type: 'set-materials', sourceId: 'source-3', materials: [material(1, 'source-3'), material(5, 'source-3')] },
  { type: 'rename-material', materialId: 'material-1', name: 'Brick' },
  { type: 'group-materials', materialIds: ['material-1', 'material-2'], surface: 'Walls' },
  { type: 'add-mask', name: 'New', terms: [newTerm('depth', 'add', document)] },
  { type: 'set-mask', maskId: 'mask-2', patch: { name: 'Other', growPx: 3, featherPx: 4, followEdges: true, inverted: true, strength: 0.5 } },
  { type: 'duplicate-mask', maskId: 'mask-2' },
  { type: 'remove-mask', maskId: 'mask-2' },
  { type: 'add-term', maskId: 'mask-2', term: newTerm('ellipse', 'subtract', document), index: 1 },
  { type: 'add-term', maskId: 'mask-2', term: newTerm('mask', 'add', document, { mask: 'mask-1' }) },
  { type: 'set-term', maskId: 'mask-2', termId: 'term-2', patch: { operation: 'intersect', muted: true } },
  { type: 'set-params', maskId: 'mask-2', termId: 'term-2', params: { nearMetres: 3 } },
  { type: 'move-term', maskId: 'mask-2', termId: 'term-1', to: 2 },
  { type: 'remove-term', maskId: 'mask-2', termId: 'term-1' },
  { type: 'add-stroke', maskId: 'mask-2', termId: paintId, stroke },
  { type: 'unlink-mask', layerId: 'layer-3' },
  { type: 'add-layer', layer: 'element', params: { source: 'source-2' }, zone: 'scene', index: 0, groupId: 'layer-4', blend: 'add' },
  { type: 'add-layer', layer: 'fill', zone: 'picture', blend: 'multiply', params: fillParams({ shape: 'linear', from: [0.1, 2, 0, 1], to: [0, 0, 0, 0], start: [0, 0], end: [5, 5] }) },
  { type: 'add-layer', layer: 'snapshot', params: { after: 'layer-1' }, zone: 'picture' },
  { type: 'add-correction-layer', correction: 'exposure', zone: 'picture', index: 1, maskId: 'mask-1' },
  { type: 'correct-material', materialIds: ['material-2'], correction: 'invert', zone: 'picture', index: 0 },
  { type: 'mask-with-material', materialIds: ['material-2'], layerId: 'layer-2', correctionId: 'correction-1' },
  { type: 'set-layer', layerId: 'layer-4', patch: { name: 'Walls', visible: false, opacity: 0.4, blend: 'multiply', isolated: true, mask: { maskId: 'mask-1', inverted: true, enabled: false } } },
  { type: 'duplicate-layer', layerId: 'layer-4' },
  { type: 'remove-layer', layerId: 'layer-2' },
  { type: 'move-layer', layerId: 'layer-2', zone: 'scene', index: 0, groupId: 'layer-4' },
  { type: 'group-layer', layerId: 'layer-2' },
  { type: 'ungroup', layerId: 'layer-4' },
  { type: 'build', name: 'Exact', scene: [{ ...group, layers: [{ ...group, id: 'layer-91' }] }], picture: [], masks: [] },
  { type: 'add-chain-correction', layerId: 'layer-1', correction: 'exposure' },
  { type: 'set-chain-correction', layerId: 'layer-2', correctionId: 'correction-1', patch: { visible: false, opacity: 0.3, mask: { maskId: 'mask-2', inverted: false, enabled: true } } },
  { type: 'move-chain-correction', layerId: 'layer-2', correctionId: 'correction-1', index: 0 },
  { type: 'remove-chain-correction', layerId: 'layer-2', correctionId: 'correction-1' },
  { type: 'set-correction-blend', layerId: 'layer-3', blend: 'lightness' },
  { type: 'set-params', layerId: 'layer-3', params: { exposureStops: 1 } },
  { type: 'carry-correction', layerId: 'layer-2', correctionId: 'correction-1', to: null },
  { type: 'set-on-surface', materialIds: ['material-1'], correction: 'white-balance', params: { kelvin: 5200 } },
  { type: 'copy-corrections', from: ['material-1'], to: ['material-2'] },
  { type: 'fold-corrections', materialIds: ['material-1'] },
  { type: 'pair-correction', layerId: 'layer-3' },
  { type: 'tint-surface', materialIds: ['material-1'] },
  { type: 'repaint-there-too', layerId: 'layer-3' },
  { type: 'add-figures', figures: [{ sourceId: 'source-1', at: [4, 5.5], groundMetres: 0, heightMetres: 1.7, mirrored: true, leanDegrees: 5, foot: [0.5, 0.95], top: 0.1 }] },
  { type: 'draw-course', at: [4, 5.5], goesOn: true },
  { type: 'paint-layer', what: 'mist' },
  { type: 'paint-light', tones: 'lights', what: 'cooler' },
  { type: 'add-ready-group', group: 'brighter-middle' },
  { type: 'add-look', name: 'Dusk', scene: [], picture: [], masks: [], chains: [], tone: null },
  { type: 'keep-state', name: 'Evening' },
  { type: 'rename-state', stateId: 'state-1', name: 'Dusk' },
  { type: 'return-to-state', stateId: 'state-1' },
  { type: 'remove-state', stateId: 'state-1' },
  { type: 'add-scheme', name: 'Dusk' },
  { type: 'choose-scheme', schemeId: 'scheme-1' },
  { type: 'choose-scheme', schemeId: null },
  { type: 'rename-scheme', schemeId: 'scheme-1', name: 'Blue hour' },
  { type: 'remove-overrides', schemeId: 'scheme-1', slots: [{ at: { layerId: 'layer-1' }, what: 'opacity' }] },
  { type: 'remove-scheme', schemeId: 'scheme-1' },
  { type: 'add-delivery', delivery: { name: '{document}', format: 'png', values: {}, width: 640, halvings: 0, filter: 'mitchell', upto: 'layer-1', schemes: 'shown' } },
  { type: 'set-delivery', deliveryId: 'delivery-1', patch: { width: null, halvings: 2, values: { quality: 80 } } },
  { type: 'set-delivery', deliveryId: 'delivery-1', patch: { cut: { ratio: 16 / 9, shiftPercent: -20 } } },
  { type: 'set-delivery', deliveryId: 'delivery-1', patch: { cut: null } },
  { type: 'remove-delivery', deliveryId: 'delivery-1' },
  { type: 'refresh', sources: document.sources, materials: document.materials, size: { width: 80, height: 60 }, scales: true, keeps: { name: 'Before', at: null } },
  { type: 'lay-over', sources: [source(19)], over: { 'source-19': 'source-1' } },
  { type: 'bring-render', renderId: 'render-1', keeps: { name: 'Later', at: 7 } },
  { type: 'rename-render', renderId: 'render-1', name: 'Named' },
  { type: 'remove-render', renderId: 'render-1' },
  { type: 'set-samplers', samplers: [[1, 2], [3, 4]] },
  { type: 'set-params', lightId: 'source-4', params: { intensityStops: 1.5, takes: 'chosen', color: [1, 0.5, 0.2], denoisePercent: 20 } },
  { type: 'set-mix', mix: [{ sourceId: 'source-5', params: { on: false } }] },
  { type: 'reset-lights', what: 'colour', sourceId: 'source-4' },
  { type: 'switch-lights', on: false },
  { type: 'begin-mix', start: 'night' },
  { type: 'keep-scenario', name: 'Night' },
  { type: 'load-scenario', scenarioId: 'scenario-1' },
  { type: 'replace-scenario', scenarioId: 'scenario-1' },
  { type: 'rename-scenario', scenarioId: 'scenario-1', name: 'Blue hour' },
  { type: 'remove-scenario', scenarioId: 'scenario-1' },
  { type: 'add-scenarios', scenarios: [{ name: 'Noon', mix: [{ sourceId: 'source-4', params: { intensityStops: 1 } }] }] },
  { type: 'blend-scenarios', fromId: 'scenario-1', toId: 'scenario-1', share: 0.5 },
  { type: 'link-lights', sourceIds: ['source-4', 'source-5'] },
  { type: 'unlink-lights', sourceId: 'source-4' },
  { type: 'learn-lights', own: [{ sourceId: 'source-4', color: [1.5, 0.9, 0.4] }] },
  { type: 'set-frames', frames: { perSecond: 12, seed: 7, keys: [{ seconds: 0, scenarioId: 'scenario-1', passage: 'cut' }] } },
  { type: 'add-light-mix' },
  { type: 'add-light', sourceId: 'source-4' },
  { type: 'split-light', by: 'elements' },
];

const HOSTILE: readonly unknown[] = [null, undefined, Number.NaN, Number.POSITIVE_INFINITY, -1, -0, 0.5, 1.5, 1e9, 1e300, 65536, '', long, 'constructor', '__proto__', 'layer-1', 'layer-2', 'mask-1', 'source-1', [], {}, [null], true, 'scene', '\ud800', ['a', 'a']];

/** Replaces one value somewhere inside. */
function spoiled(value: unknown, random: () => number): unknown {
  const keys = typeof value === 'object' && value !== null ? Object.keys(value) : [];
  const pick = <T>(list: readonly T[]) => list[Math.floor(random() * list.length)];
  if (keys.length === 0 || random() < 0.15) return pick(HOSTILE);
  const key = pick(keys);
  if (Array.isArray(value)) {
    const at = Number(key);
    // A list with one thing twice, or with one thing spoiled.
    return random() < 0.2 ? [...value, value[at]] : value.with(at, spoiled(value[at], random));
  }
  return { ...(value as object), [key]: spoiled((value as Record<string, unknown>)[key], random) };
}

describe('what an edit accepts is read back identically', () => {
  it('one sensible edit of each kind', () => {
    const document = rich();
    const edits = sensible(document);
    expect(new Set(edits.map(({ type }) => type))).toEqual(new Set(editTypes));
    let applied = 0;
    for (const edit of edits) {
      try {
        const next = applyEdit(document, edit);
        expect(parseDocument(JSON.parse(JSON.stringify(next)))).toEqual(next);
        applied++;
      } catch (error) {
        expect(error).toBeInstanceOf(CoreError);
      }
    }
    expect(applied).toBeGreaterThan(edits.length - 5);
  });
  it('thousands of hostile edits: each is done and can be read, or refused with a sentence', () => {
    const random = seeded(20261127);
    let [accepted, refused] = [0, 0];
    let document = rich();
    for (let n = 0; n < 3000; n++) {
      if (n % 40 === 0) document = rich();
      const edits = sensible(document);
      const base = edits[Math.floor(random() * edits.length)];
      const { type, ...rest } = base;
      const edit = { type, ...(spoiled(rest, random) as object) } as Edit;
      let next: TazzelDocument;
      try {
        next = applyEdit(document, edit);
      } catch (error) {
        if (!(error instanceof CoreError)) throw new Error(`${n}: ${JSON.stringify(edit)?.slice(0, 300)} ended in ${String(error)}`);
        refused++;
        continue;
      }
      accepted++;
      const stored = JSON.stringify(next);
      const { document: again, problems } = readDocument(JSON.parse(stored));
      if (problems.length > 0 || !isDeepStrictEqual(again, JSON.parse(stored))) throw new Error(`${n}: ${JSON.stringify(edit).slice(0, 400)} is read back as something else: ${problems[0]}`);
      document = next;
    }
    expect(accepted).toBeGreaterThan(400);
    expect(refused).toBeGreaterThan(500);
  }, 120_000);
  it('an edit of something that is no kind of edit', () => {
    for (const type of ['constructor', 'toString', '', 'explode']) expect(() => applyEdit(rich(), { type } as never)).toThrow(/There is no edit/);
  });
});

describe('limits', () => {
  it('names that come from files are shortened, never refused', () => {
    const document = emptyDocument('d', `${'x'.repeat(225)}`, { width: 4, height: 4 });
    expect(document.name).toHaveLength(LIMITS.name);
    const elements = applyEdit(document, { type: 'add-sources', sources: [source(1, { name: long, guess: { reason: long.repeat(3), confidence: 1 }, findings: [{ kind: 'copy', sentence: 'y'.repeat(5000) }] })] });
    const layered = after(elements, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' }, { type: 'duplicate-layer', layerId: 'layer-1' });
    expect(parseDocument(JSON.parse(JSON.stringify(layered)))).toEqual(layered);
    expect(emptyDocument('d', '  ', { width: 1, height: 1 }).name).toBe('Untitled');
  });
  it('a cut leaves no half character', () => {
    expect(shortened('ab😀cd', 4)).toBe('ab…');
    expect(shortened('abcd', 4)).toBe('abcd');
  });
  it('names that an earlier version stored are shortened when they are read', () => {
    const document = rich();
    const stored = JSON.parse(JSON.stringify(document));
    stored.name = long;
    stored.buildUp.picture[0].name = long;
    stored.masks[0].name = long;
    const { document: read, problems } = readDocument(stored);
    expect(problems).toEqual([]);
    expect([read.name, read.buildUp.picture[0].name, read.masks[0].name].map((name) => name.length)).toEqual([LIMITS.name, LIMITS.name, LIMITS.name]);
  });
  it('masks that are scaled keep every stroke', () => {
    const broad = { ...stroke, sizePx: 2500, path: [900_000, -900_000, 1] };
    const document = applyEdit(rich(), { type: 'add-stroke', maskId: 'mask-2', termId: paintId, stroke: broad });
    const scaled = applyEdit(document, { type: 'refresh', sources: document.sources, materials: null, size: { width: 80, height: 60 }, scales: true });
    const term = findMask(parseDocument(JSON.parse(JSON.stringify(scaled))), 'mask-2')?.terms[paintAt];
    expect(brushes(term)).toEqual([400, 5000]);
    expect(scaledMask({ ...document.masks[1], growPx: 500, featherPx: 900 }, 100, 100)).toMatchObject({ growPx: LIMITS.edgePx, featherPx: LIMITS.edgePx });
  });
  it('one stroke that cannot be read does not take the painted line with it', () => {
    const stored = JSON.parse(JSON.stringify(rich()));
    stored.masks[1].terms[paintAt].params.strokes.push({ ...stroke, sizePx: 9000 }, { ...stroke, path: 'x' });
    const { document, problems } = readDocument(stored);
    const term = document.masks[1].terms[paintAt];
    expect(brushes(term)).toEqual([40, 5000]);
    expect(problems).toEqual([expect.stringMatching(/1 of 3 strokes cannot be read/)]);
  });
  it('pictures beyond what is worked on are refused', () => {
    expect(() => readDocument({ ...rich(), size: { width: 65536, height: 65536 } })).toThrow(/65536 × 65536 pixels is too large/);
    expect(() => applyEdit(rich(), { type: 'set-source', sourceId: 'source-1', patch: { fit: { width: 60000, height: 60000 } } })).toThrow(/too large/);
  });
  it('a document of very many parts is read as far as the limits go', () => {
    const layers = Array.from({ length: LIMITS.layers + 3 }, (_, i) => ({ id: `l${i}`, kind: 'correction', name: 'x', visible: true, opacity: 1, mask: null, correction: { type: 'invert', blend: 'all', params: {} } }));
    const { document, problems } = readDocument({ ...rich(), buildUp: { scene: [], picture: layers } });
    expect(document.buildUp.picture).toHaveLength(LIMITS.layers);
    expect(problems).toEqual([expect.stringMatching(/^3 layers were left out/)]);
  });
  it('kinds named like what every object has are unknown, not an error of the engine', () => {
    for (const kind of ['constructor', 'toString', '__proto__', 'hasOwnProperty', 7, null]) {
      const stored = JSON.parse(JSON.stringify(rich()));
      stored.masks[0].terms[0].type = kind;
      stored.buildUp.picture[0].kind = kind;
      const { problems } = readDocument(stored);
      expect(problems[0]).toMatch(kind === 'constructor' ? /holds something unknown|its kind is/ : /Line 1 of the mask .* was left out: its type (is|must)/);
      expect(problems.join(' ')).not.toMatch(/lazy|schema|undefined/);
    }
  });
  it('saving asks the same question', () => {
    expect(unsoundness(rich())).toBeNull();
    expect(unsoundness({ ...rich(), name: long })).toMatch(/The document: name has more than 200 letters/);
    expect(unsoundness({ ...rich(), masks: [] })).toMatch(/its mask is missing/);
    expect(unsoundness({ ...rich(), sources: [] })).toMatch(/The material “M01”: its ID picture is missing/);
  });
});
