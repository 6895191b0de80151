/** All curves of a correction in one drawing: one is open, the others are seen behind it. */
import { type CurvePoint, isStraight, LEAST_CURVE_STEP, type Measure, monotoneCurve, type Param, STRAIGHT, withCurvePoint } from '@tazzel/core';
import { Crosshair, RotateCcw, X } from 'lucide-react';
import { ToggleGroup } from 'radix-ui';
import { createContext, type KeyboardEvent, type PointerEvent, useContext, useEffect, useId, useRef, useState } from 'react';
import { CHANNEL_INKS, fullestOf } from '../ui/bins.ts';
import { IconButton } from '../ui/button.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { useActions, useSession, useWorkspace } from '../workspace/context.ts';
import type { GroupProps } from './field.ts';

/** How the values are spread that a correction works on, to be drawn behind its curves. */
export const EnteringValues = createContext<Measure | null>(null);

const SIDE = 256;
const LINES = [0.25, 0.5, 0.75];
const inks: Readonly<Record<string, { stroke: string; dash?: string; channel: 'red' | 'green' | 'blue' | 'luminance' }>> = {
  red: { stroke: CHANNEL_INKS.red, channel: 'red' },
  green: { stroke: CHANNEL_INKS.green, dash: '5 2', channel: 'green' },
  blue: { stroke: CHANNEL_INKS.blue, dash: '2 2', channel: 'blue' },
};
const inkOf = (name: string) => inks[name] ?? { stroke: 'currentColor', dash: name === 'luminosity' ? '8 3 2 3' : undefined, channel: 'luminance' as const };

const pathOf = (points: readonly CurvePoint[]) => {
  const curve = monotoneCurve(points);
  return Array.from({ length: 129 }, (_, i) => `${i === 0 ? 'M' : 'L'}${(i / 128) * SIDE} ${(1 - curve(i / 128)) * SIDE}`).join('');
};

/** The place of a point between its neighbours, inside the drawing. */
function between(points: readonly CurvePoint[], at: number, [x, y]: CurvePoint): CurvePoint {
  const low = at > 0 ? points[at - 1][0] + LEAST_CURVE_STEP : 0;
  const high = at < points.length - 1 ? points[at + 1][0] - LEAST_CURVE_STEP : 1;
  return [Math.round(Math.min(high, Math.max(low, x)) * 1e4) / 1e4, Math.round(Math.min(1, Math.max(0, y)) * 1e4) / 1e4];
}

