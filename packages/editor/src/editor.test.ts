import { chainOf, layersInOrder, type TazzelDocument } from '@tazzel/core';
import { describe, expect, it, vi } from 'vitest';
import { material, smallDocument, source } from '../../../tests/documents.ts';
import { type CommandHost, commands, keyLabel } from './commands.ts';
import { edit, everywhere, redo, replaced, startHistory, undo } from './history.ts';
import { comparedWith, createSession, shownLayers } from './session.ts';
import { paintIn } from './paint-in.ts';
import { isStage, stages } from './stages.ts';

const start = smallDocument();
const order = (document: TazzelDocument) => layersInOrder(document).map(({ layer, zone }) => `${zone[0]}:${layer.name}`);

describe('history', () => {
  it('undoes and redoes to the very same documents', () => {
    const one = edit(startHistory(start), { type: 'rename-document', name: 'One' });
    const two = edit(one, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.5 } });
    expect(undo(two).document).toBe(one.document);
    expect(undo(undo(two)).document).toBe(start);
    expect(redo(undo(two)).document).toBe(two.document);
    expect(two.past.map(({ label }) => label)).toEqual(['Rename document', 'Change layer']);
    expect(undo(startHistory(start)).document).toBe(start);
    expect(redo(two)).toBe(two);
  });
  it('a gesture is one step, however many edits it made; the next gesture is another', () => {
    let history = startHistory(start);
    for (let i = 1; i <= 40; i++) history = edit(history, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: i / 50 } }, 'drag 1');
    history = edit(history, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.1 } }, 'drag 2');
    expect(history.past).toHaveLength(2);
    expect(undo(undo(history)).document).toBe(start);
  });
  it('what was found out goes into every state, undone ones too, and is no step', () => {
    const steps = ['A', 'B', 'C'].reduce((history, name) => edit(history, { type: 'rename-document', name }), startHistory(start));
    const learned = everywhere(undo(steps), (document) => ({ ...document, size: { width: 80, height: 60 } }));
    expect([learned.past.length, learned.future.length]).toEqual([2, 1]);
    const states = [learned, undo(learned), undo(undo(learned)), redo(learned)].map(({ document }) => [document.name, document.size.width]);
    expect(states).toEqual([['B', 80], ['A', 80], [start.name, 80], ['C', 80]]);
  });
  it('a new edit forgets what was undone, a change of nothing is no step', () => {
    const history = edit(undo(edit(startHistory(start), { type: 'rename-document', name: 'A' })), { type: 'rename-document', name: 'B' });
    expect(history.future).toEqual([]);
    expect(replaced(history, history.document, 'nothing')).toBe(history);
  });
});

