/** Courses of light trails, drawn on the picture place by place. */
import { isTrails, TRAILS, trailsParams, trailsValues } from '../../layers/trails-values.ts';
import type { PictureLayer, TazzelDocument } from '../../model/model.ts';
import { meantLayer } from '../../model/query.ts';
import type { Place } from '../../params/places.ts';
import { valueRead } from '../../params/table.ts';
import { sceneryPlace } from '../scenery-place.ts';
import { type Handlers, refuse } from './define.ts';
import { patchLayer } from './in-layers.ts';
import { layerEdits } from './layers.ts';

/** `goesOn` lengthens the last course, otherwise a new one begins. `layerId` names the layer with courses; without it, it is the last one with some, or a new one on ground so high. */
export type TrailEdit = { type: 'draw-course'; at: Place; goesOn: boolean; layerId?: string; groundMetres?: number };

/** The layer that courses are added to: the one that is meant, or the last there is; null if there is none. */
export const trailsLayerOf = (document: TazzelDocument, layerId: string | null): PictureLayer | null => meantLayer(document, layerId, isTrails);

export const trailEdits: Handlers<TrailEdit> = {
  'draw-course': {
    label: 'Draw course',
    apply: (document, { at, goesOn, layerId, groundMetres = 0 }) => {
      const known = trailsLayerOf(document, layerId ?? null);
      if (!known) return layerEdits['add-layer'].apply(document, { type: 'add-layer', layer: TRAILS, params: { courses: [[at]], groundMetres }, blend: 'add', ...sceneryPlace(document) });
      if (known.locked) refuse(`“${known.name}” is locked. Unlock it first.`);
      const { courses } = trailsValues(known);
      const next = goesOn && courses.length > 0 ? courses.with(-1, [...courses[courses.length - 1], at]) : [...courses, [at]];
      return patchLayer(document, known.id, (layer) => ({ ...layer, params: { ...known.params, courses: valueRead(trailsParams, 'courses', next) } }));
    },
  },
};
