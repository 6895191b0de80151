import { describe, expect, it } from 'vitest';
import { after, material, smallDocument, source } from '../../../../tests/documents.ts';
import { applyEdit, type Edit, editLabel, editTypes } from './edits.ts';
import { UNPLACED } from './layers.ts';
import { emptyDocument, type Layer, type TazzelDocument } from '../model/model.ts';
import { beforeDocument, elementDocument, findLayer, findMask, freshId, layersInOrder, surfaceOf } from '../model/query.ts';
import { materialTerm, newTerm } from './mask-edits.ts';
import { parseDocument, readDocument } from './schema.ts';
import { maskUses } from './uses.ts';
import { addElements, baseSource, scheduleSources, pictureSize, sizeProblems } from './start.ts';

const rich = after(
  smallDocument(),
  { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' },
  { type: 'add-chain-correction', layerId: 'layer-1', correction: 'exposure' },
  { type: 'add-chain-correction', layerId: 'layer-1', correction: 'hue-saturation' },
  { type: 'correct-material', materialIds: ['material-1'], correction: 'hue-saturation', zone: 'picture' },
);
const layer = (document: TazzelDocument, id: string) => findLayer(document, id)?.layer;
const names = (document: TazzelDocument) => [document.buildUp.scene.map((l) => l.name), document.buildUp.picture.map((l) => l.name)];

const STROKE = { erase: false, sizePx: 20, hardness: 0.5, opacity: 1, flow: 0.4, spacing: 0.1, path: [1, 1, 1, 5, 4, 0.5] };
const referring = (mask: string) => newTerm('mask', 'add', rich, { mask });
/** With an unused mask, and one of a gradient and paint. */
const shelf = after(rich, { type: 'add-mask', name: 'Spare', terms: [] }, { type: 'add-mask', name: 'Painted', terms: [newTerm('gradient', 'add', rich), newTerm('paint', 'subtract', rich)] });

/** With a repainted surface that is seen through glass, too. */
const repainted = after(rich, { type: 'set-source', sourceId: 'source-3', patch: { role: 'material-id' } }, { type: 'add-sources', sources: [source(7, { role: 'material-id', name: 'ids through glass', width: 8, height: 6 }), source(8, { role: 'refraction' })] }, { type: 'set-on-surface', materialIds: ['material-1'], correction: 'repaint', params: { color: [0.5, 0.2, 0.1] } });
/** Kept as a state, and then changed. */
const later = after(rich, { type: 'keep-state', name: 'Noon' }, { type: 'set-tone', tone: 'reinhard' }, { type: 'remove-layer', layerId: 'layer-2' }, { type: 'add-mask', name: 'More', terms: [] });

/** With four light groups, elements and a beauty; mixed, kept twice and mixed again. */
const lamps = after(rich, { type: 'add-sources', sources: ['beauty', 'light-group', 'light-group', 'light-group', 'gi', 'specular'].map((role, i) => source(11 + i, { role: role as never, name: `${role} ${['', 'sun', 'sky', 'lamps', '', ''][i]}` })) });
const lit = after(lamps, { type: 'begin-mix', start: 'night' }, { type: 'keep-scenario', name: 'Night' }, { type: 'begin-mix', start: 'clear-day' }, { type: 'keep-scenario', name: 'Day' }, { type: 'link-lights', sourceIds: ['source-12', 'source-13'] });
const LIGHT_EDITS: readonly string[] = ['set-mix', 'reset-lights', 'switch-lights', 'begin-mix', 'keep-scenario', 'load-scenario', 'replace-scenario', 'rename-scenario', 'remove-scenario', 'add-scenarios', 'blend-scenarios', 'link-lights', 'unlink-lights', 'learn-lights', 'set-frames', 'add-light-mix', 'add-light', 'split-light'];
const mixOf = (d: TazzelDocument) => d.light.mix.map(({ sourceId, params }) => [sourceId, params.on ?? true, params.intensityStops ?? 0]);
const NIGHT = [['source-12', false, 0], ['source-13', true, -5], ['source-14', true, 1]];

/** With a newer render, half as wide, and the one before in the list. */
const newer = after(rich, { type: 'refresh', sources: [...rich.sources.map((s) => ({ ...s, name: `${s.name} v2` })), source(9)], materials: [material(2, 'source-3'), material(7, 'source-3')], size: { width: 4, height: 3 }, scales: true, keeps: { name: 'First', at: 5 } });

/** One example for each edit, and what it must have done. */
const DELIVERY = { name: '{document}-{size}', format: 'tiff', values: { bits: '16' }, width: null, halvings: 0, filter: 'lanczos', upto: null, schemes: 'all' } as const;

const examples: { [T in Edit['type']]: [Extract<Edit, { type: T }>, (document: TazzelDocument) => void] } = {
  'set-camera': [{ type: 'set-camera', params: { focalMillimetres: 35 } }, (d) => expect(d.camera).toMatchObject({ from: 'hand', params: { focalMillimetres: 35, heightMetres: 1.6 } })],
  'draw-course': [{ type: 'draw-course', at: [4, 5], goesOn: false, groundMetres: 0.5 }, (d) => expect(d.buildUp.scene.at(-1)).toMatchObject({ type: 'trails', blend: 'add', params: { courses: [[[4, 5]]], groundMetres: 0.5 } })],
  'add-figures': [{ type: 'add-figures', figures: [{ sourceId: 'source-9', at: [4, 5], groundMetres: 0, heightMetres: 1.7, mirrored: false, leanDegrees: 0, foot: [0.5, 1], top: 0 }], sources: [source(9)] }, (d) => expect([d.sources.length, d.buildUp.scene.find((each) => each.kind === 'picture' && each.type === 'figures')]).toMatchObject([4, { params: { figures: [{ heightMetres: 1.7 }] } }])],
  'set-tone': [{ type: 'set-tone', tone: 'reinhard', params: { white: 8 } }, (d) => expect(d.tone).toEqual({ type: 'reinhard', params: { white: 8, carries: 'channels' } })],
  'set-sun': [{ type: 'set-sun', params: { altitudeDegrees: 12 } }, (d) => expect(d.sun).toMatchObject({ from: 'hand', params: { place: 'angles', altitudeDegrees: 12 } })],
  'rename-document': [{ type: 'rename-document', name: '  Dusk ' }, (d) => expect(d.name).toBe('Dusk')],
  'add-sources': [{ type: 'add-sources', sources: [source(9)] }, (d) => expect(d.sources).toHaveLength(4)],
  'set-source': [{ type: 'set-source', sourceId: 'source-1', patch: { encoding: 'data', role: 'depth' } }, (d) => expect(d.sources[0]).toMatchObject({ encoding: 'data', role: 'depth' })],
  'remove-source': [{ type: 'remove-source', sourceId: 'source-4' }, (d) => expect(d.sources).toHaveLength(3)],
  'set-materials': [{ type: 'set-materials', sourceId: 'source-3', materials: [material(2, 'source-3'), material(5, 'source-3')] }, (d) => expect(d.materials.map((m) => m.id)).toEqual(['material-2', 'material-5'])],
  refresh: [{ type: 'refresh', sources: [...rich.sources.map((s) => ({ ...s, width: 16 })), source(9)], materials: [material(2, 'source-3'), material(7, 'source-3')], size: { width: 16, height: 6 } }, (d) => expect([d.size.width, d.sources.length, d.materials.map((m) => [m.id, m.area])]).toEqual([16, 4, [['material-2', 0.5], ['material-7', 0.5], ['material-1', 0]]])],
  'rename-material': [{ type: 'rename-material', materialId: 'material-1', name: 'Brick' }, (d) => expect([d.materials[0].name, d.masks[0].name]).toEqual(['Brick', 'Brick'])],
  'set-mask': [{ type: 'set-mask', maskId: 'mask-1', patch: { name: 'Walls', strength: 3 } }, (d) => expect(d.masks[0]).toMatchObject({ name: 'Walls', strength: 1 })],
  'group-materials': [{ type: 'group-materials', materialIds: ['material-1', 'material-2'], surface: 'Walls' }, (d) => expect(surfaceOf(d, 'material-2')).toEqual(['material-1', 'material-2'])],
  'add-mask': [{ type: 'add-mask', name: 'Vignette', terms: [newTerm('ellipse', 'add', rich)] }, (d) => expect(d.masks[1]).toMatchObject({ id: 'mask-2', name: 'Vignette', strength: 1, terms: [{ type: 'ellipse' }] })],
  'duplicate-mask': [{ type: 'duplicate-mask', maskId: 'mask-1' }, (d) => expect(d.masks.map(({ id, name }) => [id, name])).toEqual([['mask-1', 'M01'], ['mask-2', 'M01 copy']])],
  'remove-mask': [{ type: 'remove-mask', maskId: 'mask-2' }, (d) => expect(d.masks.map(({ id }) => id)).toEqual(['mask-1', 'mask-3'])],
  'add-term': [{ type: 'add-term', maskId: 'mask-1', term: newTerm('depth', 'intersect', rich, { nearMetres: -4 }) }, (d) => expect(d.masks[0].terms[1]).toMatchObject({ id: 'term-2', type: 'depth', params: { nearMetres: 0, farMetres: 25 } })],
  'set-term': [{ type: 'set-term', maskId: 'mask-1', termId: 'term-1', patch: { operation: 'subtract', muted: true } }, (d) => expect(d.masks[0].terms).toEqual([{ ...materialTerm(['material-1'], 'subtract'), muted: true }])],
  'move-term': [{ type: 'move-term', maskId: 'mask-3', termId: 'term-2', to: 0 }, (d) => expect(d.masks[2].terms.map(({ type }) => type)).toEqual(['paint', 'gradient'])],
  'remove-term': [{ type: 'remove-term', maskId: 'mask-3', termId: 'term-1' }, (d) => expect(d.masks[2].terms.map(({ type }) => type)).toEqual(['paint'])],
  'add-stroke': [{ type: 'add-stroke', maskId: 'mask-3', termId: 'term-2', stroke: STROKE }, (d) => expect(d.masks[2].terms[1]).toMatchObject({ params: { strokes: [STROKE] } })],
  'unlink-mask': [{ type: 'unlink-mask', layerId: 'layer-4' }, (d) => expect([d.masks.length, layer(d, 'layer-4')?.mask?.maskId]).toEqual([2, 'mask-2'])],
  'add-layer': [{ type: 'add-layer', layer: 'fill', zone: 'picture', blend: 'multiply' }, (d) => expect(d.buildUp.picture.at(-1)).toMatchObject({ kind: 'picture', type: 'fill', blend: 'multiply', opacity: 1, chain: [], placement: null, params: { shape: 'plain', start: [4, 0], end: [4, 6] } })],
  'add-correction-layer': [{ type: 'add-correction-layer', correction: 'exposure', zone: 'picture', maskId: 'mask-1' }, (d) => expect(d.buildUp.picture.at(-1)).toMatchObject({ kind: 'correction', mask: { maskId: 'mask-1' }, correction: { params: { exposureStops: 0 } } })],
  'correct-material': [{ type: 'correct-material', materialIds: ['material-1'], correction: 'exposure', zone: 'scene' }, (d) => expect([d.masks.length, d.buildUp.scene.at(-1)?.mask?.maskId]).toEqual([1, 'mask-1'])],
  'mask-with-material': [{ type: 'mask-with-material', materialIds: ['material-2'], layerId: 'layer-1', correctionId: 'correction-1' }, (d) => expect(layer(d, 'layer-1')).toMatchObject({ chain: [{ mask: { maskId: 'mask-2' } }, {}] })],
  'set-layer': [{ type: 'set-layer', layerId: 'layer-2', patch: { blend: 'overlay', opacity: 7, visible: false } }, (d) => expect(layer(d, 'layer-2')).toMatchObject({ blend: 'overlay', opacity: 1, visible: false })],
  'duplicate-layer': [{ type: 'duplicate-layer', layerId: 'layer-1' }, (d) => expect(names(d)[0]).toEqual(['element 1', 'element 1 copy', 'Exposure'])],
  'remove-layer': [{ type: 'remove-layer', layerId: 'layer-1' }, (d) => expect(names(d)[0]).toEqual(['Exposure'])],
  'move-layer': [{ type: 'move-layer', layerId: 'layer-1', zone: 'scene', index: 1 }, (d) => expect(names(d)[0]).toEqual(['Exposure', 'element 1'])],
  'group-layer': [{ type: 'group-layer', layerId: 'layer-1' }, (d) => expect(d.buildUp.scene[0]).toMatchObject({ kind: 'group', isolated: false, layers: [{ id: 'layer-1' }] })],
  ungroup: [{ type: 'ungroup', layerId: 'layer-5' }, (d) => expect(names(d)[0]).toEqual(['element 1', 'Exposure'])],
  build: [{ type: 'build', name: 'Exact rebuild', scene: [], picture: rich.buildUp.scene.slice(1) }, (d) => expect(names(d)).toEqual([[], ['Exposure']])],
  'add-chain-correction': [{ type: 'add-chain-correction', layerId: 'layer-2', correction: 'exposure' }, (d) => expect(layer(d, 'layer-2')).toMatchObject({ chain: [{ id: 'correction-3', type: 'exposure' }] })],
  'set-chain-correction': [{ type: 'set-chain-correction', layerId: 'layer-1', correctionId: 'correction-1', patch: { opacity: 0.5, visible: false } }, (d) => expect(layer(d, 'layer-1')).toMatchObject({ chain: [{ opacity: 0.5, visible: false }, {}] })],
  'move-chain-correction': [{ type: 'move-chain-correction', layerId: 'layer-1', correctionId: 'correction-2', index: 0 }, (d) => expect(layer(d, 'layer-1')).toMatchObject({ chain: [{ id: 'correction-2' }, { id: 'correction-1' }] })],
  'remove-chain-correction': [{ type: 'remove-chain-correction', layerId: 'layer-1', correctionId: 'correction-1' }, (d) => expect(layer(d, 'layer-1')).toMatchObject({ chain: [{ id: 'correction-2' }] })],
  'set-correction-blend': [{ type: 'set-correction-blend', layerId: 'layer-1', correctionId: 'correction-1', blend: 'colour' }, (d) => expect(layer(d, 'layer-1')).toMatchObject({ chain: [{ blend: 'colour' }, { blend: 'all' }] })],
  'carry-correction': [{ type: 'carry-correction', layerId: 'layer-1', correctionId: 'correction-1', to: 'layer-2' }, (d) => expect([layer(d, 'layer-1'), layer(d, 'layer-2')]).toMatchObject([{ chain: [{ id: 'correction-2' }] }, { chain: [{ id: 'correction-1', type: 'exposure' }] }])],
  'set-on-surface': [{ type: 'set-on-surface', materialIds: ['material-2'], correction: 'exposure', params: { exposureStops: 0.5 } }, (d) => expect(d.buildUp.scene.at(-1)).toMatchObject({ name: 'M02: exposure', mask: { maskId: 'mask-2' }, correction: { type: 'exposure', params: { exposureStops: 0.5, gamma: 1 } } })],
  'copy-corrections': [{ type: 'copy-corrections', from: ['material-1'], to: ['material-2'] }, (d) => expect(d.buildUp.picture.at(-1)).toMatchObject({ name: 'M02: hue and saturation', mask: { maskId: 'mask-2', inverted: false } })],
  'fold-corrections': [{ type: 'fold-corrections', materialIds: ['material-1'] }, (d) => expect(d.buildUp.picture.at(-1)).toMatchObject({ kind: 'group', name: 'M01', layers: [{ kind: 'correction' }] })],
  'pair-correction': [{ type: 'pair-correction', layerId: 'layer-4' }, (d) => expect(d.buildUp.picture.slice(-2).map((l) => [l.name, l.mask?.maskId, l.mask?.inverted])).toEqual([['M01: hue and saturation', 'mask-1', false], ['M01: hue and saturation, elsewhere', 'mask-1', true]])],
  'repaint-there-too': [{ type: 'repaint-there-too', layerId: 'layer-5' }, (d) => expect(d.buildUp.scene.at(-1)).toMatchObject({ blend: 'add', chain: [{ type: 'channel-mix' }] })],
  'tint-surface': [{ type: 'tint-surface', materialIds: ['material-2'], color: [0.5, 0.2, 0.1] }, (d) => expect(d.buildUp.scene.at(-1)).toMatchObject({ type: 'fill', name: 'M02: tint', blend: 'multiply', mask: { maskId: 'mask-2' }, params: { from: [0.5, 0.2, 0.1], shape: 'plain' } })],
  'paint-layer': [{ type: 'paint-layer', what: 'smoke' }, (d) => expect([d.masks.at(-1)?.terms.map(({ type }) => type), d.buildUp.scene.at(-1)]).toMatchObject([['paint'], { name: 'Painted smoke', type: 'air', mask: { maskId: 'mask-2' }, params: { mistPercent: 100 } }])],
  'paint-light': [{ type: 'paint-light', tones: 'darks', what: 'lighter' }, (d) => expect([d.masks.at(-1)?.terms.map(({ type, operation }) => [type, operation]), d.buildUp.scene.at(-1)]).toMatchObject([[['paint', 'add'], ['tone', 'intersect']], { name: 'Painted lighter', mask: { maskId: 'mask-2' }, correction: { params: { exposureStops: 0.7 } } }])],
  'add-ready-group': [{ type: 'add-ready-group', group: 'brighter-middle' }, (d) => expect(d.buildUp.scene.at(-1)).toMatchObject({ kind: 'group', name: 'Middle brighter, edges darker', layers: [{ mask: { maskId: 'mask-2', inverted: false } }, { mask: { maskId: 'mask-2', inverted: true } }] })],
  'add-look': [{ type: 'add-look', name: 'Dusk', scene: [], picture: [{ ...(rich.buildUp.picture.at(-1) as Layer), id: 'layer-90' }], masks: [], chains: [{ layerId: 'layer-1', chain: [] }], tone: { type: 'reinhard', params: { white: 4, carries: 'channels' } } }, (d) => expect([d.tone.type, d.buildUp.picture.at(-1)?.name]).toEqual(['reinhard', 'Look: Dusk'])],
  'keep-state': [{ type: 'keep-state', name: ' Noon ' }, (d) => expect(d.states.map(({ id, name, buildUp }) => [id, name, buildUp === rich.buildUp])).toEqual([['state-1', 'Noon', true]])],
  'return-to-state': [{ type: 'return-to-state', stateId: 'state-1' }, (d) => expect([d.buildUp, d.masks, d.tone]).toEqual([rich.buildUp, rich.masks, rich.tone])],
  'rename-state': [{ type: 'rename-state', stateId: 'state-1', name: 'Dusk' }, (d) => expect(d.states[0].name).toBe('Dusk')],
  'remove-state': [{ type: 'remove-state', stateId: 'state-1' }, (d) => expect(d.states).toEqual([])],
  'set-samplers': [{ type: 'set-samplers', samplers: [[3.7, 2.2], [99, -4]] }, (d) => expect(d.samplers).toEqual([[3, 2], [7, 0]])],
  'set-mix': [{ type: 'set-mix', mix: [{ sourceId: 'source-13', params: { on: false } }] }, (d) => expect(mixOf(d)).toEqual([['source-13', false, 0]])],
  'reset-lights': [{ type: 'reset-lights', what: 'all' }, (d) => expect(mixOf(d)).toEqual([])],
  'switch-lights': [{ type: 'switch-lights', on: false }, (d) => expect(mixOf(d).map(([, on]) => on)).toEqual([false, false, false])],
  'begin-mix': [{ type: 'begin-mix', start: 'night' }, (d) => expect(mixOf(d)).toEqual(NIGHT)],
  'keep-scenario': [{ type: 'keep-scenario', name: ' Noon ' }, (d) => expect(d.light.scenarios.map(({ id, name }) => [id, name])).toEqual([['scenario-1', 'Night'], ['scenario-2', 'Day'], ['scenario-3', 'Noon']])],
  'load-scenario': [{ type: 'load-scenario', scenarioId: 'scenario-1' }, (d) => expect(mixOf(d)).toEqual(NIGHT)],
  'replace-scenario': [{ type: 'replace-scenario', scenarioId: 'scenario-1' }, (d) => expect(d.light.scenarios[0].mix).toEqual(d.light.mix)],
  'rename-scenario': [{ type: 'rename-scenario', scenarioId: 'scenario-2', name: 'Noon' }, (d) => expect(d.light.scenarios[1].name).toBe('Noon')],
  'remove-scenario': [{ type: 'remove-scenario', scenarioId: 'scenario-1' }, (d) => expect(d.light.scenarios.map(({ name }) => name)).toEqual(['Day'])],
  'add-scenarios': [{ type: 'add-scenarios', scenarios: [{ name: 'A', mix: [] }, { name: 'B', mix: lit.light.mix }] }, (d) => expect(d.light.scenarios.map(({ id }) => id)).toEqual(['scenario-1', 'scenario-2', 'scenario-3', 'scenario-4'])],
  'blend-scenarios': [{ type: 'blend-scenarios', fromId: 'scenario-1', toId: 'scenario-2', share: 0 }, (d) => expect(mixOf(d)).toEqual(NIGHT)],
  'link-lights': [{ type: 'link-lights', sourceIds: ['source-13', 'source-14'] }, (d) => expect(d.light.links).toEqual([['source-12', 'source-13', 'source-14']])],
  'unlink-lights': [{ type: 'unlink-lights', sourceId: 'source-13' }, (d) => expect(d.light.links).toEqual([])],
  'learn-lights': [{ type: 'learn-lights', own: [{ sourceId: 'source-14', color: [2, 0.8, 0.2] }, { sourceId: 'source-99', color: [1, 1, 1] }] }, (d) => expect(d.light.own).toEqual([{ sourceId: 'source-14', color: [2, 0.8, 0.2] }])],
  'set-frames': [{ type: 'set-frames', frames: { perSecond: 24, seed: 3, keys: [{ seconds: 2, scenarioId: 'scenario-2', passage: 'fade' }, { seconds: 0, scenarioId: 'scenario-1', passage: 'cut' }] } }, (d) => expect(d.light.frames.keys.map(({ seconds }) => seconds)).toEqual([0, 2])],
  'add-light-mix': [{ type: 'add-light-mix' }, (d) => expect(d.buildUp.scene[0]).toMatchObject({ type: 'light', params: { scenario: '' } })],
  'add-light': [{ type: 'add-light', sourceId: 'source-12' }, (d) => expect(d.buildUp.scene.at(-1)).toMatchObject({ type: 'element', blend: 'add', params: { source: 'source-12', isRelit: false } })],
  'split-light': [{ type: 'split-light', by: 'elements' }, (d) => expect(d.buildUp.scene.slice(0, 2)).toMatchObject([{ type: 'light', visible: false }, { kind: 'group', visible: true, layers: [{ blend: 'add', params: { isRelit: true } }, { params: { isRelit: true } }] }])],
  'add-scheme': [{ type: 'add-scheme', name: 'Dusk' }, (d) => expect(d.schemes).toMatchObject({ list: [{ id: 'scheme-1', overrides: [] }], chosenId: 'scheme-1', base: [] })],
  'choose-scheme': [{ type: 'choose-scheme', schemeId: null }, (d) => expect([d.schemes.chosenId, layer(d, 'layer-1')]).toMatchObject([null, { opacity: 1 }])],
  'rename-scheme': [{ type: 'rename-scheme', schemeId: 'scheme-1', name: 'Night' }, (d) => expect(d.schemes.list[0].name).toBe('Night')],
  'remove-scheme': [{ type: 'remove-scheme', schemeId: 'scheme-1' }, (d) => expect([d.schemes, layer(d, 'layer-1')]).toMatchObject([{ list: [], chosenId: null, base: [] }, { opacity: 1 }])],
  'remove-overrides': [{ type: 'remove-overrides', schemeId: 'scheme-1', slots: [{ at: { layerId: 'layer-1' }, what: 'opacity' }] }, (d) => expect([d.schemes, layer(d, 'layer-1')]).toMatchObject([{ list: [{ overrides: [] }], base: [] }, { opacity: 1 }])],
  'add-delivery': [{ type: 'add-delivery', delivery: DELIVERY }, (d) => expect(d.deliveries.map(({ id }) => id)).toEqual(['delivery-1', 'delivery-2'])],
  'set-delivery': [{ type: 'set-delivery', deliveryId: 'delivery-1', patch: { schemes: 'shown', width: 800 } }, (d) => expect(d.deliveries[0]).toEqual({ ...DELIVERY, id: 'delivery-1', schemes: 'shown', width: 800 })],
  'bring-render': [{ type: 'bring-render', renderId: 'render-1', keeps: { name: 'Second', at: null } }, (d) => expect([d.size.width, d.sources.map(({ id, name }) => [id, name]), d.renders.map(({ id, name, size }) => [id, name, size.width]), d.materials.filter(({ area }) => area > 0).map(({ id }) => id)]).toEqual([8, [...rich.sources.map(({ id, name }) => [id, name]), ['source-9', newer.sources[3].name]], [['render-1', 'Second', 4]], ['material-1', 'material-2']])],
  'rename-render': [{ type: 'rename-render', renderId: 'render-1', name: 'As won' }, (d) => expect(d.renders).toMatchObject([{ name: 'As won', at: 5 }])],
  'remove-render': [{ type: 'remove-render', renderId: 'render-1' }, (d) => expect(d.renders).toEqual([])],
  'lay-over': [{ type: 'lay-over', sources: [source(9, { width: 3, height: 2, x: 2, y: 1 })], over: { 'source-9': 'source-1' } }, (d) => expect([d.sources.length, d.buildUp.scene.map(({ name }) => name).slice(0, 2), d.buildUp.scene[1]]).toEqual([4, [rich.buildUp.scene[0].name, `${rich.buildUp.scene[0].name}, a part`], expect.objectContaining({ params: expect.objectContaining({ source: 'source-9' }) })])],
  'remove-delivery': [{ type: 'remove-delivery', deliveryId: 'delivery-1' }, (d) => expect(d.deliveries).toEqual([])],
  'set-params': [{ type: 'set-params', layerId: 'layer-1', correctionId: 'correction-1', params: { exposureStops: 99 } }, (d) => expect(layer(d, 'layer-1')).toMatchObject({ chain: [{ params: { exposureStops: 10 } }, {}] })],
};

const varied = after(rich, { type: 'add-delivery', delivery: DELIVERY }, { type: 'add-scheme', name: 'Dusk' }, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.4 } });
const deep = after(rich, { type: 'add-sources', sources: [source(4, { role: 'depth', encoding: 'data' })] });