describe('session', () => {
  it('keeps a refusal and changes nothing', () => {
    const session = createSession(start);
    expect(session.actions.edit({ type: 'set-layer', layerId: 'layer-1', patch: { blend: 'screen' } })).toBe(false);
    expect(session.getState().refusal?.message).toMatch(/not offered under the tone line/);
    expect(session.getState().document).toBe(start);
    session.actions.edit({ type: 'rename-document', name: 'x' });
    expect(session.getState().refusal).toBeNull();
  });
  it('selects what was added and lets go of what is gone', () => {
    const session = createSession(start);
    session.actions.edit({ type: 'correct-material', materialIds: ['material-1'], correction: 'exposure', zone: 'scene' });
    expect(session.getState().selectedLayerId).toBe('layer-3');
    session.actions.undo();
    expect(session.getState().selectedLayerId).toBe('layer-2');
    session.actions.edit({ type: 'add-chain-correction', layerId: 'layer-1', correction: 'exposure' });
    expect(session.getState()).toMatchObject({ selectedLayerId: 'layer-1', selectedCorrectionId: 'correction-1' });
    session.actions.undo();
    expect(session.getState().selectedCorrectionId).toBeNull();
    session.actions.redo();
    session.actions.edit({ type: 'remove-layer', layerId: 'layer-1' });
    session.actions.edit({ type: 'remove-layer', layerId: 'layer-2' });
    expect(session.getState().selectedLayerId).toBeNull();
  });
  it('adds elements with their base in one step, and learns their materials in every state', () => {
    const empty = { ...start, sources: [], materials: [], buildUp: { scene: [], picture: [] } };
    const session = createSession(empty);
    session.actions.addElements([source(7, { role: 'beauty' }), source(8, { role: 'material-id', encoding: 'data' })]);
    session.actions.learnMaterials([material(1, 'source-8')]);
    expect(order(session.getState().document)).toEqual(['s:element 7']);
    expect(session.getState().document.materials).toHaveLength(1);
    expect(session.getState().history.past).toHaveLength(1);
    session.actions.undo();
    expect(session.getState().document).toBe(empty);
  });
  it('learns materials only where the pictures of them are and no rows yet', () => {
    const ids = source(8, { role: 'material-id', encoding: 'data' });
    const session = createSession({ ...start, sources: [source(7)], materials: [], buildUp: { scene: [], picture: [] } });
    session.actions.addElements([ids]);
    session.actions.learnMaterials([]);
    expect(session.getState().document.materials).toEqual([]);
    session.actions.learnMaterials([{ ...material(1, 'source-8'), kind: 'object' }]);
    expect(session.getState()).toMatchObject({ pointAt: 'object', document: { materials: [{ id: 'material-1' }] } });
    session.actions.learnMaterials([material(5, 'source-8')]);
    expect(session.getState().document.materials.map(({ id }) => id)).toEqual(['material-1']);
    session.actions.undo();
    expect(session.getState().document.materials).toEqual([]);
    session.actions.redo();
    expect(session.getState().document.materials).toHaveLength(1);
  });
  it('whose mask is shown follows the selection', () => {
    const session = createSession(start);
    session.actions.selectMaterial('material-2');
    expect(session.getState().focus).toEqual({ kind: 'material' });
    session.actions.edit({ type: 'correct-material', materialIds: ['material-2'], correction: 'exposure', zone: 'scene' });
    expect(session.getState().focus).toEqual({ kind: 'layer' });
    session.actions.showMask('mask-1');
    expect(session.getState()).toMatchObject({ focus: { kind: 'mask', maskId: 'mask-1' }, maskDisplay: 'hatch' });
    session.actions.undo();
    expect(session.getState().focus).toEqual({ kind: 'layer' });
    // With the tone line at hand no layer is, so that no command works on one unseen.
    session.actions.selectToneLine();
    expect(session.getState()).toMatchObject({ focus: { kind: 'tone' }, selectedLayerId: null });
    session.actions.edit({ type: 'set-tone', tone: 'filmic' });
    session.actions.edit({ type: 'set-params', part: 'tone', params: { white: 5 } });
    session.actions.undo();
    expect(session.getState().document.tone).toMatchObject({ type: 'filmic', params: { white: 11.2 } });
    session.actions.undo();
    expect(session.getState()).toMatchObject({ document: { tone: { type: 'straight' } }, focus: { kind: 'tone' } });
  });
  it('looking at an element alone goes on with the next one', () => {
    const session = createSession(start);
    session.actions.selectSource('source-1');
    expect(session.getState().viewedSourceId).toBeNull();
    session.actions.set({ viewedSourceId: 'source-1' });
    session.actions.selectSource('source-2');
    expect(session.getState().viewedSourceId).toBe('source-2');
  });
  it('files that came back show without a step in the history', () => {
    const session = createSession(start);
    session.actions.refreshSources();
    expect(session.getState().document).not.toBe(start);
    expect(session.getState().document).toEqual(start);
    expect(session.getState().history.past).toHaveLength(0);
  });
});

const host = (document = start): CommandHost => {
  const spies = Object.fromEntries(['goToStage', 'fit', 'fullSize', 'zoomBy', 'addFiles', 'showShortcuts', 'findCommand', 'renameSelected', 'closeDocument'].map((name) => [name, vi.fn()]));
  return { session: createSession(document), stage: 'build-up', ...spies } as unknown as CommandHost;
};
const run = (on: CommandHost, id: string) => {
  const command = commands.find((candidate) => candidate.id === id);
  if (!command?.isEnabled(on)) throw new Error(`${id} does not apply`);
  command.run(on);
};

