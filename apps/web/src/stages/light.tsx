import { LightBench } from '../light/light-bench.tsx';
import { LightSchedule } from '../schedules/light-schedule.tsx';
import { ScenarioSchedule } from '../schedules/scenario-schedule.tsx';
import type { Stage } from './stage.ts';

const Schedules = () => (
  <>
    <LightSchedule />
    <ScenarioSchedule />
  </>
);

export const lightStage: Stage = { Schedules, Bench: LightBench, pointsAtMaterials: false, handles: () => null };
