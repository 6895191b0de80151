/**
 * An open document with everything around it that is not saved in it: selection, view, comparison. A plain store; the
 * interface subscribes to it, pixels never enter it.
 */
import { addElements, type Against, applyEdit, chainOf, type DrawnLines, type Edit, type ElementLook, type FigureInHand, findLayer, findMask, freeName, groupsOf, isCorrectionId, type LayerPlace, layersInOrder, type LightBoard, maskNameOf, type MaskTerm, type Material, type MaterialKind, materialTerm, type SceneFacts, type ShadowLine, type Source, strokesOf, surfaceOf, type TazzelDocument } from '@tazzel/core';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { edit, everywhere, type History, redo, replaced, startHistory, undo } from './history.ts';

/** How the picture is compared with another: alone in its place, up to a line, the same part beside each other, or by what differs. */
export type Compare = 'off' | 'before' | 'wipe' | 'beside' | 'difference';
/** What it is compared with: the selected layer and surface are those of the moment. */
export type CompareWith = { readonly kind: 'base' | 'layer' | 'surface' } | Extract<Against, { kind: 'state' | 'source' | 'scenario' | 'scheme' }>;
/**
 * What is at hand, and whose mask is shown: the selected layer or correction, the selected materials, the tone line, a light group, or a mask of the shelf with the line of it that is open. What is selected of the
 * other kinds stays what it was, since a correction of the layer at hand may get the mask of the materials at hand.
 */
export type Focus =
  | { readonly kind: 'layer' }
  | { readonly kind: 'material' }
  | { readonly kind: 'tone' }
  /** A light group on the board. */
  | { readonly kind: 'light'; readonly lightId: string }
  | {
      readonly kind: 'mask';
      readonly maskId: string;
      /** The line that is open. */
      readonly termId: string | null;
      /** The line that is looked at alone. */
      readonly soloTermId: string | null;
    };
/** How the mask is shown on the picture. */
export type MaskDisplay = 'off' | 'hatch' | 'matte';

/** Tools of tools/registry.ts. */
export type ToolId = 'select' | 'brush' | 'pick' | 'curve' | 'lines' | 'shadow' | 'sampler' | 'stand' | 'hold' | 'course';

/** Edges that are drawn on the picture to find the camera. */
export type CameraLines = DrawnLines;

export interface Brush {
  readonly sizePx: number;
  readonly hardness: number;
  readonly opacity: number;
  readonly flow: number;
  /** Distance between dabs, as a share of the size. */
  readonly spacing: number;
  readonly erase: boolean;
}

/** A figure in the hand, and its picture if the document does not have it yet. */
export interface HeldFigure {
  readonly label: string;
  readonly figure: FigureInHand;
  readonly sources: readonly Source[];
  /** It begins a layer of its own. */
  readonly apart?: boolean;
}

/** How a click joins what is selected already. */
export type SelectMode = 'only' | 'add' | 'remove' | 'toggle';

export interface LookAt {
  readonly label: string;
  readonly document: TazzelDocument;
}