describe('ways of looking', () => {
  it('each comparison is one key, and with what it is compared follows the selection', () => {
    const on = host();
    const state = () => on.session.getState();
    for (const id of ['beside', 'difference']) {
      run(on, id);
      expect(state().compare).toBe(id);
      run(on, id);
      expect(state().compare).toBe('off');
    }
    expect(comparedWith(state())).toEqual({ kind: 'base' });
    on.session.actions.set({ compareWith: { kind: 'layer' } });
    expect(comparedWith(state())).toEqual({ kind: 'layer', layerId: state().selectedLayerId });
    on.session.actions.set({ compareWith: { kind: 'surface' } });
    expect(comparedWith(state())).toEqual({ kind: 'base' });
    on.session.actions.selectMaterial('material-1');
    expect(comparedWith(state())).toEqual({ kind: 'surface', materialIds: ['material-1'] });
    run(on, 'keep-state');
    on.session.actions.set({ compareWith: { kind: 'state', stateId: 'state-1' } });
    expect(comparedWith(state())).toEqual({ kind: 'state', stateId: 'state-1' });
    // What is gone is compared with no more.
    run(on, 'undo');
    expect(comparedWith(state())).toEqual({ kind: 'base' });
  });
  it('readings, loupe and thumbnail come and go; a layer alone until it is gone', () => {
    const on = host();
    const state = () => on.session.getState();
    run(on, 'read-grey');
    run(on, 'read-stops');
    expect(state().reading).toBe('stops');
    run(on, 'read-stops');
    expect(state().reading).toBeNull();
    expect([0, 0, 0, 0, 0].map(() => { run(on, 'loupe'); return state().loupe; })).toEqual([1, 2, 4, 8, 0]);
    run(on, 'thumbnail');
    run(on, 'sampler');
    expect([state().thumbnail, state().tool]).toEqual([true, 'sampler']);
    run(on, 'solo');
    expect(state().soloLayerId).toBe(state().selectedLayerId);
    run(on, 'delete-layer');
    expect(state().soloLayerId).toBeNull();
  });
  it('digits set the opacity of the layer, or of the correction that is open; a lock refuses', () => {
    const on = host();
    const layer = () => on.session.getState().document.buildUp.picture[0];
    run(on, 'opacity-3');
    expect(layer().opacity).toBe(0.3);
    on.session.actions.edit({ type: 'add-chain-correction', layerId: layer().id, correction: 'exposure' });
    run(on, 'opacity-5');
    expect([layer().opacity, layer().kind === 'picture' && chainOf(layer())[0].opacity]).toEqual([0.3, 0.5]);
    run(on, 'lock-layer');
    on.session.actions.edit({ type: 'set-layer', layerId: layer().id, patch: { opacity: 1 } });
    expect([layer().opacity, on.session.getState().refusal?.message]).toEqual([0.3, expect.stringMatching(/is locked/)]);
  });
  it('light is painted with the brush in the hand, in some tones only', () => {
    const on = host();
    run(on, 'paint-darker-lights');
    const { document, focus, tool } = on.session.getState();
    const mask = document.masks.at(-1);
    expect([tool, focus, mask?.terms.map(({ type }) => type)]).toEqual(['brush', { kind: 'mask', maskId: mask?.id, termId: 'term-1', soloTermId: null }, ['paint', 'tone']]);
    expect(document.buildUp.scene.at(-1)).toMatchObject({ correction: { type: 'exposure', params: { exposureStops: -0.7 } } });
    run(on, 'paint-warmer-all');
    expect(on.session.getState().document.buildUp.scene.at(-1)).toMatchObject({ name: 'Painted warmer', correction: { type: 'white-balance', params: { kelvin: 8200 } } });
  });
});

