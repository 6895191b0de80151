import { layersInOrder, type TazzelDocument } from '@tazzel/core';
import { UsageError } from './command.ts';

/** The id of a layer by its name or id. @throws UsageError naming those that there are */
export function layerNamed(document: TazzelDocument, name: string): string {
  const layers = layersInOrder(document).map(({ layer }) => layer);
  const found = layers.find((layer) => layer.id === name) ?? layers.find((layer) => layer.name === name);
  if (!found) throw new UsageError(`There is no layer “${name}”. Layers: ${layers.map((layer) => layer.name).join(', ')}.`);
  return found.id;
}