export interface Session {
  readonly history: History;
  readonly document: TazzelDocument;
  readonly selectedLayerId: string | null;
  /** A correction in the selected layer's chain. */
  readonly selectedCorrectionId: string | null;
  /** Groups whose layers are spread out in the build-up; all others are folded into one card. */
  readonly openGroupIds: ReadonlySet<string>;
  /** Rows of the material schedule, the last selected one last. */
  readonly selectedMaterialIds: readonly string[];
  readonly selectedSourceId: string | null;
  readonly hoveredMaterialId: string | null;
  /** Whether pointing names materials or objects. */
  readonly pointAt: MaterialKind;
  readonly tool: ToolId;
  /** Null while none are drawn. */
  readonly cameraLines: CameraLines | null;
  /** Null while none is drawn. */
  readonly shadow: ShadowLine | null;
  /** What a click stands up on the ground; null without anything in the hand. */
  readonly figureInHand: HeldFigure | null;
  /** Whether the next click of the tool for courses goes on with the last one. */
  readonly courseGoesOn: boolean;
  /** Which of the picks of the open correction a click is for. */
  readonly openPick: number;
  /** The curve that is drawn on the bench, by the name of its parameter. */
  readonly openCurve: string;
  readonly brush: Brush;
  /** An element that is looked at alone instead of the picture. */
  readonly viewedSourceId: string | null;
  /** How the element that is looked at is shown, when that is known. */
  readonly elementLook: (ElementLook & { readonly sourceId: string }) | null;
  /** Something else made of the document's elements that is looked at instead of the picture; gone with the next change. */
  readonly lookAt: LookAt | null;
  readonly focus: Focus;
  readonly compare: Compare;
  readonly compareWith: CompareWith;
  /** Stops by which a difference is lightened. */
  readonly differenceStops: number;
  /** A way of reading the picture, by its id; null shows it as it is. */
  readonly reading: string | null;
  /** How many times a loupe at the pointer enlarges; 0 is none. */
  readonly loupe: number;
  /** The whole picture as small as in a list. */
  readonly thumbnail: boolean;
  /** A picture layer or group that is looked at alone. */
  readonly soloLayerId: string | null;
  /** Light groups that are looked at without the others; empty shows all. */
  readonly soloLightIds: readonly string[];
  /** Where the wipe stands, 0…1 of the picture's width. */
  readonly wipeAt: number;
  readonly maskDisplay: MaskDisplay;
  /** The pictures of IDs are being read. */
  readonly readsSchedule: boolean;
  /** What a gesture that is under way will do when it ends: it is no state of the document yet, but it must not be lost. */
  readonly unfinished: Edit | null;
  /** The last refusal, for the interface to show; `at` tells equal ones apart. */
  readonly refusal: { readonly message: string; readonly at: number } | null;
}

export interface SessionActions {
  /** Applies an edit; a refusal is kept in `refusal` and nothing changes. Returns whether it was applied. */
  edit(change: Edit, gesture?: string): boolean;
  /** Says why something was not done, where refusals are said. */
  refuse(message: string): void;
  /** Adds sources, and with them the base layer if there is none. */
  addElements(sources: readonly Source[], facts?: SceneFacts): void;
  /** Rows that were read of pictures of IDs, for every state that has the pictures and no rows. No step of the history. */
  learnMaterials(materials: readonly Material[]): void;
  /** Files that were missing are back: the document is the same, but must be shown anew. */
  refreshSources(): void;
  undo(): void;
  redo(): void;
  selectLayer(layerId: string | null, correctionId?: string | null): void;
  /** Spreads a group's layers out, or folds them. */
  toggleGroup(groupId: string): void;
  /** Selects a row, and with it all of its surface. */
  selectMaterial(materialId: string | null, mode?: SelectMode): void;
  selectSource(sourceId: string | null): void;
  /** Then no layer is at hand. */
  selectToneLine(): void;
  selectLight(lightId: string): void;
  /** What was measured of light groups, for every state that has them. No step of the history. */
  learnLights(own: LightBoard['own']): void;
  /** Looks at light groups without the others, or at all again. */
  soloLights(lightIds: readonly string[]): void;
  /** Shows a mask of the shelf on the picture. */
  showMask(maskId: string): void;
  /** Opens a line of the shown mask, or closes all, and takes a tool for it. */
  openTerm(termId: string | null, tool?: ToolId): void;
  /** Looks at a line of the shown mask alone, or at the whole again. */
  soloTerm(termId: string | null): void;
  /** Keeps the selected materials as a mask of the shelf, or makes an empty one, and opens it. */
  newMask(name?: string): void;
  set(patch: Partial<Pick<Session, 'hoveredMaterialId' | 'viewedSourceId' | 'elementLook' | 'lookAt' | 'compare' | 'compareWith' | 'differenceStops' | 'reading' | 'loupe' | 'thumbnail' | 'soloLayerId' | 'wipeAt' | 'maskDisplay' | 'readsSchedule' | 'unfinished' | 'pointAt' | 'tool' | 'cameraLines' | 'shadow' | 'figureInHand' | 'courseGoesOn' | 'openCurve' | 'openPick' | 'brush'>>): void;
}

export type SessionStore = StoreApi<Session> & { readonly actions: SessionActions };

