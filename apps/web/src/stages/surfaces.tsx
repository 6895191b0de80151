import { findLayer, findMask, findMaterial, layersOn } from '@tazzel/core';
import { shapeHandles } from '@tazzel/editor';
import { LayerHere } from '../bench/layer-here.tsx';
import { MaskBench } from '../bench/mask-bench.tsx';
import { MaterialBench } from '../bench/material-bench.tsx';
import { MaskSchedule } from '../schedules/mask-schedule.tsx';
import { MaterialSchedule } from '../schedules/material-schedule.tsx';
import { useDocument, useSession } from '../workspace/context.ts';
import type { Stage } from './stage.ts';

const POINT = 'Point into the picture: the material under the pointer is outlined and named. A click selects it, Shift adds, Alt takes away; then it can be corrected here or kept as a mask.';
const READING = 'The pictures of IDs are being read. Soon the material under the pointer is outlined and named here.';
const NO_IDS = 'Without a material ID picture there are no materials to point at.';

const Schedules = () => (
  <>
    <MaterialSchedule />
    <MaskSchedule />
  </>
);

function Bench() {
  const document = useDocument();
  const layerId = useSession((state) => state.selectedLayerId);
  const materialIds = useSession((state) => state.selectedMaterialIds);
  const focus = useSession((state) => state.focus);
  const isReading = useSession((state) => state.readsSchedule);
  const mask = focus.kind === 'mask' ? findMask(document, focus.maskId) : null;
  if (mask) return <MaskBench key={mask.id} mask={mask} />;
  const materials = materialIds.flatMap((id) => findMaterial(document, id) ?? []);
  if (materials.length === 0) return <p className="p-3 text-faint">{document.materials.length > 0 ? POINT : isReading ? READING : NO_IDS}</p>;
  const layer = layerId ? findLayer(document, layerId)?.layer : null;
  const worksHere = layer && materials.some(({ id }) => layersOn(document, id).includes(layer));
  return <MaterialBench materials={materials}>{worksHere && <LayerHere />}</MaterialBench>;
}

export const surfacesStage: Stage = { Schedules, Bench, pointsAtMaterials: true, handles: shapeHandles };
