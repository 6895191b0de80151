import { cutRegion } from '@tazzel/core';
import { useDocument, useViewport, useWorkspace } from '../workspace/context.ts';
import { useChoices } from './choices.ts';

/** What is cut off the picture when it is delivered. */
export function CutFrame() {
  const { viewport } = useWorkspace();
  const { size } = useDocument();
  const { cut } = useChoices();
  useViewport();
  if (!cut) return null;
  const path = (x: number, y: number, width: number, height: number) => {
    const [from, to] = [viewport.cssOf([x, y]), viewport.cssOf([x + width, y + height])];
    return `M${from.x} ${from.y}H${to.x}V${to.y}H${from.x}Z`;
  };
  const { x, y, width, height } = cutRegion(size, cut);
  const part = path(x, y, width, height);
  return (
    <svg aria-hidden="true" data-testid="cut-frame" className="pointer-events-none absolute inset-0 h-full w-full">
      <path d={`${path(0, 0, size.width, size.height)}${part}`} fillRule="evenodd" className="fill-black/60" />
      <path d={part} className="fill-none stroke-white" strokeWidth={1} />
    </svg>
  );
}
