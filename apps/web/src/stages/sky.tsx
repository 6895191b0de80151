import { findLayer, readyGroups } from '@tazzel/core';
import { layerHandles } from '@tazzel/editor';
import { LayerHere } from '../bench/layer-here.tsx';
import { layerKind } from '../layers/registry.ts';
import { MaskSchedule } from '../schedules/mask-schedule.tsx';
import { SkyShelf } from '../schedules/sky-shelf.tsx';
import { usePaintedWays, type Way, WaysSection } from '../bench/ways-section.tsx';
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
  return (
    <>
      <p className="border-b p-3 text-faint">Click a sky of the shelf, or drag it onto the picture: it goes behind the building, as bright as the sky that was rendered. A card of sky or air, when it is selected, has its parameters here.</p>
      <AddAir />
    </>
  );
}

/** All ways to put air before the picture, the simplest one last. */
function AddAir() {
  const painted = usePaintedWays('air');
  const ready = (id: string) => readyGroups.find((group) => group.id === id);
  const ways: readonly Way[] = [
    { label: 'Air', help: 'Haze, mist or fog by its visibility in metres; glow and shafts of light from the sun.', edit: { type: 'add-layer', layer: 'air', zone: 'scene' } },
    ...painted,
    ...['more-atmosphere', 'depth-fade'].flatMap((id) => ready(id) ?? []).map(({ id, label, summary }) => ({ label, help: summary, edit: { type: 'add-ready-group', group: id } as const })),
  ];
  return <WaysSection title="Air" ways={ways} />;
}

export const skyStage: Stage = {
  Schedules,
  Bench,
  pointsAtMaterials: false,
  handles: (session) => layerHandles(session, (layer) => layerKind(layer.type).handles?.(layer, session) ?? null),
};
