import type { StageId } from '@tazzel/editor';
import { ElementSchedule } from './element-schedule.tsx';
import { MaskSchedule } from './mask-schedule.tsx';
import { MaterialSchedule } from './material-schedule.tsx';

/** The tables of what the document holds; the stage chooses. */
export const Schedules = ({ stage }: { stage: StageId }) => (
  <aside aria-label="Schedules" className="flex min-h-0 flex-1 flex-col">
    {stage === 'surfaces' ? (
      <>
        <MaterialSchedule />
        <MaskSchedule />
      </>
    ) : (
      <>
        <ElementSchedule />
        {stage === 'build-up' && <MaskSchedule />}
      </>
    )}
  </aside>
);
