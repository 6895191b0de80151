/**
 * Whether a document is one that can be stored and read back as it is. Edits and saving ask; parts that were looked at before are not looked at
 * again, so asking costs as much as what changed.
 */
import type { Zone } from '../color/zones.ts';
import { LIMITS, shortened } from '../limits.ts';
import { type Layer, type Mask, type MaskUse, type NamedState, MAX_GROUP_DEPTH, type TazzelDocument } from '../model/model.ts';
import { boardSchema, cameraSchema, deliverySchema, frame, layerSchema, maskHead, materialSchema, misfit, renderProblem, samplersSchema, scenarioSchema, schemeSchema, shownSchema, sourceSchema, stateHead, sunSchema, termSchema, toneSchema } from './parts.ts';
import { findMask, findSource, masksOf, chainOf } from '../model/query.ts';
import { documentIn } from './against.ts';
import { faultOf, isPictureLayer } from './layers.ts';

/** Lists whose items fit and have ids of their own. */
const soundLists = new WeakSet<object>();
const soundMasks = new WeakSet<Mask>();

/** The first thing that would not survive being stored, as a sentence; null if everything would. */
export function unsoundness(document: TazzelDocument): string | null {
  const { sources, materials, masks, buildUp, camera, sun, tone, light, states, schemes, deliveries, renders, samplers, ...head } = document;
  const headless = misfit(frame, head);
  if (headless) return `The document: ${headless}.`;
  const unplaced = (camera && misfit(cameraSchema, camera)) ?? (sun && misfit(sunSchema, sun));
  const untoned = misfit(toneSchema, tone);
  if (untoned) return `The tone line: ${untoned}.`;
  if (unplaced) return `The camera or the sun: ${unplaced}.`;
  return (
    listProblem(sources, 'element', LIMITS.sources, (source) => misfit(sourceSchema, source)) ??
    listProblem(materials, 'material', LIMITS.materials, (material) => misfit(materialSchema, material)) ??
    orphanOf(document) ??
    listProblem(masks, 'mask', LIMITS.masks, maskProblem) ??
    buildUpProblem(document) ??
    samplersProblem(document) ??
    lightProblem(document) ??
    schemesProblem(document) ??
    listProblem(deliveries, 'delivery', LIMITS.deliveries, (delivery) => misfit(deliverySchema, delivery), 'deliveries') ??
    listProblem(renders, 'earlier render', LIMITS.renders, renderProblem) ??
    statesProblem(document)
  );
}

function samplersProblem({ samplers }: TazzelDocument): string | null {
  const problem = misfit(samplersSchema, samplers);
  return problem && `The colour samplers: ${problem}.`;
}

function lightProblem({ light }: TazzelDocument): string | null {
  const { scenarios, ...board } = light ?? {};
  const problem = soundBoards.has(light) ? null : misfit(boardSchema, board);
  if (problem) return `The light board: ${problem}.`;
  soundBoards.add(light);
  const lost = light.frames.keys.find(({ scenarioId }) => !scenarios.some(({ id }) => id === scenarioId));
  return lost ? 'The frames: a scenario is missing.' : listProblem(scenarios, 'scenario', LIMITS.scenarios, (scenario) => misfit(scenarioSchema, scenario));
}
const soundBoards = new WeakSet<object>();

const soundShown = new WeakSet<object>();

function schemesProblem({ schemes }: TazzelDocument): string | null {
  const { list, ...shown } = schemes ?? {};
  const problem = soundShown.has(schemes) ? null : misfit(shownSchema, shown);
  if (problem) return `The schemes: ${problem}.`;
  soundShown.add(schemes);
  if (schemes.chosenId !== null && !list.some(({ id }) => id === schemes.chosenId)) return 'The scheme that is shown is missing.';
  return listProblem(list, 'scheme', LIMITS.schemes, (scheme) => misfit(schemeSchema, scheme));
}

/** The sources with which a state was found to be one that can be stored. */
const soundStates = new WeakMap<NamedState, object>();

function statesProblem(document: TazzelDocument): string | null {
  return (
    listProblem(document.states, 'state', LIMITS.states, ({ id, name, tone, mix }) => misfit(stateHead, { id, name, tone, mix })) ??
    document.states.reduce<string | null>((found, state) => {
      if (found || soundStates.get(state) === document.sources) return found;
      const inside = documentIn(document, state);
      const problem = listProblem(state.masks, 'mask', LIMITS.masks, maskProblem) ?? buildUpProblem(inside);
      if (problem === null) soundStates.set(state, document.sources);
      return problem && `The state “${shortened(state.name, 60)}”: ${problem}`;
    }, null)
  );
}

