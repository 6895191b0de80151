import { readFile } from 'node:fs/promises';
import { applyEdit, CoreError, findScenario, groupName, groupsOf, kelvinToLinearSrgb, lampGains, type LightScenario, lightsFile, lightStarts, mixedGroups, mixFigures, mixFor, ownColour, readLights, sameGroup, settingOf, type TazzelDocument, temperatureOf, type Triple } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { parseSceneFile, readScene, sceneWithMix } from '@tazzel/renderer';
import { type Command, type Invocation, text, texts, UsageError } from '../command.ts';
import { megabytes, mustNotExist, openProject, withEngine, writeParts, writeProjectFile } from '../files.ts';

export const light: Command = {
  name: 'light',
  summary: 'The light board of a project file: lists its groups and scenarios, mixes, keeps and loads mixes, writes one into a scene’s lamps.',
  usage: 'light doc.tazzel --list | --set GROUP=STOPS[,KELVIN] … [--save NAME] --out other.tazzel',
  options: {
    list: { type: 'boolean', help: 'Say what the groups are set to, their share of the light and their grain.' },
    start: { type: 'string', value: 'ID', help: `Begin with a mix: ${lightStarts.map(({ id }) => id).join(', ')}.` },
    scenario: { type: 'string', value: 'NAME', help: 'Begin with a scenario of the document.' },
    load: { type: 'string', value: 'FILE', help: 'Add the mixes of a file as scenarios, and begin with the first.' },
    set: { type: 'string', multiple: true, value: 'GROUP=STOPS[,KELVIN]', help: 'Set a group: stops (+1 is twice the watts) and, if wanted, the temperature of its light; “off” for stops switches it off.' },
    save: { type: 'string', value: 'NAME', help: 'Keep the mix as a scenario under this name.' },
    out: { type: 'string', value: 'FILE', help: 'The project file (.tazzel), or a file of all scenarios (.json), to write.' },
    scene: { type: 'string', value: 'FILE', help: 'A scene file whose lamps are to carry the mix …' },
    'scene-out': { type: 'string', value: 'FILE', help: '… and the scene file to write.' },
    force: { type: 'boolean', help: 'Replace files that exist.' },
  },
  run: async (invocation) => {
    if (invocation.files.length !== 1) throw new UsageError('Name one project file: light doc.tazzel --list');
    const [out, scene, sceneOut] = ['out', 'scene', 'scene-out'].map((name) => text(invocation, name));
    if ((scene === undefined) !== (sceneOut === undefined)) throw new UsageError('--scene and --scene-out belong together: the scene to read, and the one to write.');
    for (const path of [out, sceneOut]) if (path !== undefined) mustNotExist(path, invocation.values.force === true);
    await withEngine(async (engine) => {
      const opened = await openProject(engine, invocation.files[0], invocation.problem);
      if (groupsOf(opened).length === 0) throw new Error('The document has no light groups. Add those elements of the render.');
      const { document, listed } = await withMeasures(engine, await changed(opened, invocation), invocation);
      if (invocation.values.list === true || (out === undefined && sceneOut === undefined)) listed();
      if (out !== undefined) await write(engine, document, out, invocation);
      if (scene !== undefined && sceneOut !== undefined) {
        const { scene: relit, missing } = sceneWithMix(readScene(parseSceneFile(await readFile(scene), scene)), lampGains(document));
        for (const name of missing) invocation.problem(`${scene} has no light group “${groupName({ name })}”: its part of the mix is not in it.`);
        await writeParts(sceneOut, [Buffer.from(`${JSON.stringify(relit, null, 1)}\n`)]);
        invocation.say(`${sceneOut}: the lamps of ${relit.name} carry the mix. Reset the mix of the document when it is rendered, or it is lit twice.`);
      }
    });
  },
};

/** The document with the colours of its lamps, which mixes are made of, and what lists it with its figures. */
async function withMeasures(engine: Engine, document: TazzelDocument, invocation: Invocation) {
  const { sourceIds, measures } = await engine.measureLights(document);
  const own = sourceIds.flatMap((sourceId, i) => (ownColour(document.light, sourceId) ? [] : [{ sourceId, color: measures.groups[i].own ?? ([1, 1, 1] as Triple) }]));
  const mixed = own.length > 0 ? applyEdit(document, { type: 'learn-lights', own }) : document;
  const listed = () => {
    const groups = mixedGroups(mixed).filter(({ source }) => sourceIds.includes(source.id));
    const { shares, noise, totalNoise } = mixFigures(measures, sourceIds.map((id) => groups.find(({ source }) => source.id === id)?.gain ?? [1, 1, 1]));
    const rows = groups.map(({ source, values, gain }) => {
      const at = sourceIds.indexOf(source.id);
      const kelvin = temperatureOf('glow', values.takes === 'chosen' ? values.color : (ownColour(mixed.light, source.id) ?? [1, 1, 1]))?.kelvin ?? null;
      return { group: groupName(source), ...values, kelvin: kelvin === null ? null : Math.round(kelvin), gain, share: shares[at], noise: noise[at] };
    });
    invocation.say(`${'group'.padEnd(24)}${['stops', 'kelvin', '% light', '% grain'].map((title) => title.padStart(9)).join('')}`);
    for (const { group, on, intensityStops, kelvin, share, noise: grain } of rows) invocation.say(`${group.padEnd(24)}${[on ? intensityStops.toFixed(2) : 'off', kelvin ?? '–', (share * 100).toFixed(1), (grain * 100).toFixed(1)].map((value) => String(value).padStart(9)).join('')}`);
    invocation.say(`grain of the mix ${(totalNoise * 100).toFixed(1)} %`);
    if (mixed.light.scenarios.length > 0) invocation.say(`scenarios: ${mixed.light.scenarios.map(({ name }) => name).join(', ')}`);
    invocation.result({ groups: rows, noise: totalNoise, scenarios: mixed.light.scenarios.map(({ id, name }) => ({ id, name })) });
  };
  return { document: mixed, listed };
}