describe('commands', () => {
  it('ids and keys are given once', () => {
    expect(new Set(commands.map(({ id }) => id)).size).toBe(commands.length);
    const keys = commands.flatMap((command) => command.keys);
    expect(new Set(keys).size).toBe(keys.length);
  });
  it('move a layer through the whole build-up and over the tone line', () => {
    const on = host();
    run(on, 'previous-layer');
    expect(on.session.getState().selectedLayerId).toBe('layer-1');
    run(on, 'move-towards-finish');
    expect(order(on.session.getState().document)).toEqual(['p:element 1', 'p:element 2']);
    run(on, 'move-towards-finish');
    expect(order(on.session.getState().document)).toEqual(['p:element 2', 'p:element 1']);
    run(on, 'move-towards-finish');
    run(on, 'move-towards-base');
    run(on, 'move-towards-base');
    run(on, 'move-towards-base');
    expect(order(on.session.getState().document)).toEqual(['s:element 1', 'p:element 2']);
  });
  it('do what they say', () => {
    const on = host();
    const { session } = on;
    run(on, 'toggle-layer');
    expect(session.getState().document.buildUp.picture[0].visible).toBe(false);
    run(on, 'duplicate-layer');
    run(on, 'delete-layer');
    run(on, 'correct-all-exposure');
    expect(order(session.getState().document)).toContain('p:Exposure');
    session.actions.selectMaterial('material-1');
    run(on, 'correct-material-hue-saturation');
    expect(order(session.getState().document)).toContain('s:M01: hue and saturation');
    for (let i = 0; i < 5; i++) run(on, 'undo');
    expect(session.getState().document).toBe(start);
    run(on, 'redo');
    run(on, 'before');
    expect(session.getState().compare).toBe('before');
    run(on, 'wipe');
    run(on, 'wipe');
    expect(session.getState().compare).toBe('off');
    for (const expected of ['hatch', 'matte', 'off']) {
      run(on, 'show-mask');
      expect(session.getState().maskDisplay).toBe(expected);
    }
    session.actions.selectSource('source-1');
    run(on, 'view-element');
    expect(session.getState().viewedSourceId).toBe('source-1');
    for (const id of ['fit', 'full-size', 'zoom-in', 'zoom-out', 'add-files', 'shortcuts', 'find-command', 'rename-layer', 'close-document', 'stage-deliver']) run(on, id);
    expect(on.goToStage).toHaveBeenCalledWith('deliver');
  });
  it('that do not apply say so before they run', () => {
    const on = host({ ...start, buildUp: { scene: [], picture: [] } });
    const enabled = (id: string) => commands.find((command) => command.id === id)?.isEnabled(on);
    for (const id of ['undo', 'redo', 'delete-layer', 'toggle-layer', 'move-towards-base', 'correct-material-exposure', 'view-element']) expect(enabled(id), id).toBe(false);
  });
  it('keys are written as they are on the keyboard', () => {
    expect(['mod+shift+z', 'shift+slash', 'comma', 'delete', 'alt+1'].map(keyLabel)).toEqual(['Ctrl Shift Z', '?', ',', 'Delete', 'Alt 1']);
    expect(stages.map(({ label }) => label)).toEqual(['Elements', 'Build-up', 'Light', 'Surfaces', 'Sky & air', 'Entourage', 'Lens', 'Deliver']);
    expect([isStage('surfaces'), isStage('nowhere'), isStage(undefined)]).toEqual([true, false, false]);
  });
});

describe('groups', () => {
  const inGroup = () => {
    const on = host(smallDocument());
    const runHere = (id: string) => run(on, id);
    on.session.actions.selectLayer('layer-1');
    runHere('group-layer');
    return { on, run: runHere, state: () => on.session.getState() };
  };
  it('the group is selected and folded; opening shows its layers, selecting one opens it', () => {
    const { run, state, on } = inGroup();
    expect(state().selectedLayerId).toBe('layer-3');
    expect(shownLayers(state()).map(({ layer }) => layer.id)).toEqual(['layer-3', 'layer-2']);
    run('open-group');
    expect(shownLayers(state()).map(({ layer }) => layer.id)).toEqual(['layer-3', 'layer-1', 'layer-2']);
    on.session.actions.selectLayer('layer-1');
    on.session.actions.toggleGroup('layer-3');
    expect(state().selectedLayerId).toBe('layer-3');
    on.session.actions.selectLayer('layer-1');
    expect(state().openGroupIds.has('layer-3')).toBe(true);
  });
  it('a layer moves out at the ends of its group, and the group dissolves', () => {
    const { run, state, on } = inGroup();
    on.session.actions.selectLayer('layer-1');
    run('move-towards-finish');
    expect(state().document.buildUp.scene.map((layer) => layer.id)).toEqual(['layer-3', 'layer-1']);
    run('undo');
    on.session.actions.selectLayer('layer-3');
    run('ungroup');
    expect(state().document.buildUp.scene.map((layer) => layer.id)).toEqual(['layer-1']);
  });
  it('what is looked at instead of the picture is gone with the next change', () => {
    const { on, state } = inGroup();
    on.session.actions.set({ lookAt: { label: 'sum', document: state().document } });
    on.session.actions.edit({ type: 'rename-document', name: 'other' });
    expect(state().lookAt).toBeNull();
  });
});

