import { CoreError } from '../errors.ts';
import type { LayerSpec } from './define.ts';
import { air } from './air.ts';
import { elementLayer } from './element.ts';
import { figuresLayer } from './figures.ts';
import { fill } from './fill.ts';
import { light } from './light.ts';
import { mirroredSky } from './mirrored-sky.ts';
import { retouch } from './retouch.ts';
import { sky } from './sky.ts';
import { snapshot } from './snapshot.ts';
import { trailsLayer } from './trails.ts';

/** Every kind of layer that holds a picture, in the order in which it is offered. A new one is a file, its bench, its test and a line here. */
export const layerSpecs: readonly LayerSpec[] = [elementLayer, light, sky, mirroredSky, air, figuresLayer, trailsLayer, retouch, fill, snapshot];

const byId = new Map<string, LayerSpec>();
for (const spec of layerSpecs) {
  if (byId.has(spec.id)) throw new CoreError('unknown-operation', `Two kinds of layers share the id “${spec.id}”.`);
  byId.set(spec.id, spec);
}

/** @throws CoreError `unknown-operation` */
export function layerSpec(id: string): LayerSpec {
  const spec = byId.get(id);
  if (!spec) throw new CoreError('unknown-operation', `There is no kind of layer “${id}”. There are: ${[...byId.keys()].join(', ')}.`);
  return spec;
}

export const isLayerType = (id: string): boolean => byId.has(id);

/** What a kind of layer is called; one of a later version by its id. */
export const layerLabel = (id: string): string => byId.get(id)?.label ?? `“${id}”, not known here`;
