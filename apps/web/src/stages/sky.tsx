import { findLayer } from '@tazzel/core';
import { layerHandles } from '@tazzel/editor';
import { LayerHere } from '../bench/layer-here.tsx';
import { layerKind } from '../layers/registry.ts';
import { MaskSchedule } from '../schedules/mask-schedule.tsx';
import { SkyShelf } from '../schedules/sky-shelf.tsx';
import { useDocument, useSession } from '../workspace/context.ts';
import type { Stage } from './stage.ts';

const Schedules = () => (
  <>
    <SkyShelf />
    <MaskSchedule />
  </>
);

const SHOWN: ReadonlySet<string> = new Set(['sky', 'mirrored-sky', 'air']);

function Bench() {
  const document = useDocument();
  const layerId = useSession((state) => state.selectedLayerId);
  const layer = layerId ? findLayer(document, layerId)?.layer : null;
  if (layer?.kind === 'picture' && SHOWN.has(layer.type)) return <LayerHere />;
  return <p className="p-3 text-faint">Click a sky of the shelf, or drag it onto the picture: it goes behind the building, as bright as the sky that was rendered. Air is added from the menu of layers or the finder. A card of sky or air, when it is selected, has its parameters here.</p>;
}

export const skyStage: Stage = {
  Schedules,
  Bench,
  pointsAtMaterials: false,
  handles: (session) => layerHandles(session, (layer) => layerKind(layer.type).handles?.(layer, session) ?? null),
};
