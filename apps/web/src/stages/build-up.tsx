import { layerHandles } from '@tazzel/editor';
import { LayerHere } from '../bench/layer-here.tsx';
import { layerKind } from '../layers/registry.ts';
import { ElementSchedule } from '../schedules/element-schedule.tsx';
import { LookSchedule } from '../schedules/look-schedule.tsx';
import { MaskSchedule } from '../schedules/mask-schedule.tsx';
import { StateSchedule } from '../schedules/state-schedule.tsx';
import type { Stage } from './stage.ts';

const Schedules = () => (
  <>
    <ElementSchedule />
    <MaskSchedule />
    <StateSchedule />
    <LookSchedule />
  </>
);

export const buildUpStage: Stage = {
  Schedules,
  Bench: LayerHere,
  pointsAtMaterials: false,
  handles: (session) => layerHandles(session, (layer) => layerKind(layer.type).handles?.(layer, session) ?? null),
};
