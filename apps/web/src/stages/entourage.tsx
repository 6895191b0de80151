import { findLayer } from '@tazzel/core';
import { layerHandles } from '@tazzel/editor';
import { LayerHere } from '../bench/layer-here.tsx';
import { usePaintedWays, WaysSection } from '../bench/ways-section.tsx';
import { layerKind } from '../layers/registry.ts';
import { FigureShelf } from '../schedules/figure-shelf.tsx';
import { MaskSchedule } from '../schedules/mask-schedule.tsx';
import { Horizon } from '../picture/horizon.tsx';
import { useDocument, useSession } from '../workspace/context.ts';
import type { Stage } from './stage.ts';

const Schedules = () => (
  <>
    <FigureShelf />
    <MaskSchedule />
  </>
);

const SHOWN: ReadonlySet<string> = new Set(['figures', 'retouch']);

function Bench() {
  const document = useDocument();
  const layerId = useSession((state) => state.selectedLayerId);
  const mends = usePaintedWays('retouch');
  const layer = layerId ? findLayer(document, layerId)?.layer : null;
  if (layer?.kind === 'picture' && SHOWN.has(layer.type)) return <LayerHere />;
  return (
    <>
    <div className="p-3 text-faint">
      {document.camera ? (
        <p>Click a figure of the shelf, then the ground where it is to stand; or drag it there. It is as tall as it would be at that place, hidden by what stands before it, in the light of the place, with its shadow. Eyes of standing adults lie on the horizon when the camera is at eye level.</p>
      ) : (
        <p>The camera is not known, and with it how tall figures are where they stand. Set it under Elements, Camera and sun: two pairs of lines, or the horizon.</p>
      )}
      <p className="mt-2">A card of figures, when it is selected, has its parameters here.</p>
    </div>
    <WaysSection title="Retouching" ways={mends} />
    </>
  );
}

export const entourageStage: Stage = {
  Schedules,
  Bench,
  pointsAtMaterials: false,
  Overlay: Horizon,
  handles: (session) => layerHandles(session, (layer) => layerKind(layer.type).handles?.(layer, session) ?? null),
};