describe('materials and masks', () => {
  it('a click selects, modifiers add and take away, and a surface goes together', () => {
    const session = createSession(start);
    const selected = () => session.getState().selectedMaterialIds;
    const { selectMaterial, edit: apply } = session.actions;
    selectMaterial('material-1');
    selectMaterial('material-2', 'add');
    expect(selected()).toEqual(['material-1', 'material-2']);
    selectMaterial('material-1', 'remove');
    expect(selected()).toEqual(['material-2']);
    selectMaterial('material-2', 'toggle');
    expect([selected(), session.getState().focus.kind]).toEqual([[], 'layer']);
    selectMaterial('material-1', 'toggle');
    expect([selected(), session.getState().focus.kind]).toEqual([['material-1'], 'material']);
    apply({ type: 'group-materials', materialIds: ['material-1', 'material-2'], surface: 'Walls' });
    selectMaterial('material-2');
    expect(selected()).toEqual(['material-1', 'material-2']);
    selectMaterial(null);
    expect(selected()).toEqual([]);
  });
  it('what is selected is kept as a mask, which opens; without a selection it is an empty one', () => {
    const session = createSession(start);
    session.actions.selectMaterial('material-1');
    session.actions.newMask();
    expect(session.getState().document.masks).toMatchObject([{ name: 'M01', terms: [{ type: 'material', params: { materials: ['material-1'] } }] }]);
    expect(session.getState()).toMatchObject({ focus: { kind: 'mask', maskId: 'mask-1', termId: 'term-1' }, maskDisplay: 'hatch' });
    session.actions.selectMaterial(null);
    session.actions.newMask();
    expect(session.getState().document.masks[1]).toMatchObject({ name: 'Mask', terms: [] });
    expect(session.getState().focus).toMatchObject({ termId: null });
    // The next one is told from it.
    session.actions.newMask();
    expect(session.getState().document.masks[2].name).toBe('Mask 2');
  });
  it('a layer is painted in from nothing: a mask of its own, the brush in the hand, one step back', () => {
    const on = host(start);
    const { session } = on;
    const before = session.getState().document;
    const layerId = before.buildUp.scene[0].id;
    session.actions.selectLayer(layerId);
    run(on, 'paint-in');
    const { document, tool, focus } = session.getState();
    const mask = document.masks.at(-1);
    expect([mask?.name, mask?.terms.map(({ type }) => type), document.buildUp.scene[0].mask]).toEqual(['element 1, painted in', ['paint'], { maskId: mask?.id, inverted: false, enabled: true }]);
    expect([tool, focus]).toEqual(['brush', { kind: 'mask', maskId: mask?.id, termId: 'term-1', soloTermId: null }]);
    session.actions.undo();
    expect(session.getState().document).toEqual(before);
    // What is locked takes none, and nothing is left behind.
    session.actions.edit({ type: 'set-layer', layerId, patch: { locked: true } });
    expect(paintIn(session, layerId)).toBe(false);
    expect(session.getState().document.masks).toEqual(before.masks);
    expect(paintIn(session, layerId, 'correction-9')).toBe(false);
  });
  it('the brush is taken for a paint term that is made, and put away when it is gone', () => {
    const on = host(start);
    const { session } = on;
    const enabled = (id: string) => commands.find((command) => command.id === id)?.isEnabled(on);
    expect([enabled('paint'), enabled('erase'), enabled('larger-brush'), enabled('point-at')]).toEqual([false, false, false, false]);
    run(on, 'new-mask');
    run(on, 'paint');
    expect(session.getState()).toMatchObject({ tool: 'brush', focus: { termId: 'term-1' } });
    expect(session.getState().document.masks[0].terms[0].type).toBe('paint');
    const { sizePx } = session.getState().brush;
    run(on, 'larger-brush');
    run(on, 'erase');
    expect(session.getState().brush).toMatchObject({ erase: true });
    expect(session.getState().brush.sizePx).toBeGreaterThan(sizePx);
    run(on, 'smaller-brush');
    session.actions.undo();
    expect(session.getState()).toMatchObject({ tool: 'select', focus: { termId: null } });
    session.actions.redo();
    run(on, 'paint');
    run(on, 'paint');
    expect(session.getState().tool).toBe('select');
    expect(session.getState().document.masks[0].terms).toHaveLength(1);
  });
  it('objects can be pointed at where there are some', () => {
    const both = { ...start, materials: [...start.materials, { ...material(7, 'source-3'), id: 'object-1', kind: 'object' as const }] };
    const on = host(both);
    run(on, 'point-at');
    expect(on.session.getState().pointAt).toBe('object');
    run(on, 'point-at');
    expect(on.session.getState().pointAt).toBe('material');
  });
});
