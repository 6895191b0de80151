/** A document as pictures that stand beside one another: what is finished, its light, and each layer that means something by itself. */
import type { Zone } from '../color/zones.ts';
import type { Layer, TazzelDocument } from '../model/model.ts';
import { freeName } from './deliveries.ts';
import { isAlone } from './layer-stack.ts';

export interface PicturePart {
  /** Each has its own. */
  readonly name: string;
  readonly document: TazzelDocument;
  readonly upto: string | null;
  readonly holds: 'light' | 'picture';
}

/** @param upto the last layer that counts; null is the whole picture */
export function pictureParts(document: TazzelDocument, upto: string | null = null): { readonly parts: readonly PicturePart[]; readonly notes: readonly string[] } {
  const parts: PicturePart[] = [
    { name: 'picture', document, upto, holds: 'picture' },
    { name: 'light', document, upto, holds: 'light' },
  ];
  const names = new Set(parts.map(({ name }) => name));
  const left: string[] = [];
  const walk = (layers: readonly Layer[], zone: Zone) => {
    for (const layer of layers) {
      if (layer.kind === 'correction' || !layer.visible) continue;
      if (isAlone(document, layer)) {
        const name = freeName(layer.name.replaceAll('.', ' '), (tried) => names.has(tried), ' ');
        names.add(name);
        const only: Layer[] = [{ ...layer, opacity: 1, blend: 'normal' }];
        parts.push({ name, document: { ...document, buildUp: { scene: [], picture: [], [zone]: only } }, upto: null, holds: zone === 'scene' ? 'light' : 'picture' });
      } else if (layer.kind === 'group') walk(layer.layers, zone);
      else left.push(`“${layer.name}”`);
    }
  };
  for (const zone of ['scene', 'picture'] as const) walk(document.buildUp[zone], zone);
  const notes = left.length === 0 ? [] : [`${left.join(', ')} ${left.length === 1 ? 'has' : 'have'} no part of ${left.length === 1 ? 'its' : 'their'} own: what reads the picture below means nothing by itself.`];
  return { parts, notes };
}
