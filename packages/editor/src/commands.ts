/**
 * Everything that can be done with a key or found by name. A command says whether it applies before it runs, so one
 * function greys the button and does the work. The list of shortcuts in docs/ is made from this table.
 */
import { chainOf, correctionPlace, corrections, type Edit, findLayer, groupsOf, type LayerPlace, layersOf, lightStarts, newTerm, PAINTED_LAYERS, PAINTED_LIGHT, type PaintedLayer, type PaintedLight, readings, sceneryPlace, strokesOf, whyNot, type Zone } from '@tazzel/core';
import { paintIn, paintWith } from './paint-in.ts';
import { type Compare, type SessionStore, shownLayers } from './session.ts';
import { type StageId, stages } from './stages.ts';

/** What the commands need of the interface. */
export interface CommandHost {
  readonly session: SessionStore;
  readonly stage: StageId;
  goToStage(stage: StageId): void;
  fit(): void;
  fullSize(): void;
  zoomBy(factor: number): void;
  addFiles(): void;
  showShortcuts(): void;
  findCommand(): void;
  renameSelected(): void;
  closeDocument(): void;
  /** Folds a panel, or opens it again. */
  foldPanel(panel: 'schedules' | 'bench' | 'buildUp'): void;
  /** Shows nothing but the picture, or brings the panels back. */
  pictureAlone(): void;
}

export interface Command {
  readonly id: string;
  readonly label: string;
  readonly group: 'Document' | 'Build-up' | 'Corrections' | 'Light' | 'Masks' | 'Picture' | 'Stages' | 'Help';
  /** As react-hotkeys-hook writes them: `mod` is Ctrl, or Command on a Mac. */
  readonly keys: readonly string[];
  isEnabled(host: CommandHost): boolean;
  /** Why it cannot be done although its moment has come, in a sentence; null if it can. */
  whyNot?(host: CommandHost): string | null;
  run(host: CommandHost): void;
}

const always = () => true;
const selected = ({ session }: CommandHost) => {
  const { document, selectedLayerId } = session.getState();
  return selectedLayerId ? findLayer(document, selectedLayerId) : null;
};

/** A command that is one edit; it is not to be had where there is nothing to edit, and says why where the edit would be refused. */
const editing = (command: Pick<Command, 'id' | 'label' | 'group' | 'keys'>, edit: (host: CommandHost) => Edit | null): Command => ({
  ...command,
  isEnabled: (host) => edit(host) !== null,
  whyNot: (host) => {
    const wanted = edit(host);
    return wanted && whyNot(host.session.getState().document, wanted);
  },
  run: (host) => {
    const wanted = edit(host);
    if (wanted) host.session.actions.edit(wanted);
  },
});
/** An edit of the selected layer. */
const ofLayer = (edit: (place: LayerPlace) => Edit | null) => (host: CommandHost) => {
  const place = selected(host);
  return place && edit(place);
};

function step(host: CommandHost, by: number): void {
  const { selectedLayerId } = host.session.getState();
  const layers = shownLayers(host.session.getState());
  const at = layers.findIndex(({ layer }) => layer.id === selectedLayerId);
  const next = layers[Math.min(layers.length - 1, Math.max(0, at + by))];
  if (next) host.session.actions.selectLayer(next.layer.id);
}

/** One place towards the base or the finish, out of the group or over the tone line where one ends. */
function move(host: CommandHost, by: -1 | 1): void {
  const place = selected(host);
  if (!place) return;
  const { document } = host.session.getState();
  const { edit } = host.session.actions;
  const groupId = place.groupIds.at(-1);
  const inGroup = layersOf(document, place.zone, groupId ?? null).length;
  if (groupId !== undefined) {
    const target = place.index + by;
    const around = findLayer(document, groupId);
    if (target >= 0 && target < inGroup) edit({ type: 'move-layer', layerId: place.layer.id, zone: place.zone, index: target, groupId });
    else if (around) edit({ type: 'move-layer', layerId: place.layer.id, zone: place.zone, index: around.index + (by > 0 ? 1 : 0), groupId: around.groupIds.at(-1) });
    return;
  }
  const { scene } = document.buildUp;
  const inZone = inGroup;
  let zone: Zone = place.zone;
  let index = place.index + by;
  if (index < 0 && zone === 'picture') [zone, index] = ['scene', scene.length];
  else if (index >= inZone && zone === 'scene') [zone, index] = ['picture', 0];
  if (index < 0 || (zone === place.zone && index >= inZone)) return;
  edit({ type: 'move-layer', layerId: place.layer.id, zone, index });
}

