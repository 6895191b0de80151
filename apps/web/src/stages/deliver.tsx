import { DeliverBench } from '../deliver/deliver-bench.tsx';
import { ElementSchedule } from '../schedules/element-schedule.tsx';
import type { Stage } from './stage.ts';

export const deliverStage: Stage = { Schedules: ElementSchedule, Bench: DeliverBench, pointsAtMaterials: false, handles: () => null };
