/** Numbers for families of hues or for tones: one part is chosen, and every parameter has its row for it. */
import { hexOf, HUE_FAMILIES, oklab, type Param } from '@tazzel/core';
import { ToggleGroup } from 'radix-ui';
import { useState } from 'react';
import { NumberField } from '../ui/number-field.tsx';
import type { GroupProps } from './field.ts';

interface Part {
  readonly id: string;
  readonly label: string;
  /** Shown with its name. */
  readonly color?: string;
}

type Parted = Extract<Param, { kind: 'bands' | 'tones' }>;

function PartedFields({ what, parts, params, values, onChange }: GroupProps<Parted> & { what: string; parts: readonly Part[] }) {
  const [chosen, setChosen] = useState(0);
  const changed = (at: number) => params.some(([name, param]) => (values[name] as readonly number[])[at] !== param.default[at]);
  return (
    <>
      <ToggleGroup.Root type="single" aria-label={what} value={parts[chosen].id} onValueChange={(id) => id && setChosen(parts.findIndex((part) => part.id === id))} className="my-1 flex border border-ink">
        {parts.map(({ id, label, color }, i) => (
          <ToggleGroup.Item key={id} value={id} aria-label={`${label}${changed(i) ? ', changed' : ''}`} title={label} className="relative h-6 min-w-0 flex-1 truncate border-l px-1 text-[12px] first:border-l-0 data-[state=on]:bg-ink data-[state=on]:text-panel">
            {color ? <span aria-hidden className="mx-auto block size-3 border border-ink data-[state=on]:border-panel" style={{ background: color }} /> : label}
            {changed(i) && <span aria-hidden className="absolute inset-x-1 bottom-0 h-[2px] bg-accent" />}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
      {parts[chosen].color && <p className="narrow text-[12px] text-faint">{parts[chosen].label}</p>}
      {params.map(([name, param]) => {
        const { label, min, max, step, digits, unit, help, default: initial } = param;
        const value = values[name] as readonly number[];
        return <NumberField key={name} label={label} value={value[chosen]} min={min} max={max} usual={'usual' in param ? param.usual : undefined} step={step} digits={digits} unit={unit} initial={initial[chosen]} help={help} onChange={(next, gesture) => onChange({ [name]: value.with(chosen, next) as never }, gesture)} />;
      })}
    </>
  );
}

const families: readonly Part[] = HUE_FAMILIES.map(({ id, label, hueDegrees }) => {
  const angle = (hueDegrees * Math.PI) / 180;
  return { id, label, color: hexOf(oklab.oklabToLinear([0.7, 0.14 * Math.cos(angle), 0.14 * Math.sin(angle)])) };
});

export const BandsFields = (props: GroupProps<Extract<Param, { kind: 'bands' }>>) => <PartedFields what="Family of hues" parts={families} {...props} />;
/** Tones or channels: those of one correction are parted alike. */
export const TonesFields = (props: GroupProps<Extract<Param, { kind: 'tones' }>>) => <PartedFields what="Part" parts={props.params[0][1].parts.map((label) => ({ id: label.toLowerCase(), label }))} {...props} />;
