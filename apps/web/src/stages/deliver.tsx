import { CutFrame } from '../deliver/cut-frame.tsx';
import { DeliverBench } from '../deliver/deliver-bench.tsx';
import { ReviewPins } from '../review/review-pins.tsx';
import { StateSchedule } from '../schedules/state-schedule.tsx';
import { SchemeSection } from '../schemes/scheme-section.tsx';
import { SchemeSchedule } from '../schemes/scheme-schedule.tsx';
import type { Stage } from './stage.ts';

const Schedules = () => (
  <>
    <SchemeSchedule />
    <div className="min-h-0 overflow-auto">
      <SchemeSection />
    </div>
    <StateSchedule />
  </>
);

const Overlay = () => (
  <>
    <CutFrame />
    <ReviewPins />
  </>
);

export const deliverStage: Stage = { Schedules, Bench: DeliverBench, pointsAtMaterials: false, handles: () => null, Overlay };