describe('every edit', () => {
  it('has an example here', () => expect(Object.keys(examples).sort()).toEqual([...editTypes].sort()));
  for (const [type, [edit, check]] of Object.entries(examples)) {
    it(`${type}: does its work, leaves the old document alone and a sound new one`, () => {
      const start = LIGHT_EDITS.includes(type) ? lit : type === 'repaint-there-too' ? repainted : type.endsWith('-state') && type !== 'keep-state' ? later : ['remove-mask', 'move-term', 'remove-term', 'add-stroke'].includes(type) ? shelf : type === 'paint-layer' ? deep : type === 'add-figures' || type === 'draw-course' ? after(rich, { type: 'set-camera', params: {} }) : type.endsWith('-scheme') && type !== 'add-scheme' || type === 'remove-overrides' || type.endsWith('-delivery') ? varied : type.endsWith('-render') ? newer : type === 'remove-source' ? after(rich, { type: 'add-sources', sources: [source(4)] }) : type === 'ungroup' ? after(rich, { type: 'group-layer', layerId: 'layer-1' }) : rich;
      const before = JSON.stringify(start);
      const result = applyEdit(start, edit);
      check(result);
      expect(JSON.stringify(start)).toBe(before);
      expect(parseDocument(JSON.parse(JSON.stringify(result)))).toEqual(result);
      expect(editLabel(edit)).toMatch(/^[A-Z]/);
    });
  }
});

