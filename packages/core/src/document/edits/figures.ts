/** Figures that are stood into the picture. */
import type { Source } from '../../model/model.ts';
import type { PlacedFigure } from '../../params/placed-figures.ts';
import { FIGURES, figuresParams, figuresValues } from '../../layers/figures-values.ts';
import { findSource } from '../../model/query.ts';
import { valueRead } from '../../params/table.ts';
import { figuresLayerOf } from '../figures.ts';
import { sceneryPlace } from '../scenery-place.ts';
import { type Handlers, refuse } from './define.ts';
import { patchLayer } from './in-layers.ts';
import { layerEdits } from './layers.ts';
import { sourceEdits } from './sources.ts';

/** `layerId` names the layer that they join; without it they join the last one with figures, or begin one. */
export type FigureEdit = { type: 'add-figures'; figures: readonly PlacedFigure[]; layerId?: string; /** They begin a layer, unless the one that they would join has the same picture already: what is photographed has a shadow and a light of its own. */ apart?: boolean; /** Their pictures, as far as the document does not have them. */ sources?: readonly Source[] };

export const figureEdits: Handlers<FigureEdit> = {
  'add-figures': {
    label: 'Add figure',
    apply: (before, { figures, layerId, apart = false, sources = [] }) => {
      const document = sources.length === 0 ? before : sourceEdits['add-sources'].apply(before, { type: 'add-sources', sources });
      const lost = figures.find(({ sourceId }) => !document.sources.some(({ id }) => id === sourceId));
      if (lost || figures.length === 0) refuse('A figure is a picture of the document. Add its file first.');
      const joined = figuresLayerOf(document, layerId ?? null);
      const known = joined && apart && !figuresValues(joined).figures.some(({ sourceId }) => sourceId === figures[0].sourceId) ? null : joined;
      // A photograph has its sun and shade in it.
      if (!known) return layerEdits['add-layer'].apply(document, { type: 'add-layer', layer: FIGURES, params: { figures, ...(apart ? { modellingPercent: 0 } : {}) }, ...sceneryPlace(document) });
      if (known.locked) refuse(`“${known.name}” is locked. Unlock it first.`);
      const there = figuresValues(known).figures;
      const all = valueRead(figuresParams, 'figures', [...there, ...figures]);
      // One is called as it is; several are figures, unless somebody said otherwise.
      const isNamedAsOne = there.length === 1 && known.name === findSource(document, there[0].sourceId)?.name;
      return patchLayer(document, known.id, (layer) => ({ ...layer, ...(isNamedAsOne ? { name: figuresParams.label } : {}), params: { ...known.params, figures: all } }));
    },
  },
};
