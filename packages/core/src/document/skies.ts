/** Skies of the shelf in a document, and as small documents of their own. */
import { shelfParams, skyMatch, skyValuesOf } from '../layers/sky-values.ts';
import { emptyDocument, type TazzelDocument } from '../model/model.ts';
import type { KeptValues } from '../params/table.ts';
import { remembered } from '../remembered.ts';
import type { ShelfSky } from '../sky/shelf.ts';
import { applyEdit } from './edits.ts';

/** A sky of the shelf for a document: as bright as a light that was measured of the old one, or as a picture of it would be. */
export function shelfSky(sky: ShelfSky, document: TazzelDocument, light: readonly [number, number, number] | null): KeptValues {
  const params = shelfParams(sky, document);
  return { ...params, exposureStops: 0, ...skyMatch(skyValuesOf(params), document, light ?? [sky.brightness, sky.brightness, sky.brightness], 'brightness') };
}

const SHELF_SIZE = { width: 192, height: 128 };
/** Looks up a little; the sun stands at the side. */
const SHELF_CAMERA: KeptValues = { tiltDegrees: 16, focalMillimetres: 20 };
const SHELF_SUN: KeptValues = { azimuthDegrees: 25 };

/** A sky of the shelf as a document of its own, for a small picture. */
export const shelfDocument = remembered((sky: ShelfSky): TazzelDocument => {
  const empty = applyEdit(emptyDocument('sky-shelf', sky.label, SHELF_SIZE), { type: 'set-camera', from: 'hand', params: SHELF_CAMERA });
  return applyEdit(empty, { type: 'add-layer', layer: 'sky', params: { ...shelfSky(sky, empty, null), ...SHELF_SUN }, zone: 'scene' });
});
