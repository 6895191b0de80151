import { type Aperture, clampUnit, edgeOf, type KeptValues, oneTurn, type ParamValue } from '@tazzel/core';
import { type KeyboardEvent, type PointerEvent, useId, useRef } from 'react';

/** The drawing, in its own units: the middle, the barrel's ring, and how large the opening is at its widest and narrowest. */
const [SIZE, HEIGHT, MIDDLE, RING, WIDEST, NARROWEST] = [240, 212, 120, 102, 78, 16];
/** Full stops as they are engraved on barrels. */
const STOPS = [1, 1.4, 2, 2.8, 4, 5.6, 8, 11, 16, 22, 32] as const;
const [FIRST, LAST] = [STOPS[0], STOPS[STOPS.length - 1]];
/** The ring is engraved from here to there, clockwise from the top. */
const SPAN = (140 * Math.PI) / 180;
const OUTLINE_STEPS = 240;

const at = (angle: number, radius: number): readonly [number, number] => [MIDDLE + radius * Math.sin(angle), MIDDLE - radius * Math.cos(angle)];
const tenth = (value: number): number => Math.round(value * 10) / 10;
/** Stops from the widest, as a share of all that are engraved. */
const shareOf = (fNumber: number): number => clampUnit(Math.log2(fNumber / FIRST) / Math.log2(LAST / FIRST));
const ringAngle = (fNumber: number): number => (2 * shareOf(fNumber) - 1) * SPAN;
const fNumberAt = (angle: number): number => FIRST * (LAST / FIRST) ** clampUnit((angle / SPAN + 1) / 2);
const degreesOf = (radians: number): number => Math.round((radians * 180) / Math.PI);

interface LensDrawingProps {
  readonly values: Readonly<Record<string, ParamValue>>;
  readonly onChange: (params: KeptValues, gesture: string) => void;
}

/** The opening of a lens as one looks into it: its f-number on the ring of the barrel, its blades turned and rounded by handles. Smaller openings are drawn larger than they are. */
export function LensDrawing({ values, onChange }: LensDrawingProps) {
  const clip = useId();
  const [fNumber, rotationDegrees, roundnessPercent, catsEyePercent] = ['fNumber', 'rotationDegrees', 'roundnessPercent', 'catsEyePercent'].map((name) => (typeof values[name] === 'number' ? (values[name] as number) : null));
  const aperture: Aperture = { blades: Math.round(Number(values.blades)), roundness: (roundnessPercent ?? 0) / 100, rotationRadians: ((rotationDegrees ?? 0) * Math.PI) / 180, catsEye: (catsEyePercent ?? 0) / 100 };
  const open = fNumber === null ? WIDEST : WIDEST + (NARROWEST - WIDEST) * shareOf(fNumber);
  const edge = (angle: number) => edgeOf(aperture, angle);
  const outlineAt = (x: number, y: number, radius: number): string => `M${Array.from({ length: OUTLINE_STEPS }, (_, i) => (2 * Math.PI * i) / OUTLINE_STEPS).map((angle) => `${(x + radius * edge(angle) * Math.sin(angle)).toFixed(2)} ${(y - radius * edge(angle) * Math.cos(angle)).toFixed(2)}`).join('L')}Z`;
  // The middle of a blade beside the one that turns them.
  const side = aperture.rotationRadians + Math.PI / aperture.blades;
  const flat = Math.cos(Math.PI / aperture.blades);
  const [cx, cy, small] = [SIZE - 24, 24, 15];
  const shift = (aperture.catsEye * small) / 2 / Math.SQRT2;
  return (
    <fieldset aria-label="The opening of the lens" className="mb-1 flex justify-center border bg-sheet py-1">
      <svg viewBox={`0 0 ${SIZE} ${HEIGHT}`} className="w-[216px] touch-none select-none">
        <title>Looking into the lens. Smaller openings are drawn larger than they are.</title>
        <circle cx={MIDDLE} cy={MIDDLE} r={WIDEST + 6} className="fill-[#2b2b2b]" />
        <path d={outlineAt(MIDDLE, MIDDLE, open)} className="fill-[#e9e9e9]" />
        {fNumber !== null && (
          <>
            <path d={`M${at(-SPAN, RING).join(' ')}A${RING} ${RING} 0 1 1 ${at(SPAN, RING).join(' ')}`} className="fill-none stroke-rule" />
            {STOPS.map((stop) => {
              const [x, y] = at(ringAngle(stop), RING + 11);
              return (
                <g key={stop} aria-hidden>
                  <path d={`M${at(ringAngle(stop), RING - 4).join(' ')}L${at(ringAngle(stop), RING).join(' ')}`} className="stroke-ink" />
                  <text x={x} y={y + 3.5} textAnchor="middle" className="figure fill-ink text-[10px]">
                    {stop}
                  </text>
                </g>
              );
            })}
            <Knob label="f-number on the barrel" value={fNumber} text={`f/${fNumber}`} min={FIRST} max={LAST} at={at(ringAngle(fNumber), RING)} onMove={(angle, _, gesture) => onChange({ fNumber: tenth(fNumberAt(angle)) }, gesture)} onStep={(steps, gesture) => onChange({ fNumber: Math.min(64, Math.max(0.5, tenth(fNumber * 2 ** (steps / 6)))) }, gesture)} />
          </>
        )}
        {rotationDegrees !== null && <Knob label="Turn of the blades" value={rotationDegrees} text={`${rotationDegrees}°`} min={-180} max={180} at={at(aperture.rotationRadians, open * edge(aperture.rotationRadians))} onMove={(angle, _, gesture) => onChange({ rotationDegrees: oneTurn(degreesOf(angle)) }, gesture)} onStep={(steps, gesture) => onChange({ rotationDegrees: oneTurn(rotationDegrees + steps) }, gesture)} />}
        {roundnessPercent !== null && <Knob label="Roundness of the blades" value={roundnessPercent} text={`${roundnessPercent} %`} min={0} max={100} look="square" at={at(side, open * edge(side))} onMove={(_, radius, gesture) => onChange({ roundnessPercent: Math.round(100 * clampUnit((radius / open - flat) / (1 - flat))) }, gesture)} onStep={(steps, gesture) => onChange({ roundnessPercent: Math.min(100, Math.max(0, roundnessPercent + 5 * steps)) }, gesture)} />}
        {aperture.catsEye > 0 && (
          <g aria-hidden>
            <clipPath id={`${clip}-near`}>
              <circle cx={cx + shift} cy={cy - shift} r={small} />
            </clipPath>
            <clipPath id={`${clip}-far`}>
              <circle cx={cx - shift} cy={cy + shift} r={small} />
            </clipPath>
            <circle cx={cx} cy={cy} r={small + 4} className="fill-[#2b2b2b]" />
            <g clipPath={`url(#${clip}-near)`}>
              <path d={outlineAt(cx, cy, small)} clipPath={`url(#${clip}-far)`} className="fill-[#e9e9e9]" />
            </g>
          </g>
        )}
      </svg>
    </fieldset>
  );
}

