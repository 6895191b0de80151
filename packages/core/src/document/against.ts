/** What a picture is compared with: documents that differ from it in what one wants to judge. */
import type { Layer, MaskUse, NamedState, TazzelDocument } from '../model/model.ts';
import { beforeDocument, chainOf, elementDocument, findLayer, findSource } from '../model/query.ts';
import { findScenario, withMix } from '../light/board.ts';
import { schemeOf, underScheme } from './schemes.ts';
import { masksOnlyOf } from './uses.ts';

/** The base as rendered; the picture without a layer; without the corrections of some materials; a state that was kept; an element as it is; another lighting; another scheme. */
export type Against = { readonly kind: 'base' } | { readonly kind: 'layer'; readonly layerId: string } | { readonly kind: 'surface'; readonly materialIds: readonly string[] } | { readonly kind: 'state'; readonly stateId: string } | { readonly kind: 'source'; readonly sourceId: string } | { readonly kind: 'scenario'; readonly scenarioId: string } | { readonly kind: 'scheme'; /** Empty is without any. */ readonly schemeId: string };

/** The document as it was in a state. */
export const documentIn = (document: TazzelDocument, { buildUp, masks, tone, mix }: NamedState): TazzelDocument => ({ ...withMix(document, mix), buildUp, masks, tone });

/** Null if there is no such layer or state any more. */
export function documentAgainst(document: TazzelDocument, against: Against): TazzelDocument | null {
  switch (against.kind) {
    case 'base':
      return beforeDocument(document);
    case 'layer':
      return findLayer(document, against.layerId) ? mapped(document, (layer) => (layer.id === against.layerId ? { ...layer, visible: false } : layer)) : null;
    case 'surface':
      return withoutCorrectionsOf(document, against.materialIds);
    case 'source': {
      const source = findSource(document, against.sourceId);
      return source && elementDocument(document, source);
    }
    case 'scenario': {
      const scenario = findScenario(document, against.scenarioId);
      return scenario && withMix(document, scenario.mix);
    }
    case 'scheme':
      return against.schemeId === '' || schemeOf(document, against.schemeId) ? underScheme(document, against.schemeId || null) : null;
    case 'state': {
      const state = document.states.find(({ id }) => id === against.stateId);
      return state ? documentIn(document, state) : null;
    }
  }
}

/** Every correction that works on nothing but these materials switched off. */
function withoutCorrectionsOf(document: TazzelDocument, materialIds: readonly string[]): TazzelDocument {
  const masks = masksOnlyOf(document, materialIds);
  const isTheirs = (mask: MaskUse | null) => mask !== null && masks.has(mask.maskId) && !mask.inverted;
  return mapped(document, (layer) => {
    if (layer.kind !== 'picture') return isTheirs(layer.mask) ? { ...layer, visible: false } : layer;
    return chainOf(layer).some(({ mask }) => isTheirs(mask)) ? { ...layer, chain: layer.chain.map((link) => (isTheirs(link.mask) ? { ...link, visible: false } : link)) } : layer;
  });
}

/** Every layer changed, wherever it lies. */
function mapped(document: TazzelDocument, change: (layer: Layer) => Layer): TazzelDocument {
  const walk = (layers: readonly Layer[]): Layer[] => layers.map((layer) => change(layer.kind === 'group' ? { ...layer, layers: walk(layer.layers) } : layer));
  return { ...document, buildUp: { scene: walk(document.buildUp.scene), picture: walk(document.buildUp.picture) } };
}
