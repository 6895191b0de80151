/** The light board: mixes, scenarios, frames, and the layers that are lit by it. */
import { blended, findScenario, groupsOf, linkedWith, partOf, settingOf, withMix, withSetting } from '../../light/board.ts';
import { AS_RENDERED, type LightValues } from '../../light/group.ts';
import { instancesIn } from '../../light/names.ts';
import { lightStarts, startMix } from '../../light/starts.ts';
import { LIMITS } from '../../limits.ts';
import type { Layer, LightBoard, LightFrames, LightMix, LightScenario, TazzelDocument } from '../../model/model.ts';
import { findLayer, findSource, freshId, layersInOrder, sourceIdOf } from '../../model/query.ts';
import { isPictureLayer } from '../layers.ts';
import { relitGroup } from '../builder.ts';
import { type Handlers, named, refuse } from './define.ts';
import { insert, withLayer } from './in-layers.ts';
import { layerEdits } from './layers.ts';

export type LightEdit =
  /** The board's mix as a whole: nothing else is. */
  | { type: 'set-mix'; mix: LightMix }
  /** Intensities, colours or all of it as rendered; of all groups, or of one and those linked with it. */
  | { type: 'reset-lights'; what: 'intensity' | 'colour' | 'all'; sourceId?: string }
  /** All groups on or off. */
  | { type: 'switch-lights'; on: boolean }
  /** One of light/starts.ts. */
  | { type: 'begin-mix'; start: string }
  | { type: 'keep-scenario'; name: string }
  | { type: 'load-scenario'; scenarioId: string }
  /** The board's mix in the place of a scenario's. */
  | { type: 'replace-scenario'; scenarioId: string }
  | { type: 'rename-scenario'; scenarioId: string; name: string }
  | { type: 'remove-scenario'; scenarioId: string }
  | { type: 'add-scenarios'; scenarios: readonly Pick<LightScenario, 'name' | 'mix'>[] }
  /** The board between two scenarios: 0 is the first, 1 the second. */
  | { type: 'blend-scenarios'; fromId: string; toId: string; share: number }
  | { type: 'link-lights'; sourceIds: readonly string[] }
  | { type: 'unlink-lights'; sourceId: string }
  /** What was measured of groups. */
  | { type: 'learn-lights'; own: LightBoard['own'] }
  | { type: 'set-frames'; frames: LightFrames }
  /** The mix in the place of the beauty. */
  | { type: 'add-light-mix' }
  /** One group added to what there is. */
  | { type: 'add-light'; sourceId: string }
  /** The relit picture by its lights, or by its elements: what was done to either stays. */
  | { type: 'split-light'; by: 'lights' | 'elements' };

const onBoard = (document: TazzelDocument, patch: Partial<LightBoard>): TazzelDocument => ({ ...document, light: { ...document.light, ...patch } });
const scenarioAt = (document: TazzelDocument, id: string): LightScenario => findScenario(document, id) ?? refuse(`There is no scenario ${id}.`);

const mixed = (document: TazzelDocument, change: (values: LightValues) => LightValues, ids: readonly string[] = groupsOf(document).map(({ id }) => id)): TazzelDocument =>
  withMix(document, ids.reduce<LightMix>((mix, id) => withSetting(mix, id, change(settingOf(mix, id))), document.light.mix));

/** One group set, and those linked with it: they take the same switch and colour, and are changed by as many stops. */
export function withLight(document: TazzelDocument, sourceId: string, values: LightValues): TazzelDocument {
  if (!groupsOf(document).some(({ id }) => id === sourceId)) return refuse('There is no such light group.');
  const before = settingOf(document.light.mix, sourceId);
  const byStops = values.intensityStops - before.intensityStops;
  return withMix(
    document,
    linkedWith(document.light, sourceId).reduce<LightMix>((mix, id) => withSetting(mix, id, id === sourceId ? values : { ...values, intensityStops: settingOf(mix, id).intensityStops + byStops }), document.light.mix),
  );
}

