import type { StageId } from '@tazzel/editor';
import { useEffect, useRef } from 'react';
import { stageById } from '../stages/registry.ts';
import { useSession } from '../workspace/context.ts';

/** The parameters of what is selected; the stage says of what. */
export function Bench({ stage }: { stage: StageId }) {
  const Own = stageById[stage].Bench;
  const layerId = useSession((state) => state.selectedLayerId);
  const box = useRef<HTMLElement>(null);
  // Another layer is looked at from its first parameter on, however far down one was before.
  // biome-ignore lint/correctness/useExhaustiveDependencies: whenever it is another one
  useEffect(() => {
    box.current?.scrollTo({ top: 0 });
  }, [layerId]);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable with the keyboard
    <aside ref={box} aria-label="Bench" tabIndex={0} className="min-h-0 flex-1 overflow-auto -outline-offset-2">
      <Own />
    </aside>
  );
}