const GRAB = 9;
const HANDLED = new Set(['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'Delete', 'Backspace', 'Enter', ' ']);

export function CurveFields({ params, values, onChange }: GroupProps<Extract<Param, { kind: 'curve' }>>) {
  const { session } = useWorkspace();
  const actions = useActions();
  const wanted = useSession((state) => state.openCurve);
  const picking = useSession((state) => state.tool === 'curve');
  const measure = useContext(EnteringValues);
  const id = useId();
  const gesture = useRef(0);
  const dragged = useRef<number | null>(null);
  const drawing = useRef<SVGSVGElement>(null);
  const [chosen, setChosen] = useState(0);
  // Without the drawing a click in the picture would do something unseen.
  useEffect(() => () => session.actions.set({ tool: 'select' }), [session]);
  const [open] = params.find(([name]) => name === wanted) ?? params[0];
  const points = values[open] as readonly CurvePoint[];
  const at = Math.min(chosen, points.length - 1);
  const label = params.find(([name]) => name === open)?.[1].label ?? '';
  const ink = inkOf(open);
  const put = (next: readonly CurvePoint[], name: string) => onChange({ [open]: next }, `${id} ${open} ${name}`);
  const move = (index: number, to: CurvePoint, name: string) => put(points.with(index, between(points, index, to)), name);
  const remove = (index: number) => {
    if (points.length <= 2) return;
    put(points.toSpliced(index, 1), `${++gesture.current}`);
    setChosen(Math.max(0, index - 1));
  };
  const placeOf = (event: PointerEvent): CurvePoint => {
    const box = (drawing.current as SVGSVGElement).getBoundingClientRect();
    return [(event.clientX - box.left) / box.width, 1 - (event.clientY - box.top) / box.height];
  };
  const press = (event: PointerEvent<SVGSVGElement>) => {
    if (event.button !== 0) return;
    const [x, y] = placeOf(event);
    const reach = (GRAB * 1.4) / event.currentTarget.getBoundingClientRect().width;
    const distance = (each: CurvePoint) => Math.hypot(each[0] - x, each[1] - y);
    const near = points.reduce((best, each, i) => (distance(each) < distance(points[best]) ? i : best), 0);
    event.currentTarget.setPointerCapture(event.pointerId);
    gesture.current++;
    if (distance(points[near]) <= reach) {
      dragged.current = near;
      setChosen(near);
      return;
    }
    const added = withCurvePoint(points, Math.min(1, Math.max(0, x)), y);
    if (!added) return;
    dragged.current = added.at;
    setChosen(added.at);
    put(added.points, `${gesture.current}`);
  };
  const keys = (event: KeyboardEvent, index: number) => {
    // Delete means the point here, not the layer.
    if (HANDLED.has(event.key)) event.stopPropagation();
    const step = (event.shiftKey ? 10 : event.altKey ? 0.1 : 1) / 255;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[event.key];
    if (by) {
      event.preventDefault();
      move(index, [points[index][0] + by[0], points[index][1] + by[1]], `keys ${index}`);
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      remove(index);
    } else if (event.key === 'Enter' || event.key === ' ') {
      // A point half-way to the next one.
      event.preventDefault();
      const next = points[index + 1] ?? points[index - 1];
      const x = (points[index][0] + next[0]) / 2;
      const added = withCurvePoint(points, x, monotoneCurve(points)(x));
      if (added) {
        put(added.points, `${++gesture.current}`);
        setChosen(added.at);
      }
    }
  };
  const show = (name: string) => {
    actions.set({ openCurve: name });
    setChosen(0);
  };
  const codes = (value: number) => Math.round(value * 2550) / 10;

  return (
    <div className="py-1">
      <ToggleGroup.Root type="single" aria-label="Curve" value={open} onValueChange={(name) => name && show(name)} className="narrow flex border border-ink">
        {params.map(([name, { label: text, help }]) => (
          <ToggleGroup.Item key={name} value={name} title={help} className="relative h-6 min-w-0 flex-auto truncate border-l px-1 text-[12px] first:border-l-0 data-[state=on]:bg-ink data-[state=on]:text-panel">
            {text}
            {!isStraight(values[name] as readonly CurvePoint[]) && <span aria-hidden className="absolute inset-x-1 bottom-0 h-[2px] bg-accent" />}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
      {/* biome-ignore lint/a11y/useSemanticElements: a drawing is no set of fields */}
      <svg
        ref={drawing}
        viewBox={`0 0 ${SIDE} ${SIDE}`}
        className="mt-1.5 block aspect-square w-full cursor-crosshair touch-none overflow-visible border bg-sheet"
        role="group"
        aria-label={`Curve: ${label}`}
        data-testid="curve"
        onPointerDown={press}
        onPointerMove={(event) => dragged.current !== null && move(dragged.current, placeOf(event), `${gesture.current}`)}
        onPointerUp={() => {
          dragged.current = null;
        }}
        onPointerCancel={() => {
          dragged.current = null;
        }}
      >
        {measure && <path d={spreadOf(measure[ink.channel].bins)} className="fill-hair" />}
        {LINES.map((v) => (
          <path key={v} d={`M${v * SIDE} 0V${SIDE}M0 ${v * SIDE}H${SIDE}`} className="stroke-hair" strokeWidth="0.75" />
        ))}
        <path d={`M0 ${SIDE}L${SIDE} 0`} className="stroke-rule" strokeWidth="0.75" strokeDasharray="2 3" />
        {params.map(([name]) => name !== open && !isStraight(values[name] as readonly CurvePoint[]) && <path key={name} d={pathOf(values[name] as readonly CurvePoint[])} fill="none" stroke={inkOf(name).stroke} strokeDasharray={inkOf(name).dash} strokeWidth="0.75" opacity="0.6" />)}
        <path d={pathOf(points)} fill="none" stroke={ink.stroke} strokeWidth="1.75" data-testid="curve-line" />
        {points.map(([x, y], i) => (
          <g
            // biome-ignore lint/suspicious/noArrayIndexKey: points have no identity but their place
            key={i}
            role="slider"
            tabIndex={0}
            aria-label={`Point ${i + 1} of ${points.length}`}
            aria-valuemin={0}
            aria-valuemax={255}
            aria-valuenow={codes(y)}
            aria-valuetext={`${codes(x)} becomes ${codes(y)}`}
            className="outline-none focus-visible:[&>rect]:stroke-accent focus-visible:[&>rect]:stroke-[3]"
            onFocus={() => setChosen(i)}
            onKeyDown={(event) => keys(event, i)}
            onDoubleClick={() => remove(i)}
          >
            <circle cx={x * SIDE} cy={(1 - y) * SIDE} r={GRAB} fill="transparent" className="cursor-move" />
            <rect x={x * SIDE - 3.5} y={(1 - y) * SIDE - 3.5} width={7} height={7} className={i === at ? 'fill-ink stroke-sheet' : 'fill-sheet stroke-ink'} strokeWidth="1.25" />
          </g>
        ))}
      </svg>
      <div className="mt-1">
        <NumberField label="From" value={codes(points[at][0])} min={0} max={255} step={1} digits={1} unit="" initial={codes(points[at][0])} help="The value of the chosen point as it comes, 0 to 255" onChange={(value, name) => move(at, [value / 255, points[at][1]], name)} />
        <NumberField label="To" value={codes(points[at][1])} min={0} max={255} step={1} digits={1} unit="" initial={codes(points[at][0])} help="What becomes of it, 0 to 255" onChange={(value, name) => move(at, [points[at][0], value / 255], name)} />
        <div className="flex items-center justify-between text-[12px] text-faint">
          <span>
            Point {at + 1} of {points.length}
          </span>
          <span className="flex gap-1">
            <IconButton label={picking ? 'Click in the picture to set a point' : 'Set a point by a click in the picture'} aria-pressed={picking} onClick={() => actions.set({ tool: picking ? 'select' : 'curve' })}>
              <Crosshair size={13} aria-hidden />
            </IconButton>
            <IconButton label={`Straighten ${label.toLowerCase()}`} disabled={isStraight(points)} onClick={() => put(STRAIGHT, `${++gesture.current}`)}>
              <RotateCcw size={13} aria-hidden />
            </IconButton>
            <IconButton label="Remove the point" disabled={points.length <= 2} onClick={() => remove(at)}>
              <X size={13} aria-hidden />
            </IconButton>
          </span>
        </div>
      </div>
    </div>
  );
}

/** The bins as a surface; the fullest of the inner ones reaches three quarters of the height. */
function spreadOf(bins: readonly number[]): string {
  const most = Math.max(1, fullestOf(bins)) / 0.75;
  return `M0 ${SIDE}${bins.map((count, i) => `L${((i + 0.5) / bins.length) * SIDE} ${SIDE - Math.min(1, count / most) * SIDE}`).join('')}L${SIDE} ${SIDE}Z`;
}
