/**
 * An open document with everything around it that is not saved in it: selection, view, comparison. A plain store; the
 * interface subscribes to it, pixels never enter it.
 */
import { addElements, applyEdit, type Edit, findLayer, layersInOrder, type LayerPlace, type Material, type Source, type TazzelDocument } from '@tazzel/core';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { edit, type History, redo, replaced, startHistory, undo } from './history.ts';

export const STAGES = ['elements', 'build-up', 'surfaces', 'deliver'] as const;
export type StageId = (typeof STAGES)[number];
export const isStage = (value: string | undefined): value is StageId => STAGES.includes(value as StageId);

/** How the picture is compared with its base. */
export type Compare = 'off' | 'before' | 'wipe';
/** Whose mask is shown: the selected layer's or correction's, the selected material, or one of the shelf. */
export type MaskSubject = { readonly kind: 'layer' } | { readonly kind: 'material' } | { readonly kind: 'mask'; readonly maskId: string };
/** How the mask is shown on the picture. */
export type MaskDisplay = 'off' | 'hatch' | 'matte';

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
  readonly selectedMaterialId: string | null;
  readonly selectedSourceId: string | null;
  readonly hoveredMaterialId: string | null;
  /** An element that is looked at alone instead of the picture. */
  readonly viewedSourceId: string | null;
  /** Something else made of the document's elements that is looked at instead of the picture; gone with the next change. */
  readonly lookAt: LookAt | null;
  readonly maskSubject: MaskSubject;
  readonly compare: Compare;
  /** Where the wipe stands, 0…1 of the picture's width. */
  readonly wipeAt: number;
  readonly maskDisplay: MaskDisplay;
  /** The last refusal, for the interface to show; `at` tells equal ones apart. */
  readonly refusal: { readonly message: string; readonly at: number } | null;
}

export interface SessionActions {
  /** Applies an edit; a refusal is kept in `refusal` and nothing changes. Returns whether it was applied. */
  edit(change: Edit, gesture?: string): boolean;
  /** Adds sources, and with them the base layer if there is none. */
  addElements(sources: readonly Source[], materials: readonly Material[]): void;
  /** Files that were missing are back: the document is the same, but must be shown anew. */
  refreshSources(): void;
  undo(): void;
  redo(): void;
  selectLayer(layerId: string | null, correctionId?: string | null): void;
  /** Spreads a group's layers out, or folds them. */
  toggleGroup(groupId: string): void;
  selectMaterial(materialId: string | null): void;
  selectSource(sourceId: string | null): void;
  /** Shows a mask of the shelf on the picture. */
  showMask(maskId: string): void;
  set(patch: Partial<Pick<Session, 'hoveredMaterialId' | 'viewedSourceId' | 'lookAt' | 'compare' | 'wipeAt' | 'maskDisplay'>>): void;
}

export type SessionStore = StoreApi<Session> & { readonly actions: SessionActions };

export function createSession(document: TazzelDocument): SessionStore {
  const store = createStore<Session>(() => ({
    history: startHistory(document),
    document,
    selectedLayerId: topLayerId(document),
    selectedCorrectionId: null,
    openGroupIds: new Set(),
    selectedMaterialId: null,
    selectedSourceId: null,
    hoveredMaterialId: null,
    viewedSourceId: null,
    lookAt: null,
    maskSubject: { kind: 'layer' },
    compare: 'off',
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
      if (added) actions.selectLayer(added);
      if (change.type === 'add-chain-correction') {
        const place = findLayer(store.getState().document, change.layerId);
        const chain = place?.layer.kind === 'element' ? place.layer.chain : [];
        store.setState({ selectedLayerId: change.layerId, selectedCorrectionId: chain[chain.length - 1]?.id ?? null });
      }
      return true;
    },
    addElements: (sources, materials) => {
      const { history } = store.getState();
      let next = addElements(history.document, sources);
      if (materials.length > 0) next = applyEdit(next, { type: 'set-materials', sourceId: materials[0].sourceId, materials });
      const added = addedLayer(history.document, next);
      adopt(replaced(history, next, 'Add elements'));
      if (added) actions.selectLayer(added);
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
        return { selectedLayerId, selectedCorrectionId: correctionId, maskSubject: { kind: 'layer' }, openGroupIds: open };
      }),
    toggleGroup: (groupId) =>
      store.setState(({ document, openGroupIds, selectedLayerId }) => {
        const next = new Set(openGroupIds);
        if (!next.delete(groupId)) return { openGroupIds: next.add(groupId) };
        // A selection inside goes to the card that stands for it.
        const hidden = selectedLayerId !== null && findLayer(document, selectedLayerId)?.groupIds.includes(groupId);
        return hidden ? { openGroupIds: next, selectedLayerId: groupId, selectedCorrectionId: null } : { openGroupIds: next };
      }),
    selectMaterial: (selectedMaterialId) => store.setState({ selectedMaterialId, maskSubject: { kind: selectedMaterialId === null ? 'layer' : 'material' } }),
    // Whoever flips through elements goes on flipping.
    selectSource: (selectedSourceId) => store.setState(({ viewedSourceId }) => ({ selectedSourceId, viewedSourceId: viewedSourceId === null ? null : selectedSourceId })),
    showMask: (maskId) => store.setState(({ maskDisplay }) => ({ maskSubject: { kind: 'mask', maskId }, maskDisplay: maskDisplay === 'off' ? 'hatch' : maskDisplay })),
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
  const chain = place?.layer.kind === 'element' ? place.layer.chain : [];
  return {
    selectedLayerId: place ? state.selectedLayerId : topLayerId(document),
    selectedCorrectionId: chain.some((correction) => correction.id === state.selectedCorrectionId) ? state.selectedCorrectionId : null,
    selectedMaterialId: document.materials.some((material) => material.id === state.selectedMaterialId) ? state.selectedMaterialId : null,
    selectedSourceId: document.sources.some((source) => source.id === state.selectedSourceId) ? state.selectedSourceId : null,
    viewedSourceId: document.sources.some((source) => source.id === state.viewedSourceId) ? state.viewedSourceId : null,
    maskSubject: state.maskSubject.kind === 'mask' && !document.masks.some((mask) => mask.id === (state.maskSubject as { maskId: string }).maskId) ? { kind: 'layer' } : state.maskSubject,
  };
}