const toggleCompare = (mode: Compare) => ({ session }: CommandHost) => session.actions.set({ compare: session.getState().compare === mode ? 'off' : mode });

/** Takes the brush for the paint term of the shown mask, which is made if there is none. */
function paint(session: SessionStore): void {
  const { focus, document, tool } = session.getState();
  if (focus.kind !== 'mask') return;
  if (tool === 'brush') {
    session.actions.set({ tool: 'select' });
    return;
  }
  const { maskId } = focus;
  const terms = () => session.getState().document.masks.find(({ id }) => id === maskId)?.terms ?? [];
  const painted = () => terms().findLast((term) => strokesOf(term) !== null);
  if (!painted() && !session.actions.edit({ type: 'add-term', maskId, term: newTerm('paint', 'add', document) })) return;
  session.actions.openTerm(painted()?.id ?? null, 'brush');
}

/** Keys of the readings that have some. */
const READING_KEYS: Readonly<Record<string, readonly string[]>> = { grey: ['h'], stops: ['f'], clipping: ['y'] };

/** What is painted as a layer, as a command. */
const COMMANDS_OF_LAYERS: Readonly<Record<PaintedLayer, string>> = { mist: 'Paint mist, in metres: what is nearer stays before it', smoke: 'Paint smoke, in metres: what is nearer stays before it', heal: 'Heal a spot: paint over it', clone: 'Copy another place over this one: paint it', move: 'Move a place elsewhere: paint over it' };

/** Where a new layer goes: right after the selected one. */
const above = (place: LayerPlace | null) => ({ zone: place?.zone ?? ('scene' as const), index: place ? place.index + 1 : undefined, groupId: place?.groupIds.at(-1) });

