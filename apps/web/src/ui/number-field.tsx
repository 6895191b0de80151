import { figureOf } from '@tazzel/core';
import { useEffect, useId, useRef, useState } from 'react';

interface NumberFieldProps {
  readonly label: string;
  readonly value: number;
  readonly min: number;
  readonly max: number;
  /** What the scale shows, where much more can be typed. */
  readonly usual?: readonly [number, number];
  readonly step: number;
  /** The scale and the keys go by factors. */
  readonly byFactors?: boolean;
  readonly digits: number;
  readonly unit: string;
  readonly initial: number;
  readonly help?: string;
  readonly disabled?: boolean;
  /** The label is only spoken: it is written somewhere else. */
  readonly bare?: boolean;
  /** `gesture` is the same for all steps of one drag, so that they undo as one. */
  readonly onChange: (value: number, gesture: string) => void;
}

/** What one nudge multiplies with, where a scale goes by factors. */
const NUDGE_FACTOR = 1.05;
/** To three digits. */
const rounded = (value: number) => Number(value.toPrecision(3));

/** A pointer must travel this far before pressing the scale becomes a drag. */
const PIXELS_PER_STEP = 2;

const stride = (event: { shiftKey: boolean; altKey: boolean }) => (event.shiftKey ? 10 : event.altKey ? 0.1 : 1);

/**
 * A number with its unit: typed (also as a sum, `50 + 12.5`), dragged on its scale, nudged with the arrow keys (Shift coarse, Alt fine), and reset by
 * a double click on its name.
 */
export function NumberField({ label, value, min, max, usual = [min, max], step, byFactors = false, digits, unit, initial, help, disabled, bare = false, onChange }: NumberFieldProps) {
  const id = useId();
  const [draft, setDraft] = useState<string | null>(null);
  const gesture = useRef(0);
  const drag = useRef<{ x: number; value: number; moved: boolean } | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const clamp = (next: number) => Math.min(max, Math.max(min, Number(next.toFixed(digits + 2))));
  const commit = (next: number, name = `${id} ${++gesture.current}`) => {
    const clamped = clamp(next);
    if (clamped !== value) onChange(clamped, name);
  };
  // Keys repeat: what is pressed without a pause is one step of the history.
  const keyPause = useRef(0);
  const nudge = (steps: number) => {
    const now = performance.now();
    if (now - keyPause.current > 800) gesture.current++;
    keyPause.current = now;
    setDraft(null);
    commit(byFactors ? rounded(value * NUDGE_FACTOR ** steps) : value + steps * step, `${id} keys ${gesture.current}`);
  };
  useEffect(() => {
    if (disabled) setDraft(null);
  }, [disabled]);

  const [low, high] = usual;
  const share = (v: number) => Math.min(100, Math.max(0, (byFactors ? Math.log(v / low) / Math.log(high / low) : (v - low) / (high - low)) * 100));
  const from = share(Math.min(max, Math.max(min, initial)));
  const to = share(value);

  return (
    <div className={`grid ${bare ? 'grid-cols-[minmax(0,1fr)_80px]' : 'grid-cols-[minmax(64px,32%)_minmax(0,1fr)_80px] py-0.5'} items-center gap-x-2`} title={help}>
      {!bare && (
        <label htmlFor={id} className="narrow truncate" onDoubleClick={() => commit(initial)} title={`${label}: a double click resets`}>
          {label}
        </label>
      )}
      {/* For the pointer alone: the field beside it is the same number for keyboard and screen reader. */}
      <div
        aria-hidden
        className="relative h-5 touch-none"
        onPointerDown={(event) => {
          if (disabled || event.button !== 0) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          gesture.current++;
          drag.current = { x: event.clientX, value, moved: false };
        }}
        onPointerMove={(event) => {
          const start = drag.current;
          if (!start) return;
          const distance = event.clientX - start.x;
          if (!start.moved && Math.abs(distance) < PIXELS_PER_STEP) return;
          start.moved = true;
          // Plain dragging follows the scale under the pointer; with a modifier it moves in steps from where it began.
          const width = event.currentTarget.getBoundingClientRect().width;
          const factor = event.altKey ? 0.1 : 1;
          if (byFactors) return commit(rounded(start.value * (high / low) ** ((distance / width) * factor)), `${id} drag ${gesture.current}`);
          const next = start.value + (distance / width) * (high - low) * factor;
          const grid = event.shiftKey ? step * 10 : event.altKey ? step / 10 : step;
          commit(Math.round(next / grid) * grid, `${id} drag ${gesture.current}`);
        }}
        onPointerUp={() => {
          drag.current = null;
        }}
        onPointerCancel={() => {
          drag.current = null;
        }}
        onDoubleClick={() => !disabled && commit(initial)}
      >
        <div className="absolute inset-x-0 top-1/2 h-px bg-rule" />
        <div className="absolute top-1/2 h-[3px] -translate-y-1/2 bg-ink" style={{ left: `${Math.min(from, to)}%`, width: `${Math.abs(to - from)}%` }} />
        <div className="absolute top-[5px] h-2.5 w-px bg-rule" style={{ left: `${from}%` }} />
        <div className="absolute top-1 h-3 w-[5px] -translate-x-1/2 border border-panel bg-ink" style={{ left: `${to}%` }} />
      </div>
      <span className="field flex items-center gap-1 pr-1.5 has-[:focus-visible]:border-accent">
        <input
          ref={input}
          id={id}
          inputMode="text"
          autoComplete="off"
          aria-label={bare ? label : undefined}
          disabled={disabled}
          className="figure w-full min-w-0 bg-transparent text-right outline-none"
          value={draft ?? value.toFixed(digits)}
          onFocus={(event) => event.currentTarget.select()}
          onChange={(event) => setDraft(event.currentTarget.value)}
          onBlur={() => {
            const typed = figureOf(draft ?? '');
            if (draft !== null && Number.isFinite(typed)) commit(typed);
            setDraft(null);
          }}
          onKeyDown={(event) => {
            if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
              event.preventDefault();
              nudge((event.key === 'ArrowUp' ? 1 : -1) * stride(event));
            } else if (event.key === 'Enter') input.current?.blur();
            else if (event.key === 'Escape') {
              setDraft(null);
              event.currentTarget.select();
            }
          }}
        />
        <span className="figure text-faint">{unit}</span>
      </span>
    </div>
  );
}