function withScenario(document: TazzelDocument, name: string, mix: LightMix): TazzelDocument {
  const { scenarios } = document.light;
  if (scenarios.length >= LIMITS.scenarios) refuse(`A document keeps at most ${LIMITS.scenarios} scenarios. Remove one first.`);
  return onBoard(document, { scenarios: [...scenarios, { id: freshId(document, 'scenario'), name: named(name, 'a scenario'), mix }] });
}

const patchScenario = (document: TazzelDocument, scenarioId: string, patch: Partial<LightScenario>): TazzelDocument => {
  const scenario = scenarioAt(document, scenarioId);
  return onBoard(document, { scenarios: document.light.scenarios.map((each) => (each === scenario ? { ...scenario, ...patch } : each)) });
};

const lightLayers = (document: TazzelDocument) => layersInOrder(document).filter(({ layer }) => isPictureLayer(layer) && layer.type === 'light');
const isRelit = (layer: Layer): boolean => (layer.kind === 'group' ? layer.layers.some(isRelit) : layer.kind === 'picture' && layer.type === 'element' && layer.params.isRelit === true);

/** The layer of the mix in the place of the beauty. What showed light that the mix holds as well is switched off, or it would be counted twice. */
function withMixLayer(document: TazzelDocument): TazzelDocument {
  const { scene } = document.buildUp;
  const isBase = (layer: Layer) => findSource(document, sourceIdOf(layer) ?? '')?.role.endsWith('beauty') === true && layer.kind === 'picture' && layer.blend === 'normal';
  const base = scene.findIndex(isBase);
  const isOfMix = (layer: Layer) => findSource(document, sourceIdOf(layer) ?? '')?.role === 'light-group';
  const hidden = { ...document, buildUp: { ...document.buildUp, scene: scene.map((layer, i) => (i === base || isOfMix(layer) ? { ...layer, visible: false } : layer)) } };
  // Instances of a lamp, and the sky with the light that it gives, are one row until they are split.
  const seen = groupsOf(document).flatMap((group) => (partOf(document, group) ? [[partOf(document, group)?.id as string, group.id]] : []));
  const links = [...document.light.links, ...[...instancesIn(groupsOf(document)), ...seen].filter((ids) => !ids.some((id) => document.light.links.flat().includes(id)))];
  return layerEdits['add-layer'].apply(onBoard(hidden, { links }), { type: 'add-layer', layer: 'light', zone: 'scene', index: base + 1 });
}