export const commands: readonly Command[] = [
  { id: 'undo', label: 'Undo', group: 'Document', keys: ['mod+z'], isEnabled: ({ session }) => session.getState().history.past.length > 0, run: ({ session }) => session.actions.undo() },
  { id: 'redo', label: 'Redo', group: 'Document', keys: ['mod+shift+z', 'mod+y'], isEnabled: ({ session }) => session.getState().history.future.length > 0, run: ({ session }) => session.actions.redo() },
  { id: 'add-files', label: 'Add files …', group: 'Document', keys: ['mod+o'], isEnabled: always, run: (host) => host.addFiles() },
  { id: 'close-document', label: 'Close the document', group: 'Document', keys: ['mod+shift+e'], isEnabled: always, run: (host) => host.closeDocument() },

  { id: 'previous-layer', label: 'Select the layer before', group: 'Build-up', keys: ['comma'], isEnabled: (host) => selected(host) !== null, run: (host) => step(host, -1) },
  { id: 'next-layer', label: 'Select the layer after', group: 'Build-up', keys: ['period'], isEnabled: (host) => selected(host) !== null, run: (host) => step(host, 1) },
  { id: 'move-towards-base', label: 'Move the layer towards the base', group: 'Build-up', keys: ['shift+comma'], isEnabled: (host) => selected(host) !== null, run: (host) => move(host, -1) },
  { id: 'move-towards-finish', label: 'Move the layer towards the finish', group: 'Build-up', keys: ['shift+period'], isEnabled: (host) => selected(host) !== null, run: (host) => move(host, 1) },
  editing({ id: 'toggle-layer', label: 'Switch the layer on or off', group: 'Build-up', keys: ['o'] }, ofLayer(({ layer }) => ({ type: 'set-layer', layerId: layer.id, patch: { visible: !layer.visible } }))),
  editing({ id: 'lock-layer', label: 'Lock or unlock the layer', group: 'Build-up', keys: ['d'] }, ofLayer(({ layer }) => ({ type: 'set-layer', layerId: layer.id, patch: { locked: layer.locked !== true } }))),
  { id: 'rename-layer', label: 'Rename the layer', group: 'Build-up', keys: ['f2'], isEnabled: (host) => selected(host) !== null, run: (host) => host.renameSelected() },
  editing({ id: 'duplicate-layer', label: 'Duplicate the layer', group: 'Build-up', keys: ['mod+d'] }, ofLayer(({ layer }) => ({ type: 'duplicate-layer', layerId: layer.id }))),
  editing({ id: 'delete-layer', label: 'Delete the layer', group: 'Build-up', keys: ['delete', 'backspace'] }, ofLayer(({ layer }) => ({ type: 'remove-layer', layerId: layer.id }))),

  {
    id: 'group-layer',
    label: 'Put the layer into a group',
    group: 'Build-up',
    keys: ['mod+g'],
    isEnabled: (host) => selected(host) !== null,
    run: (host) => {
      const place = selected(host);
      if (!place || !host.session.actions.edit({ type: 'group-layer', layerId: place.layer.id })) return;
      const group = findLayer(host.session.getState().document, place.layer.id)?.groupIds.at(-1);
      if (group) host.session.actions.selectLayer(group);
    },
  },
  editing({ id: 'ungroup', label: 'Dissolve the group', group: 'Build-up', keys: ['mod+shift+g'] }, ofLayer(({ layer }) => (layer.kind === 'group' ? { type: 'ungroup', layerId: layer.id } : null))),
  {
    id: 'open-group',
    label: 'Open or fold the group',
    group: 'Build-up',
    keys: ['g'],
    isEnabled: (host) => selected(host)?.layer.kind === 'group',
    run: (host) => {
      const place = selected(host);
      if (place) host.session.actions.toggleGroup(place.layer.id);
    },
  },

  editing({ id: 'add-sky', label: 'Sky: another sky behind the building, as a layer', group: 'Build-up', keys: [] }, ({ session }) => ({ type: 'add-layer', layer: 'sky', ...sceneryPlace(session.getState().document) })),
  editing({ id: 'add-air', label: 'Air: haze, mist or fog as a layer', group: 'Build-up', keys: [] }, (host) => {
    const place = selected(host);
    return { type: 'add-layer', layer: 'air', ...(place?.zone === 'scene' ? above(place) : { zone: 'scene' }) };
  }),
  editing({ id: 'add-fill', label: 'Fill: a colour or a ramp as a layer', group: 'Build-up', keys: [] }, (host) => ({ type: 'add-layer', layer: 'fill', ...above(selected(host)) })),
  editing({ id: 'add-snapshot', label: 'Snapshot: the picture so far as a layer', group: 'Build-up', keys: [] }, ofLayer((place) => ({ type: 'add-layer', layer: 'snapshot', params: { after: place.layer.id }, ...above(place) }))),

  ...corrections.map((correction) => editing({ id: `correct-all-${correction.id}`, label: `${correction.label} for all below`, group: 'Corrections', keys: [] }, (host) => ({ type: 'add-correction-layer', correction: correction.id, ...correctionPlace(correction, selected(host)) }))),
  ...corrections.map((correction) =>
    editing({ id: `correct-material-${correction.id}`, label: `${correction.label} for the selected materials`, group: 'Corrections', keys: [] }, ({ session }) => {
      const { selectedMaterialIds } = session.getState();
      return selectedMaterialIds.length > 0 ? { type: 'correct-material', materialIds: selectedMaterialIds, correction: correction.id, ...correctionPlace(correction, null) } : null;
    }),
  ),

  { id: 'new-mask', label: 'Keep the selected materials as a mask', group: 'Masks', keys: ['m'], isEnabled: always, run: ({ session }) => session.actions.newMask() },
  {
    id: 'paint',
    label: 'Paint into the shown mask, or put the brush away',
    group: 'Masks',
    keys: ['p'],
    isEnabled: ({ session }) => session.getState().focus.kind === 'mask',
    run: ({ session }) => paint(session),
  },
  {
    id: 'paint-in',
    label: 'Paint the layer in from nothing',
    group: 'Masks',
    keys: [],
    isEnabled: (host) => selected(host) !== null,
    run: (host) => {
      const layerId = selected(host)?.layer.id;
      if (layerId && paintIn(host.session, layerId) && host.stage !== 'surfaces') host.goToStage('surfaces');
    },
  },
  ...(Object.keys(PAINTED_LIGHT) as PaintedLight[]).flatMap((what) =>
    (['all', 'darks', 'middles', 'lights'] as const).map(
      (tones): Command => ({
        id: `paint-${what}-${tones}`,
        label: `Paint ${what}${tones === 'all' ? '' : `, only the ${tones}`}`,
        group: 'Masks',
        keys: [],
        isEnabled: ({ session }) => session.getState().document.sources.length > 0,
        run: (host) => {
          if (host.stage !== 'surfaces') host.goToStage('surfaces');
          paintWith(host.session, { type: 'paint-light', tones, what });
        },
      }),
    ),
  ),
  ...(Object.keys(PAINTED_LAYERS) as PaintedLayer[]).map(
    (what): Command => ({
      id: `paint-${what}`,
      label: COMMANDS_OF_LAYERS[what],
      group: 'Masks',
      keys: [],
      isEnabled: ({ session }) => whyNot(session.getState().document, { type: 'paint-layer', what }) === null,
      run: (host) => {
        if (host.stage !== 'surfaces') host.goToStage('surfaces');
        paintWith(host.session, { type: 'paint-layer', what });
      },
    }),
  ),
  {
    id: 'erase',
    label: 'Brush paints or erases',
    group: 'Masks',
    keys: ['shift+p'],
    isEnabled: ({ session }) => session.getState().tool === 'brush',
    run: ({ session }) => session.actions.set({ brush: { ...session.getState().brush, erase: !session.getState().brush.erase } }),
  },
  ...([1, -1] as const).map(
    (by): Command => ({
      id: by > 0 ? 'larger-brush' : 'smaller-brush',
      label: by > 0 ? 'Larger brush' : 'Smaller brush',
      group: 'Masks',
      keys: [by > 0 ? 'shift+up' : 'shift+down'],
      isEnabled: ({ session }) => session.getState().tool === 'brush',
      run: ({ session }) => {
        const { brush } = session.getState();
        session.actions.set({ brush: { ...brush, sizePx: Math.min(2000, Math.max(1, Math.round(brush.sizePx * 1.25 ** by + by * 0.5))) } });
      },
    }),
  ),
  {
    id: 'point-at',
    label: 'Point at materials or at objects',
    group: 'Masks',
    keys: ['j'],
    isEnabled: ({ session }) => new Set(session.getState().document.materials.map(({ kind }) => kind)).size > 1,
    run: ({ session }) => session.actions.set({ pointAt: session.getState().pointAt === 'material' ? 'object' : 'material', hoveredMaterialId: null }),
  },

  { id: 'picture-alone', label: 'The picture alone, or with its panels', group: 'Picture', keys: ['a'], isEnabled: always, run: (host) => host.pictureAlone() },
  { id: 'fold-schedules', label: 'Fold or open the schedules', group: 'Picture', keys: ['s'], isEnabled: always, run: (host) => host.foldPanel('schedules') },
  { id: 'fold-bench', label: 'Fold or open the bench', group: 'Picture', keys: ['b'], isEnabled: always, run: (host) => host.foldPanel('bench') },
  { id: 'fold-build-up', label: 'Fold or open the build-up', group: 'Picture', keys: ['u'], isEnabled: always, run: (host) => host.foldPanel('buildUp') },
  { id: 'fit', label: 'Fit the picture', group: 'Picture', keys: ['0'], isEnabled: always, run: (host) => host.fit() },
  { id: 'full-size', label: 'Show at 100 %', group: 'Picture', keys: ['1'], isEnabled: always, run: (host) => host.fullSize() },
  { id: 'zoom-in', label: 'Zoom in', group: 'Picture', keys: ['equal', 'shift+equal', 'add'], isEnabled: always, run: (host) => host.zoomBy(1.5) },
  { id: 'zoom-out', label: 'Zoom out', group: 'Picture', keys: ['minus', 'subtract'], isEnabled: always, run: (host) => host.zoomBy(1 / 1.5) },
  {
    id: 'view-element',
    label: 'Look at the selected element alone',
    group: 'Picture',
    keys: ['e'],
    isEnabled: ({ session }) => session.getState().selectedSourceId !== null || session.getState().viewedSourceId !== null,
    run: ({ session }) => {
      const { viewedSourceId, selectedSourceId } = session.getState();
      session.actions.set({ viewedSourceId: viewedSourceId === null ? selectedSourceId : null });
    },
  },
  ...([1, -1] as const).map(
    (by): Command => ({
      id: by > 0 ? 'next-element' : 'previous-element',
      label: by > 0 ? 'Look at the next element' : 'Look at the element before',
      group: 'Picture',
      keys: [by > 0 ? 'down' : 'up'],
      isEnabled: ({ session }) => session.getState().viewedSourceId !== null,
      run: ({ session }) => {
        const { document, viewedSourceId } = session.getState();
        const at = document.sources.findIndex(({ id }) => id === viewedSourceId);
        const next = document.sources[(at + by + document.sources.length) % document.sources.length];
        if (!next) return;
        session.actions.selectSource(next.id);
        session.actions.set({ viewedSourceId: next.id });
      },
    }),
  ),
  { id: 'before', label: 'Before or after', group: 'Picture', keys: ['c'], isEnabled: always, run: toggleCompare('before') },
  { id: 'wipe', label: 'Wipe between before and after', group: 'Picture', keys: ['w'], isEnabled: always, run: toggleCompare('wipe') },
  { id: 'beside', label: 'Before and after side by side', group: 'Picture', keys: ['v'], isEnabled: always, run: toggleCompare('beside') },
  { id: 'difference', label: 'What differs between before and after', group: 'Picture', keys: ['x'], isEnabled: always, run: toggleCompare('difference') },
  ...readings.map(
    ({ id, label }): Command => ({
      id: `read-${id}`,
      label: `Read the picture: ${label.toLowerCase()}`,
      group: 'Picture',
      keys: READING_KEYS[id] ?? [],
      isEnabled: always,
      run: ({ session }) => session.actions.set({ reading: session.getState().reading === id ? null : id }),
    }),
  ),
  {
    id: 'loupe',
    label: 'Loupe at the pointer: 100, 200, 400, 800 %, off',
    group: 'Picture',
    keys: ['l'],
    isEnabled: always,
    run: ({ session }) => {
      const { loupe } = session.getState();
      session.actions.set({ loupe: loupe === 0 ? 1 : loupe < 8 ? loupe * 2 : 0 });
    },
  },
  { id: 'thumbnail', label: 'The picture as small as in a list', group: 'Picture', keys: ['t'], isEnabled: always, run: ({ session }) => session.actions.set({ thumbnail: !session.getState().thumbnail }) },
  { id: 'sampler', label: 'Place colour samplers by clicks', group: 'Picture', keys: ['i'], isEnabled: always, run: ({ session }) => session.actions.set({ tool: session.getState().tool === 'sampler' ? 'select' : 'sampler' }) },
  {
    id: 'solo',
    label: 'Look at the layer alone',
    group: 'Picture',
    keys: ['q'],
    isEnabled: (host) => host.session.getState().soloLayerId !== null || (selected(host)?.layer.kind ?? 'correction') !== 'correction',
    run: (host) => host.session.actions.set({ soloLayerId: host.session.getState().soloLayerId === null ? (selected(host)?.layer.id ?? null) : null }),
  },
  editing({ id: 'add-scheme', label: 'New scheme: what is changed from here on belongs to it', group: 'Document', keys: [] }, ({ session }) => ({ type: 'add-scheme', name: `Scheme ${session.getState().document.schemes.list.length + 1}` })),
  editing({ id: 'next-scheme', label: 'Show the next scheme', group: 'Document', keys: ['shift+n'] }, ({ session }) => {
    const { list, chosenId } = session.getState().document.schemes;
    const ids = [null, ...list.map(({ id }) => id)];
    return list.length === 0 ? null : { type: 'choose-scheme', schemeId: ids[(ids.indexOf(chosenId) + 1) % ids.length] };
  }),
  { id: 'keep-state', label: 'Keep this state under a name', group: 'Document', keys: ['n'], isEnabled: always, run: ({ session }) => void session.actions.edit({ type: 'keep-state', name: `State ${session.getState().document.states.length + 1}` }) },
  ...[1, 2, 3, 4, 5, 6, 7, 8, 9, 0].map((digit) =>
    editing({ id: `opacity-${digit}`, label: `Opacity ${digit === 0 ? 100 : digit * 10} %`, group: 'Build-up', keys: [`shift+${digit}`] }, (host) => {
      const place = selected(host);
      const opacity = digit === 0 ? 1 : digit / 10;
      const link = place && chainOf(place.layer).find(({ id }) => id === host.session.getState().selectedCorrectionId);
      return place && (link ? { type: 'set-chain-correction', layerId: place.layer.id, correctionId: link.id, patch: { opacity } } : { type: 'set-layer', layerId: place.layer.id, patch: { opacity } });
    }),
  ),
  {
    id: 'show-mask',
    label: 'Mask on the picture: hatch, matte, off',
    group: 'Picture',
    keys: ['k'],
    isEnabled: always,
    run: ({ session }) => {
      const next = { off: 'hatch', hatch: 'matte', matte: 'off' } as const;
      session.actions.set({ maskDisplay: next[session.getState().maskDisplay] });
    },
  },

  ...(
    [
      ['mix-light', 'Mix the light: all light groups in the place of the beauty', { type: 'add-light-mix' }],
      ['split-lights', 'The mix put together by its lights', { type: 'split-light', by: 'lights' }],
      ['split-elements', 'The mix put together by elements in its light', { type: 'split-light', by: 'elements' }],
      ['lights-on', 'All lights on', { type: 'switch-lights', on: true }],
      ['lights-off', 'All lights off', { type: 'switch-lights', on: false }],
      ['light-intensities', 'Intensities of all lights as rendered', { type: 'reset-lights', what: 'intensity' }],
      ['light-colours', 'Colours of all lights as rendered', { type: 'reset-lights', what: 'colour' }],
      ...lightStarts.map(({ id, label }) => [`begin-${id}`, `Begin the light with: ${label.toLowerCase()}`, { type: 'begin-mix', start: id }] as const),
    ] as const
  ).map(([id, label, edit]) => editing({ id, label, group: 'Light', keys: [] }, ({ session }) => (groupsOf(session.getState().document).length > 0 ? edit : null))),
  editing({ id: 'keep-scenario', label: 'Keep this light mix under a name', group: 'Light', keys: [] }, ({ session }) => ({ type: 'keep-scenario', name: `Lighting ${session.getState().document.light.scenarios.length + 1}` })),

  ...stages.map(({ id, label }, i): Command => ({ id: `stage-${id}`, label: `Stage: ${label}`, group: 'Stages', keys: [`alt+${i + 1}`], isEnabled: always, run: (host) => host.goToStage(id) })),

  { id: 'find-command', label: 'Find a command', group: 'Help', keys: ['mod+k'], isEnabled: always, run: (host) => host.findCommand() },
  { id: 'shortcuts', label: 'Keyboard shortcuts', group: 'Help', keys: ['shift+slash'], isEnabled: always, run: (host) => host.showShortcuts() },
];

const keyNames: Record<string, string> = { mod: 'Ctrl', shift: 'Shift', alt: 'Alt', comma: ',', period: '.', delete: 'Delete', backspace: 'Backspace', slash: '/', equal: '=', minus: '−', add: 'Num +', subtract: 'Num −' };

/** `mod+shift+z` → `Ctrl Shift Z`. */
export const keyLabel = (keys: string): string =>
  keys === 'shift+slash' ? '?' : keys === 'shift+equal' ? '+' : keys.split('+').map((key) => keyNames[key] ?? key.toUpperCase()).join(' ');