function listProblem<T extends { readonly id: string; readonly name: string }>(list: readonly T[], what: string, most: number, problemOf: (item: T) => string | null, whats = `${what}s`): string | null {
  if (!Array.isArray(list)) return `The list of ${whats} is missing.`;
  if (soundLists.has(list)) return null;
  if (list.length > most) return `A document holds at most ${most} ${whats}.`;
  const ids = new Set<string>();
  for (const item of list as readonly T[]) {
    const problem = problemOf(item) ?? (ids.has(item.id) ? `its id ${item.id} occurs twice` : null);
    if (problem) return `${titled(what, item?.name)}: ${problem}.`;
    ids.add(item.id);
  }
  soundLists.add(list);
  return null;
}

const titled = (what: string, name: unknown) => `The ${what}${typeof name === 'string' && name !== '' ? ` “${shortened(name, 60)}”` : ''}`;

const rowsWithPictures = new WeakMap<object, object>();

/** A row of the schedule needs the picture that it was found in. */
function orphanOf(document: TazzelDocument): string | null {
  if (rowsWithPictures.get(document.materials) === document.sources) return null;
  const orphan = document.materials.find(({ sourceId }) => findSource(document, sourceId) === null);
  if (orphan) return `${titled('material', orphan.name)}: its ID picture is missing.`;
  rowsWithPictures.set(document.materials, document.sources);
  return null;
}

function maskProblem(mask: Mask): string | null {
  if (typeof mask === 'object' && mask !== null && soundMasks.has(mask)) return null;
  const { terms, ...head } = (mask ?? {}) as Mask;
  const problem = misfit(maskHead, head);
  if (problem) return problem;
  if (!Array.isArray(terms) || terms.length > LIMITS.terms) return `a mask has at most ${LIMITS.terms} lines`;
  const ids = new Set<string>();
  for (const [i, term] of terms.entries()) {
    const found = misfit(termSchema, term) ?? (ids.has(term.id) ? `its id ${term.id} occurs twice` : null);
    if (found) return `line ${i + 1}: ${found}`;
    ids.add(term.id);
  }
  soundMasks.add(mask);
  return null;
}

function buildUpProblem(document: TazzelDocument): string | null {
  const ids = new Set<string>();
  const isLost = ({ maskId }: MaskUse) => findMask(document, maskId) === null;
  const walk = (layers: readonly Layer[], zone: Zone, depth: number): string | null => {
    if (!Array.isArray(layers)) return 'The list of layers is missing.';
    for (const layer of layers as readonly Layer[]) {
      const problem = layerProblem(document, layer, zone, depth) ?? (ids.has(layer.id) ? `its id ${layer.id} occurs twice` : null);
      if (problem) return `${titled('layer', layer?.name)}: ${problem}.`;
      if (masksOf(layer).some(isLost)) return `${titled('layer', layer.name)}: its mask is missing.`;
      ids.add(layer.id);
      if (ids.size > LIMITS.layers) return `A document holds at most ${LIMITS.layers} layers.`;
      const inside = layer.kind === 'group' ? walk(layer.layers, zone, depth + 1) : null;
      if (inside) return inside;
    }
    return null;
  };
  return walk(document.buildUp?.scene, 'scene', 0) ?? walk(document.buildUp.picture, 'picture', 0);
}

const soundGroups = { scene: new WeakSet<object>(), picture: new WeakSet<object>() };

function layerProblem(document: TazzelDocument, layer: Layer, zone: Zone, depth: number): string | null {
  const schema = layerSchema(zone, layer);
  if (layer?.kind !== 'group') {
    const problem = misfit(schema, layer);
    if (problem) return problem;
    const fault = isPictureLayer(layer) ? faultOf(document, layer) : null;
    // Two corrections of one chain would be changed together.
    return fault ?? (new Set(chainOf(layer).map(({ id }) => id)).size !== chainOf(layer).length ? 'two of its corrections share an id' : null);
  }
  if (depth >= MAX_GROUP_DEPTH) return `groups lie at most ${MAX_GROUP_DEPTH} deep`;
  if (soundGroups[zone].has(layer)) return null;
  const { layers: _, ...head } = layer;
  const problem = misfit(schema, head);
  if (problem === null) soundGroups[zone].add(layer);
  return problem;
}
