import { horizonLine, linePath } from '@tazzel/editor';
import { usePart, useSession, useViewport, useWorkspace } from '../workspace/context.ts';
import { SeenLine } from './handles.tsx';

/** The horizon of the document's camera, while its lines are drawn or something is about to be stood on the ground. */
export function Horizon() {
  const { viewport, session } = useWorkspace();
  const isDrawn = useSession((state) => state.cameraLines !== null || state.figureInHand !== null);
  usePart(({ camera }) => camera);
  useViewport();
  const line = isDrawn ? horizonLine(session) : null;
  if (!line) return null;
  const [from, to] = line.map((at) => viewport.cssOf(viewport.placeSeen(at)));
  return (
    <svg aria-hidden="true" data-testid="horizon" className="pointer-events-none absolute inset-0 h-full w-full">
      <SeenLine dashed path={linePath([[from.x, from.y], [to.x, to.y]])} />
      <text x={from.x + 6} y={from.y - 6} className="fill-white stroke-black/70 text-[12px] [paint-order:stroke] [stroke-width:3px]">
        Horizon
      </text>
    </svg>
  );
}
