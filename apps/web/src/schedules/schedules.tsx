import type { StageId } from '@tazzel/editor';
import { stageById } from '../stages/registry.ts';

/** The tables of what the document holds; the stage chooses. */
export function Schedules({ stage }: { stage: StageId }) {
  const Own = stageById[stage].Schedules;
  return (
    <aside aria-label="Schedules" className="flex min-h-0 flex-1 flex-col">
      <Own />
    </aside>
  );
}