export const lightEdits: Handlers<LightEdit> = {
  'set-mix': { label: 'Light mix', apply: (document, { mix }) => withMix(document, mix) },
  'reset-lights': {
    label: 'Lights as rendered',
    apply: (document, { what, sourceId }) => {
      const { intensityStops, on, takes, color } = AS_RENDERED;
      const back = { intensity: { intensityStops, on }, colour: { takes, color }, all: AS_RENDERED }[what];
      return mixed(document, (values) => ({ ...values, ...back }), sourceId === undefined ? undefined : linkedWith(document.light, sourceId));
    },
  },
  'switch-lights': { label: 'All lights', apply: (document, { on }) => mixed(document, (values) => ({ ...values, on })) },
  'begin-mix': {
    label: 'Begin a mix',
    apply: (document, { start }) => withMix(document, startMix(document, lightStarts.find(({ id }) => id === start) ?? refuse(`There is no starting point “${start}”.`))),
  },
  'keep-scenario': { label: 'Keep the mix', apply: (document, { name }) => withScenario(document, name, document.light.mix) },
  'load-scenario': { label: 'Load a mix', apply: (document, { scenarioId }) => withMix(document, scenarioAt(document, scenarioId).mix) },
  'replace-scenario': { label: 'Replace a mix', apply: (document, { scenarioId }) => patchScenario(document, scenarioId, { mix: document.light.mix }) },
  'rename-scenario': { label: 'Rename scenario', apply: (document, { scenarioId, name }) => patchScenario(document, scenarioId, { name: named(name, 'a scenario') }) },
  'remove-scenario': {
    label: 'Remove scenario',
    apply: (document, { scenarioId }) => {
      const scenario = scenarioAt(document, scenarioId);
      const user = lightLayers(document).find(({ layer }) => layer.kind === 'picture' && layer.params.scenario === scenarioId);
      if (user) refuse(`The layer “${user.layer.name}” shows it. Choose another mix there first.`);
      const { scenarios, frames } = document.light;
      return onBoard(document, { scenarios: scenarios.filter((each) => each !== scenario), frames: { ...frames, keys: frames.keys.filter((key) => key.scenarioId !== scenarioId) } });
    },
  },
  'add-scenarios': { label: 'Add scenarios', apply: (document, { scenarios }) => scenarios.reduce((made, { name, mix }) => withScenario(made, name, mix), document) },
  'blend-scenarios': {
    label: 'Between two mixes',
    apply: (document, { fromId, toId, share }) => withMix(document, blended(document, scenarioAt(document, fromId).mix, scenarioAt(document, toId).mix, Math.min(1, Math.max(0, share)))),
  },
  'link-lights': {
    label: 'Link lights',
    apply: (document, { sourceIds }) => {
      const ids = [...new Set(sourceIds.flatMap((id) => linkedWith(document.light, id)))];
      if (ids.length < 2) refuse('It takes two light groups to link them.');
      if (ids.some((id) => !groupsOf(document).some((group) => group.id === id))) refuse('There is no such light group.');
      return onBoard(document, { links: [...document.light.links.filter((link) => !link.some((id) => ids.includes(id))), ids] });
    },
  },
  'unlink-lights': { label: 'Split lights', apply: (document, { sourceId }) => onBoard(document, { links: document.light.links.filter((link) => !link.includes(sourceId)) }) },
  'learn-lights': {
    label: 'Measure lights',
    apply: (document, { own }) => {
      const known = new Set(own.map(({ sourceId }) => sourceId));
      return onBoard(document, { own: [...document.light.own.filter(({ sourceId }) => !known.has(sourceId)), ...own.filter(({ sourceId }) => findSource(document, sourceId))] });
    },
  },
  'set-frames': { label: 'Frames', apply: (document, { frames }) => onBoard(document, { frames: { ...frames, keys: [...frames.keys].sort((a, b) => a.seconds - b.seconds) } }) },
  'add-light-mix': { label: 'Mix the light', apply: withMixLayer },
  'add-light': {
    label: 'Add a light',
    apply: (document, { sourceId }) => {
      const source = findSource(document, sourceId) ?? refuse(`There is no element ${sourceId}.`);
      return layerEdits['add-layer'].apply(document, { type: 'add-layer', layer: 'element', params: { source: source.id }, zone: 'scene', blend: 'add' });
    },
  },
  'split-light': {
    label: 'Split the light',
    apply: (document, { by }) => {
      const elements = document.buildUp.scene.find(isRelit);
      const shown = ({ id }: Layer, visible: boolean, of: TazzelDocument): TazzelDocument => ({ ...of, buildUp: withLayer(of.buildUp, 'scene', id, (layer) => [{ ...layer, visible }]) });
      let made = document;
      const mixOf = (of: TazzelDocument) => of.buildUp.scene.find((layer) => layer.kind === 'picture' && layer.type === 'light' && layer.params.scenario === '');
      if (!mixOf(made)) made = withMixLayer(made);
      const mix = mixOf(made) as Layer;
      if (by === 'lights') return shown(mix, true, elements ? shown(elements, false, made) : made);
      const place = findLayer(made, mix.id)?.index ?? 0;
      const group = elements ?? relitGroup(made) ?? refuse('There are no elements that add up to a beauty. Add those of the render.');
      return shown(group, true, shown(mix, false, elements ? made : insert(made, 'scene', place + 1, group, null)));
    },
  },
};

/** The board without what it knows of a group. */
export const withoutLight = ({ mix, scenarios, own, links, ...rest }: LightBoard, sourceId: string): LightBoard => {
  const others = (settings: LightMix) => settings.filter((setting) => setting.sourceId !== sourceId);
  return { ...rest, mix: others(mix), scenarios: scenarios.map((scenario) => ({ ...scenario, mix: others(scenario.mix) })), own: own.filter((one) => one.sourceId !== sourceId), links: links.map((link) => link.filter((id) => id !== sourceId)).filter((link) => link.length > 1) };
};