async function changed(document: TazzelDocument, invocation: Invocation): Promise<TazzelDocument> {
  let result = document;
  const start = text(invocation, 'start');
  const scenario = text(invocation, 'scenario');
  const file = text(invocation, 'load');
  if (start !== undefined) {
    if (!lightStarts.some(({ id }) => id === start)) throw new UsageError(`--start ${start}: expected one of ${lightStarts.map(({ id }) => id).join(', ')}.`);
    result = applyEdit(result, { type: 'begin-mix', start });
  }
  if (scenario !== undefined) result = applyEdit(result, { type: 'load-scenario', scenarioId: scenarioNamed(result, scenario).id });
  if (file !== undefined) {
    const { scenarios, problems } = readLights(jsonOf(await readFile(file, 'utf8')));
    const fitted = scenarios.map((each) => ({ name: each.name, ...mixFor(result, each) }));
    for (const sentence of [...problems, ...fitted.flatMap(({ missing }) => missing)]) invocation.problem(`${file}: ${sentence}`);
    result = applyEdit(result, { type: 'add-scenarios', scenarios: fitted.map(({ name, mix }) => ({ name, mix })) });
    if (fitted.length > 0) result = applyEdit(result, { type: 'set-mix', mix: fitted[0].mix });
  }
  for (const wanted of texts(invocation, 'set')) result = withGroup(result, wanted);
  const name = text(invocation, 'save');
  return name === undefined ? result : applyEdit(result, { type: 'keep-scenario', name });
}

/** `interior lamps=1.5,2900` @throws UsageError */
function withGroup(document: TazzelDocument, wanted: string): TazzelDocument {
  const [, name, stops, kelvin] = /^(.+)=\s*(off|[-+−]?\d+(?:\.\d+)?)(?:\s*,\s*(\d+(?:\.\d+)?)\s*K?)?$/i.exec(wanted) ?? [];
  if (name === undefined) throw new UsageError(`--set ${wanted}: expected GROUP=STOPS or GROUP=STOPS,KELVIN, as in “interior lamps=1.5,2900”.`);
  const group = groupsOf(document).find((each) => sameGroup(each.name, name));
  if (!group) throw new UsageError(`There is no light group “${name}”. Groups: ${groupsOf(document).map(groupName).join(', ')}.`);
  const degrees = kelvin === undefined ? null : Number(kelvin);
  if (degrees !== null && !(degrees >= 1700 && degrees <= 25_000)) throw new UsageError(`--set ${wanted}: temperatures lie between 1700 and 25000 K.`);
  const isOff = stops.toLowerCase() === 'off';
  const intensityStops = isOff ? settingOf(document.light.mix, group.id).intensityStops : Number(stops.replace('−', '-'));
  return applyEdit(document, { type: 'set-params', lightId: group.id, params: { on: !isOff, intensityStops, ...(degrees === null ? {} : { takes: 'chosen', color: kelvinToLinearSrgb(degrees) as Triple }) } });
}

/** By name or id. @throws UsageError */
export function scenarioNamed(document: TazzelDocument, name: string): LightScenario {
  const found = findScenario(document, name) ?? document.light.scenarios.find((scenario) => scenario.name.toLowerCase() === name.toLowerCase());
  if (!found) throw new UsageError(document.light.scenarios.length === 0 ? 'The document keeps no lighting scenarios.' : `There is no scenario “${name}”. Scenarios: ${document.light.scenarios.map((scenario) => scenario.name).join(', ')}.`);
  return found;
}

function jsonOf(given: string): unknown {
  try {
    return JSON.parse(given);
  } catch (error) {
    throw new CoreError('bad-document', `This is no file of light mixes: ${(error as Error).message}.`);
  }
}

async function write(engine: Engine, document: TazzelDocument, out: string, invocation: Invocation): Promise<void> {
  if (/\.json$/i.test(out)) {
    await writeParts(out, [Buffer.from(`${JSON.stringify(lightsFile(document, document.light.scenarios), null, 1)}\n`)]);
    invocation.say(`${out}: ${document.light.scenarios.length} scenarios`);
    return;
  }
  invocation.say(`${out}: ${megabytes(await writeProjectFile(engine, document, out))}`);
}
