/** What is usually wanted of a plan. */
import type { TazzelDocument } from '../model/model.ts';
import { findLayer } from '../model/query.ts';
import type { Target } from './graph.ts';
import { plannedTone } from '../tone/apply.ts';
import { readingById } from '../readings/registry.ts';
import { remembered } from '../remembered.ts';
import { planDocument, type PlanOptions } from './plan.ts';
import { keyAt, type Place, type Plan } from './steps.ts';

/** The finished picture. What lies below `focusLayerId` is kept for the next change of that layer. */
export const resultOf = (plan: Plan, focusLayerId: string | null = null): Target => ({ place: plan.result, tone: null, focus: focusLayerId === null ? null : (plan.before[focusLayerId] ?? null) });

/** The picture as a way of reading it shows it; null is the picture itself. */
export function readOf(plan: Plan, readingId: string | null, focusLayerId: string | null = null): Target {
  const reading = readingId === null ? null : readingById(readingId);
  const result = resultOf(plan, focusLayerId);
  if (!reading) return result;
  return reading.of === 'light' ? { ...lightOf(plan), reading: reading.id } : { ...result, reading: reading.id };
}

/** Scene light under the tone line. */
export const lightOf = (plan: Plan): Target => ({ place: plan.light, tone: null, focus: null });

/** The picture after a layer, from the plan of the whole document; null for a layer inside a group, which needs a plan of its own. */
export function afterLayer(document: TazzelDocument, plan: Plan, layerId: string): Target | null {
  const place = plan.after[layerId];
  if (!place) return null;
  return { place, tone: findLayer(document, layerId)?.zone === 'scene' ? plannedTone(document.tone) : null, focus: null };
}

/** The plan that shows the same as some options, and what is wanted of it: pictures after layers are places in the plan of the whole document, which serves all of them. */
export function cardPlan(document: TazzelDocument, options: PlanOptions): { options: PlanOptions; target: (plan: Plan) => Target } {
  const { upto } = options;
  const isPlace = upto !== undefined && options.only === undefined && afterLayer(document, planOf(document), upto) !== null;
  return isPlace ? { options: {}, target: (plan) => afterLayer(document, plan, upto) ?? resultOf(plan) } : { options, target: (plan) => resultOf(plan) };
}

/** What a card shows: equal keys need no new picture. */
export function cardKey(document: TazzelDocument, asked: PlanOptions): string {
  const { options, target } = cardPlan(document, asked);
  const plan = options === asked ? planDocument(document, options) : planOf(document);
  return targetKey(plan, target(plan));
}

const planOf = remembered((document: TazzelDocument) => planDocument(document));

/** What is wanted of one plan, in another one that has the same result: layers that do nothing leave no trace in keys, so places are found by theirs. */
export function targetIn(plan: Plan, from: Plan, target: Target): Target {
  if (plan === from) return target;
  const placeIn = (place: Place): Place | null => {
    const key = keyAt(from, place);
    for (const [node, { kind, ...at }] of plan.nodes.entries()) {
      const steps = kind === 'points' && 'keys' in at ? at.keys.indexOf(key) : -1;
      if (steps >= 0) return { node, steps };
    }
    return null;
  };
  const place = placeIn(target.place);
  if (!place) throw new Error('The plans have nothing in common.');
  return { ...target, place, focus: target.focus && placeIn(target.focus) };
}

/** Equal targets look alike. */
export const targetKey = (plan: Plan, { place, tone, reading }: Target): string => `${keyAt(plan, place)} ${tone?.key ?? ''} ${reading ?? ''}`;
