import { completeParams, isToneId, type KeptValues, MID_GREY, plannedTone, toned, tones, toneById, type ToneUse } from '@tazzel/core';
import { type PointerEvent, useRef } from 'react';
import { ParamFields } from '../fields/param-fields.tsx';
import { Choice } from '../ui/choice.tsx';
import { Line, Section } from '../ui/section.tsx';
import { useActions, usePart } from '../workspace/context.ts';

/** How scene light becomes the picture. */
export function ToneBench() {
  const tone = usePart((document) => document.tone);
  const actions = useActions();
  const spec = isToneId(tone.type) ? toneById(tone.type) : null;
  return (
    <>
      <div className="border-b border-ink px-3 py-2">
        <h2 className="text-[15px] font-medium">Tone line</h2>
        <p className="text-[12px] text-faint">Scene light becomes the picture</p>
      </div>
      <Section title="Curve">
        <Line label="Curve">
          <Choice label="Curve of the tone line" value={tone.type} options={[...(spec ? [] : [{ value: tone.type, label: `“${tone.type}”, not known here` }]), ...tones.map(({ id, label, summary }) => ({ value: id, label, hint: summary }))]} onChange={(next) => actions.edit({ type: 'set-tone', tone: next })} />
        </Line>
        {spec && <ParamFields params={spec.params} values={completeParams(spec, tone.params)} onChange={(params: KeptValues, gesture) => actions.edit({ type: 'set-params', part: 'tone', params }, gesture)} />}
        <ToneDrawing tone={tone} onDrag={(params, gesture) => actions.edit({ type: 'set-params', part: 'tone', params }, gesture)} />
        {spec && <p className="mt-1 text-[12px] text-faint">{spec.summary}</p>}
      </Section>
    </>
  );
}

const [WIDTH, HEIGHT] = [256, 160];
/** Stops about mid grey that are drawn. */
const [LEAST, MOST] = [-8, 6];
const across = (stops: number) => ((stops - LEAST) / (MOST - LEAST)) * WIDTH;
const GRIDS = [-6, -4, -2, 0, 2, 4];

const pathOf = (tone: ToneUse) => {
  const planned = plannedTone(tone);
  return Array.from({ length: 141 }, (_, i) => {
    const stops = LEAST + (i / 140) * (MOST - LEAST);
    const light = MID_GREY * 2 ** stops;
    return `${i === 0 ? 'M' : 'L'}${across(stops)} ${(1 - toned([light, light, light], planned)[0]) * HEIGHT}`;
  }).join('');
};
const STRAIGHT_PATH = pathOf({ type: 'straight', params: {} });

/** Picture values over stops of light; the straight curve beside it. What the curve declares as handles can be dragged, or moved with the arrow keys. */
function ToneDrawing({ tone, onDrag }: { tone: ToneUse; onDrag: (params: KeptValues, gesture: string) => void }) {
  const white = across(Math.log2(1 / MID_GREY));
  const drawing = useRef<SVGSVGElement>(null);
  const gesture = useRef(0);
  const spec = isToneId(tone.type) ? toneById(tone.type) : null;
  const values = spec ? completeParams(spec, tone.params) : {};
  const placeOf = (event: PointerEvent): readonly [number, number] => {
    const box = (drawing.current as SVGSVGElement).getBoundingClientRect();
    return [LEAST + ((event.clientX - box.left) / box.width) * (MOST - LEAST), Math.min(1, Math.max(0, 1 - (event.clientY - box.top) / box.height))];
  };
  return (
    <figure className="mt-1.5">
      {/* biome-ignore lint/a11y/useSemanticElements: a drawing with points that can be moved */}
      <svg ref={drawing} viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="block w-full overflow-visible border bg-sheet" role="group" aria-label="Picture values over stops of light">
        {GRIDS.map((stops) => (
          <line key={stops} x1={across(stops)} x2={across(stops)} y1={0} y2={HEIGHT} stroke="currentColor" strokeOpacity={stops === 0 ? 0.45 : 0.14} />
        ))}
        <line x1={white} x2={white} y1={0} y2={HEIGHT} stroke="currentColor" strokeOpacity={0.45} strokeDasharray="3 3" />
        <path d={STRAIGHT_PATH} fill="none" stroke="currentColor" strokeOpacity={0.4} strokeDasharray="2 3" />
        <path d={pathOf(tone)} fill="none" stroke="currentColor" strokeWidth={1.75} />
        {spec?.handles?.map(({ label, at, drag }) => {
          const [stops, value] = at(values);
          const moved = (to: readonly [number, number], name: string) => onDrag(drag(values, to) as KeptValues, `tone ${label} ${name} ${gesture.current}`);
          return (
            // biome-ignore lint/a11y/useSemanticElements: a point on a drawing, moved with the pointer or the arrow keys
            <g
              key={label}
              role="button"
              tabIndex={0}
              aria-label={label}
              className="cursor-move touch-none outline-none focus-visible:[&>rect]:fill-accent"
              onPointerDown={(event) => {
                event.currentTarget.setPointerCapture(event.pointerId);
                gesture.current++;
              }}
              onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && moved(placeOf(event), 'drag')}
              onKeyDown={(event) => {
                const by = { ArrowLeft: [-0.1, 0], ArrowRight: [0.1, 0], ArrowUp: [0, 0.01], ArrowDown: [0, -0.01] }[event.key];
                if (!by) return;
                event.preventDefault();
                event.stopPropagation();
                moved([stops + by[0], value + by[1]], 'keys');
              }}
            >
              <title>{label}</title>
              <circle cx={clampTo(across(stops), WIDTH)} cy={(1 - value) * HEIGHT} r={10} className="fill-transparent" />
              <rect x={clampTo(across(stops), WIDTH) - 4} y={(1 - value) * HEIGHT - 4} width={8} height={8} className="fill-sheet stroke-ink" />
            </g>
          );
        })}
      </svg>
      <figcaption className="narrow flex justify-between text-[11px] text-faint">
        <span>{LEAST} EV</span>
        <span>mid grey (line), light 1 (dashes)</span>
        <span>+{MOST} EV</span>
      </figcaption>
    </figure>
  );
}

const clampTo = (x: number, most: number) => Math.min(most, Math.max(0, x));
