/** Where what stands in the picture goes in the build-up: sky, figures, trails. */
import { correctionById, isCorrectionId } from '../corrections/registry.ts';
import type { Layer, TazzelDocument } from '../model/model.ts';

/** Air before it, or a lens that all of it is seen through. */
const liesBefore = (layer: Layer): boolean => (layer.kind === 'group' ? layer.layers.some(liesBefore) : layer.kind === 'picture' ? layer.type === 'air' : isCorrectionId(layer.correction.type) && correctionById(layer.correction.type).group === 'Lens');

/** Over the light that there is, under the air and the lens. */
export function sceneryPlace({ buildUp: { scene } }: TazzelDocument): { readonly zone: 'scene'; readonly index: number } {
  const before = scene.findIndex(liesBefore);
  return { zone: 'scene', index: before < 0 ? scene.length : before };
}
