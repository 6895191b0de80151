import { airKind } from './air.tsx';
import { elementKind } from './element.tsx';
import { figuresKind } from './figures.tsx';
import { fillKind } from './fill.tsx';
import type { LayerKind } from './kind.ts';
import { mirroredSkyKind } from './mirrored-sky.tsx';
import { retouchKind } from './retouch.tsx';
import { skyKind } from './sky.tsx';
import { trailsKind } from './trails.tsx';

/** What kinds of layers add to the bench and the picture, by their id; those that are not here have only what follows from their declaration. */
const kinds: Readonly<Record<string, LayerKind>> = {
  air: airKind,
  element: elementKind,
  figures: figuresKind,
  fill: fillKind,
  light: { hatch: 'hatch-light' },
  'mirrored-sky': mirroredSkyKind,
  retouch: retouchKind,
  sky: skyKind,
  trails: trailsKind,
  snapshot: { hatch: 'hatch-snapshot' },
};

export const layerKind = (type: string): LayerKind => (Object.hasOwn(kinds, type) ? kinds[type] : { hatch: 'hatch-element' });