export function createSession(document: TazzelDocument): SessionStore {
  const store = createStore<Session>(() => ({
    history: startHistory(document),
    document,
    selectedLayerId: topLayerId(document),
    selectedCorrectionId: null,
    openGroupIds: new Set(),
    selectedMaterialIds: [],
    selectedSourceId: null,
    hoveredMaterialId: null,
    pointAt: document.materials.some(({ kind }) => kind === 'material') || document.materials.length === 0 ? 'material' : 'object',
    tool: 'select',
    cameraLines: null,
    shadow: null,
    figureInHand: null,
    courseGoesOn: false,
    openCurve: 'all',
    openPick: 0,
    brush: { sizePx: Math.max(8, Math.round(document.size.width / 16)), hardness: 0.5, opacity: 1, flow: 0.5, spacing: 0.08, erase: false },
    viewedSourceId: null,
    elementLook: null,
    lookAt: null,
    focus: { kind: 'layer' },
    readsSchedule: false,
    unfinished: null,
    compare: 'off',
    compareWith: { kind: 'base' },
    differenceStops: 2,
    reading: null,
    loupe: 0,
    thumbnail: false,
    soloLayerId: null,
    soloLightIds: [],
    wipeAt: 0.5,
    maskDisplay: 'off',
    refusal: null,
  }));
  let refusals = 0;

  const adopt = (history: History) => store.setState((state) => ({ history, document: history.document, refusal: null, lookAt: null, ...keptSelection(state, history.document) }));

  const actions: SessionActions = {
    edit: (change, gesture) => {
      const before = store.getState();
      try {
        adopt(edit(before.history, change, gesture ?? null));
      } catch (error) {
        store.setState({ refusal: { message: error instanceof Error ? error.message : String(error), at: ++refusals } });
        return false;
      }
      const added = addedLayer(before.document, store.getState().document);
      // On a surface its corrections are a column: none of them comes forward by being set.
      if (added && !['set-on-surface', 'copy-corrections', 'repaint-there-too'].includes(change.type)) actions.selectLayer(added);
      if (change.type === 'add-chain-correction') {
        const place = findLayer(store.getState().document, change.layerId);
        const chain = place ? chainOf(place.layer) : [];
        store.setState({ selectedLayerId: change.layerId, selectedCorrectionId: chain[chain.length - 1]?.id ?? null });
      }
      return true;
    },
    refuse: (message) => store.setState({ refusal: { message, at: ++refusals } }),
    addElements: (sources, facts) => {
      const { history } = store.getState();
      const next = addElements(history.document, sources, facts);
      const added = addedLayer(history.document, next);
      adopt(replaced(history, next, 'Add elements'));
      if (added) actions.selectLayer(added);
    },
    learnMaterials: (materials) => {
      if (materials.length === 0) return;
      const pictures = [...new Set(materials.map(({ sourceId }) => sourceId))];
      const learn = (document: TazzelDocument) => {
        const isMissing = document.materials.length === 0 && pictures.every((id) => document.sources.some((source) => source.id === id));
        return isMissing ? applyEdit(document, { type: 'set-materials', sourceId: pictures[0], materials }) : document;
      };
      store.setState(({ pointAt }) => ({ pointAt: materials.some(({ kind }) => kind === pointAt) ? pointAt : materials[0].kind }));
      adopt(everywhere(store.getState().history, learn));
    },
    refreshSources: () => {
      const { history } = store.getState();
      adopt({ ...history, document: { ...history.document } });
    },
    undo: () => adopt(undo(store.getState().history)),
    redo: () => adopt(redo(store.getState().history)),
    selectLayer: (selectedLayerId, correctionId = null) =>
      store.setState(({ document, openGroupIds }) => {
        const around = selectedLayerId ? (findLayer(document, selectedLayerId)?.groupIds ?? []) : [];
        const open = around.every((id) => openGroupIds.has(id)) ? openGroupIds : new Set([...openGroupIds, ...around]);
        return { selectedLayerId, selectedCorrectionId: correctionId, focus: { kind: 'layer' }, openGroupIds: open };
      }),
    toggleGroup: (groupId) =>
      store.setState(({ document, openGroupIds, selectedLayerId }) => {
        const next = new Set(openGroupIds);
        if (!next.delete(groupId)) return { openGroupIds: next.add(groupId) };
        // A selection inside goes to the card that stands for it.
        const hidden = selectedLayerId !== null && findLayer(document, selectedLayerId)?.groupIds.includes(groupId);
        return hidden ? { openGroupIds: next, selectedLayerId: groupId, selectedCorrectionId: null } : { openGroupIds: next };
      }),
    selectMaterial: (materialId, mode = 'only') =>
      store.setState(({ document, selectedMaterialIds }) => {
        const rows = materialId === null ? [] : surfaceOf(document, materialId);
        const others = selectedMaterialIds.filter((id) => !rows.includes(id));
        const isIn = rows.length > 0 && selectedMaterialIds.includes(rows[0]);
        const next = mode === 'only' ? rows : mode === 'remove' || (mode === 'toggle' && isIn) ? others : [...others, ...rows];
        return { selectedMaterialIds: next, focus: { kind: next.length === 0 ? 'layer' : 'material' }, tool: 'select' };
      }),
    // Whoever flips through elements goes on flipping.
    selectSource: (selectedSourceId) => store.setState(({ viewedSourceId }) => ({ selectedSourceId, viewedSourceId: viewedSourceId === null ? null : selectedSourceId })),
    showMask: (maskId) =>
      store.setState(({ maskDisplay, document }) => {
        const terms = findMask(document, maskId)?.terms ?? [];
        return { focus: { kind: 'mask', maskId, termId: terms.length === 1 ? terms[0].id : null, soloTermId: null }, maskDisplay: maskDisplay === 'off' ? 'hatch' : maskDisplay, tool: 'select' };
      }),
    openTerm: (termId, tool = 'select') => store.setState(({ focus }) => (focus.kind === 'mask' ? { focus: { ...focus, termId }, tool } : {})),
    soloTerm: (soloTermId) => store.setState(({ focus }) => (focus.kind === 'mask' ? { focus: { ...focus, soloTermId } } : {})),
    newMask: (name) => {
      const { document, selectedMaterialIds } = store.getState();
      const rows = selectedMaterialIds.flatMap((id) => document.materials.find((row) => row.id === id) ?? []);
      if (!actions.edit({ type: 'add-mask', name: freeName(name?.slice(0, 190) ?? maskNameOf(rows), (tried) => document.masks.some((mask) => mask.name === tried), ' '), terms: rows.length > 0 ? [materialTerm(rows.map(({ id }) => id))] : [] })) return;
      const made = store.getState().document.masks.at(-1);
      if (made) actions.showMask(made.id);
    },
    selectLight: (lightId) => store.setState({ focus: { kind: 'light', lightId }, tool: 'select' }),
    learnLights: (own) => {
      if (own.length > 0) adopt(everywhere(store.getState().history, (document) => applyEdit(document, { type: 'learn-lights', own })));
    },
    soloLights: (lightIds) => store.setState(({ soloLightIds }) => ({ soloLightIds: lightIds.every((id) => soloLightIds.includes(id)) ? [] : lightIds })),
    selectToneLine: () => store.setState({ focus: { kind: 'tone' }, selectedLayerId: null, selectedCorrectionId: null, tool: 'select' }),
    set: (patch) => store.setState(patch),
  };
  return Object.assign(store, { actions });
}