describe('a locked layer', () => {
  const locked = after(rich, { type: 'group-layer', layerId: 'layer-1' }, { type: 'set-layer', layerId: 'layer-5', patch: { locked: true } });
  it('refuses every change of it and of what lies in it, by name; on, off and unlocking are free', () => {
    for (const edit of [{ type: 'set-layer', layerId: 'layer-5', patch: { opacity: 0.5 } }, { type: 'set-params', layerId: 'layer-1', correctionId: 'correction-1', params: { exposureStops: 1 } }, { type: 'remove-layer', layerId: 'layer-1' }, { type: 'ungroup', layerId: 'layer-5' }] as const) expect(() => applyEdit(locked, edit)).toThrow('“Group” is locked. Unlock it first.');
    expect(layer(after(locked, { type: 'set-layer', layerId: 'layer-5', patch: { visible: false } }), 'layer-5')?.visible).toBe(false);
    expect(parseDocument(JSON.parse(JSON.stringify(locked)))).toEqual(locked);
    expect(layer(after(locked, { type: 'set-layer', layerId: 'layer-5', patch: { locked: false } }, { type: 'remove-layer', layerId: 'layer-1' }), 'layer-1')).toBeUndefined();
  });
});

describe('the mask shelf', () => {
  const refused = (edit: Edit) => (sentence: RegExp) => expect(() => applyEdit(shelf, edit)).toThrow(sentence);
  it('keeps what is used, and says by how many', () => {
    refused({ type: 'remove-mask', maskId: 'mask-1' })(/used once/);
    const twice = after(shelf, { type: 'add-term', maskId: 'mask-2', term: referring('mask-1') });
    expect(() => applyEdit(twice, { type: 'remove-mask', maskId: 'mask-1' })).toThrow(/used 2 times/);
  });
  it('refuses circles, strokes on what is no paint, and numbers that are none', () => {
    const linked = after(shelf, { type: 'add-term', maskId: 'mask-2', term: referring('mask-3') });
    expect(() => applyEdit(linked, { type: 'add-term', maskId: 'mask-3', term: referring('mask-2') })).toThrow(/refers to this mask/);
    refused({ type: 'add-term', maskId: 'mask-3', term: referring('mask-3') })(/refers to this mask/);
    refused({ type: 'add-stroke', maskId: 'mask-3', termId: 'term-1', stroke: STROKE })(/Only a paint term/);
    refused({ type: 'set-mask', maskId: 'mask-1', patch: { growPx: Number.NaN } })(/at most 2000 pixels/);
    refused({ type: 'set-mask', maskId: 'mask-1', patch: { featherPx: -1 } })(/at most 2000 pixels/);
    refused({ type: 'add-term', maskId: 'mask-1', term: { ...newTerm('tone', 'add', rich), params: { nonsense: 1 } } })(/no parameter “nonsense”/);
  });
  it('an own copy is not changed with the shared one; several materials share one mask', () => {
    const own = after(rich, { type: 'unlink-mask', layerId: 'layer-4' }, { type: 'set-mask', maskId: 'mask-1', patch: { inverted: true } });
    expect(own.masks.map(({ inverted }) => inverted)).toEqual([true, false]);
    const both = after(rich, { type: 'mask-with-material', materialIds: ['material-2', 'material-1'], layerId: 'layer-1' }, { type: 'mask-with-material', materialIds: ['material-1', 'material-2'], layerId: 'layer-2' });
    expect(both.masks).toHaveLength(2);
    expect(both.masks[1].name).toBe('M02, M01');
  });
});

