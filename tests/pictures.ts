/** Draws a plan without an engine: kept tiles are made when they are asked for, and stay in a map. */
import { Drawing, Evaluator, type Backend, graphFor, type GraphInputs, keyAtLevel, type Pixels, type Plan, referenceBackend, type Region, resultOf, sizeAtLevel, type Target } from '@tazzel/core';

/** A backend's registers live as long as it does. */
const evaluators = new WeakMap<Backend, Evaluator>();
function evaluatorOf(backend: Backend): Evaluator {
  const evaluator = evaluators.get(backend) ?? new Evaluator(backend);
  evaluators.set(backend, evaluator);
  return evaluator;
}

export interface DrawOptions extends Omit<GraphInputs, 'kept'> {
  readonly target?: Target;
  readonly level?: number;
  readonly backend?: Backend;
  /** Tiles that stay from one drawing to the next. */
  readonly store?: Map<string, Pixels>;
  readonly region?: Region;
}

/** Outside the backend's arena, where the next drawing writes. */
const ofItsOwn = (pixels: Pixels): Pixels => ({ ...pixels, planes: pixels.planes.slice() });

export function draw(plan: Plan, { target = resultOf(plan), level = 0, backend = referenceBackend(), store = new Map(), region, ...inputs }: DrawOptions): { pixels: Pixels; stepsRun: number } {
  const graph = graphFor(plan, level, target);
  const drawing: Drawing = new Drawing(graph, backend, evaluatorOf(backend), {
    ...inputs,
    kept: (picture, tile) => {
      const id = `${graph.pictures[picture].key} ${tile.x} ${tile.y}`;
      const known = store.get(id);
      if (known) return known;
      const made = ofItsOwn(drawing.pixels(picture, tile));
      store.set(id, made);
      return made;
    },
  });
  const { work } = graph.pictures[graph.root];
  const whole = { x: 0, y: 0, ...sizeAtLevel(plan.size, level) };
  // Goes on from the furthest result that is there, as the engine does.
  const from = !region && work.kind === 'points' ? work.keys.findLastIndex((key, steps) => steps > 0 && key !== '' && store.has(`${keyAtLevel(key, level)} 0 0`)) : -1;
  const start = from > 0 && work.kind === 'points' ? { steps: from, pixels: store.get(`${keyAtLevel(work.keys[from], level)} 0 0`) as Pixels } : null;
  const { arena } = backend;
  const { mark } = arena;
  const pixels = ofItsOwn(drawing.pixels(graph.root, region ?? whole, start));
  arena.release(mark);
  return { pixels, stepsRun: drawing.stepsRun };
}