interface KnobProps {
  readonly label: string;
  readonly value: number;
  readonly text: string;
  readonly min: number;
  readonly max: number;
  readonly at: readonly [x: number, y: number];
  readonly look?: 'round' | 'square';
  /** Clockwise from the top, and how far from the middle. */
  readonly onMove: (angle: number, radius: number, gesture: string) => void;
  readonly onStep: (steps: number, gesture: string) => void;
}

let gestures = 0;
const STEPS: Readonly<Record<string, number>> = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 5, PageDown: -5 };

/** A handle of the drawing: dragged, or moved with the arrow keys. */
function Knob({ label, value, text, min, max, at: [x, y], look = 'round', onMove, onStep }: KnobProps) {
  const gesture = useRef('');
  const move = (event: PointerEvent<SVGGElement>) => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (!box || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const [dx, dy] = [((event.clientX - box.x) / box.width) * SIZE - MIDDLE, ((event.clientY - box.y) / box.width) * SIZE - MIDDLE];
    onMove(Math.atan2(dx, -dy), Math.hypot(dx, dy), gesture.current);
  };
  const step = (event: KeyboardEvent) => {
    const steps = STEPS[event.key];
    if (!steps) return;
    event.preventDefault();
    onStep(steps, `drawing-${++gestures}`);
  };
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={value}
      aria-valuetext={text}
      aria-valuemin={min}
      aria-valuemax={max}
      className="cursor-grab outline-none [&:focus-visible>*]:stroke-accent [&:focus-visible>*]:stroke-3"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        gesture.current = `drawing-${++gestures}`;
      }}
      onPointerMove={move}
      onKeyDown={step}
    >
      {look === 'round' ? <circle cx={x} cy={y} r={6} className="fill-white stroke-black" /> : <rect x={x - 5} y={y - 5} width={10} height={10} className="fill-white stroke-black" />}
    </g>
  );
}