const topLayerId = ({ buildUp }: TazzelDocument) => (buildUp.picture[buildUp.picture.length - 1] ?? buildUp.scene[buildUp.scene.length - 1])?.id ?? null;

function addedLayer(before: TazzelDocument, after: TazzelDocument): string | null {
  const known = new Set(layersInOrder(before).map(({ layer }) => layer.id));
  return layersInOrder(after).find(({ layer }) => !known.has(layer.id))?.layer.id ?? null;
}

/** The layers that have a card: those of folded groups have none. */
export const shownLayers = ({ document, openGroupIds }: Pick<Session, 'document' | 'openGroupIds'>): LayerPlace[] =>
  layersInOrder(document).filter(({ groupIds }) => groupIds.every((id) => openGroupIds.has(id)));

/** What was selected and no longer exists is let go. */
function keptSelection(state: Session, document: TazzelDocument): Partial<Session> {
  const place = state.selectedLayerId ? findLayer(document, state.selectedLayerId) : null;
  const chain = place ? chainOf(place.layer) : [];
  return {
    selectedLayerId: place ? state.selectedLayerId : topLayerId(document),
    selectedCorrectionId: chain.some((correction) => correction.id === state.selectedCorrectionId) ? state.selectedCorrectionId : null,
    selectedMaterialIds: state.selectedMaterialIds.filter((id) => document.materials.some((material) => material.id === id)),
    selectedSourceId: document.sources.some((source) => source.id === state.selectedSourceId) ? state.selectedSourceId : null,
    viewedSourceId: document.sources.some((source) => source.id === state.viewedSourceId) ? state.viewedSourceId : null,
    soloLayerId: state.soloLayerId !== null && findLayer(document, state.soloLayerId) ? state.soloLayerId : null,
    soloLightIds: state.soloLightIds.filter((id) => document.sources.some((source) => source.id === id)),
    ...keptFocus(state, document),
  };
}

