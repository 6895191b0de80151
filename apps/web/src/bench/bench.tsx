import type { StageId } from '@tazzel/editor';
import { stageById } from '../stages/registry.ts';

/** The parameters of what is selected; the stage says of what. */
export function Bench({ stage }: { stage: StageId }) {
  const Own = stageById[stage].Bench;
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable with the keyboard
    <aside aria-label="Bench" tabIndex={0} className="min-h-0 flex-1 overflow-auto -outline-offset-2">
      <Own />
    </aside>
  );
}