describe('groups', () => {
  const grouped = after(rich, { type: 'group-layer', layerId: 'layer-1' }, { type: 'move-layer', layerId: 'layer-3', zone: 'scene', index: 1, groupId: 'layer-5' });
  const tree = (d: TazzelDocument) => layersInOrder(d).map(({ layer: { id }, groupIds }) => [...groupIds, id].join('/'));
  it('layers move in, among each other, out, and over the tone line', () => {
    expect(tree(grouped)).toEqual(['layer-5', 'layer-5/layer-1', 'layer-5/layer-3', 'layer-2', 'layer-4']);
    expect(tree(after(grouped, { type: 'move-layer', layerId: 'layer-3', zone: 'scene', index: 0, groupId: 'layer-5' }))).toEqual(['layer-5', 'layer-5/layer-3', 'layer-5/layer-1', 'layer-2', 'layer-4']);
    expect(tree(after(grouped, { type: 'move-layer', layerId: 'layer-1', zone: 'picture', index: 0 }))).toEqual(['layer-5', 'layer-5/layer-3', 'layer-1', 'layer-2', 'layer-4']);
    expect(tree(after(grouped, { type: 'move-layer', layerId: 'layer-5', zone: 'picture', index: 2 }))).toEqual(['layer-2', 'layer-4', 'layer-5', 'layer-5/layer-1', 'layer-5/layer-3']);
    expect(tree(after(grouped, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene', index: 0, groupId: 'layer-5' }))).toContain('layer-5/layer-6');
  });
  it('are changed, copied and deleted with all that lies in them', () => {
    expect(layer(after(grouped, { type: 'set-params', layerId: 'layer-3', params: { exposureStops: 1 } }), 'layer-3')).toMatchObject({ correction: { params: { exposureStops: 1 } } });
    const copied = after(grouped, { type: 'duplicate-layer', layerId: 'layer-5' });
    expect(tree(copied).slice(0, 6)).toEqual(['layer-5', 'layer-5/layer-1', 'layer-5/layer-3', 'layer-6', 'layer-6/layer-7', 'layer-6/layer-8']);
    expect(parseDocument(JSON.parse(JSON.stringify(copied)))).toEqual(copied);
    expect(tree(after(grouped, { type: 'remove-layer', layerId: 'layer-5' }))).toEqual(['layer-2', 'layer-4']);
    expect(maskUses(after(rich, { type: 'group-layer', layerId: 'layer-4' }))).toHaveLength(1);
  });
  it('share what did not change', () => expect(after(grouped, { type: 'set-layer', layerId: 'layer-2', patch: { opacity: 0.5 } }).buildUp.scene).toBe(grouped.buildUp.scene));
  it('do not lie inside themselves, nor too deep', () => {
    expect(() => after(grouped, { type: 'move-layer', layerId: 'layer-5', zone: 'scene', index: 0, groupId: 'layer-5' })).toThrow(/cannot lie inside itself/);
    expect(() => after(grouped, { type: 'move-layer', layerId: 'layer-2', zone: 'scene', index: 0, groupId: 'layer-1' })).toThrow(/is not a group/);
    expect(() => after(grouped, { type: 'ungroup', layerId: 'layer-1' })).toThrow(/is not a group/);
    const group: Edit = { type: 'group-layer', layerId: 'layer-5' };
    expect(() => after(grouped, group, group, group, group)).toThrow(/at most 4 deep/);
  });
  it('of a damaged document keep what can be read', () => {
    const broken = JSON.parse(JSON.stringify(grouped));
    broken.buildUp.scene[0].layers[0].opacity = 'lots';
    const { document, problems } = readDocument(broken);
    expect(tree(document)).toEqual(['layer-5', 'layer-5/layer-3', 'layer-2', 'layer-4']);
    expect(problems).toEqual([expect.stringContaining('“element 1” was left out')]);
    let deep = broken.buildUp.scene[0].layers[1];
    for (let i = 0; i < 6; i++) deep = { ...broken.buildUp.scene[0], id: `g${i}`, layers: [deep] };
    broken.buildUp.scene = [deep];
    expect(readDocument(broken).problems).toEqual([expect.stringContaining('at most 4 deep')]);
  });
});

describe('a render of another size', () => {
  it('what is given in pixels grows with the picture, in corrections, layers and where they lie', () => {
    const start = after(smallDocument(), { type: 'add-chain-correction', layerId: 'layer-1', correction: 'gaussian-blur' }, { type: 'set-params', layerId: 'layer-1', correctionId: 'correction-1', params: { sigmaPx: 4, sigmaPercent: 1 } }, { type: 'set-layer', layerId: 'layer-1', patch: { placement: { ...UNPLACED, offsetX: 3, offsetY: -2 } } }, { type: 'add-layer', layer: 'fill', zone: 'scene' }, { type: 'group-layer', layerId: 'layer-3' }, { type: 'add-correction-layer', correction: 'gaussian-blur', zone: 'scene' }, { type: 'set-params', layerId: 'layer-5', params: { sigmaPx: 2 } });
    const grown = (scales: boolean) => after(start, { type: 'refresh', sources: start.sources, materials: null, size: { width: 16, height: 12 }, scales }).buildUp.scene;
    expect(grown(true)).toMatchObject([{ placement: { offsetX: 6, offsetY: -4 }, chain: [{ params: { sigmaPx: 8, sigmaPercent: 1 } }] }, { layers: [{ params: { start: [8, 0], end: [8, 12] } }] }, { correction: { params: { sigmaPx: 4 } } }]);
    expect(grown(false)).toEqual(start.buildUp.scene);
  });
});

describe('refusals say what is wrong', () => {
  const refused: readonly [Edit, RegExp][] = [
    [{ type: 'rename-document', name: '  ' }, /name of a document cannot be empty/],
    [{ type: 'add-sources', sources: [source(1)] }, /already has a source with the id source-1/],
    [{ type: 'remove-source', sourceId: 'source-1' }, /used by a layer/],
    [{ type: 'remove-source', sourceId: 'source-3' }, /Masks depend on ids/],
    [{ type: 'set-source', sourceId: 'source-1', patch: { alpha: 'straight' } }, /has no alpha channel/],
    [{ type: 'set-layer', layerId: 'layer-1', patch: { blend: 'screen' } }, /Screen is not offered under the tone line/],
    [{ type: 'set-layer', layerId: 'layer-3', patch: { blend: 'multiply' } }, /A correction has no blend mode/],
    [{ type: 'set-layer', layerId: 'layer-9', patch: {} }, /There is no layer layer-9/],
    [{ type: 'set-layer', layerId: 'layer-1', patch: { opacity: Number.NaN } }, /between 0 and 1/],
    [{ type: 'set-layer', layerId: 'layer-1', patch: { mask: { maskId: 'mask-9', inverted: false, enabled: true } } }, /There is no mask mask-9/],
    [{ type: 'add-chain-correction', layerId: 'layer-3', correction: 'exposure' }, /has no chain of its own/],
    [{ type: 'add-chain-correction', layerId: 'layer-1', correction: 'invert' }, /Invert does not work under the tone line/],
    [{ type: 'set-params', layerId: 'layer-1', params: { exposureStops: 1 } }, /Element has no parameter “exposureStops”/],
    [{ type: 'set-params', layerId: 'layer-1', params: { source: 'source-99' } }, /element 1: its element is missing/],
    [{ type: 'add-layer', layer: 'element', params: { source: 'source-99' }, zone: 'scene' }, /Element: its element is missing/],
    [{ type: 'add-layer', layer: 'hologram', zone: 'scene' }, /There are: element, light, sky, mirrored-sky, air, figures, trails, retouch, fill, snapshot/],
    [{ type: 'set-correction-blend', layerId: 'layer-1', blend: 'all' }, /is not a correction/],
    [{ type: 'set-correction-blend', layerId: 'layer-1', correctionId: 'correction-1', blend: 'screen' }, /has no upper end/],
    [{ type: 'set-correction-blend', layerId: 'layer-1', correctionId: 'correction-1', blend: 'dodge' as never }, /There are: all, lightness/],
    [{ type: 'mask-with-material', materialIds: ['material-7'], layerId: 'layer-1' }, /no material material-7/],
    [{ type: 'set-layer', layerId: 'layer-1', patch: { isolated: true } }, /Only a group can be isolated/],
    [{ type: 'build', name: 'x', scene: rich.buildUp.scene, picture: rich.buildUp.scene }, /share an id/],
    [{ type: 'nothing' } as unknown as Edit, /There is no edit “nothing”/],
  ];
  it.each(refused.map(([edit, sentence]) => [edit.type, edit, sentence] as const))('%s', (_type, edit, sentence) => {
    expect(() => applyEdit(rich, edit)).toThrow(sentence);
  });
});

describe('edits that do more than they say', () => {
  it('a layer that crosses the tone line takes a mode that exists there', () => {
    const overlay = after(rich, { type: 'set-layer', layerId: 'layer-2', patch: { blend: 'screen' } }, { type: 'move-layer', layerId: 'layer-2', zone: 'scene', index: 9 });
    expect(layer(overlay, 'layer-2')).toMatchObject({ blend: 'add' });
    const soft = after(rich, { type: 'set-layer', layerId: 'layer-2', patch: { blend: 'soft-light' } }, { type: 'move-layer', layerId: 'layer-2', zone: 'scene', index: 0 });
    expect(layer(soft, 'layer-2')).toMatchObject({ blend: 'normal' });
  });
  it('corrections of one material share its mask', () => {
    const twice = after(rich, { type: 'correct-material', materialIds: ['material-1'], correction: 'exposure', zone: 'scene' });
    expect(twice.masks).toHaveLength(1);
    expect(maskUses(twice)).toHaveLength(2);
    expect(layersInOrder(twice).filter(({ layer: l }) => l.name.startsWith('M01:'))).toHaveLength(2);
  });
  it('materials that are found again keep id, tag and name, so masks stay', () => {
    const named = after(rich, { type: 'rename-material', materialId: 'material-2', name: 'Zinc' }, { type: 'set-materials', sourceId: 'source-3', materials: [{ ...material(2, 'source-3'), id: 'material-1', tag: 'M01' }] });
    expect(named.materials).toMatchObject([{ id: 'material-2', name: 'Zinc', tag: 'M02' }]);
  });
});

describe('starting and asking', () => {
  it('the beauty becomes the base under the tone line, the ID picture is found', () => {
    const sources = [source(1, { role: 'reflection' }), source(2, { role: 'beauty' }), source(3, { role: 'object-id' }), source(4, { role: 'material-id' })];
    const document = addElements(emptyDocument('x', 'X', { width: 8, height: 6 }), sources);
    expect(document.buildUp.scene).toMatchObject([{ type: 'element', params: { source: 'source-2' }, blend: 'normal' }]);
    expect(addElements(document, [source(5)]).buildUp.scene).toHaveLength(1);
    expect(scheduleSources(sources).map(({ id }) => id)).toEqual(['source-4', 'source-3']);
    expect(baseSource([source(1, { encoding: 'data', role: 'depth' })])?.id).toBe('source-1');
    expect(baseSource([])).toBeNull();
    const files = [{ name: 'ao.png', size: { width: 4, height: 3 }, sources: [source(1, { role: 'ambient-occlusion' })] }, { name: 'beauty.exr', size: { width: 8, height: 6 }, sources: [source(2, { role: 'beauty' })] }];
    expect(pictureSize(files)).toEqual({ width: 8, height: 6 });
    expect(pictureSize([])).toBeNull();
    expect(sizeProblems({ width: 8, height: 6 }, files)).toEqual([expect.stringMatching(/ao\.png is 4 × 3, the document 8 × 6/)]);
  });
  it('before is the base alone, an element is itself alone', () => {
    expect(names(beforeDocument(rich))).toEqual([['element 1'], []]);
    expect(beforeDocument(rich).buildUp.scene[0]).toMatchObject({ chain: [], opacity: 1 });
    expect(names(beforeDocument(emptyDocument('x', 'X', { width: 1, height: 1 })))).toEqual([[], []]);
    expect(names(elementDocument(rich, source(1)))).toEqual([['element 1'], []]);
    expect(names(elementDocument(rich, source(2, { encoding: 'data' })))).toEqual([[], ['element 2']]);
  });
  it('fresh ids count on from the highest there is', () => {
    expect(freshId(rich, 'layer')).toBe('layer-5');
    expect(findMask(rich, 'mask-1')?.name).toBe('M01');
  });
});
