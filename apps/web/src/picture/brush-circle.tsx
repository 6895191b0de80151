import { useStore } from 'zustand';
import { useSession, useViewport, useWorkspace } from '../workspace/context.ts';

/** The brush at the pointer, as large as it paints. */
export function BrushCircle() {
  const { pointer } = useWorkspace();
  const { at } = useStore(pointer);
  const { sizePx, hardness, erase } = useSession((state) => state.brush);
  const { zoom } = useViewport();
  if (!at) return null;
  const radius = Math.max(1.5, (sizePx * zoom) / window.devicePixelRatio / 2);
  const ring = (r: number, className: string) => <circle cx={at.x} cy={at.y} r={r} fill="none" className={className} />;
  return (
    <svg aria-hidden="true" className="pointer-events-none absolute inset-0 h-full w-full">
      {ring(radius + 1, 'stroke-black/70')}
      {ring(radius, 'stroke-white')}
      {hardness > 0.02 && hardness < 0.98 && ring(radius * hardness, 'stroke-white/60 [stroke-dasharray:3_3]')}
      <path d={`M${at.x - 3} ${at.y}h6${erase ? '' : `M${at.x} ${at.y - 3}v6`}`} className="stroke-white" />
    </svg>
  );
}
