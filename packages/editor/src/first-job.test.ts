import { applyEdit, type Edit } from '@tazzel/core';
import { expect, it } from 'vitest';
import { smallDocument, source } from '../../../tests/documents.ts';
import { firstJob, type Moment, nextStep } from './first-job.ts';
import { isStage } from './stages.ts';

// People stand where the camera says.
const then: Moment = { document: applyEdit(smallDocument(), { type: 'set-camera', from: 'hand', params: {} }), compare: 'off', focus: { kind: 'layer' } };
const after = (...edits: readonly Edit[]): Moment => ({ ...then, document: edits.reduce(applyEdit, then.document) });
const layerId = then.document.buildUp.scene[0].id;

/** What does each step, and nothing else that is done before it. */
const deeds: Readonly<Record<string, Moment>> = {
  before: { ...then, compare: 'before' },
  switch: after({ type: 'set-layer', layerId, patch: { visible: false } }),
  surface: { ...after({ type: 'correct-material', correction: 'exposure', materialIds: [then.document.materials[0].id], zone: 'scene' }), focus: { kind: 'material' } },
  light: after({ type: 'keep-scenario', name: 'Evening' }),
  sky: after({ type: 'add-layer', layer: 'sky', zone: 'scene' }),
  people: after({ type: 'add-figures', figures: [{ sourceId: 'source-9', at: [4, 5], groundMetres: 0, heightMetres: 1.7, mirrored: false, leanDegrees: 0, foot: [0.5, 1], top: 0 }], sources: [source(9)] }),
  lens: after({ type: 'add-ready-group', group: 'brighter-middle' }),
  wipe: { ...then, compare: 'wipe' },
  deliver: after({ type: 'add-delivery', delivery: { name: '{document}', format: 'png', values: {}, width: null, halvings: 0, filter: 'lanczos', cut: null, upto: null, schemes: 'all' } }),
};

it.each(firstJob)('$title: done by what it says, and not before', (step) => {
  expect(isStage(step.stage)).toBe(true);
  expect(step.isDone(then, then)).toBe(false);
  expect(step.isDone(deeds[step.id], then)).toBe(true);
  // What was done before it began does not count; comparing does as long as it lasts.
  if (deeds[step.id].compare === 'off') expect(step.isDone(deeds[step.id], deeds[step.id])).toBe(false);
});
it('one after the other, and none twice', () => {
  const done = new Set<string>();
  for (const { id } of firstJob) {
    expect(nextStep(done)?.id).toBe(id);
    done.add(id);
  }
  expect(nextStep(done)).toBeNull();
  expect(done.size).toBe(Object.keys(deeds).length);
});
