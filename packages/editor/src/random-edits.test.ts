import { blendModes, corrections, type Edit, layersInOrder, maskTerms, newTerm, parseDocument, planDocument } from '@tazzel/core';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { smallDocument } from '../../../tests/documents.ts';
import { createSession } from './session.ts';

/** Edits as hands make them: often sensible, sometimes of things that are not there. */
const id = (prefix: string) => fc.integer({ min: 1, max: 6 }).map((n) => `${prefix}-${n}`);
const zone = fc.constantFrom('scene' as const, 'picture' as const);
const correction = fc.constantFrom(...corrections.map((c) => c.id));
const blend = fc.constantFrom(...blendModes.map((mode) => mode.id)) as fc.Arbitrary<never>;
const use = fc.option(fc.record({ maskId: id('mask'), inverted: fc.boolean(), enabled: fc.boolean() }), { nil: null });
const edits: fc.Arbitrary<Edit> = fc.oneof(
  fc.record({ type: fc.constant('rename-document' as const), name: fc.string({ maxLength: 5 }) }),
  fc.record({ type: fc.constant('add-layer' as const), layer: fc.constant('element'), params: fc.record({ source: id('source') }), zone, index: fc.integer({ min: -2, max: 9 }), blend }),
  fc.record({ type: fc.constant('add-layer' as const), layer: fc.constant('fill'), zone, index: fc.integer({ min: -2, max: 9 }), blend }),
  fc.record({ type: fc.constant('add-layer' as const), layer: fc.constant('snapshot'), params: fc.record({ after: id('layer') }), zone, index: fc.integer({ min: -2, max: 9 }) }),
  fc.record({ type: fc.constant('set-params' as const), layerId: id('layer'), params: fc.record({ after: id('layer') }) }),
  fc.record({ type: fc.constant('set-layer' as const), layerId: id('layer'), patch: fc.record({ placement: fc.option(fc.record({ offsetX: fc.double(), offsetY: fc.integer(), scaleX: fc.double({ min: -2, max: 2 }), scaleY: fc.double({ min: -200, max: 2 }), rotationDegrees: fc.integer({ min: -400, max: 400 }), filter: fc.constantFrom('mitchell' as const, 'lanczos' as const) }), { nil: null }) }) }),
  fc.record({ type: fc.constant('add-correction-layer' as const), correction, zone, index: fc.integer({ min: 0, max: 9 }) }),
  fc.record({ type: fc.constant('correct-material' as const), materialIds: fc.array(id('material'), { maxLength: 3 }), correction, zone }),
  fc.record({ type: fc.constant('mask-with-material' as const), materialIds: fc.array(id('material'), { maxLength: 3 }), layerId: id('layer') }),
  fc.record({ type: fc.constant('set-layer' as const), layerId: id('layer'), patch: fc.record({ opacity: fc.double(), visible: fc.boolean(), mask: use }, { requiredKeys: [] }) }),
  fc.record({ type: fc.constant('set-layer' as const), layerId: id('layer'), patch: fc.record({ blend }) }),
  fc.record({ type: fc.constant('duplicate-layer' as const), layerId: id('layer') }),
  fc.record({ type: fc.constant('remove-layer' as const), layerId: id('layer') }),
  fc.record({ type: fc.constant('move-layer' as const), layerId: id('layer'), zone, index: fc.integer({ min: -3, max: 9 }) }),
  fc.record({ type: fc.constant('add-chain-correction' as const), layerId: id('layer'), correction }),
  fc.record({ type: fc.constant('remove-chain-correction' as const), layerId: id('layer'), correctionId: id('correction') }),
  fc.record({ type: fc.constant('set-params' as const), layerId: id('layer'), params: fc.record({ exposureStops: fc.double({ noNaN: true }) }) }),
  fc.record({ type: fc.constant('remove-source' as const), sourceId: id('source') }),
  fc.record({ type: fc.constant('add-mask' as const), name: fc.constant('A mask'), terms: fc.constant([]) }),
  fc.record({ type: fc.constant('add-term' as const), maskId: id('mask'), term: fc.constantFrom(...maskTerms.map((spec) => spec.id)).chain((type) => fc.constantFrom('add' as const, 'subtract' as const, 'intersect' as const).map((operation) => newTerm(type, operation, smallDocument()))) }),
  fc.record({ type: fc.constant('add-term' as const), maskId: id('mask'), term: id('mask').map((mask) => newTerm('mask', 'add', smallDocument(), { mask })) }),
  fc.record({ type: fc.constantFrom('remove-mask' as const, 'duplicate-mask' as const), maskId: id('mask') }),
  fc.record({ type: fc.constant('move-term' as const), maskId: id('mask'), termId: id('term'), to: fc.integer({ min: -1, max: 4 }) }),
  fc.record({ type: fc.constant('remove-term' as const), maskId: id('mask'), termId: id('term') }),
  fc.record({ type: fc.constant('set-mask' as const), maskId: id('mask'), patch: fc.record({ growPx: fc.double(), featherPx: fc.double(), inverted: fc.boolean(), strength: fc.double() }, { requiredKeys: [] }) }),
  fc.record({ type: fc.constant('unlink-mask' as const), layerId: id('layer') }),
  fc.record({ type: fc.constant('group-materials' as const), materialIds: fc.array(id('material'), { maxLength: 3 }), surface: fc.constantFrom('Walls', null, '') }),
  fc.record({ type: fc.constant('rename-material' as const), materialId: id('material'), name: fc.string({ maxLength: 5 }) }),
);
type Step = { kind: 'edit'; edit: Edit; gesture: boolean } | { kind: 'undo' | 'redo' };
const steps: fc.Arbitrary<Step> = fc.oneof(
  { weight: 6, arbitrary: fc.record({ kind: fc.constant('edit' as const), edit: edits, gesture: fc.boolean() }) },
  { weight: 1, arbitrary: fc.constant({ kind: 'undo' as const }) },
  { weight: 1, arbitrary: fc.constant({ kind: 'redo' as const }) },
);

it('whatever is done in whatever order: the document stays sound, plans, and undoes to where it began', () => {
  fc.assert(
    fc.property(fc.array(steps, { maxLength: 40 }), (list) => {
      const start = smallDocument();
      const session = createSession(start);
      for (const step of list) {
        if (step.kind === 'edit') session.actions.edit(step.edit, step.gesture ? 'drag' : undefined);
        else session.actions[step.kind]();
        const { document, selectedLayerId, selectedCorrectionId } = session.getState();
        expect(parseDocument(JSON.parse(JSON.stringify(document)))).toEqual(document);
        expect(planDocument(document).nodes.length).toBeGreaterThan(0);
        const ids = layersInOrder(document).map(({ layer }) => layer.id);
        expect(new Set(ids).size).toBe(ids.length);
        if (selectedLayerId) expect(ids).toContain(selectedLayerId);
        if (selectedCorrectionId) expect(JSON.stringify(document.buildUp)).toContain(selectedCorrectionId);
      }
      const end = session.getState().document;
      const taken = session.getState().history.past.length;
      for (let i = 0; i < taken; i++) session.actions.undo();
      expect(session.getState().document).toBe(start);
      for (let i = 0; i < taken; i++) session.actions.redo();
      expect(session.getState().document).toBe(end);
    }),
    { numRuns: 120, seed: 1207 },
  );
});
