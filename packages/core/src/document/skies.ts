/** The sky of a document, and small documents of the skies of the shelf. */
import { type SkyValues, shelfParams, skyMatch } from '../layers/sky-values.ts';
import { layerSpec } from '../layers/registry.ts';
import { emptyDocument, type Layer, type PictureLayer, type TazzelDocument } from '../model/model.ts';
import { layersInOrder } from '../model/query.ts';
import { completeParams, type KeptValues } from '../params/table.ts';
import { remembered } from '../remembered.ts';
import type { ShelfSky } from '../sky/shelf.ts';
import { applyEdit } from './edits.ts';

const isOf = (type: string) => (layer: Layer): layer is PictureLayer => layer.kind === 'picture' && layer.type === type;

/** The sky of a document: the last of its layers of that kind; null if there is none. */
export const skyOfDocument = (document: TazzelDocument): PictureLayer | null => layersInOrder(document).map(({ layer }) => layer).filter(isOf('sky')).at(-1) ?? null;

/** Where a new sky goes: over the light that there is, and under the air. */
export function skyPlace({ buildUp: { scene } }: TazzelDocument): { readonly zone: 'scene'; readonly index: number } {
  const air = scene.findIndex(isOf('air'));
  return { zone: 'scene', index: air < 0 ? scene.length : air };
}

/** A sky of the shelf for a document: as bright as a light that was measured of the old one, or as a picture of it would be. */
export function shelfSky(sky: ShelfSky, document: TazzelDocument, light: readonly [number, number, number] | null): KeptValues {
  const params = shelfParams(sky, document);
  const values = completeParams(layerSpec('sky'), params) as unknown as SkyValues;
  return { ...params, exposureStops: 0, ...skyMatch(values, document, light ?? [sky.brightness, sky.brightness, sky.brightness], 'brightness') };
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