/** What the picture is compared with at the moment; without a selection, or where it is gone, it is the base. */
export function comparedWith({ document, compareWith, selectedLayerId, selectedMaterialIds }: Pick<Session, 'document' | 'compareWith' | 'selectedLayerId' | 'selectedMaterialIds'>): Against {
  if (compareWith.kind === 'layer') return selectedLayerId === null ? { kind: 'base' } : { kind: 'layer', layerId: selectedLayerId };
  if (compareWith.kind === 'surface') return selectedMaterialIds.length === 0 ? { kind: 'base' } : { kind: 'surface', materialIds: selectedMaterialIds };
  if (compareWith.kind === 'state') return document.states.some(({ id }) => id === compareWith.stateId) ? compareWith : { kind: 'base' };
  if (compareWith.kind === 'scenario') return document.light.scenarios.some(({ id }) => id === compareWith.scenarioId) ? compareWith : { kind: 'base' };
  if (compareWith.kind === 'scheme') return compareWith.schemeId === '' || document.schemes.list.some(({ id }) => id === compareWith.schemeId) ? compareWith : { kind: 'base' };
  if (compareWith.kind === 'source') return document.sources.some(({ id }) => id === compareWith.sourceId) ? compareWith : { kind: 'base' };
  return { kind: 'base' };
}

/** The line of the shown mask that is open. */
export function openTerm({ document, focus }: Pick<Session, 'document' | 'focus'>): { readonly maskId: string; readonly term: MaskTerm } | null {
  if (focus.kind !== 'mask' || focus.termId === null) return null;
  const term = findMask(document, focus.maskId)?.terms.find(({ id }) => id === focus.termId);
  return term ? { maskId: focus.maskId, term } : null;
}

/** The light group that is at hand. */
export const openLight = ({ document, focus }: Pick<Session, 'document' | 'focus'>): Source | null => (focus.kind === 'light' ? (groupsOf(document).find(({ id }) => id === focus.lightId) ?? null) : null);

/** The correction that is at hand: a layer, or a link of its chain. */
export function openCorrection({ document, selectedLayerId, selectedCorrectionId }: Pick<Session, 'document' | 'selectedLayerId' | 'selectedCorrectionId'>) {
  const place = selectedLayerId ? findLayer(document, selectedLayerId) : null;
  if (!place) return null;
  const { layer, zone } = place;
  const link = chainOf(layer).find(({ id }) => id === selectedCorrectionId);
  const use = link ?? (layer.kind === 'correction' ? layer.correction : null);
  return use && isCorrectionId(use.type) ? { address: { layerId: layer.id, ...(link ? { correctionId: link.id } : {}) }, use, zone } : null;
}

/** What is at hand, as far as it is still there; a brush without a line that takes strokes is put away. */
function keptFocus({ focus, tool, selectedLayerId, selectedCorrectionId }: Session, document: TazzelDocument): Pick<Session, 'focus' | 'tool'> {
  const mask = focus.kind === 'mask' ? findMask(document, focus.maskId) : null;
  const find = (wanted: string | null) => mask?.terms.find(({ id }) => id === wanted);
  const kept: Focus = focus.kind === 'light' && !openLight({ document, focus }) ? { kind: 'layer' } : focus.kind !== 'mask' ? focus : mask ? { ...focus, termId: find(focus.termId)?.id ?? null, soloTermId: find(focus.soloTermId)?.id ?? null } : { kind: 'layer' };
  const open = openTerm({ document, focus: kept });
  return { focus: kept, tool: (tool === 'pick' && !open && !openLight({ document, focus: kept }) && !openCorrection({ document, selectedLayerId, selectedCorrectionId })) || (tool === 'brush' && (!open || strokesOf(open.term) === null)) ? 'select' : tool };
}
