/** Colour samplers: places whose values stay in sight while one works elsewhere. */
import { luminanceOf, MID_GREY, type Point } from '@tazzel/core';
import { X } from 'lucide-react';
import { questions, useAnswer } from '../answers.ts';
import { useActions, useDocument, usePart, useSession, useViewport, useWorkspace } from '../workspace/context.ts';

export function Samplers() {
  const samplers = usePart((document) => document.samplers);
  const isPlacing = useSession((state) => state.tool === 'sampler');
  if (samplers.length === 0) return isPlacing ? <p className="pointer-events-none absolute top-2 right-2 border border-ink bg-sheet px-2 py-0.5">Click what is to be watched; a click on a sampler takes it away.</p> : null;
  return (
    <>
      <Marks places={samplers} />
      <ol aria-label="Colour samplers" className="absolute top-2 right-2 border border-ink bg-sheet text-[11px]">
        {samplers.map((at, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: samplers are known by their number
          <Row key={i} at={at} index={i} />
        ))}
      </ol>
    </>
  );
}

function Marks({ places }: { places: readonly Point[] }) {
  const { viewport } = useWorkspace();
  useViewport();
  return (
    <svg aria-hidden="true" className="pointer-events-none absolute inset-0 h-full w-full">
      {places.map(([px, py], i) => {
        const { x, y } = viewport.cssOf([px + 0.5, py + 0.5]);
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: samplers are known by their number
          <g key={i}>
            {(['stroke-black/70 [stroke-width:3px]', 'stroke-white'] as const).map((className) => (
              <path key={className} d={`M${x - 7} ${y}h5M${x + 2} ${y}h5M${x} ${y - 7}v5M${x} ${y + 2}v5`} className={`fill-none ${className}`} />
            ))}
            <text x={x + 8} y={y - 4} className="fill-white stroke-black/80 font-mono text-[11px] [paint-order:stroke] [stroke-width:3px]">
              {i + 1}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

function Row({ at: [x, y], index }: { at: Point; index: number }) {
  const document = useDocument();
  const actions = useActions();
  const { data } = useAnswer(questions.sample(document, x, y), { keeps: (earlier) => earlier[2] === x && earlier[3] === y });
  const light = data ? luminanceOf(data.light) : 0;
  const stops = light > 0 ? Math.log2(light / MID_GREY) : null;
  return (
    <li className="flex items-center gap-2 border-b border-hair px-1.5 py-0.5 last:border-b-0">
      <span className="figure w-3">{index + 1}</span>
      <span className="h-3 w-5 border border-rule" style={{ background: data ? `rgb(${data.codes.slice(0, 3).join(' ')})` : undefined }} />
      <span className="figure w-[86px]">{data ? data.codes.slice(0, 3).map((code) => String(code).padStart(3, '\u2007')).join(' ') : '…'}</span>
      <span className="figure w-[58px] text-right">{stops === null ? '' : `${stops < 0 ? '−' : '+'}${Math.abs(stops).toFixed(2)} EV`}</span>
      <button type="button" aria-label={`Remove colour sampler ${index + 1}`} className="hover:text-accent" onClick={() => actions.edit({ type: 'set-samplers', samplers: document.samplers.filter((_, i) => i !== index) })}>
        <X size={11} aria-hidden />
      </button>
    </li>
  );
}
